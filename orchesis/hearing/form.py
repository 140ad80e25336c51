"""Sections from the likeness of bars: drum pattern, harmony, timbre and level together."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy.spatial.distance import cdist

from orchesis.hearing.hits import FRAME
from orchesis.hearing.spectrum import BANDS, Spectrum, powers
from orchesis.hearing.types import Beat, HeardBar, HeardSection, Hit

#: What a section of so many bars costs beyond its unlikeness: fours and eights are usual.
_LENGTH_COST = {
    1: 1.6,
    2: 0.75,
    3: 0.9,
    4: 0.25,
    5: 0.5,
    6: 0.3,
    7: 0.35,
    8: 0.0,
    9: 0.8,
    10: 0.75,
    12: 0.45,
    16: 0.3,
}
_OTHER_LENGTH, _LONGEST = 0.85, 24
#: Bars shorter than this (seconds) are thought of in pairs: what lasts eight bars elsewhere has
#: sixteen of them. What half a pair costs.
_FAST, _HALF_PAIR = 1.6, 0.3
_BORDER, _CHANGED, _INSIDE = 1.1, 1.3, 0.16  # what a border costs, a change saves, unlike bars cost
#: How much drums, harmony, timbre and level say of how alike two bars are.
_WEIGHTS = {"drums": 0.4, "harmony": 0.2, "timbre": 0.5, "level": 0.3}
_QUIETEST = 45.0  # dB below the loudest bar at which differences of level end
_FILL, _FILLED = 3, 0.3  # strokes that make a fill; what one tells of the border behind it
_THIN, _STOPPED = 0.3, 0.8  # share of the usual strokes; what drums that stop or return tell
#: A jump of the level over a bar line from so many dB on, by so many more, tells so much of a
#: border.
_JUMP, _JUMPS, _JUMPED = 4.0, 8.0, 0.7
#: Bars before and behind a bar line over which the drums are compared; what it tells of a border
#: where they differ more than beside it and so many times as much as usual.
_TURN_BARS, _TURN, _CLEAR_TURN = 4, 0.6, 1.5
_APART = 0.6  # what a bar of another meter than its neighbours tells of the borders round it
_SAME = 0.2
_TIMBRES = 12  # bands of the timbre
_SILENT = -45.0  # dB against the loudest bar below which nothing plays
_FAMILIES = ("kick", "snare", "cross_stick", "hat_closed", "hat_open", "ride", "tom", "crash")


def bar_features(
    spectrum: Spectrum, beats: tuple[Beat, ...], hits: tuple[Hit, ...]
) -> dict[str, np.ndarray]:
    """Of each bar, a row each: the drums' strokes by family and eighth of the bar and how much of
    each
    time surface, chords by half bars, timbre (mean level in twelve bands), level in dB."""
    starts = [b.time for b in beats if b.beat == 1]
    level = spectrum.bands.mean(axis=1)
    scale = 20 / (float(spectrum.bands.mean()) + 1e-9)
    rows: dict[str, list[np.ndarray]] = {name: [] for name in _WEIGHTS}
    for start, end in pairwise(starts):
        drums = np.zeros((len(_FAMILIES), 8))
        for hit in hits:
            place = (hit.time - start) / (end - start) * 8 + 0.25
            if 0 <= place < 8:
                family = next((f for f in _FAMILIES if hit.part.startswith(f)), None)
                if family:
                    drums[_FAMILIES.index(family), int(place)] += hit.loudness
        surface = drums[[3, 5, 6, 2]].sum(axis=1) / 4
        rows["drums"].append(np.concatenate([0.35 * drums.ravel(), 0.45 * surface]))
        lo, hi = (int(np.clip(t / FRAME, 0, spectrum.frames - 1)) for t in (start, end))
        half, hi = (lo + hi) // 2, max(hi, lo + 1)
        tones = [
            spectrum.chroma[a : max(b, a + 1)].mean(axis=0) for a, b in ((lo, half), (half, hi))
        ]
        rows["harmony"].append(np.concatenate([t / (np.linalg.norm(t) + 1e-9) for t in tones]))
        bands = np.log1p(spectrum.bands[lo:hi] * scale).mean(axis=0)
        rows["timbre"].append(bands.reshape(_TIMBRES, BANDS // _TIMBRES).mean(axis=1))
        rows["level"].append(np.array([20 * np.log10(level[lo:hi].mean() + 1e-9)]))
    features = {name: np.array(row) for name, row in rows.items()}
    features["level"] = np.maximum(features["level"], features["level"].max() - _QUIETEST)
    return features


def _unlike(features: dict[str, np.ndarray]) -> np.ndarray:
    """(bars, bars) how unlike bars are, 1 being the song's median."""
    far = sum(_WEIGHTS[name] * _scaled(cdist(rows, rows)) for name, rows in features.items())
    return _scaled(np.asarray(far))


