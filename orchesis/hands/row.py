"""Rows of the hands: evenly spaced steps on which one hand strikes or nothing does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.score import KIT, Score, Stroke

_SIGNS = {"flam": "f", "drag": "d", "buzz": "z", "diddle": "i"}
#: Steps without a stroke, one behind the other, that a row may hold: the rests inside of a
#: ratamacue or a drag paradiddle.
_MIN_REST = 2


@dataclass(frozen=True)
class Row:
    """tokens: one a step: a hand with the sign of its ornament before it, or "-"; strokes: the same
    ones. grid: steps a beat (0 where they are longer than one)."""

    tokens: tuple[str, ...]
    strokes: tuple[Stroke | None, ...]
    grid: int


def rows(score: Score, strokes: Sequence[Stroke]) -> list[Row]:
    """strokes: in order of time; feet sound apart from them. Two hands together end a row, and so
    does a longer rest. The step is the shortest distance of a stretch's strokes."""
    moments: dict[Fraction, list[Stroke]] = {}
    for s in strokes:
        if not KIT[s.part].role.endswith("_foot") and s.limb in ("RH", "LH"):
            moments.setdefault(score.beat_of(s.bar, s.place), []).append(s)
    rows_of_hands: list[Row] = []
    run: list[tuple[Fraction, Stroke]] = []
    for at, together in moments.items():
        if len(together) > 1:
            rows_of_hands += _split(run)
            run = []
        else:
            run.append((at, together[0]))
    return rows_of_hands + _split(run)


def _split(run: Sequence[tuple[Fraction, Stroke]]) -> list[Row]:
    """A run of single strokes as rows of one step each."""
    if len(run) < 2:
        return [_row(run, Fraction(1))] if run else []
    gaps = [b - a for (a, _), (b, _) in pairwise(run)]
    pieces, first = [], 0
    while first < len(run):
        step = _step(gaps, first)
        last = first
        while last < len(gaps):
            steps = gaps[last] / step
            if steps.denominator != 1 or steps > _MIN_REST + 1:
                break
            last += 1
        pieces.append(_row(run[first : last + 1], step))
        first = last + 1
    return pieces


def _step(gaps: Sequence[Fraction], first: int) -> Fraction:
    """The shortest distance of those that follow until a long rest."""
    step = gaps[first] if first < len(gaps) else Fraction(1)
    for gap in gaps[first:]:
        if gap > step * (_MIN_REST + 1):
            break
        if gap < step:
            if (step / gap).denominator != 1:
                break
            step = gap
    return step


def _row(run: Sequence[tuple[Fraction, Stroke]], step: Fraction) -> Row:
    tokens: list[str] = []
    strokes: list[Stroke | None] = []
    for n, (at, s) in enumerate(run):
        if n:
            rests = int((at - run[n - 1][0]) / step) - 1
            tokens += ["-"] * rests
            strokes += [None] * rests
        tokens.append(_SIGNS.get(s.ornament or "", "") + s.limb[0])
        strokes.append(s)
    grid = step.denominator if step.numerator == 1 else 0
    return Row(tuple(tokens), tuple(strokes), grid)
