"""Sections from the likeness of bars: drum pattern, harmony and level together."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy.spatial.distance import cdist

from orchesis.hearing.hits import FRAME
from orchesis.hearing.spectrum import Spectrum, powers
from orchesis.hearing.types import Beat, HeardBar, HeardSection, Hit

#: What a section of so many bars costs beyond its unlikeness: fours and eights are usual.
_LENGTH_COST = {1: 1.6, 2: 0.75, 3: 0.9, 4: 0.25, 5: 0.5, 6: 0.3, 7: 0.35, 8: 0.0,
                9: 0.8, 10: 0.75, 12: 0.45, 16: 0.3}  # fmt: skip
_LONGEST = 16
_BORDER = 0.55
_FILL, _FILLED = 3, 0.3  # strokes that make a fill; what one tells of the border behind it
_THIN, _STOPPED = 0.3, 0.5  # share of the usual strokes; what drums that stop or return tell
_APART = 0.6  # what a bar of another meter than its neighbours tells of the borders round it
_SAME = 0.2
_SILENT = -45.0  # dB against the loudest bar below which nothing plays
_FAMILIES = ("kick", "snare", "cross_stick", "hat_closed", "hat_open", "ride", "tom", "crash")


def bar_features(spectrum: Spectrum, beats: tuple[Beat, ...], hits: tuple[Hit, ...]) -> np.ndarray:
    """One row a bar: strokes per family and eighth of the bar, chords per half bar, level."""
    starts = [b.time for b in beats if b.beat == 1]
    level = spectrum.bands.mean(axis=1)
    loud = np.percentile(level, 90) + 1e-9
    rows = []
    for start, end in pairwise(starts):
        drums = np.zeros((len(_FAMILIES), 8))
        for hit in hits:
            place = (hit.time - start) / (end - start) * 8 + 0.25
            if 0 <= place < 8:
                family = next((f for f in _FAMILIES if hit.part.startswith(f)), None)
                if family:
                    drums[_FAMILIES.index(family), int(place)] += hit.loudness
        lo, hi = (int(np.clip(t / FRAME, 0, spectrum.frames - 1)) for t in (start, end))
        half = (lo + hi) // 2
        tones = [
            spectrum.chroma[a : max(b, a + 1)].mean(axis=0) for a, b in ((lo, half), (half, hi))
        ]
        chroma = np.concatenate([t / (np.linalg.norm(t) + 1e-9) for t in tones])
        surface = drums[[3, 5, 6, 2]].sum(axis=1) / 4
        rows.append(
            np.concatenate([
                0.35 * drums.ravel(), 0.45 * surface, 0.45 * chroma,
                [0.8 * level[lo : max(hi, lo + 1)].mean() / loud],
            ])
        )  # fmt: skip
    return np.array(rows)


def material(
    spectrum: Spectrum, mask: np.ndarray, beats: tuple[Beat, ...], hits: tuple[Hit, ...]
) -> tuple[HeardBar, ...]:
    """Level, drums and harmony of each bar. mask: (frames, bands) the drums' share of power."""
    starts = [b.time for b in beats if b.beat == 1]
    edges = np.clip((np.array(starts) / FRAME).astype(int), 0, spectrum.frames - 1)
    whole, drums = powers(spectrum.bands, mask)
    struck = np.histogram([h.time + 0.03 for h in hits], starts)[0]
    mean = np.array([whole[a : max(b, a + 1)].mean() for a, b in pairwise(edges)])
    own = np.array([drums[a : max(b, a + 1)].mean() for a, b in pairwise(edges)])
    loudest = mean.max() + 1e-12
    level, drum = (10 * np.log10(x / loudest + 1e-8) for x in (mean, own))
    tones = [spectrum.chroma[a : max(b, a + 1)].sum(axis=0) + 1e-9 for a, b in pairwise(edges)]
    return tuple(
        HeardBar(
            level=round(float(level[i]), 1),
            drums=round(float(drum[i]), 1),
            plays=bool(level[i] > _SILENT),
            drums_play=bool(struck[i] > 0),
            chroma=tuple(round(float(x), 3) for x in tones[i] / tones[i].sum()),
        )
        for i in range(len(mean))
    )


def _crash_on_one(beats: tuple[Beat, ...], hits: tuple[Hit, ...]) -> np.ndarray:
    crashes = np.array([h.time for h in hits if h.part.startswith("crash")] or [-9.0])
    ones = [b.time for b in beats if b.beat == 1][:-1]
    return np.array([float(np.abs(crashes - t).min() < 0.08) for t in ones])


def _filled(beats: tuple[Beat, ...], hits: tuple[Hit, ...]) -> np.ndarray:
    """(bars,) whether a bar holds a fill: three drum strokes more than is usual."""
    starts = [b.time - 0.03 for b in beats if b.beat == 1]
    drums = [h.time for h in hits if h.part.startswith(("snare", "tom")) and h.loudness > 0.4]
    struck = np.histogram(drums, starts)[0]
    return (struck >= np.median(struck) + _FILL).astype(float)


