"""Cells: a figure of n strokes that repeats through a fill over a grid of another size.

The moments of a fill (what sounds together is one) are read as a row of words in five
alphabets: by parts, by accents, by hands and feet, by limbs, by rhythm alone. A cell is the
shortest figure that covers most of a row with at least two turns. Where feet only sound under the
hands, the figure of the hands is told, or else that of the feet; where they take turns, both are
one row. Where the subdivision changes, the row goes on: only moments within one subdivision must
also lie equally far apart.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from math import ceil, lcm

import numpy as np

from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.fill import Cell, Span

_MAX_STROKES = 12  # strokes of a cell
_MIN_MOMENTS = 4  # moments that are worth reading
_MIN_SHARE_OF_LAST_TURN = 0.6  # share of a second turn that is enough where the fill ends
_COVER_OF_ONE_STROKE = 0.26  # strokes of cover that one stroke more of the cell must bring
_MIN_MOMENTS_OF_A_CELL = 6  # moments that a cell covers at least
_MIN_ACCENTS = 3  # that a figure of accents is read from
COVER = 0.55  # least share of a row that a cell covers

#: Name of a note value by its length in quarters.
_VALUES = {
    Fraction(2): "half",
    Fraction(1): "quarter",
    Fraction(1, 2): "8th",
    Fraction(1, 4): "16th",
    Fraction(1, 8): "32nd",
    Fraction(2, 3): "quarter triplet",
    Fraction(1, 3): "triplet",
    Fraction(1, 6): "sextuplet",
    Fraction(1, 12): "32nd triplet",
    Fraction(1, 5): "quintuplet",
    Fraction(1, 7): "septuplet",
    Fraction(3, 2): "dotted quarter",
    Fraction(3, 4): "dotted 8th",
    Fraction(3, 8): "dotted 16th",
    Fraction(1, 16): "64th",
}
_GRIDS = (1, 2, 3, 4, 6, 5, 8, 7, 12, 16, 24)


def subdivision(parts: int, meter: Meter) -> str:
    """The name of a beat in so many equal parts: 16th, sextuplet, 8th in compound meters."""
    value = meter.beat_quarters / parts
    return _VALUES.get(value, f"1/{4 / value}")


def grid_of(places: Sequence[Fraction]) -> int:
    """The coarsest even division of a beat (1 = the beat itself) that holds all places."""
    return _grid_of(frozenset(p.denominator for p in places))


@lru_cache(maxsize=512)
def _grid_of(below: frozenset[int]) -> int:
    return next((g for g in _GRIDS if all(g % d == 0 for d in below)), 48)


@dataclass(frozen=True)
class Moment:
    """What sounds together: its bar, the beat through the song on which that begins, its place."""

    start: int
    bar: int
    place: Fraction
    strokes: tuple[Stroke, ...]

    @property
    def at(self) -> Fraction:
        return self.start + self.place

    @property
    def beat(self) -> int:
        return self.start + self.place.numerator // self.place.denominator

    def in_parts(self, parts: int) -> int:
        """Where it is through the song in so many parts of a beat: fractions are slow."""
        return self.start * parts + self.place.numerator * (parts // self.place.denominator)


def moments(score: Score, strokes: Sequence[Stroke]) -> list[Moment]:
    """The strokes of a fill, those at one place together, in order."""
    groups: dict[tuple[int, Fraction], list[Stroke]] = {}
    for s in strokes:
        groups.setdefault((s.bar, s.place), []).append(s)
    return [
        Moment(score.start_of(bar), bar, place, tuple(together))
        for (bar, place), together in sorted(
            groups.items(), key=lambda g: (g[0][0], float(g[0][1]))
        )
    ]


def grids(score: Score, row: Sequence[Moment]) -> list[int]:
    """For each moment the division of its beat. A beat with a stroke or two that any finer
    neighbour of its kind (twos or threes) holds as well is read with that neighbour."""
    by_beat: dict[int, list[Fraction]] = {}
    for m in row:
        by_beat.setdefault(m.beat, []).append(m.place)
    grid_of_beat = {beat: grid_of(places) for beat, places in by_beat.items()}
    read = dict(grid_of_beat)
    for beat, grid in grid_of_beat.items():
        if len(by_beat[beat]) >= 3 and grid > 1:
            continue
        beside = [
            grid_of_beat[b]
            for b in (beat - 1, beat + 1)
            if b in grid_of_beat and grid_of_beat[b] % grid == 0
        ]
        read[beat] = max([grid, *beside])
    return [read[m.beat] for m in row]


def _words(row: Sequence[Moment], by: str) -> list[str]:
    if by == "parts":
        return ["+".join(sorted(s.part for s in m.strokes)) for m in row]
    if by == "accents":
        return ["accent" if any(s.dynamic == "accent" for s in m.strokes) else "plain" for m in row]
    if by == "limbs":
        return ["+".join(sorted(s.limb for s in m.strokes)) for m in row]
    if by == "rhythm":
        return ["x" for _ in row]
    return ["+".join(sorted({_kind(s) for s in m.strokes})) for m in row]


def _kind(s: Stroke) -> str:
    return "foot" if KIT[s.part].role.endswith("_foot") else "hand"


#: The order says which reading is preferred where two cover as much.
ALPHABETS = ("parts", "accents", "hands and feet", "limbs", "rhythm")


def cells(score: Score, span: Span, strokes: Sequence[Stroke]) -> list[Cell]:
    """The cells of a fill, in order; none where nothing turns round."""
    end = score.beat_of(span.last_bar, span.end)
    row = moments(score, strokes)
    if any({_kind(s) for s in m.strokes} == {"foot"} for m in row) or not _has_feet(strokes):
        return read_row(score, row, end)  # hands and feet take turns: one row
    for of, kind in (("hands", "hand"), ("feet", "foot")):
        row_of_kind = moments(score, [s for s in strokes if _kind(s) == kind])
        cells_of_kind = read_row(score, row_of_kind, end)
        if _told(cells_of_kind, row_of_kind) >= COVER:
            return [replace(c, of=of) for c in cells_of_kind]
    return read_row(score, row, end)


def _has_feet(strokes: Sequence[Stroke]) -> bool:
    return any(_kind(s) == "foot" for s in strokes)


def _told(cells_of_row: Sequence[Cell], row: Sequence[Moment]) -> float:
    """Share of a row's moments that its cells cover."""
    covered = sum(c.strokes * c.turns for c in cells_of_row)
    return min(1.0, covered / max(1, len(row)))


