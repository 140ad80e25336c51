"""Tempi in even steps of their logarithm: the bins in which the pulse network tells a tempo."""

from __future__ import annotations

import numpy as np

SLOWEST, FASTEST = 42.0, 268.0
BINS = 96  # about 2 % apart


def bin_of(bpm: np.ndarray | float) -> np.ndarray:
    """The (fractional) bin of a tempo in beats a minute, 0 .. BINS - 1."""
    share = np.log(np.asarray(bpm) / SLOWEST) / np.log(FASTEST / SLOWEST)
    return np.clip(share, 0, 1) * (BINS - 1)


def bpm_of(place: np.ndarray | float) -> np.ndarray:
    """The tempo of a (fractional) bin."""
    return SLOWEST * (FASTEST / SLOWEST) ** (np.asarray(place) / (BINS - 1))
