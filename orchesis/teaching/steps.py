"""A step of an order: what is played of some bars, under a title."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import NamedTuple

from orchesis.score import Score, Stroke
from orchesis.score.stroke import LIMBS

Titled = tuple[str, list[Stroke]]


class Zoomed(NamedTuple):
    """A step that goes round some beats only: the first of them from the start of the bars, from 0,
    and how many."""

    title: str
    strokes: list[Stroke]
    first: int
    beats: int


Order = Callable[[Score, Sequence[int], Sequence[Stroke]], Sequence[Titled | Zoomed]]
NAMES = {"RH": "right hand", "LH": "left hand", "RF": "right foot", "LF": "left foot"}


def by_limb(strokes: Sequence[Stroke]) -> dict[str, list[Stroke]]:
    strokes_of_limb = {limb: [s for s in strokes if s.limb == limb] for limb in LIMBS}
    return {limb: row for limb, row in strokes_of_limb.items() if row}


def when(s: Stroke) -> tuple[int, Fraction]:
    return s.bar, s.place
