"""What was heard of a song, and every change a person made since."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from config.fields import FastJSONField
from config.newest import NewestKept
from django.conf import settings
from django.db import models
from library.models import OfSongQuerySet, Song, Take

from orchesis.score import Score, Stroke

#: Scores and documents of the songs that were asked for last, up to so many strokes (about two
#: kilobytes each): reading one costs a tenth of a second, and an edit needs it at once.
_KEPT_STROKES = 50_000
_scores, _documents = NewestKept(_KEPT_STROKES), NewestKept(_KEPT_STROKES)


class OfTakeQuerySet(OfSongQuerySet):
    song_path = "take__song"


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

    objects = OfTakeQuerySet.as_manager()

    @property
    def is_open(self) -> bool:
        return self.state in self.OPEN


class Transcription(models.Model):
    """The score of a song at its newest version; version 0 is what was heard.

    bars, confirmed, tempo: what the shelf shows of it, kept with every edit so that no list has
    to read a score. is_broken: it was found that the score can't be read any more.
    """

    song = models.OneToOneField(Song, on_delete=models.CASCADE, related_name="transcription")
    take = models.ForeignKey(Take, on_delete=models.RESTRICT)
    version = models.IntegerField(default=0)
    document = FastJSONField()
    analysis = FastJSONField()
    updated = models.DateTimeField(auto_now=True)
    bars = models.IntegerField(default=0)
    confirmed = models.IntegerField(default=0)
    tempo = models.FloatField(null=True)
    is_broken = models.BooleanField(default=False)

    objects = OfSongQuerySet.as_manager()

    @property
    def _stamp(self) -> tuple[Any, ...]:
        """What tells one state of the document from another."""
        return self.version, self.updated

    @cached_property
    def score(self) -> Score:
        """The newest score; BadScore where its document can't be read."""
        names = {"title": self.song.title, "artist": self.song.artist}
        stamp = (*self._stamp, *names.values())
        known: Score | None = _scores.get(self.pk, stamp)
        if known is None:
            known = Score.from_json({**self.document, **names})
            _scores.put(self.pk, stamp, known, len(known.strokes))
        return known

    def kept_document(self) -> dict[str, Any]:
        """The document, not fetched where it is at hand; not to be changed."""
        known: dict[str, Any] | None = _documents.get(self.pk, self._stamp)
        return self.document if known is None else known

    def heard_bar(self, bar: int) -> list[Stroke]:
        """The strokes of a bar as it was heard, before anybody changed anything."""
        strokes = {s["id"]: s for s in self.document["strokes"]}
        for inverse in self.edits.order_by("-version").values_list("inverse", flat=True):
            strokes |= inverse.get("strokes", {})
        return [Stroke.from_json(s) for s in strokes.values() if s and s["bar"] == bar]

    @staticmethod
    def shelf_columns(score: Score) -> dict[str, Any]:
        """What the shelf shows of a score."""
        return {
            "bars": score.bar_count, "confirmed": len(score.confirmed),
            "tempo": round(score.pulse.tempo()[0], 1), "is_broken": False,
        }  # fmt: skip

    def keep(self, score: Score, version: int, document: dict[str, Any] | None = None) -> None:
        """Takes a new score as the newest version. document: its JSON, where it is at hand."""
        self.document, self.version = document or score.to_json(), version
        for name, value in self.shelf_columns(score).items():
            setattr(self, name, value)
        self.__dict__.pop("score", None)
        self.save(
            update_fields=[
                "document", "version", "updated", "bars", "confirmed", "tempo", "is_broken",
            ]
        )  # fmt: skip
        size = len(score.strokes)
        _documents.put(self.pk, self._stamp, self.document, size)
        _scores.put(self.pk, (*self._stamp, self.song.title, self.song.artist), score, size)

    def mark_broken(self) -> None:
        """Remembers for the shelf that the score can't be read."""
        type(self).objects.filter(pk=self.pk).update(is_broken=True)


class KeptFillQuerySet(models.QuerySet["KeptFill"]):
    def visible_to(self, user: Any) -> KeptFillQuerySet:
        """A user's own collection."""
        return self.filter(owner=user.pk)


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

    objects = KeptFillQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-id"]


class Edit(models.Model):
    """One line of the append-only log. patch leads to ``version``, inverse leads back.

    An undo or a redo is a line of its own; ``of`` names the version it takes back or
    brings again. says: what was done, in a few words. key: the page's own name for what it sent;
    the same one is done once, however often an answer was lost and it was sent again.
    """

    DO, UNDO, REDO = "do", "undo", "redo"

    transcription = models.ForeignKey(Transcription, on_delete=models.CASCADE, related_name="edits")
    version = models.IntegerField()
    kind = models.CharField(max_length=4, choices=[(k, k) for k in (DO, UNDO, REDO)])
    operation = models.CharField(max_length=40)
    args = models.JSONField(default=dict)
    patch = FastJSONField()
    inverse = FastJSONField()
    says = models.CharField(max_length=120, blank=True)
    of = models.IntegerField(null=True)
    key = models.CharField(max_length=40, null=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["version"]
        constraints = [
            models.UniqueConstraint(fields=["transcription", "version"], name="one_edit_a_version"),
            models.UniqueConstraint(fields=["transcription", "key"], name="one_edit_a_key"),
        ]
