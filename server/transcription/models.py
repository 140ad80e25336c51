"""What was heard of a song, and every change a person made since."""

from __future__ import annotations

from functools import cached_property

from django.conf import settings
from django.db import models
from library.models import Song, Take

from orchesis.score import Score, Stroke


class HearingJob(models.Model):
    """Hearing one take. A worker holds it by a lease that it renews while it works."""

    QUEUED, RUNNING, DONE, REFUSED, CANCELLED = "queued", "running", "done", "refused", "cancelled"
    STATES = [(s, s) for s in (QUEUED, RUNNING, DONE, REFUSED, CANCELLED)]
    OPEN = (QUEUED, RUNNING)

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="jobs")
    state = models.CharField(max_length=10, choices=STATES, default=QUEUED, db_index=True)
    step = models.CharField(max_length=20, blank=True)
    share = models.FloatField(default=0)
    message = models.TextField(blank=True)
    notes = models.JSONField(default=list)
    cancel_asked = models.BooleanField(default=False)
    attempt = models.IntegerField(default=0)
    lease_until = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    @property
    def is_open(self) -> bool:
        return self.state in self.OPEN


class Transcription(models.Model):
    """The score of a song at its newest version; version 0 is what was heard."""

    song = models.OneToOneField(Song, on_delete=models.CASCADE, related_name="transcription")
    take = models.ForeignKey(Take, on_delete=models.PROTECT)
    version = models.IntegerField(default=0)
    document = models.JSONField()
    analysis = models.JSONField()
    updated = models.DateTimeField(auto_now=True)

    @cached_property
    def score(self) -> Score:
        return Score.from_json(
            {**self.document, "title": self.song.title, "artist": self.song.artist}
        )

    def heard_bar(self, bar: int) -> list[Stroke]:
        """The strokes of a bar as it was heard, before anybody changed anything."""
        strokes = {s["id"]: s for s in self.document["strokes"]}
        for inverse in self.edits.order_by("-version").values_list("inverse", flat=True):
            strokes |= inverse.get("strokes", {})
        return [Stroke.from_json(s) for s in strokes.values() if s and s["bar"] == bar]

    def keep(self, score: Score, version: int) -> None:
        self.document, self.version = score.to_json(), version
        self.__dict__.pop("score", None)
        self.save(update_fields=["document", "version", "updated"])


class KeptFill(models.Model):
    """A fill lifted out of a song into a collection of one's own; it outlives the song.

    document: {fill, strokes, meters} from the fill's own first bar on.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    song = models.ForeignKey(Song, on_delete=models.SET_NULL, null=True, related_name="kept_fills")
    title = models.CharField(max_length=200)
    bar = models.IntegerField()
    tempo = models.FloatField()
    note = models.CharField(max_length=300, blank=True)
    document = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created", "-id"]


class Edit(models.Model):
    """One line of the append-only log. patch leads to ``version``, inverse leads back.

    An undo or a redo is a line of its own; ``of`` names the version it takes back or
    brings again. key: the page's own name for what it sent; the same one is done once,
    however often an answer was lost and it was sent again.
    """

    DO, UNDO, REDO = "do", "undo", "redo"

    transcription = models.ForeignKey(Transcription, on_delete=models.CASCADE, related_name="edits")
    version = models.IntegerField()
    kind = models.CharField(max_length=4, choices=[(k, k) for k in (DO, UNDO, REDO)])
    operation = models.CharField(max_length=40)
    args = models.JSONField(default=dict)
    patch = models.JSONField()
    inverse = models.JSONField()
    of = models.IntegerField(null=True)
    key = models.CharField(max_length=40, null=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["version"]
        constraints = [
            models.UniqueConstraint(fields=["transcription", "version"], name="one_edit_a_version"),
            models.UniqueConstraint(fields=["transcription", "key"], name="one_edit_a_key"),
        ]
