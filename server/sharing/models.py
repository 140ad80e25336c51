"""What people who share a song say to one another, and the versions they gave a name."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone
from library.models import OfSongQuerySet
from transcription.models import Arrangement


class OfArrangementQuerySet(OfSongQuerySet):
    song_path = "arrangement__song"


class Comment(models.Model):
    """A word on a bar, a section, or the whole song (bar 0, no section).

    section: by its id, so that it goes along when the form changes. answers: the comment under
    which it stands. mentions: who is asked to look. resolved: since when it is settled.
    """

    arrangement = models.ForeignKey(Arrangement, on_delete=models.CASCADE, related_name="comments")
    bar = models.IntegerField(default=0)
    section = models.CharField(max_length=40, blank=True)
    answers = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="replies")
    author = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="comments"
    )
    words = models.CharField(max_length=1000)
    mentions = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="mentioned_in")
    created = models.DateTimeField(default=timezone.now)
    resolved = models.DateTimeField(null=True)
    resolved_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )

    objects = OfArrangementQuerySet.as_manager()

    class Meta:
        ordering = ["created", "id"]

    def __str__(self) -> str:
        return self.words


class NamedVersion(models.Model):
    """A version of an arrangement that somebody gave a name; the log makes it again."""

    arrangement = models.ForeignKey(
        Arrangement, on_delete=models.CASCADE, related_name="named_versions"
    )
    version = models.IntegerField()
    name = models.CharField(max_length=80)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(default=timezone.now)

    objects = OfArrangementQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-id"]
        constraints = [
            models.UniqueConstraint(fields=["arrangement", "name"], name="one_version_a_name")
        ]

    def __str__(self) -> str:
        return self.name