def _scaled(far: np.ndarray) -> np.ndarray:
    return far / (float(np.median(far[far > 0])) if (far > 0).any() else 1.0)


def material(
    spectrum: Spectrum, mask: np.ndarray, beats: tuple[Beat, ...], hits: tuple[Hit, ...]
) -> tuple[HeardBar, ...]:
    """Level, drums and harmony of each bar. mask: (frames, bands) the drums' share of power."""
    starts = [b.time for b in beats if b.beat == 1]
    edges = np.clip((np.array(starts) / FRAME).astype(int), 0, spectrum.frames - 1)
    whole, drums = powers(spectrum.bands, mask)
    struck = np.histogram([h.time + 0.03 for h in hits], starts)[0]
    mean = np.array([whole[a : max(b, a + 1)].mean() for a, b in pairwise(edges)])
    loudness = np.array([drums[a : max(b, a + 1)].mean() for a, b in pairwise(edges)])
    loudest = mean.max() + 1e-12
    level, drum = (10 * np.log10(x / loudest + 1e-8) for x in (mean, loudness))
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


def _jumps(level: np.ndarray) -> np.ndarray:
    """(bars,) 0..1, how far the level of two bars jumps with a bar, where no line beside it jumps
    more."""
    count = len(level)
    jump = np.zeros(count)
    for i in range(2, count - 1):
        jump[i] = abs(level[i : i + 2].mean() - level[i - 2 : i].mean())
    crest = np.array([jump[max(0, i - 1) : i + 2].max() == jump[i] for i in range(count)])
    return np.clip((jump - _JUMP) / _JUMPS, 0, 1) * crest


def _turns(drums: np.ndarray) -> np.ndarray:
    """(bars,) whether the drums' part turns with a bar more than with the lines beside it.

    drums: (bars, features), see ``bar_features``.
    """
    count = len(drums)
    change = np.zeros(count)
    for i in range(_TURN_BARS, count - _TURN_BARS + 1):
        before, behind = drums[i - _TURN_BARS : i], drums[i : i + _TURN_BARS]
        change[i] = np.linalg.norm(behind.mean(axis=0) - before.mean(axis=0))
    some = change[change > 0]
    usual = float(np.median(some)) if len(some) else 0.0
    crest = [change[max(0, i - 2) : i + 3].max() == change[i] for i in range(count)]
    return (np.array(crest) & (change > _CLEAR_TURN * usual) & (change > 0)).astype(float)


