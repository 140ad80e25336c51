"""Edits that arrange: some bars played another way, the song at a level, bars taken over."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from orchesis.errors import BadEdit, BadScore
from orchesis.grooves.levels import at_level
from orchesis.hands import with_limbs
from orchesis.hands.arranging import arranged
from orchesis.score.edit import Bar, Edit, must_have_bar
from orchesis.score.song import Score
from orchesis.score.stroke import Stroke

WayName = Literal[
    "one_part",
    "toms",
    "cymbals",
    "auxiliary",
    "single_pedal",
    "two_handed_hat",
    "one_handed_hat",
    "thin_time",
    "thin_fill",
    "plain_groove",
    "no_ghosts",
    "no_ornaments",
    "no_openings",
    "cross_stick_to_snare",
    "snare_to_cross_stick",
    "foot_on_2_and_4",
    "foot_on_offbeats",
    "foot_rests",
]


class Arrange(Edit):
    """Some bars played another way (orchesis/hands/ways.py)."""

    words: ClassVar[str] = "arranged"
    operation: Literal["arrange"] = "arrange"
    way: WayName
    bars: Annotated[list[Bar], Field(min_length=1, max_length=3000)]

    def apply(self, score: Score) -> Score:
        for bar in self.bars:
            must_have_bar(score, bar)
        changed = arranged(score, self.way, sorted(set(self.bars)))
        if changed.strokes == score.strokes:
            raise BadEdit("There is nothing in these bars that this would change.")
        return changed


class Simplify(Edit):
    """The song at a level of simplification, 1 to 4 (orchesis/grooves/levels.py)."""

    words: ClassVar[str] = "simplified"
    operation: Literal["simplify"] = "simplify"
    level: Annotated[int, Field(ge=1, le=4)]

    def apply(self, score: Score) -> Score:
        return at_level(score, self.level)


class TakeBars(Edit):
    """Some bars with the strokes of another arrangement of the song, limbs solved anew."""

    words: ClassVar[str] = "taken over from another arrangement"
    operation: Literal["take_bars"] = "take_bars"
    bars: Annotated[list[Bar], Field(min_length=1, max_length=3000)]
    strokes: Annotated[list[dict[str, Any]], Field(max_length=40_000)]

    def apply(self, score: Score) -> Score:
        for bar in self.bars:
            must_have_bar(score, bar)
        bars = set(self.bars)
        try:
            given = [Stroke.from_json(s) for s in self.strokes]
        except BadScore as problem:
            raise BadEdit(str(problem)) from None
        if any(s.bar not in bars or s.place >= score.meters[s.bar - 1].beats for s in given):
            raise BadEdit("These strokes lie outside of the bars that are taken over.")
        others = {i: s for i, s in score.strokes.items() if s.bar not in bars}
        if len({s.id for s in given}) != len(given) or not others.keys().isdisjoint(
            s.id for s in given
        ):
            raise BadEdit("Strokes of these bars stand elsewhere in this arrangement by now.")
        changed = score.with_strokes([*others.values(), *given])
        return with_limbs(changed.sharing_bars(score, bars), bars=bars)
