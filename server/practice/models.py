"""What was practised: one row a run of loops, and what a person chose about ears and time."""

from __future__ import annotations

import secrets
from functools import lru_cache
from typing import Any

from config.files import goes_with_its_row
from django.conf import settings
from django.db import models
from django.utils import timezone
from library.models import OfSongQuerySet, Take
from transcription.models import Arrangement

from orchesis.score import Score
from orchesis.teaching.ladder import Rung
from orchesis.teaching.limits import HearingLimits


class LoopQuerySet(models.QuerySet["Loop"]):
    def of(self, user: Any) -> LoopQuerySet:
        """A person's own log; nobody else sees it."""
        return self.filter(user=user.pk)


class OfArrangementQuerySet(OfSongQuerySet):
    song_path = "arrangement__song"


class Loop(models.Model):
    """Loops of one stage that were judged once. seconds: how long was played. judgement: of
    ladder.JUDGED. tempo: at which it was played; rung_tempo, clean_loops, is_learned: where the
    ladder stands behind it. note: of the player. beside: of ladder.CHECKS, what was done beside it;
    "": nothing."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    arrangement = models.ForeignKey(Arrangement, on_delete=models.CASCADE)
    at = models.DateTimeField(default=timezone.now)
    first = models.IntegerField()
    last = models.IntegerField()
    order = models.CharField(max_length=20)
    stage = models.CharField(max_length=120)
    stages = models.IntegerField()
    hard = models.FloatField()
    seconds = models.FloatField()
    tempo = models.FloatField()
    judgement = models.CharField(max_length=10)
    rung_tempo = models.FloatField()
    clean_loops = models.IntegerField()
    is_learned = models.BooleanField(default=False)
    note = models.CharField(max_length=400, blank=True)
    beside = models.CharField(max_length=10, blank=True, default="")

    objects = LoopQuerySet.as_manager()

    class Meta:
        ordering = ["at", "id"]
        indexes = [models.Index(fields=["user", "arrangement", "at"], name="loops_of_a_person")]

    def __str__(self) -> str:
        return f"{self.arrangement}: {self.stage} at {self.tempo:.0f}"

    @property
    def rung(self) -> Rung:
        return Rung(self.rung_tempo, self.clean_loops, self.is_learned)


class StageNotes(models.Model):
    """What a teacher made of a stage plan: titles in their order, those that are left out, own
    words by title."""

    arrangement = models.ForeignKey(
        Arrangement, on_delete=models.CASCADE, related_name="stage_notes"
    )
    first = models.IntegerField()
    last = models.IntegerField()
    order = models.CharField(max_length=20)
    titles = models.JSONField(default=list)
    dropped = models.JSONField(default=list)
    words = models.JSONField(default=dict)

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["arrangement", "first", "last", "order"], name="one_plan_a_passage"
            )
        ]

    def __str__(self) -> str:
        return f"{self.arrangement}: bars {self.first} to {self.last}"


def _clip_path(clip: Clip, name: str) -> str:
    return f"clips/{clip.arrangement_id}/{secrets.token_hex(8)}.{name.rsplit('.', 1)[-1]}"


class Clip(models.Model):
    """A sound or a video of the teacher's at a stage (by its title) of a plan. kind: what it is
    served as; size: bytes."""

    arrangement = models.ForeignKey(Arrangement, on_delete=models.CASCADE, related_name="clips")
    first = models.IntegerField()
    last = models.IntegerField()
    order = models.CharField(max_length=20)
    stage = models.CharField(max_length=120)
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=20)
    size = models.BigIntegerField(default=0)
    file = models.FileField(upload_to=_clip_path, max_length=255)
    created = models.DateTimeField(default=timezone.now)

    objects = OfArrangementQuerySet.as_manager()

    class Meta:
        ordering = ["created", "id"]

    def __str__(self) -> str:
        return f"{self.name}: {self.stage}"

    def told(self) -> dict[str, Any]:
        """As a page shows it."""
        return {"id": self.pk, "name": self.name, "kind": self.kind}


class PracticeLimits(models.Model):
    """What a person chose about their ears and their time. level, protection: dB(A). minutes: a
    day's goal."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    level = models.FloatField(default=98.0)
    protection = models.FloatField(default=20.0)
    rule = models.CharField(max_length=10, default="85/3")
    minutes = models.IntegerField(default=25)

    class Meta:
        db_table = "practice_care"

    def __str__(self) -> str:
        return f"{self.user}: {self.level:.0f} dB(A), {self.minutes} minutes a day"

    @property
    def hearing(self) -> HearingLimits:
        return HearingLimits(self.level, self.protection, self.rule)


