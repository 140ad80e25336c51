"""A stem found in its mix, by the sample."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile as sf
from scipy.signal import correlate

from orchesis.errors import BadSound
from orchesis.hearing.sound import RATE

_COARSE = 8  # every so many samples (averaged) in the first search
_PIECE = 60.0  # seconds of the stem that are looked for
_MIN_SHARE_EXPLAINED = 0.05  # share of the mix that a stem's best place must explain


def find(mix: str | Path, part: str | Path) -> int:
    """Samples (44.1 kHz) by which a stem must be moved so that it lies in its mix.

    Both taken in already. Positive: the stem starts later than the mix's file. Raises
    BadSound if the stem is not in the mix.
    """
    whole, stem = _mono(mix), _mono(part)
    size = min(len(stem), int(_PIECE * RATE))
    energy = np.add.reduceat(stem**2, np.arange(0, len(stem), RATE))
    seconds = max(1, size // RATE)
    sums = np.convolve(energy, np.ones(seconds), "valid")
    start = min(int(np.argmax(sums)) * RATE, len(stem) - size)
    piece = stem[start : start + size]
    coarse = correlate(_thinned(whole), _thinned(piece), mode="full", method="fft")
    # The best place is where the stem explains most of the sound, not where that is loudest.
    lag = (int(np.argmax(np.abs(coarse))) - (len(_thinned(piece)) - 1)) * _COARSE
    near = np.arange(lag - 3 * _COARSE, lag + 3 * _COARSE + 1)
    scores = [_overlap(whole, piece, int(k)) for k in near]
    best = int(np.argmax(np.abs([s for s, _ in scores])))
    score, share = scores[best]
    if abs(score) ** 2 * share < _MIN_SHARE_EXPLAINED:
        raise BadSound("This stem was not found in the recording; is it from the same session?")
    return int(near[best]) - start


def _overlap(whole: np.ndarray, piece: np.ndarray, lag: int) -> tuple[float, float]:
    """Normalised correlation of a piece laid at a lag, and the share of it that lies inside."""
    lo, hi = max(lag, 0), min(lag + len(piece), len(whole))
    if hi - lo < RATE:
        return 0.0, 0.0
    a, b = whole[lo:hi], piece[lo - lag : hi - lag]
    norm = float(np.sqrt((a @ a) * (b @ b))) + 1e-9
    return float(a @ b) / norm, (hi - lo) / len(piece)


def _thinned(sound: np.ndarray) -> np.ndarray:
    return sound[: len(sound) // _COARSE * _COARSE].reshape(-1, _COARSE).mean(axis=1)


def _mono(path: str | Path) -> np.ndarray:
    sound, rate = sf.read(path, dtype="float32", always_2d=True)
    if rate != RATE:
        raise BadSound(f"A take must be taken in first; this one has {rate} Hz.")
    return sound.mean(axis=1)
