"""Figures that run across the bars of a groove or a solo: kick in threes, six notes over 16ths.

A figure that the bar holds a whole number of times is the groove itself; one that it does not
turns round over the bar lines, and a drummer has to know where it comes out. Each voice's row is
read as a fill's is (orchesis/fills/cells.py); a voice that strikes evenly is a figure of one
stroke where its distance goes neither into the beat nor into the bar.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from math import lcm

from orchesis.fills import cells
from orchesis.fills.cells import Moment
from orchesis.score import KIT, Score, Stroke
from orchesis.score.fill import Cell

_BARS = 1.5  # that a figure covers at least
_TURNS = 3
_WOVEN = 0.5  # share of hands among hands and kick from which both are read as one row

_VOICES: dict[str, Callable[[Stroke], bool]] = {
    "all": lambda s: KIT[s.part].role in ("hand", "backbeat", "right_foot"),
    "hands": lambda s: KIT[s.part].role in ("hand", "backbeat"),
    "kick": lambda s: KIT[s.part].role == "right_foot",
    "time": lambda s: KIT[s.part].role == "time",
}


def figures(score: Score, first: int, last: int) -> list[Cell]:
    """The figures that run across some bars (counted from 1, both told), as played; of each voice,
    or of hands and kick together where they make one row."""
    played = score.played()
    strokes = [s for b in range(first, last + 1) for s in played.strokes_of(b)]
    end = played.beat_of(last + 1, Fraction(0))
    crossing: list[Cell] = []
    for name, belongs in _VOICES.items():
        moments = cells.moments(played, [s for s in strokes if belongs(s)])
        if name == "all" and not _is_woven(moments):
            continue
        cells_here = [replace(c, of=name) for c in _crossing(played, moments, end)]
        if name == "all" and cells_here:
            return cells_here
        crossing += cells_here
    return crossing


def _is_woven(row: Sequence[Moment]) -> bool:
    """Whether hands and kick take turns, so that they are one row."""
    hands = [any(_VOICES["hands"](s) for s in m.strokes) for m in row]
    together = sum(h and len(m.strokes) > 1 for h, m in zip(hands, row, strict=True))
    return bool(row) and sum(hands) >= _WOVEN * len(row) and together <= 0.1 * len(row)


def _crossing(score: Score, row: Sequence[Moment], end: Fraction) -> list[Cell]:
    if len(row) < _TURNS:
        return []
    candidates = [*_even(score, row), *cells.read_row(score, row, end)]
    crossing: list[Cell] = []
    for cell in candidates:
        beats = score.meters[cell.bar - 1].beats
        period = Fraction(cell.steps, cell.beat_steps)
        if not period or (beats / period).denominator == 1 or (period / beats).denominator == 1:
            continue
        covered = period * cell.turns
        if cell.turns >= _TURNS and covered >= Fraction(_BARS) * beats:
            crossing.append(cell)
    return crossing[:1]


def _even(score: Score, row: Sequence[Moment]) -> list[Cell]:
    """The longest run of a row that strikes at one distance, as a figure of one stroke."""
    best: tuple[int, int] = (0, 0)
    start = 0
    parts = lcm(*(m.place.denominator for m in row))
    ends = [m.in_parts(parts) for m in row]
    gaps = [b - a for a, b in pairwise(ends)]
    for i in range(1, len(row)):
        if i - 1 > start and gaps[i - 1] != gaps[start]:
            start = i - 1
        best = max(best, (i + 1 - start, -start))
    count, start = best[0], -best[1]
    if count < _TURNS or count < cells.COVER * len(row):
        return []
    run = row[start : start + count]
    gap = Fraction(gaps[start], parts)
    grid = max(cells.grids(score, run))
    return [
        Cell(
            bar=run[0].bar,
            place=run[0].place,
            strokes=1,
            steps=int(gap * grid),
            grid=cells.subdivision(grid, score.meters[run[0].bar - 1]),
            beat_steps=grid,
            by="parts",
            figure=("+".join(sorted(s.part for s in run[0].strokes)),),
            starts=tuple((m.bar, m.place) for m in run),
            turns=count,
        )
    ]
