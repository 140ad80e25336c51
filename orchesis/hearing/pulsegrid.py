"""What the pulse is read from: strokes and the band's changes on one grid of 20 ms frames."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from scipy.ndimage import gaussian_filter1d, uniform_filter1d

from orchesis.hearing.spectrum import sum_of_squares

STEP = 0.02  # seconds
#: Row of the grid for each stroke; the rows behind them: band, bass, chord.
_ROWS = {
    "kick": 0,
    "snare": 1,
    "clap": 1,
    "rimshot": 1,
    "cross_stick": 2,
    "hat_closed": 3,
    "hat_half": 4,
    "hat_open": 4,
    "hat_foot": 5,
    "ride": 6,
    "ride_bell": 7,
    "crash": 8,
    "crash_2": 8,
    "splash": 8,
    "china": 8,
    "tom": 9,
    "tom_high": 9,
    "tom_mid": 9,
    "tom_low": 9,
    "tom_floor": 9,
    "shaker": 10,
    "tambourine": 10,
    "cowbell": 10,
    "block": 10,
}
BAND, BASS, CHORD = 11, 12, 13
ROWS = 14
_BASS_BANDS = 6  # the lowest bands, up to about 230 Hz


def stroke_rows(strokes: Iterable[tuple[float, str, float, float]], frames: int) -> np.ndarray:
    """(ROWS, frames): each stroke (seconds, part, loudness, confidence) where it falls."""
    grid = np.zeros((ROWS, frames), np.float32)
    for time, part, loudness, confidence in strokes:
        row = _ROWS.get(part)
        if row is None or not 0 <= time < (frames - 1) * STEP:
            continue
        at = time / STEP
        k = int(at)
        value = confidence * (0.25 + 0.75 * loudness)
        grid[row, k] = max(grid[row, k], value * (1 - (at - k)))
        grid[row, k + 1] = max(grid[row, k + 1], value * (at - k))
    return grid


def _scaled(curve: np.ndarray, share: float) -> np.ndarray:
    top = float(np.percentile(curve, 97)) if curve.size else 0.0
    return (share * np.clip(curve / (top + 1e-9), 0, 1.5)).astype(np.float32)


def _rises(rest: np.ndarray, scale: float) -> tuple[np.ndarray, np.ndarray]:
    """(frames,) mean rise of the level within 40 ms in all bands, and in those of the bass; a
    minute at a time, for the sake of memory."""
    band, bass = np.zeros(len(rest), np.float32), np.zeros(len(rest), np.float32)
    for k in range(2, len(rest) - 2, 6000):
        level = np.log1p(rest[k - 2 : k + 6002] * scale)
        rise = np.maximum(level[4:] - level[:-4], 0)
        band[k : k + len(rise)] = rise.mean(axis=1)
        bass[k : k + len(rise)] = rise[:, :_BASS_BANDS].mean(axis=1)
    return band, bass


def band_rows(rest: np.ndarray, whole: np.ndarray, chroma: np.ndarray) -> np.ndarray:
    """(3, frames of 20 ms): onsets of the band, of the bass, and changes of the chord.

    rest, whole: (frames of 10 ms, bands) magnitudes without the drums and with them; chroma:
    (frames, 12). Where there is hardly a band, what is left of the drums must not pass for one.
    """
    if len(rest) < 100:
        return np.zeros((3, (len(rest) + 1) // 2), np.float32)
    power = sum_of_squares(rest) / (sum_of_squares(whole) + 1e-12)
    share = float(np.clip((power - 0.02) / 0.1, 0, 1))
    band, bass = _rises(rest, 20 / (float(rest.mean()) + 1e-9))
    long = uniform_filter1d(chroma, 40, axis=0)
    before, after = np.roll(long, 20, axis=0), np.roll(long, -20, axis=0)
    norm = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1) + 1e-9
    chord = 1 - (before * after).sum(axis=1) / norm
    chord[:40] = chord[-40:] = 0
    chord = gaussian_filter1d(chord, 3)
    return np.stack([_scaled(c[::2], share) for c in (band, bass, chord)])
