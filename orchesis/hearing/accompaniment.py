"""When the rest of the band begins its notes: what a cue is taken from."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import maximum_filter1d, median_filter

from orchesis.hearing.hits import FRAME
from orchesis.hearing.spectrum import band_magnitudes

_APART = 6  # frames between two onsets
_ABOVE = 2.2  # times the usual rise
_MIN_SHARE_OF_RISE = 0.25  # share of the strongest rise


def onsets(sound: np.ndarray, drums: np.ndarray) -> np.ndarray:
    """Seconds at which the band begins notes in a short stretch of sound.

    sound, drums: mono (samples,) at 44.1 kHz, in step: the recording and its drums alone. The
    rise of the level in all bands (spectral flux), against what is usual round it.
    """
    rest = band_magnitudes(sound - drums)
    level = np.log1p(rest / (rest.mean() + 1e-9))
    rise = np.maximum(level[2:] - level[:-2], 0).sum(axis=1)
    if len(rise) < 4 * _APART or rise.max() <= 0:
        return np.zeros(0)
    usual = median_filter(rise, 51) + 1e-9
    crest = rise == maximum_filter1d(rise, 2 * _APART + 1)
    peaks = np.flatnonzero(
        crest & (rise > _ABOVE * usual) & (rise > _MIN_SHARE_OF_RISE * rise.max())
    )
    return (peaks + 1) * FRAME
