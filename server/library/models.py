"""The shelf: songs that were asked for, and the recordings taken in for them."""

from __future__ import annotations

import secrets
from typing import Any

from config.fields import FastJSONField
from django.conf import settings
from django.db import models
from django.utils import timezone
from people.access import OWN, SEE, groups_with
from people.models import Group


class SongQuerySet(models.QuerySet["Song"]):
    """The one place that decides what anybody sees: whatever belongs to a song starts here."""

    def visible_to(
        self, user: Any, *, may: str = SEE, removed: bool | None = False
    ) -> SongQuerySet:
        """The songs that are somebody's own, or are shared with a group in which their role lets
        them do that with it.

        may: of people.access. removed: those in the bin, those that are not, or (None) both; a
        bin is its owner's alone.
        """
        whose = models.Q(owner=user.pk)
        if may != OWN and not removed:
            shared = Song.groups.through.objects.filter(group__in=groups_with(user, may))
            whose |= models.Q(pk__in=shared.values("song"), removed=None)
        songs = self.filter(whose)
        return songs if removed is None else songs.filter(removed__isnull=not removed)


class OfSongQuerySet(models.QuerySet):
    """What belongs to a song: visible to whoever sees the song. song_path: the way to it."""

    song_path = "song"

    def visible_to(self, user: Any, *, may: str = SEE) -> OfSongQuerySet:
        return self.filter(**{f"{self.song_path}__in": Song.objects.visible_to(user, may=may)})


class Song(models.Model):
    """A request: which song, by whom it is played, who asked, by when, how deep.

    removed: since when it rests in the bin. tags: words of the owner's own. form: by which it was
    asked for, if by one; votes: of those who want it too.
    """

    OUTLINE = "outline"
    DEPTHS = [
        (OUTLINE, "The main groove and the moments that matter"),
        ("every_bar", "Every bar"),
    ]

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    title = models.CharField(max_length=200)
    artist = models.CharField(max_length=200, blank=True)
    asked_by = models.CharField(max_length=120, blank=True)
    due = models.DateField(null=True, blank=True)
    depth = models.CharField(max_length=12, choices=DEPTHS, default="every_bar")
    created = models.DateTimeField(default=timezone.now)
    removed = models.DateTimeField(null=True, blank=True)
    groups = models.ManyToManyField(Group, related_name="songs", blank=True)
    tags = models.JSONField(default=list, blank=True)
    form = models.ForeignKey(
        "RequestForm", on_delete=models.SET_NULL, null=True, related_name="songs"
    )
    votes = models.IntegerField(default=0)

    objects = SongQuerySet.as_manager()

    class Meta:
        ordering = ["created"]

    def __str__(self) -> str:
        return self.title


def _new_token() -> str:
    return secrets.token_urlsafe(12)


class RequestForm(models.Model):
    """An address where people without an account ask for songs, and vote for what others asked.

    closed: since when nothing is taken there any more.
    """

    owner = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    token = models.CharField(max_length=40, unique=True, default=_new_token)
    title = models.CharField(max_length=120)
    words = models.CharField(max_length=600, blank=True)
    closed = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.title


class Vote(models.Model):
    """One device's vote for a song; device: a word that the page drew at random."""

    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="voters")
    device = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["song", "device"], name="one_vote_a_device")]

    def __str__(self) -> str:
        return f"for {self.song}"


class StoredFile(models.Model):
    """A file that takes refer to by its name, and its size in bytes; see library.store."""

    name = models.CharField(max_length=255, unique=True)
    size = models.BigIntegerField(default=0)

    def __str__(self) -> str:
        return self.name


class Reserved(models.Model):
    """Room of an account, in bytes, for a file that is being written; see library.quota."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    size = models.BigIntegerField()
    made = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"{self.size} bytes for {self.owner}"


class Take(models.Model):
    """One recording of a song.

    sound: the FLAC that is heard and played, once decoded; drums: the drums of it alone, in
    step with it by sample. Of a further take of a song that has been heard: kind tells how it
    lies beside the first one, anchors are pairs of seconds (there, here), fitted is its sound
    on the first one's timeline, heard its strokes there: {start, end, hits: [[seconds, part,
    loudness]]}.
    rights: by what right it is here; what is for private study sounds on no player's page.
    Without an original it is a song that came as a score.
    """

    FIRST, STEM, OTHER = "first", "stem", "other"
    KINDS = [(k, k) for k in (FIRST, STEM, OTHER)]
    OWN_RIGHT, LICENSED, PRIVATE = "own", "licensed", "private"
    RIGHTS = [
        (OWN_RIGHT, "It is ours"),
        (LICENSED, "Licensed for this"),
        (PRIVATE, "For private study"),
    ]

    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="takes")
    name = models.CharField(max_length=255)
    digest = models.CharField(max_length=64)
    original = models.FileField(max_length=255, blank=True)
    sound = models.FileField(max_length=255, blank=True)
    drums = models.FileField(max_length=255, blank=True)
    kind = models.CharField(max_length=8, choices=KINDS, default=FIRST)
    is_video = models.BooleanField(default=False)
    anchors = models.JSONField(default=list)
    likeness = models.FloatField(null=True)
    fitted = models.FileField(max_length=255, blank=True)
    heard = models.JSONField(default=dict)
    rights = models.CharField(max_length=8, choices=RIGHTS, default=PRIVATE)
    duration = models.FloatField(null=True)
    created = models.DateTimeField(default=timezone.now)

    objects = OfSongQuerySet.as_manager()
    FILES = ("original", "sound", "drums", "fitted")

    class Meta:
        ordering = ["created"]
        indexes = [models.Index(fields=["digest"])]

    def __str__(self) -> str:
        return self.name


class Analysis(models.Model):
    """What was heard of a take (the analysis file); no edit changes it."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, related_name="analysis")
    document = FastJSONField()
