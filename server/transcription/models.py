"""What was heard of a song, and every change a person made since."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from config.fields import FastJSONField
from config.newest import NewestKept
from django.conf import settings
from django.db import models
from django.utils import timezone
from library.models import OfSongQuerySet, Song, Take

from orchesis.checks import review, unlikely
from orchesis.hands import with_limbs
from orchesis.planning import worked
from orchesis.score import Score, Stroke, counting
from orchesis.score.patches import patched, patched_document
from orchesis.score.player import READS, Player
from orchesis.teaching import passages

#: Scores of the songs that were asked for last, up to so many strokes (about a kilobyte each):
#: reading one costs a tenth of a second, and an edit needs it at once.
_KEPT_STROKES = 100_000
_scores = NewestKept(_KEPT_STROKES)
#: Edits after which the whole score is written; until then the log's patches stand for it.
_SNAPSHOT_EVERY = 50


class Arrangement(models.Model):
    """One version of what is played in a song: as it was recorded, or as somebody arranged it.

    take: what it was heard from. Its score is the newest snapshot and what the log's patches make
    of that. bars, confirmed, doubts, tempo: what the shelf shows of it, kept with every edit so
    that no list has to read a score. minutes: that were spent on its changes; doubts_heard: that
    hearing left; of an outline, wanted: bars of the passages that tell the song (null: not looked
    for yet), and wanted_confirmed: those of them that are confirmed. is_broken: it was
    found that the score can't be read any more.
    """

    RECORDED = "As recorded"

    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="arrangements")
    name = models.CharField(max_length=80, default=RECORDED)
    take = models.ForeignKey(Take, on_delete=models.RESTRICT)
    version = models.IntegerField(default=0)
    created = models.DateTimeField(default=timezone.now)
    updated = models.DateTimeField(auto_now=True)
    bars = models.IntegerField(default=0)
    confirmed = models.IntegerField(default=0)
    doubts = models.IntegerField(default=0)
    tempo = models.FloatField(null=True)
    is_broken = models.BooleanField(default=False)
    based = models.IntegerField(default=0)
    minutes = models.FloatField(default=0)
    doubts_heard = models.IntegerField(default=0)
    wanted = models.IntegerField(null=True)
    wanted_confirmed = models.IntegerField(default=0)

    objects = OfSongQuerySet.as_manager()

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["song", "name"], name="one_arrangement_a_name"),
        ]

    def __str__(self) -> str:
        return f"{self.song}: {self.name}"

    @classmethod
    def start(cls, take: Take, score: Score) -> Arrangement:
        """What is played as it was heard in a take."""
        liked = Preferences.as_liked(take.song.owner_id, score)
        if liked is not score:
            score = with_limbs(liked)
        special = [*unlikely.echo_doubts(score), *unlikely.third_hand(score)]
        doubts = len(review.queue(score, special))
        arrangement = cls.objects.create(
            song=take.song,
            take=take,
            doubts=doubts,
            doubts_heard=doubts,
            **cls.columns(score),
        )
        arrangement.snapshots.create(version=0, document=score.to_json())
        return arrangement

    def copy(self, name: str, score: Score) -> Arrangement:
        """Another arrangement of the song, made from this one: what it plays is ``score``."""
        recorded = self.recorded
        arrangement = type(self).objects.create(
            song=self.song,
            take=self.take,
            name=name,
            doubts=self.doubts,
            based=recorded.version,
            **self.columns(score),
        )
        arrangement.snapshots.create(version=0, document=score.to_json())
        return arrangement

    @property
    def is_recorded(self) -> bool:
        return self.name == self.RECORDED

    @property
    def is_done(self) -> bool:
        """Whether all that is wanted of the song is confirmed: every bar, or the passages that
        tell it."""
        if self.song.depth == Song.OUTLINE and self.wanted:
            return self.wanted_confirmed >= self.wanted
        return self.confirmed == self.bars

    @property
    def recorded(self) -> Arrangement:
        """The song's part as it was recorded."""
        if self.is_recorded:
            return self
        return (
            type(self)
            .objects.select_related("song", "take")
            .get(song=self.song_id, name=self.RECORDED)
        )

    @property
    def _name(self) -> tuple[Any, ...]:
        """What its score is kept by in this process."""
        return self.pk, self.created, self.song.title, self.song.artist

    @property
    def score(self) -> Score:
        """The newest score; BadScore where its document can't be read."""
        kept = _scores.latest(self._name)
        if kept is not None and kept[0] <= self.version:
            version, score = kept
            for patch in self._patches(version):
                score = patched(score, patch)
        else:
            names = {"title": self.song.title, "artist": self.song.artist}
            version, score = -1, Score.from_json({**self.document, **names})
        if version != self.version:
            _scores.put(self._name, self.version, score, len(score.strokes))
        return score

    @property
    def document(self) -> dict[str, Any]:
        """The newest score's JSON, also where it can't be read any more; not to be changed."""
        snapshot = self._last_snapshot()
        document: dict[str, Any] = snapshot.document
        for patch in self._patches(snapshot.version):
            document = patched_document(document, patch)
        return document

    def _last_snapshot(self) -> Snapshot:
        return self.snapshots.filter(version__lte=self.version).latest("version")

    def _patches(self, version: int) -> Iterator[dict[str, Any]]:
        """What leads from a version to this one."""
        if version < self.version:
            newer = self.edits.filter(version__gt=version, version__lte=self.version)
            yield from newer.values_list("patch", flat=True)

    def document_at(self, version: int) -> dict[str, Any]:
        """The score's JSON as it was at a version, made from the newest snapshot up to there."""
        snapshot = self.snapshots.filter(version__lte=version).latest("version")
        document: dict[str, Any] = snapshot.document
        lines = self.edits.filter(version__gt=snapshot.version, version__lte=version)
        for patch in lines.values_list("patch", flat=True):
            document = patched_document(document, patch)
        return document

    def score_at(self, version: int) -> Score:
        """The score as it was at a version; BadScore where it can't be read any more."""
        names = {"title": self.song.title, "artist": self.song.artist}
        return Score.from_json({**self.document_at(version), **names})

    def heard_bar(self, bar: int) -> list[Stroke]:
        """The strokes of a bar as it was heard, before anybody changed anything."""
        heard = self.recorded.snapshots.get(version=0).document["strokes"]
        return [Stroke.from_json(s) for s in heard if s["bar"] == bar]

    @staticmethod
    def columns(score: Score) -> dict[str, Any]:
        """What the shelf shows of a score."""
        return {
            "bars": score.bar_count,
            "confirmed": len(score.confirmed),
            "tempo": round(score.pulse.tempo()[0], 1),
            "is_broken": False,
        }

    def keep(self, score: Score, version: int, old: Score | None = None) -> None:
        """Takes a score, to which the log's last line leads, as the newest version.

        old: the one before, where it is at hand: by it the open doubts are counted on.
        """
        self.version = version
        columns = self.columns(score)
        if old is not None:
            settled = review.open_count(old) - review.open_count(score)
            columns["doubts"] = max(0, self.doubts - settled)
        now = timezone.now()
        since = (now - self.updated).total_seconds() if self.version > 1 else None
        columns["minutes"] = worked(self.minutes, since)
        if self.song.depth == Song.OUTLINE and (old is None or old.confirmed != score.confirmed):
            columns |= outline_of(score)
        for name, value in columns.items():
            setattr(self, name, value)
        self.save(update_fields=["version", "updated", *columns])
        self._take_snapshot()
        _scores.put(self._name, version, score, len(score.strokes))

    def _take_snapshot(self) -> None:
        """Writes the whole score where the last one lies some edits back; the one that was heard
        stays, others give way."""
        last = self.snapshots.order_by("-version").values_list("version", flat=True)[0]
        if self.version - last >= _SNAPSHOT_EVERY:
            document = self.document
            self.snapshots.filter(version__gt=0).delete()
            self.snapshots.create(version=self.version, document=document)

    def count_doubts(self, count: int) -> None:
        """Remembers for the shelf how many doubts the review has, once they were all looked for."""
        if count != self.doubts:
            same = type(self).objects.filter(pk=self.pk, version=self.version)
            same.update(doubts=count)

    def mark_broken(self) -> None:
        """Remembers for the shelf that the score can't be read."""
        type(self).objects.filter(pk=self.pk).update(is_broken=True)


