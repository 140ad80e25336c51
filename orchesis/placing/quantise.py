"""From moments to written places: 8ths to 32nds, triplets, sextuplets, beat by beat."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from orchesis.score.swing import swung

#: Grids of a beat with what they cost before they fit better.
_COST = {4: 0.0, 3: 0.35, 6: 1.2, 8: 1.3}
#: Fewer different places than this in a beat speak against so fine a grid.
_FEWEST_PLACES = {4: 0, 3: 0, 6: 4, 8: 5}
_USUAL_ERROR_S = 0.022  # seconds a stroke may lie off its place without being doubted
_UNLIKE_BAR = 0.3
_EARLY = 0.085  # beats before the next beat that still belong to it
_MIN_STROKES = 24


def swing_of(positions: Sequence[float]) -> tuple[str, float]:
    """(level, ratio) of strokes given in beats; ("none", 0.5) where nothing is claimed.

    16ths swing where the second of each pair lies late by a like amount in at least 24
    pairs; 8ths swing likewise where no 16ths are played.
    """
    inside = np.array(positions) % 1.0
    pairs = (inside % 0.5) * 2
    off = pairs[(pairs > 0.24) & (pairs < 0.86)]
    between = inside[(inside > 0.36) & (inside < 0.84)]
    sixteenths = int(((np.abs(inside - 0.25) < 0.06) | (np.abs(inside - 0.75) < 0.05)).sum())
    triplets = int((np.abs(inside - 1 / 3) < 0.06).sum())  # all three played: no swing
    if len(between) >= _MIN_STROKES and max(sixteenths, triplets) < 0.1 * len(between):
        middle = float(np.median(between))
        if 0.56 < middle < 0.72 and _spread(between) < 0.05:
            return "eighth", round(middle, 3)
    if len(off) >= _MIN_STROKES:
        middle = float(np.median(off))
        if 0.54 < middle < 0.7 and _spread(off) < 0.07:
            return "sixteenth", round(middle, 3)
    return "none", 0.5


def _spread(values: np.ndarray) -> float:
    return float(np.median(np.abs(values - np.median(values))))


def _played(grid: int, swing: tuple[str, float]) -> list[float]:
    """Where the places of a grid are really played, in beats, the next beat included."""
    return [swung(Fraction(k, grid), swing) if grid == 4 else k / grid for k in range(grid + 1)]


def places(
    positions: Sequence[float],
    periods: Sequence[float],
    bars: Sequence[int],
    swing: tuple[str, float],
) -> list[Fraction]:
    """Written place of each stroke, in beats through the song.

    positions: measured places in beats; periods: seconds a beat at each; bars: the bar
    each lies in (a bar keeps to one grid unless a beat clearly speaks against it).
    """
    beats: dict[int, list[int]] = defaultdict(list)
    for i, p in enumerate(positions):
        beats[int(np.floor(p + _EARLY))].append(i)
    grids = {g: np.array(_played(g, swing)) for g in _COST}
    misfit: dict[int, dict[int, float]] = {}
    for beat, members in beats.items():
        inside = np.array([positions[i] - beat for i in members])
        spread = _USUAL_ERROR_S / periods[members[0]]
        misfit[beat] = {}
        for g, expected in grids.items():
            off = np.abs(inside[:, None] - expected[None]).min(axis=1) / spread
            nearest = np.abs(inside[:, None] - expected[None]).argmin(axis=1)
            crowded = len(members) - len(set(zip(nearest, members, strict=True)))
            few = 0.8 * (len(set(nearest)) < _FEWEST_PLACES[g])
            misfit[beat][g] = float(np.minimum(off**2, 9).mean()) + _COST[g] + few + crowded
    by_bar: dict[int, list[int]] = defaultdict(list)
    for beat, members in beats.items():
        by_bar[bars[members[0]]].append(beat)
    places_found = [Fraction(0)] * len(positions)
    for indices in by_bar.values():
        usual = min(_COST, key=lambda g: sum(misfit[b][g] for b in indices))
        for beat in indices:
            grid = min(_COST, key=lambda g: misfit[beat][g] + _UNLIKE_BAR * (g != usual))
            for i in beats[beat]:
                k = int(np.abs(positions[i] - beat - grids[grid]).argmin())
                places_found[i] = beat + Fraction(k, grid)
    return places_found


_PLAIN, _TRIPLET = 4, 3
_TRIPLET_NEARER = 0.04  # beats by which a triplet must lie nearer


def nearest(position: float, swing: tuple[str, float]) -> Fraction:
    """The place nearest to a moment alone, both in beats: a 16th, or a triplet if that is nearer.

    >>> nearest(2.51, ("none", 0.5)), nearest(0.34, ("none", 0.5))
    (Fraction(5, 2), Fraction(1, 3))
    """
    beat = int(np.floor(position + _EARLY))
    tried = [
        (abs(position - beat - at) + (grid == _TRIPLET) * _TRIPLET_NEARER, beat + Fraction(k, grid))
        for grid in (_PLAIN, _TRIPLET)
        for k, at in enumerate(_played(grid, swing))
    ]
    return min(tried)[1]
