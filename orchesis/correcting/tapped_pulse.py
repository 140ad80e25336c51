"""Taps along with a song: drawn to what sounds near them, and followed through the song."""

from __future__ import annotations

import numpy as np

from orchesis.beats import tracking
from orchesis.score import Score

_SNAP = 0.07  # seconds within which a tap is drawn to a stroke
_FRAME = 0.01  # seconds


def snapped(times: np.ndarray, score: Score) -> np.ndarray:
    """Taps moved as a whole to meet the strokes (hands are late), then each to its stroke."""
    strokes = np.array(sorted(s.time for s in score.strokes.values() if s.time is not None))
    if len(strokes) == 0:
        return times
    nearest = _nearest(strokes, times)
    off = nearest - times
    close = np.abs(off) < 0.12
    if close.sum() >= 4:
        times = times + float(np.median(off[close]))
        nearest = _nearest(strokes, times)
    return np.where(np.abs(nearest - times) < _SNAP, nearest, times)


def _nearest(rising: np.ndarray, times: np.ndarray) -> np.ndarray:
    """The nearest of some rising moments to each time; (times,)."""
    after = np.clip(np.searchsorted(rising, times), 1, max(len(rising) - 1, 1))
    before, after = rising[after - 1], rising[np.minimum(after, len(rising) - 1)]
    return np.where(times - before <= after - times, before, after)


def followed(times: np.ndarray, score: Score) -> np.ndarray:
    """Beats of the tapped tempo tracked through the whole song by its strokes."""
    period = float(np.median(np.diff(times)))
    end = max(score.pulse.times[-1], times[-1]) + period
    curve = np.full(int(end / _FRAME) + 1, 0.02)
    for s in score.strokes.values():
        if s.time is not None and 0 <= s.time < end:
            k = round(s.time / _FRAME)
            value = s.confidence * s.loudness * (0.6 if s.part.startswith(("hat", "ride")) else 0.9)
            for j, w in ((-1, 0.7), (0, 1.0), (1, 0.7)):
                if 0 <= k + j < len(curve):
                    curve[k + j] = max(curve[k + j], w * value)
    lo, hi = round(times[0] / _FRAME), round(times[-1] / _FRAME) + 1
    curve[max(lo - 2, 0) : hi + 2] = 0.005
    curve[np.clip(np.round(times / _FRAME).astype(int), 0, len(curve) - 1)] = 1.0
    beats = tracking.track(curve, np.full(len(curve), period / _FRAME)) * _FRAME
    kept = beats[(beats < times[0] - 0.5 * period) | (beats > times[-1] + 0.5 * period)]
    return np.sort(np.concatenate([kept, times]))
