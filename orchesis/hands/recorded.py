"""What the recording says of the hands: how even a fast row of strokes is in loudness and spacing.

Rules of the trade, not of acoustics: hands that take turns sound alike; of a double the second
stroke is softer and comes sooner; where every second stroke is softer but all are evenly spaced,
one hand stays low.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import fmean, pstdev

from orchesis.score import KIT, Score, Stroke
from orchesis.score.kit import PIECE

_MIN_STROKES_OF_A_ROW = 6  # strokes of a row that says something
_FAST_ROW_S = 0.2  # seconds: slower rows leave the choice to the hands
_EVEN = 2.0  # dB of spread of a row that is even
_SPACED = 0.09  # spread of its distances, of their mean
_SOFTER = 2.5  # dB of a second stroke below the first
_SHARE = 0.8  # of the pairs in which it is so
_SOONER = 0.06  # share by which the second of a double comes sooner


@dataclass(frozen=True)
class Saying:
    """kind: "turns" (even), "low" (in turn, one hand low) or "doubles". spread, softer: dB."""

    kind: str
    strokes: tuple[Stroke, ...]
    spread: float
    softer: float


def sayings(score: Score, hands: Sequence[Stroke]) -> list[Saying]:
    """hands: strokes of the hands, in order of time."""
    found_sayings = (_saying(row) for row in _rows(score, hands))
    return [s for s in found_sayings if s is not None]


def turns(score: Score, hands: Sequence[Stroke]) -> dict[str, bool]:
    """By id: whether the other hand plays it than the stroke before (True), or the same one."""
    turns_by_stroke: dict[str, bool] = {}
    for saying in sayings(score, hands):
        for n, s in enumerate(saying.strokes[1:], 1):
            turns_by_stroke[s.id] = saying.kind != "doubles" or n % 2 == 0
    return turns_by_stroke


def _rows(score: Score, hands: Sequence[Stroke]) -> list[list[Stroke]]:
    """Fast rows of single strokes on one piece, evenly written, all of them measured."""
    heard = [s for s in hands if s.measured is not None and s.measured.level is not None]
    if len(heard) < _MIN_STROKES_OF_A_ROW:
        return []
    alone: dict[tuple[int, object], int] = {}
    for s in hands:
        alone[s.bar, s.place] = alone.get((s.bar, s.place), 0) + 1
    rows_of_hands: list[list[Stroke]] = [[]]
    step = None
    for a, b in pairwise(heard):
        gap = score.beat_of(b.bar, b.place) - score.beat_of(a.bar, a.place)
        goes_on = (
            PIECE[a.part] == PIECE[b.part]
            and KIT[a.part].role != "time"
            and alone[a.bar, a.place] == alone[b.bar, b.place] == 1
            and 0 < score.seconds(b.bar, b.place) - score.seconds(a.bar, a.place) < _FAST_ROW_S
        )
        if not goes_on or (step is not None and gap != step):
            rows_of_hands.append([])
            step = None
        if goes_on:
            rows_of_hands[-1] = rows_of_hands[-1] or [a]
            rows_of_hands[-1].append(b)
            step = gap
    return [row for row in rows_of_hands if len(row) >= _MIN_STROKES_OF_A_ROW]


def _saying(row: Sequence[Stroke]) -> Saying | None:
    levels = [s.measured.level or 0.0 for s in row if s.measured]
    times = [s.measured.time for s in row if s.measured]
    gaps = [b - a for a, b in pairwise(times)]
    spread, mean = pstdev(levels), fmean(gaps)
    pairs = list(zip(levels[::2], levels[1::2], strict=False))
    softer = fmean(a - b for a, b in pairs)
    is_softer = sum(a - b > 1 for a, b in pairs) >= _SHARE * len(pairs) and softer >= _SOFTER
    sooner = 1 - fmean(gaps[::2]) / fmean(gaps[1::2])
    if is_softer and sooner >= _SOONER:
        return Saying("doubles", tuple(row), spread, softer)
    if pstdev(gaps) > _SPACED * mean:
        return None
    if is_softer:
        return Saying("low", tuple(row), spread, softer)
    return Saying("turns", tuple(row), spread, softer) if spread <= _EVEN else None