@lru_cache(maxsize=24)
def _score_at(arrangement: int, version: int) -> Score:
    """A version never changes: its score is kept."""
    found = Arrangement.objects.select_related("song").get(pk=arrangement)
    return found.score_at(version)


def _new_token() -> str:
    return secrets.token_urlsafe(18)


class PlayerLinkQuerySet(OfArrangementQuerySet):
    def open_to(self, token: str) -> PlayerLinkQuerySet:
        """The one place that decides what somebody without an account sees: what an open link
        holds."""
        return self.filter(token=token, revoked=None, arrangement__song__removed=None)


class PlayerLink(models.Model):
    """A lesson, or a whole song, given to somebody without an account by an address nobody guesses.

    passages: [{first, last, order, words}], in the bars of its version; none: the whole song.
    version: of the arrangement, which its players see until it is updated. with_recording: its
    owner lets the recording sound there. revoked: from when on the address is dead."""

    arrangement = models.ForeignKey(
        Arrangement, on_delete=models.CASCADE, related_name="player_links"
    )
    token = models.CharField(max_length=40, unique=True, default=_new_token)
    title = models.CharField(max_length=120)
    words = models.CharField(max_length=2000, blank=True)
    passages = models.JSONField(default=list)
    version = models.IntegerField(default=0)
    with_recording = models.BooleanField(default=False)
    created = models.DateTimeField(default=timezone.now)
    revoked = models.DateTimeField(null=True)

    objects = PlayerLinkQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return self.title

    @property
    def score(self) -> Score:
        """What its players see: the part as it was when it was given."""
        arrangement = self.arrangement
        return (
            arrangement.score
            if self.version == arrangement.version
            else _score_at(arrangement.pk, self.version)
        )

    @property
    def sounds(self) -> bool:
        """Whether the recording sounds there: its owner lets it, and it is there by a right that
        reaches further than private study."""
        take = self.arrangement.take
        return bool(self.with_recording and take.sound and take.rights != Take.PRIVATE)


class PlayerProgress(models.Model):
    """What a player who agreed to it tells the teacher. device: a word that the page drew at
    random;
    stages: [{title, tempo, goal, is_learned}]."""

    link = models.ForeignKey(PlayerLink, on_delete=models.CASCADE, related_name="progress")
    device = models.CharField(max_length=40)
    name = models.CharField(max_length=60)
    minutes = models.FloatField(default=0)
    stages = models.JSONField(default=list)
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["name", "id"]
        constraints = [
            models.UniqueConstraint(fields=["link", "device"], name="one_progress_a_device")
        ]

    def __str__(self) -> str:
        return f"{self.name}: {self.link}"


def _zip_path(play_along: PlayAlong, _name: str) -> str:
    return f"play-along/{play_along.arrangement_id}/{secrets.token_hex(8)}.zip"


class PlayAlong(models.Model):
    """Files to play along with, asked for and made by a worker. wish: as PlayAlongRequest has it;
    names: of
    the files in the zip; version: of the arrangement that they sound."""

    arrangement = models.ForeignKey(
        Arrangement, on_delete=models.CASCADE, related_name="play_alongs"
    )
    wish = models.JSONField()
    version = models.IntegerField(default=0)
    file = models.FileField(upload_to=_zip_path, max_length=255, blank=True)
    size = models.BigIntegerField(default=0)
    names = models.JSONField(default=list)
    created = models.DateTimeField(default=timezone.now)

    objects = OfArrangementQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return f"{self.arrangement}: {len(self.names)} files"


def _sound_path(practised: PractisedSound, name: str) -> str:
    ending = name.rsplit(".", 1)[-1].lower()[:8] if "." in name else "sound"
    return f"practice/{practised.arrangement_id}/{secrets.token_hex(8)}.{ending}"


class PractisedSound(models.Model):
    """A recording of one's practice, heard by a worker and judged like what comes in from pads;
    older ones make room for newer. judged: as the core tells it, null until then; factor: by
    which it was played faster than the stage."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    arrangement = models.ForeignKey(
        Arrangement, on_delete=models.CASCADE, related_name="practised_sounds"
    )
    file = models.FileField(upload_to=_sound_path, max_length=255)
    size = models.BigIntegerField(default=0)
    name = models.CharField(max_length=255)
    first = models.IntegerField()
    last = models.IntegerField()
    order = models.CharField(max_length=20)
    stage = models.IntegerField()
    share = models.FloatField()
    judged = models.JSONField(null=True)
    factor = models.FloatField(null=True)
    created = models.DateTimeField(default=timezone.now)

    objects = OfArrangementQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.name}: {self.arrangement}"


goes_with_its_row("file", Clip, PlayAlong, PractisedSound)