def sections(
    spectrum: Spectrum, beats: tuple[Beat, ...], hits: tuple[Hit, ...]
) -> tuple[HeardSection, ...]:
    """Borders on bar lines by the cheapest division, labels by the likeness of sections."""
    features = bar_features(spectrum, beats, hits)
    far = _unlike(features)
    count = len(far)
    ones = np.array([b.time for b in beats if b.beat == 1])
    unit = 2 if float(np.median(np.diff(ones))) < _FAST else 1
    reach = 4 * unit
    change = np.zeros(count)
    for i in range(1, count):
        a, b = slice(max(0, i - reach), i), slice(i, min(count, i + reach))
        depth = min(i, count - i, reach) / reach  # a single bar is no context
        change[i] = depth * (far[a, b].mean() - 0.5 * (far[a, a].mean() + far[b, b].mean()))
    filled, stops = _filled(beats, hits), _stops(beats, hits)
    # A fill ends a phrase: the border lies behind its bar, not before it.
    novelty = 0.45 * _crash_on_one(beats, hits) + _FILLED * (np.roll(filled, 1) - filled)
    novelty += _STOPPED * stops + _JUMPED * _jumps(features["level"].ravel())
    novelty += _TURN * _turns(features["drums"])
    # A turn of two beats belongs to neither phrase: the seven bars before it are seven.
    apart = _odd_bars(beats)
    novelty += _APART * (apart | np.roll(apart, 1))
    # Two bars behind the last stop are an end of their own; one closes its phrase.
    apart[-2:-1] |= stops[-2:-1] > 0
    return _labelled(far, _divide(far, change, novelty, apart, unit))


def _length_cost(length: int, unit: int) -> float:
    if unit == 2:
        return _length_cost((length + 1) // 2, 1) + _HALF_PAIR * (length % 2)
    return _LENGTH_COST.get(length, _OTHER_LENGTH)


def _divide(
    far: np.ndarray, change: np.ndarray, novelty: np.ndarray, apart: np.ndarray, unit: int = 1
) -> list[int]:
    """Bars with which sections begin. change, told: (bars,) how much changes with each bar, and
    what else speaks for a border before it. apart: bars that may stand alone, or begin the end.
    unit: bars that are thought of as one."""
    count = len(far)
    total = np.pad(far, ((1, 0), (1, 0))).cumsum(axis=0).cumsum(axis=1)
    cost = np.full(count + 1, np.inf)
    cost[0] = 0
    come_from = [0] * (count + 1)
    for end in range(1, count + 1):
        for length in range(1, min(_LONGEST * unit, end) + 1):
            start = end - length
            square = total[end, end] - total[start, end] - total[end, start] + total[start, start]
            inside = square / length * _INSIDE / unit
            is_short = apart[start] and (length == 1 or end == count)
            size = 0.0 if is_short else _length_cost(length, unit)
            border = _BORDER + size - _CHANGED * change[start] - novelty[start]
            now = cost[start] + inside + (border if start else size / 2)
            if now < cost[end]:
                cost[end], come_from[end] = now, start
    borders = [count]
    while borders[-1] > 0:
        borders.append(come_from[borders[-1]])
    return borders[::-1]


def _labelled(far: np.ndarray, borders: list[int]) -> tuple[HeardSection, ...]:
    """Sections with labels: equal where, laid bar on bar, they differ no more than a groove
    differs from itself (medians, so that a fill here and there does not count)."""
    sections_named: list[HeardSection] = []
    models: list[tuple[str, int, int]] = []
    for start, end in pairwise(borders):
        length = end - start
        best: tuple[float, str] | None = None
        for label, a, b in models:
            usable = min(length, b - a)
            if usable * 2 < max(length, b - a):
                continue
            pair = float(np.median([far[start + k, a + k] for k in range(usable)]))
            unrest = max(_unrest(far, start, end), _unrest(far, a, b))
            gap = pair - unrest + 0.1 * (length != b - a)
            if best is None or gap < best[0]:
                best = (gap, label)
        if best is not None and best[0] < _SAME:
            label = best[1]
        else:
            label = chr(65 + len({m[0] for m in models}) % 26)
        models.append((label, start, end))
        sections_named.append(HeardSection(start + 1, length, label))
    return tuple(sections_named)


def _unrest(far: np.ndarray, start: int, end: int) -> float:
    """How far a section's bars lie from their like one, two or four bars on."""
    apart = [
        float(np.median([far[k, k + lag] for k in range(start, end - lag)]))
        for lag in (1, 2, 4)
        if end - start > lag + 1
    ]
    return min(apart, default=0.0)
