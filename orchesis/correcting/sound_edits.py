"""Edits of the song's sounds, one answer for all their strokes, and of what is perhaps a stroke."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from orchesis.errors import BadEdit
from orchesis.hands import solve
from orchesis.placing.requantise import nearest_place
from orchesis.score import CandidateHit, KitSound, Score, Stroke
from orchesis.score.edit import Edit, Id, Part
from orchesis.score.kit import KIT
from orchesis.score.stroke import MOST_SOUNDS, class_of

#: Share of the strokes of a sound that a person named which are right (simulated on the tuning
#: beds).
NAMED = 0.95
_SAME_MOMENT_S = 0.03  # seconds within which strokes of two parts were heard as one moment
_MOST_AT_ONCE = 5000

SoundNumber = Annotated[int, Field(ge=1, le=MOST_SOUNDS)]


@dataclass
class _Sounds:
    """The strokes of a score, written and perhaps, while its sounds are changed."""

    score: Score
    strokes: dict[str, Stroke]
    perhaps: dict[str, CandidateHit]
    sounds: dict[int, KitSound]

    @classmethod
    def of(cls, score: Score) -> _Sounds:
        sounds = {s.number: s for s in score.sounds}
        return cls(score, dict(score.strokes), dict(score.perhaps), sounds)

    def get(self, number: int) -> KitSound:
        """The sound of that number; BadEdit where there is none."""
        if number not in self.sounds:
            raise BadEdit(f"There is no sound {number} in this song any more.")
        return self.sounds[number]

    def is_free(self, s: Stroke) -> bool:
        """Whether an answer for its sound may change a stroke: nobody has decided of it."""
        return s.placed_by == "heard" and not s.doubt and s.bar not in self.score.confirmed

    def written(self, number: int) -> list[Stroke]:
        """The strokes of a sound that its answer may change."""
        return [
            s
            for s in self.strokes.values()
            if s.measured and s.measured.sound == number and self.is_free(s)
        ]

    def unwritten(self, number: int) -> list[CandidateHit]:
        return [p for p in self.perhaps.values() if p.measured.sound == number]

    def renumber(self, number: int, to: int, *, only: int | None = None, half: int = 0) -> None:
        """Gives the strokes of a sound (of one half of it) another number and half."""

        def moved(fields: dict[str, Any]) -> dict[str, Any]:
            return {
                key: replace(s, measured=replace(s.measured, sound=to, half=half))
                if s.measured and s.measured.sound == number and only in (None, s.measured.half)
                else s
                for key, s in fields.items()
            }

        self.strokes, self.perhaps = moved(self.strokes), moved(self.perhaps)

    def put(self, strokes: Iterable[Stroke]) -> None:
        """Writes strokes on the places of what sounds with them. Where their part stands already,
        or in a confirmed bar, they are perhaps."""
        given = sorted(strokes, key=lambda s: -s.confidence)
        for s in given:
            self.strokes.pop(s.id, None)
        taken = {(s.bar, s.place, s.part) for s in self.strokes.values()}
        renamed: dict[str, Stroke] = {}
        for s in given:
            if (s.bar, s.place, s.part) in taken or s.bar in self.score.confirmed:
                self.perhaps.setdefault(s.id, _unwritten(s, s.confidence))
                continue
            taken.add((s.bar, s.place, s.part))
            self.perhaps.pop(s.id, None)
            self.strokes[s.id] = renamed[s.id] = s
        bars = {s.bar for s in renamed.values()}
        limbs = solve(self.score.with_strokes(self.strokes.values()), bars=bars).limbs
        for key, s in renamed.items():
            if s.limb_by == "program":
                self.strokes[key] = s.changed(limb=limbs[key])

    def become(self, number: int, part: str) -> None:
        """All of a sound are strokes of one part: those that were perhaps are written."""
        siblings = [
            s.changed(part=part, confidence=max(NAMED, s.confidence)) for s in self.written(number)
        ]
        fresh = written_from(self.score, self.unwritten(number))
        self.put([*siblings, *(s.changed(part=part, confidence=NAMED) for s in fresh)])

    def done(self) -> Score:
        return replace(
            self.score,
            strokes=self.strokes,
            perhaps=self.perhaps,
            sounds=tuple(self.sounds[k] for k in sorted(self.sounds)),
        )


def written_from(score: Score, perhaps: Iterable[CandidateHit]) -> list[Stroke]:
    """What may have been strokes as written ones, with what was measured of them: each on the
    place of a stroke that was heard at its moment, else on the nearest 16th or triplet."""
    there = sorted((s.time, s.bar, s.place) for s in score.strokes.values() if s.time is not None)
    times = [t for t, _, _ in there]
    strokes = []
    for p in perhaps:
        bar, place = _beside(p.time, times, there) or nearest_place(score, p.time)
        strokes.append(
            Stroke(
                p.id,
                bar,
                place,
                p.part,
                KIT[p.part].limb,
                class_of(p.loudness),
                p.loudness,
                measured=p.measured,
                confidence=p.confidence,
                placed_by="heard",
            )
        )
    return strokes


def _beside(
    moment: float, times: list[float], there: list[tuple[float, int, Fraction]]
) -> tuple[int, Fraction] | None:
    """The place of the stroke nearest to a moment, if they are one."""
    k = bisect_left(times, moment)
    near = [x for x in there[max(0, k - 1) : k + 1] if abs(x[0] - moment) < _SAME_MOMENT_S]
    return min(near, key=lambda x: abs(x[0] - moment))[1:] if near else None


def _unwritten(s: Stroke, confidence: float) -> CandidateHit:
    assert s.measured  # only what was heard is perhaps
    return CandidateHit(s.id, s.part, s.measured, s.loudness, confidence)


class SoundEdit(Edit):
    """One answer for all strokes of a sound; those that a person placed stay."""

    sound: SoundNumber

    def apply(self, score: Score) -> Score:
        sounds = _Sounds.of(score)
        self.change(sounds, sounds.get(self.sound))
        return sounds.done()

    def change(self, sounds: _Sounds, sound: KitSound) -> None:
        """Does the edit."""


class NameSound(SoundEdit):
    """It is that part: all of it is written so."""

    words: ClassVar[str] = "sound named"
    operation: Literal["name_sound"] = "name_sound"
    part: Part

    def change(self, sounds: _Sounds, sound: KitSound) -> None:
        sounds.become(sound.number, self.part)
        sounds.sounds[sound.number] = replace(sound, part=self.part, answer="named")


class DismissSound(SoundEdit):
    """It is not a drum: nothing of it is written any more, and nothing is lost of it."""

    words: ClassVar[str] = "sound taken away"
    operation: Literal["dismiss_sound"] = "dismiss_sound"

    def change(self, sounds: _Sounds, sound: KitSound) -> None:
        for s in sounds.written(sound.number):
            del sounds.strokes[s.id]
            sounds.perhaps[s.id] = _unwritten(s, 0.0)
        for p in sounds.unwritten(sound.number):
            sounds.perhaps[p.id] = replace(p, confidence=0.0)
        sounds.sounds[sound.number] = replace(sound, answer="no_drum")


class SplitSound(SoundEdit):
    """They are two sounds: the smaller half gets a number of its own."""

    words: ClassVar[str] = "sound split"
    operation: Literal["split_sound"] = "split_sound"

    def change(self, sounds: _Sounds, sound: KitSound) -> None:
        if not sound.halves:
            raise BadEdit("All of that sound is alike; it can't be split.")
        new = max(sounds.sounds) + 1
        if new > MOST_SOUNDS:
            raise BadEdit(f"A song has {MOST_SOUNDS} sounds at the most.")
        sounds.renumber(sound.number, new, only=1)
        first, second = sound.halves
        sounds.sounds[sound.number] = replace(sound, picture=first, halves=(), answer="")
        sounds.sounds[new] = KitSound(new, sound.part, picture=second)


class JoinSounds(SoundEdit):
    """It is the same as another sound, and bears its number and name."""

    words: ClassVar[str] = "sounds joined"
    operation: Literal["join_sounds"] = "join_sounds"
    same: SoundNumber

    def change(self, sounds: _Sounds, sound: KitSound) -> None:
        other = sounds.get(self.same)
        if other.number == sound.number:
            raise BadEdit("A sound is the same as itself; choose another one.")
        sounds.renumber(other.number, other.number)
        sounds.renumber(sound.number, other.number, half=1)
        del sounds.sounds[sound.number]
        halves = (other.picture, sound.picture)
        sounds.sounds[other.number] = replace(other, halves=halves, answer="named")
        sounds.become(other.number, other.part)


class WritePerhaps(Edit):
    """What was perhaps a stroke is one: written, with all that was measured of it."""

    words: ClassVar[str] = "strokes written"
    operation: Literal["write_perhaps"] = "write_perhaps"
    ids: Annotated[list[Id], Field(min_length=1, max_length=_MOST_AT_ONCE)]

    def apply(self, score: Score) -> Score:
        sounds = _Sounds.of(score)
        fresh = written_from(score, [_perhaps(score, key) for key in self.ids])
        sounds.put(s.changed(placed_by="person", confidence=1.0) for s in fresh)
        if all(s.id not in sounds.strokes for s in fresh):
            raise BadEdit("That part is written there already, or the bar is confirmed.")
        return sounds.done()


class DropPerhaps(Edit):
    """What was perhaps a stroke is none."""

    words: ClassVar[str] = "doubt answered"
    operation: Literal["drop_perhaps"] = "drop_perhaps"
    ids: Annotated[list[Id], Field(min_length=1, max_length=_MOST_AT_ONCE)]

    def apply(self, score: Score) -> Score:
        gone = {_perhaps(score, key).id for key in self.ids}
        return replace(score, perhaps={k: p for k, p in score.perhaps.items() if k not in gone})


def _perhaps(score: Score, key: str) -> CandidateHit:
    if key not in score.perhaps:
        raise BadEdit("That is no longer perhaps a stroke; somebody answered it meanwhile.")
    return score.perhaps[key]
