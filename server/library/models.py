"""The shelf: songs that were asked for, and the recordings taken in for them."""

from __future__ import annotations

from typing import Any

from config.fields import FastJSONField
from django.conf import settings
from django.db import models, transaction
from django.db.models.signals import post_delete
from django.dispatch import receiver


class SongQuerySet(models.QuerySet["Song"]):
    """The one place that decides what anybody sees: whatever belongs to a song starts here."""

    def visible_to(self, user: Any, *, also_removed: bool = False) -> SongQuerySet:
        """The songs of a user's shelf."""
        own = self.filter(owner=user.pk)
        return own if also_removed else own.filter(removed=None)


class OfSongQuerySet(models.QuerySet):
    """What belongs to a song: visible to whoever sees the song. song_path: the way to it."""

    song_path = "song"

    def visible_to(self, user: Any) -> OfSongQuerySet:
        return self.filter(**{f"{self.song_path}__in": Song.objects.visible_to(user)})


class Song(models.Model):
    """A request: which song, by whom it is played, who asked, by when, how deep."""

    DEPTHS = [
        ("outline", "The main groove and the moments that matter"),
        ("every_bar", "Every bar"),
    ]

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    title = models.CharField(max_length=200)
    artist = models.CharField(max_length=200, blank=True)
    asked_by = models.CharField(max_length=120, blank=True)
    due = models.DateField(null=True, blank=True)
    depth = models.CharField(max_length=12, choices=DEPTHS, default="every_bar")
    created = models.DateTimeField(auto_now_add=True)
    removed = models.DateTimeField(null=True, blank=True)

    objects = SongQuerySet.as_manager()

    class Meta:
        ordering = ["created"]

    def __str__(self) -> str:
        return self.title


def original_path(take: Take, name: str) -> str:
    suffix = name.rsplit(".", 1)[-1].lower()[:8] if "." in name else "sound"
    return f"takes/{take.song_id}/{take.digest[:16]}.{suffix}"


class Take(models.Model):
    """One recording of a song.

    sound: the FLAC that is heard and played, once decoded; drums: the drums of it alone, in
    step with it by sample. Of a further take of a song that has been heard: kind tells how it
    lies beside the first one, anchors are pairs of seconds (there, here), fitted is its sound
    on the first one's timeline, heard its strokes there: {start, end, hits: [[seconds, part,
    loudness]]}.
    """

    FIRST, STEM, OTHER = "first", "stem", "other"
    KINDS = [(k, k) for k in (FIRST, STEM, OTHER)]

    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="takes")
    name = models.CharField(max_length=255)
    digest = models.CharField(max_length=64)
    original = models.FileField(upload_to=original_path, max_length=255)
    sound = models.FileField(max_length=255, blank=True)
    drums = models.FileField(max_length=255, blank=True)
    kind = models.CharField(max_length=8, choices=KINDS, default=FIRST)
    is_video = models.BooleanField(default=False)
    anchors = models.JSONField(default=list)
    likeness = models.FloatField(null=True)
    fitted = models.FileField(max_length=255, blank=True)
    heard = models.JSONField(default=dict)
    duration = models.FloatField(null=True)
    created = models.DateTimeField(auto_now_add=True)

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


@receiver(post_delete, sender=Take)
def _free_files(instance: Take, **_more: Any) -> None:
    """A take that is deleted for good frees its files, once the deletion stands."""
    files = [getattr(instance, name) for name in Take.FILES if getattr(instance, name)]
    transaction.on_commit(lambda: [f.storage.delete(f.name) for f in files])