def outline_of(score: Score) -> dict[str, Any]:
    """How many bars tell a song, and how many of those are confirmed."""
    wanted = {p.bar + k for p in passages.of_song(score) for k in range(p.bars)}
    return {"wanted": len(wanted), "wanted_confirmed": len(wanted & set(score.confirmed))}


class Snapshot(models.Model):
    """The whole score of an arrangement at one version; version 0 is what was heard.

    In a table of its own: the database checks every document of a row that is written.
    """

    arrangement = models.ForeignKey(Arrangement, on_delete=models.CASCADE, related_name="snapshots")
    version = models.IntegerField()
    document = FastJSONField()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["arrangement", "version"], name="one_snapshot_a_version"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.arrangement}, version {self.version}"


class Preferences(models.Model):
    """What one person owns, counts and reads: every new song of theirs starts with it. keys: of the
    keyboard, in the place of the usual ones, by the rows of the page's table. rhythm_words: that
    they have collected."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    player = models.JSONField(default=dict)
    counting = models.CharField(max_length=60, default=counting.SCHOOLS[0])
    reads = models.CharField(max_length=20, default=READS[0])
    note_names = models.CharField(max_length=20, default="letters")
    keys = models.JSONField(default=dict)
    rhythm_words = models.JSONField(default=list)

    @classmethod
    def counting_of(cls, user_id: int | None, player: Player) -> str:
        """The school that somebody counts a song in: the song's own word, else theirs."""
        liked = cls.objects.filter(user=user_id).first() or cls()
        return player.counting or str(liked.counting)

    @classmethod
    def as_liked(cls, user_id: int | None, score: Score) -> Score:
        """The score for the kit and the hands that somebody has; itself where it is so already."""
        liked = cls.objects.filter(user=user_id).first()
        if liked is None or liked.as_player == score.player:
            return score
        return replace(score, player=liked.as_player)

    @property
    def as_player(self) -> Player:
        return Player.from_json(self.player)


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
    created = models.DateTimeField(default=timezone.now)

    objects = KeptFillQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-id"]