def read_row(score: Score, row: Sequence[Moment], end: Fraction) -> list[Cell]:
    """The cells of a row of moments that ends before a position (beats through the song)."""
    if len(row) < _MIN_MOMENTS:
        return []
    division = grids(score, row)
    # Distances are only ever compared: in whole parts of a beat, for fractions are slow.
    parts = lcm(end.denominator, *(m.place.denominator for m in row))
    ends = [m.in_parts(parts) for m in row]
    ends.append(end.numerator * (parts // end.denominator))
    gaps: list[int | None] = []
    for i in range(len(row)):
        same = i + 1 >= len(row) or division[i + 1] == division[i]
        gaps.append((ends[i + 1] - ends[i]) * division[i] if same else None)
    by_alphabet = {by: _words(row, by) for by in ALPHABETS}
    best: tuple[float, int, int, str] | None = None
    numbered_gaps = _numbered(gaps)
    is_even = len({g for g in gaps if g is not None}) <= 1
    by_parts = _numbered(by_alphabet["parts"])
    for order, (by, words) in enumerate(by_alphabet.items()):
        numbered = by_parts if by == "parts" else _numbered(words)
        # One word at one distance is no figure; what tells no more than the parts do, is told.
        if (is_even and numbered.max() == numbered.min()) or (
            order and np.array_equal(numbered, by_parts)
        ):
            continue
        for n in range(2, min(_MAX_STROKES, len(row) - 1) + 1):
            start, cover = _run(numbered, numbered_gaps, n)
            if not _is_cell(words, gaps, start, cover, n, len(row), by):
                continue
            value = cover - _COVER_OF_ONE_STROKE * n - 0.1 * order
            if best is None or value > best[0]:
                best = (value, start, n, by)
    if best is None:
        return []
    _, start, n, by = best
    words = by_alphabet[by]
    cover = _cover(words, gaps, start, n)
    if cover < _MIN_MOMENTS_OF_A_CELL or (cover < COVER * len(row) and cover < 3 * n):
        return []
    cell = _cell(score, row[start : start + cover], division[start : start + cover], n, by)
    before = read_row(score, row[:start], row[start].at)
    return [*before, cell, *read_row(score, row[start + cover :], end)]


def _same(words: Sequence[str], gaps: Sequence[int | None], i: int, n: int) -> bool:
    if words[i] != words[i - n]:
        return False
    if i - n == 0:
        return True
    a, b = gaps[i - 1], gaps[i - 1 - n]
    return a is None or b is None or a == b


def _cover(words: Sequence[str], gaps: Sequence[int | None], start: int, n: int) -> int:
    """Moments from ``start`` on that turns of n cover."""
    i = start + n
    while (
        i < len(words) and words[i] == words[i - n] and (i == start + n or _same(words, gaps, i, n))
    ):
        i += 1
    return i - start


def _numbered(row: Sequence[object]) -> np.ndarray:
    """What stands in a row by number, the same for the same; -1 for None."""
    numbers: dict[object, int] = {None: -1}
    return np.array([numbers.setdefault(x, len(numbers)) for x in row])


def _run(words: np.ndarray, gaps: np.ndarray, n: int) -> tuple[int, int]:
    """(start, cover) of the longest run of turns of n, the first of those as long. words, gaps:
    by number."""
    size = len(words)
    if size <= n:
        return 0, 0
    comes_again = words[n:] == words[:-n]
    # As _same has it, for all moments at once.
    after, before = gaps[n:-1], gaps[: -1 - n]
    goes_on = comes_again.copy()
    goes_on[1:] &= (before < 0) | (after < 0) | (before == after)
    stops = np.append(np.flatnonzero(~goes_on), len(goes_on))
    places = np.arange(len(goes_on))
    runs = (stops[np.searchsorted(stops, places, side="right")] - places) * comes_again
    at = int(np.argmax(runs))
    return (at, n + int(runs[at])) if runs[at] else (0, n)


def _is_cell(
    words: Sequence[str],
    gaps: Sequence[int | None],
    start: int,
    cover: int,
    n: int,
    size: int,
    by: str,
) -> bool:
    repeated = cover - n
    whole = start + cover == size and cover >= 0.85 * size
    if repeated < n and not (whole and repeated >= ceil(_MIN_SHARE_OF_LAST_TURN * n)):
        return False
    figure = list(words[start : start + n])
    lengths = gaps[start : start + n]
    uneven = len({g for g in lengths if g is not None}) > 1
    if by == "rhythm":
        return uneven
    if by == "accents":  # a stray accent or two make no figure of what lies between them
        struck = list(words[start : start + cover]).count("accent")
        if repeated < n or struck < _MIN_ACCENTS:
            return False
    if len(set(figure)) == 1 and not uneven:
        return False
    # A figure that is itself two turns of a shorter one is that shorter one.
    if any(n % k == 0 and figure == figure[:k] * (n // k) for k in range(1, n)) and not uneven:
        return False
    # Single strokes from hand to hand are no figure of their own.
    return by != "limbs" or set(figure) != {"LH", "RH"} or n > 2


def _cell(score: Score, row: Sequence[Moment], division: Sequence[int], n: int, by: str) -> Cell:
    first = row[0]
    names = list(
        dict.fromkeys(
            subdivision(g, score.meters[m.bar - 1]) for m, g in zip(row, division, strict=True)
        )
    )
    even = len(set(division)) == 1
    steps = (row[n].at - first.at) * division[0] if even else Fraction(0)
    return Cell(
        bar=first.bar,
        place=first.place,
        strokes=n,
        steps=int(steps) if steps.denominator == 1 else 0,
        grid=", ".join(names),
        beat_steps=division[0],
        by=by,
        figure=tuple(_words(row, "parts" if by == "rhythm" else by)[:n]),
        starts=tuple((m.bar, m.place) for m in row[::n]),
        turns=len(row) // n,
    )