def _stops(beats: tuple[Beat, ...], hits: tuple[Hit, ...]) -> np.ndarray:
    """(bars,) whether the drums stop with a bar, or play again after a stop."""
    starts = [b.time - 0.03 for b in beats if b.beat == 1]
    struck = np.histogram([h.time for h in hits], starts)[0]
    is_thin = struck < _THIN * np.median(struck[struck > 0] if (struck > 0).any() else struck)
    return np.concatenate([[False], is_thin[1:] != is_thin[:-1]])[: len(struck)].astype(float)


def _odd_bars(beats: tuple[Beat, ...]) -> np.ndarray:
    """(bars,) whether a bar has another number of beats than both its neighbours."""
    ones = [i for i, b in enumerate(beats) if b.beat == 1]
    sizes = np.diff(ones)
    odd = np.zeros(len(sizes), dtype=bool)
    odd[1:-1] = (sizes[1:-1] != sizes[:-2]) & (sizes[1:-1] != sizes[2:])
    return odd


def sections(
    spectrum: Spectrum, beats: tuple[Beat, ...], hits: tuple[Hit, ...]
) -> tuple[HeardSection, ...]:
    """Borders on bar lines by the cheapest division, labels by the likeness of sections."""
    rows = bar_features(spectrum, beats, hits)
    count = len(rows)
    crash = _crash_on_one(beats, hits)
    filled = _filled(beats, hits)
    far = cdist(rows, rows)
    scale = np.median(far[far > 0]) if count > 1 and (far > 0).any() else 1.0
    far = far / scale
    change = np.zeros(count)
    for i in range(1, count):
        a, b = slice(max(0, i - 4), i), slice(i, min(count, i + 4))
        known = min(i, count - i, 4) / 4  # a single bar is no context
        change[i] = known * (far[a, b].mean() - 0.5 * (far[a, a].mean() + far[b, b].mean()))
    # A fill ends a phrase: the border lies behind its bar, not before it.
    stops = _stops(beats, hits)
    told = 0.45 * crash + _FILLED * (np.roll(filled, 1) - filled) + _STOPPED * stops
    # A turn of two beats belongs to neither phrase: the seven bars before it are seven.
    apart = _odd_bars(beats)
    told += _APART * (apart | np.roll(apart, 1))
    # Two bars behind the last stop are an end of their own; one closes its phrase.
    apart[-2:-1] |= stops[-2:-1] > 0
    borders = _divide(far, change, told, apart)
    return _labelled(far, borders)


def _divide(far: np.ndarray, change: np.ndarray, told: np.ndarray, apart: np.ndarray) -> list[int]:
    """Bars with which sections begin. change, told: (bars,) how much changes with each bar, and
    what else speaks for a border before it. apart: bars that may stand alone, or begin the end."""
    count = len(far)
    cost = np.full(count + 1, np.inf)
    cost[0] = 0
    come_from = [0] * (count + 1)
    for end in range(1, count + 1):
        for length in range(1, min(_LONGEST, end) + 1):
            start = end - length
            inside = far[start:end, start:end].mean() * length * 0.16
            is_short = apart[start] and (length == 1 or end == count)
            size = 0.0 if is_short else _LENGTH_COST.get(length, 0.85)
            border = _BORDER + size - 1.1 * change[start] - told[start]
            total = cost[start] + inside + (border if start else size / 2)
            if total < cost[end]:
                cost[end], come_from[end] = total, start
    borders = [count]
    while borders[-1] > 0:
        borders.append(come_from[borders[-1]])
    return borders[::-1]


def _labelled(far: np.ndarray, borders: list[int]) -> tuple[HeardSection, ...]:
    """Sections with labels: equal where, laid bar on bar, they differ no more than a groove
    differs from itself (medians, so that a fill here and there does not count)."""
    made: list[HeardSection] = []
    models: list[tuple[str, int, int]] = []
    for start, end in pairwise(borders):
        length = end - start
        best: tuple[float, str] | None = None
        for label, a, b in models:
            usable = min(length, b - a)
            if usable * 2 < max(length, b - a):
                continue
            pair = float(np.median([far[start + k, a + k] for k in range(usable)]))
            own = max(_unrest(far, start, end), _unrest(far, a, b))
            gap = pair - own + 0.1 * (length != b - a)
            if best is None or gap < best[0]:
                best = (gap, label)
        if best is not None and best[0] < _SAME:
            label = best[1]
        else:
            label = chr(65 + len({m[0] for m in models}) % 26)
        models.append((label, start, end))
        made.append(HeardSection(start + 1, length, label))
    return tuple(made)


def _unrest(far: np.ndarray, start: int, end: int) -> float:
    """How far a section's bars lie from their like one, two or four bars on."""
    apart = [
        float(np.median([far[k, k + lag] for k in range(start, end - lag)]))
        for lag in (1, 2, 4)
        if end - start > lag + 1
    ]
    return min(apart, default=0.0)