class Edit(models.Model):
    """One line of the append-only log. patch leads to ``version``, inverse leads back.

    An undo or a redo is a line of its own; ``of`` names the version it takes back or
    brings again. says: what was done, in a few words. key: the page's own name for what it sent;
    the same one is done once, however often an answer was lost and it was sent again. decides:
    it says something of a stroke's doubt.

    undo, redo: the versions that its author can undo and redo next, once this line stands;
    under: what lies under the version that this line put on top of one of the two. So the two
    stacks of a person are known from their last line.
    """

    DO, UNDO, REDO = "do", "undo", "redo"

    arrangement = models.ForeignKey(Arrangement, on_delete=models.CASCADE, related_name="edits")
    version = models.IntegerField()
    kind = models.CharField(max_length=4, choices=[(k, k) for k in (DO, UNDO, REDO)])
    operation = models.CharField(max_length=40)
    args = models.JSONField(default=dict)
    patch = FastJSONField()
    inverse = FastJSONField()
    says = models.CharField(max_length=120, blank=True)
    of = models.IntegerField(null=True)
    key = models.CharField(max_length=40, null=True)
    decides = models.BooleanField(default=False)
    undo = models.IntegerField(null=True)
    redo = models.IntegerField(null=True)
    under = models.IntegerField(null=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["version"]
        constraints = [
            models.UniqueConstraint(fields=["arrangement", "version"], name="one_edit_a_version"),
            models.UniqueConstraint(fields=["arrangement", "key"], name="one_edit_a_key"),
        ]

    def __str__(self) -> str:
        return f"{self.version}: {self.says or self.operation}"
