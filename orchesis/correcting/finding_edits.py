"""Edits of what the program found: a person confirms, denies or changes a finding, and that holds.

What is said of a finding is kept with the score (orchesis/score/verdict.py); the rules of meaning
ask it before they tell anything.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from orchesis.errors import BadEdit
from orchesis.placing.requantise import swing_heard
from orchesis.score.edit import Bar, Edit, Id, Note, Part, Place, must_hold, section_of
from orchesis.score.edit import Reason as ShortText
from orchesis.score.song import Score
from orchesis.score.verdict import CoreSpot, FillVerdict, GrooveVerdict, of_music

_MAX_BARS_OF_A_FILL = 16  # bars of a fill


class _OfFill(Edit):
    """Of a fill from a place of a bar up to a place of its last bar (that bar's beats: its end)."""

    bar: Bar
    place: Place
    last_bar: Bar
    end: Place

    def _stretch(self, score: Score) -> tuple[float, float]:
        """Its moments (seconds); BadEdit where it is no stretch of the song."""
        must_hold(score, self.bar, self.place)
        if not self.bar <= self.last_bar <= score.bar_count:
            raise BadEdit(f"The bars {self.bar} to {self.last_bar} are not all in the song.")
        if self.last_bar - self.bar >= _MAX_BARS_OF_A_FILL:
            raise BadEdit(f"A fill has {_MAX_BARS_OF_A_FILL} bars at the most; say where it ends.")
        if not 0 < self.end <= score.meters[self.last_bar - 1].beats:
            raise BadEdit(f"The fill must end within bar {self.last_bar}.")
        seconds = score.pulse.seconds
        start = seconds(score.beat_of(self.bar, self.place))
        end = seconds(score.beat_of(self.last_bar, self.end))
        if end <= start:
            raise BadEdit("A fill ends behind its beginning.")
        return start, end

    def _others(self, score: Score) -> tuple[FillVerdict, ...]:
        """What was said of other stretches."""
        start, end = self._stretch(score)
        close = 0.01
        return tuple(
            v for v in score.fill_verdicts if v.end <= start + close or v.start >= end - close
        )


class MarkFill(_OfFill):
    """There is a fill, from here to there; what was found or said of that stretch gives way."""

    words: ClassVar[str] = "fill marked"
    operation: Literal["mark_fill"] = "mark_fill"

    def apply(self, score: Score) -> Score:
        verdict = FillVerdict(*self._stretch(score), True)
        return replace(score, fill_verdicts=(*self._others(score), verdict))


class DenyFill(_OfFill):
    """What was found there is no fill."""

    words: ClassVar[str] = "no fill"
    operation: Literal["deny_fill"] = "deny_fill"

    def apply(self, score: Score) -> Score:
        verdict = FillVerdict(*self._stretch(score), False)
        return replace(score, fill_verdicts=(*self._others(score), verdict))


class ForgetFill(_OfFill):
    """What was said of the stretch no longer holds; it is told as it is found."""

    words: ClassVar[str] = "fill as found"
    operation: Literal["forget_fill"] = "forget_fill"

    def apply(self, score: Score) -> Score:
        return replace(score, fill_verdicts=self._others(score))


class _OfGroove(Edit):
    """Of the groove of a section's music. id: the section's."""

    id: Id

    def _said(self, score: Score) -> GrooveVerdict:
        return of_music(score.groove_verdicts, section_of(score, self.id).label)

    def _with(self, score: Score, verdict: GrooveVerdict) -> Score:
        others = tuple(v for v in score.groove_verdicts if v.label != verdict.label)
        is_empty = verdict == GrooveVerdict(verdict.label)
        return replace(score, groove_verdicts=others if is_empty else (*others, verdict))


class JudgeGroove(_OfGroove):
    """What a groove is: its name ("": none), bars of its unit (0: as found), its kind ("": as
    found), its figures by name, and in their words what goes with what. What is not given stays."""

    words: ClassVar[str] = "groove judged"
    operation: Literal["judge_groove"] = "judge_groove"
    name: ShortText | None = None
    length: Literal[0, 1, 2, 4] | None = None
    kind: (
        Literal["", "fixed", "options", "thinned", "skeleton", "vocabulary", "through", "stops"]
        | None
    ) = None
    figures: Annotated[list[ShortText], Field(max_length=12)] | None = None
    note: Note | None = None

    def apply(self, score: Score) -> Score:
        given = {
            "name": self.name,
            "length": self.length,
            "kind": self.kind,
            "note": self.note,
        }
        if self.figures is not None:
            given["figures"] = tuple(dict.fromkeys(f for f in self.figures if f))  # type: ignore[assignment]
        judged = {k: v for k, v in given.items() if v is not None}
        return self._with(score, replace(self._said(score), **judged))  # type: ignore[arg-type]


class SetCore(_OfGroove):
    """A stroke of a groove's unit is core, is an option, or is what its bars say.

    in_bar: bar of the unit (0: each); ghost: whether it is a soft one of the snare.
    """

    words: ClassVar[str] = "core changed"
    operation: Literal["set_core"] = "set_core"
    in_bar: Annotated[int, Field(ge=0, le=4)]
    place: Place
    part: Part
    ghost: bool
    standing: Literal["core", "option", "found"]

    def apply(self, score: Score) -> Score:
        verdict = self._said(score)
        spot: CoreSpot = (self.in_bar, self.place, self.part, self.ghost)
        others = tuple(c for c in verdict.core if c[0] != spot)
        spots = () if self.standing == "found" else ((spot, self.standing == "core"),)
        return self._with(score, replace(verdict, core=(*others, *spots)))


class ForgetGroove(_OfGroove):
    """Nothing that was said of a groove holds any longer."""

    words: ClassVar[str] = "groove as found"
    operation: Literal["forget_groove"] = "forget_groove"

    def apply(self, score: Score) -> Score:
        return self._with(score, GrooveVerdict(section_of(score, self.id).label))


class SetSwing(Edit):
    """The song is straight, or its 8ths or 16ths swing, or as it was heard ("found"): ratio is
    the long part of a pair."""

    words: ClassVar[str] = "swing"
    operation: Literal["set_swing"] = "set_swing"
    level: Literal["found", "none", "eighth", "sixteenth"]
    ratio: Annotated[float, Field(ge=0.5, le=0.8)] = 0.5

    def apply(self, score: Score) -> Score:
        if self.level == "found":
            return replace(score, swing=swing_heard(score), swing_is_said=False)
        ratio = 0.5 if self.level == "none" else self.ratio
        return replace(score, swing=(self.level, ratio), swing_is_said=True)
