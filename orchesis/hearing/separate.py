"""Drums forward: the drums of a recording as a sound of their own, by the onset model' mask.

The mask tells the drums' share of the power in 84 bands; inside a band it is sharpened by
what is struck and what is held: what stays along time, against what reaches over frequencies
(the idea of Fitzgerald, "Harmonic/percussive separation using median filtering", 2010; with
openings in place of medians, which are as good here and ten times as fast).
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from pathlib import Path

import numpy as np
import soundfile as sf
from scipy.fft import irfft, rfft
from scipy.ndimage import maximum_filter1d, minimum_filter1d

from orchesis.hearing.ordered_map import in_order
from orchesis.hearing.sound import RATE
from orchesis.hearing.spectrum import HOP, WINDOW, band_edges
from orchesis.hearing.types import Report, silent

_PIECE = 400
_OVER = 20  # frames that neighbouring pieces share, for what stays along time
_STAYS, _REACHES = 9, 9  # frames, bins
#: How much the sharpening within a band counts: 0 not at all, 1 fully.
SHARPEN = 0.6


@cache
def _spread() -> tuple[np.ndarray, np.ndarray]:
    """For every bin of the spectrum the place between the centres of the bands."""
    centres = band_edges()[1:-1]
    freqs = np.arange(WINDOW // 2 + 1) * RATE / WINDOW
    place = np.interp(freqs, centres, np.arange(len(centres)))
    low = np.minimum(place.astype(int), len(centres) - 2)
    return low, (place - low).astype(np.float32)


def gains(mask: np.ndarray, magnitude: np.ndarray, *, sharpen: float = SHARPEN) -> np.ndarray:
    """Gain of the drums in each bin: (frames, bins) from mask (frames, bands) and spectrum."""
    low, share = _spread()
    mask = mask.astype(np.float32)
    gain = mask[:, low] * (1 - share) + mask[:, low + 1] * share
    if not sharpen:
        return gain
    held = _opened(magnitude, _STAYS, 0) ** 2
    struck = _opened(magnitude, _REACHES, 1) ** 2
    odds = (struck + 1e-9) / (held + 1e-9)
    odds = gain / (1 - gain + 1e-4) * np.clip(odds, 1e-3, 1e3) ** (sharpen / 2)
    return odds / (1 + odds)


def _opened(magnitude: np.ndarray, size: int, axis: int) -> np.ndarray:
    """What of a magnitude lasts for so many frames (axis 0) or bins (axis 1)."""
    least = minimum_filter1d(magnitude, size, axis=axis, mode="nearest")
    return maximum_filter1d(least, size, axis=axis, mode="nearest")


def drums_of(sound: np.ndarray, mask: np.ndarray, *, sharpen: float = SHARPEN) -> np.ndarray:
    """The drums in a sound (samples, channels), by the mask (frames, bands) of its frames."""
    n = len(sound)
    window = np.hanning(WINDOW + 1)[:-1].astype(np.float32)
    padded = np.pad(sound.astype(np.float32), ((WINDOW // 2, WINDOW), (0, 0)))
    count = min(len(mask), 1 + (len(padded) - WINDOW) // HOP)
    out = np.zeros_like(padded)
    weight = np.zeros(len(padded), np.float32)
    view = np.lib.stride_tricks.sliding_window_view(padded, WINDOW, axis=0)[::HOP][:count]
    spectra = rfft(view * window, axis=2)  # (frames, channels, bins)
    gain = gains(mask[:count], np.abs(spectra).mean(axis=1), sharpen=sharpen)
    frames = irfft(spectra * gain[:, None], WINDOW, axis=2) * window
    for k in range(count):
        out[k * HOP : k * HOP + WINDOW] += frames[k].T
        weight[k * HOP : k * HOP + WINDOW] += window**2
    out /= np.maximum(weight, 1e-3)[:, None]
    return out[WINDOW // 2 : WINDOW // 2 + n]


def drum_blocks(path: str | Path, mask: np.ndarray) -> Iterator[np.ndarray]:
    """The drums of a taken-in sound, in blocks (samples, channels), as long as the sound."""
    step, over = _PIECE * HOP, _OVER * HOP

    def pieces() -> Iterator[tuple[int, int, np.ndarray]]:
        with sf.SoundFile(path) as file:
            for start in range(0, file.frames, step):
                first = max(0, start - over)
                file.seek(first)
                length = start + step + over - first
                yield start, first, file.read(length, dtype="float32", always_2d=True)

    def separated(piece: tuple[int, int, np.ndarray]) -> np.ndarray:
        start, first, sound = piece
        drums = drums_of(sound, mask[first // HOP : first // HOP + len(sound) // HOP + 2])
        return drums[start - first : start - first + step]

    return in_order(separated, pieces())


def write_drums(
    path: str | Path, mask: np.ndarray, target: str | Path, *, report: Report = silent
) -> None:
    """Writes the drums of a taken-in sound as FLAC, sample by sample in step with it."""
    with sf.SoundFile(path) as source:
        total, channels = source.frames, source.channels
    with sf.SoundFile(target, "w", RATE, channels, format="FLAC", subtype="PCM_16") as file:
        done = 0
        for block in drum_blocks(path, mask):
            file.write(np.clip(block, -1, 1))
            done += len(block)
            report("drums", done / total)
