"""Two bars laid over each other: what is the same, and what is not."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from orchesis.score import KIT, Stroke
from orchesis.score.difference import Difference

_MAX_BEATS_MOVED = Fraction(1, 2)  # beats that a stroke may have moved and still be the same one
_MIN_LOUDNESS_STEP = 0.12
_FULL_ORDER = {"ghost": 0, "normal": 1, "accent": 2}


def compare(a: Sequence[Stroke], b: Sequence[Stroke]) -> list[Difference]:
    """What leads from bar a to bar b, in the order of the places; equal strokes are told too.

    Strokes are matched by part and class (ghost or full) before place: first on equal places, then
    one way of playing with another on the same place, then equal parts within half a beat (the
    loud snare of 4 that moved to 4& is not the ghost of 4a). What is left over is matched without
    regard to its class, then by what one limb plays on the same place.
    """
    left, right = list(a), list(b)
    same_stroke: list[tuple[Stroke, Stroke]] = []

    def match(fits: Any) -> None:
        pairs = [
            (abs(x.place - y.place), i, j)
            for i, x in enumerate(left)
            for j, y in enumerate(right)
            if fits(x, y)
        ]
        used_a: set[int] = set()
        used_b: set[int] = set()
        for _, i, j in sorted(pairs):
            if i not in used_a and j not in used_b:
                used_a.add(i)
                used_b.add(j)
                same_stroke.append((left[i], right[j]))
        left[:] = [x for i, x in enumerate(left) if i not in used_a]
        right[:] = [y for j, y in enumerate(right) if j not in used_b]

    def alike(x: Stroke, y: Stroke) -> bool:
        return (x.dynamic == "ghost") == (y.dynamic == "ghost")

    def one(x: Stroke, y: Stroke) -> bool:
        return x.place == y.place and KIT[x.part].instrument == KIT[y.part].instrument

    def near(x: Stroke, y: Stroke) -> bool:
        return x.part == y.part and abs(x.place - y.place) <= _MAX_BEATS_MOVED

    match(lambda x, y: x.part == y.part and x.place == y.place and alike(x, y))
    match(lambda x, y: one(x, y) and alike(x, y))
    match(lambda x, y: near(x, y) and alike(x, y))
    match(lambda x, y: x.part == y.part and x.place == y.place)
    match(one)
    match(near)
    match(lambda x, y: x.place == y.place and x.limb == y.limb)
    differences = [_pair(x, y) for x, y in same_stroke]
    differences += [Difference("removed", x, None) for x in left]
    differences += [Difference("added", None, y) for y in right]
    order = list(KIT)

    def place(d: Difference) -> tuple[Fraction, int]:
        stroke = d.a or d.b
        assert stroke is not None
        return stroke.place, order.index(stroke.part)

    return sorted(differences, key=place)


def _pair(x: Stroke, y: Stroke) -> Difference:
    if x.place != y.place:
        return Difference("moved", x, y)
    if x.part != y.part:
        return Difference("part", x, y)
    step = _FULL_ORDER[y.dynamic] - _FULL_ORDER[x.dynamic]
    if step or abs(y.loudness - x.loudness) >= _MIN_LOUDNESS_STEP:
        louder = step > 0 or (step == 0 and y.loudness > x.loudness)
        return Difference("louder" if louder else "softer", x, y)
    if (x.ornament, x.choked) != (y.ornament, y.choked):
        return Difference("ornament", x, y)
    return Difference("limb" if x.limb != y.limb else "same", x, y)
