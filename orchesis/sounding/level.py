"""How loud a sound is, by EBU R 128: integrated loudness in LUFS and true peak in dB.

Loudness is measured by pyloudnorm (ITU-R BS.1770-4). The true peak is that of the sound at four
times its rate (BS.1770-4, annex 2)."""

from __future__ import annotations

import numpy as np
import pyloudnorm
import soxr

from orchesis.sounding.render import RATE

TARGET_LUFS = -18.0  # of a song's full part, and of its recording
PEAK_DB = -1.0  # the most that a true peak may reach (EBU R 128)
_MIN_SECONDS = 0.5  # seconds; a gate is 0.4 s long
_OVERSAMPLED = 4
_BLOCK = 30 * RATE


def loudness(sound: np.ndarray) -> float:
    """LUFS of a sound at RATE, shape (samples,) or (samples, channels); -inf where it is silent."""
    short = round(_MIN_SECONDS * RATE) - len(sound)
    if short > 0:
        sound = np.concatenate([sound, np.zeros((short, *sound.shape[1:]), sound.dtype)])
    with np.errstate(divide="ignore"):
        return float(pyloudnorm.Meter(RATE).integrated_loudness(sound.astype(np.float64)))


def true_peak(sound: np.ndarray) -> float:
    """The true peak of a sound, as a factor of full scale; 0 where it is silent."""
    blocks = range(0, len(sound), _BLOCK)
    return max((_peak_of(sound[max(0, k - 64) : k + _BLOCK]) for k in blocks), default=0.0)


def _peak_of(sound: np.ndarray) -> float:
    if not len(sound):
        return 0.0
    return float(np.abs(soxr.resample(sound, RATE, _OVERSAMPLED * RATE)).max())


def gain_to(target: float, sound: np.ndarray) -> float:
    """The factor that brings a sound to a loudness (LUFS); 1 where it is silent."""
    level = loudness(sound)
    return 10 ** ((target - level) / 20) if np.isfinite(level) else 1.0


def factor(db: float) -> float:
    """
    >>> round(factor(-6.0206), 3)
    0.5
    """
    return float(10 ** (db / 20))
