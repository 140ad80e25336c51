"""What is shown and told of a stretch of sound: its outline, its spectrum, how alike two strokes
sound, where the band begins its notes. ``file``: whatever soundfile opens, a binary file too."""

from __future__ import annotations

from typing import BinaryIO

import numpy as np
import soundfile as sf

from orchesis.hearing import accompaniment, bass
from orchesis.hearing.spectrum import band_magnitudes

OUTLINE_RATE = 100  # peaks a second
PICTURE_LONGEST = 30.0  # seconds
_PICTURE_SPAN = 60.0  # dB from white to black
_ALIKE_SPAN = 0.09  # seconds of a stroke that are compared
_MOST_PAIRS = 12


def outline(file: BinaryIO) -> bytes:
    """Peaks of a sound, one byte (0..255) each 10 ms."""
    peaks = []
    with sf.SoundFile(file) as sound:
        step = sound.samplerate // OUTLINE_RATE
        for block in sound.blocks(blocksize=step * 500, dtype="float32", always_2d=True):
            loud = np.abs(block).max(axis=1)
            loud = np.pad(loud, (0, -len(loud) % step)).reshape(-1, step).max(axis=1)
            peaks.append(np.minimum(loud * 255, 255).astype(np.uint8))
    return np.concatenate(peaks).tobytes() if peaks else b""


def stretch(file: BinaryIO, start: float, end: float) -> np.ndarray:
    """Mono samples between two seconds, shape (n,); what lies outside of the sound is left out."""
    file.seek(0)
    with sf.SoundFile(file) as sound:
        first = min(max(int(start * sound.samplerate), 0), sound.frames)
        sound.seek(first)
        size = min(int((end - max(start, 0.0)) * sound.samplerate), sound.frames - first)
        return sound.read(max(size, 1), dtype="float32", always_2d=True).mean(axis=1)


def picture(file: BinaryIO, start: float, end: float) -> bytes:
    """Spectrum of a stretch, one byte (0..255) a band and 10 ms, column by column.

    What sounds through is half taken out of each band, so that strokes stand out.
    """
    power = band_magnitudes(stretch(file, start, end)) ** 2
    db = 10 * np.log10(power + 1e-10)
    db -= 0.5 * np.median(db - db.min(), axis=0)
    shown = np.clip((db - db.max() + _PICTURE_SPAN) / _PICTURE_SPAN, 0, 1)
    return np.round(255 * shown).astype(np.uint8).tobytes()


def alikeness(file: BinaryIO, pairs: list[tuple[float, float]]) -> float | None:
    """How alike the spectra of strokes are, pair by pair (seconds): the median correlation of
    their levels over the bands, -1 to 1; None where nothing could be compared."""
    likeness = []
    for pair in pairs[:: max(1, len(pairs) // _MOST_PAIRS)]:
        a, b = (
            np.log(band_magnitudes(stretch(file, t - 0.005, t + _ALIKE_SPAN)).mean(axis=0) + 1e-6)
            for t in pair
        )
        if a.std() > 0 and b.std() > 0:
            likeness.append(float(np.corrcoef(a, b)[0, 1]))
    return float(np.median(likeness)) if likeness else None


def bass_notes(
    whole: BinaryIO, drums: BinaryIO, start: float, end: float
) -> list[tuple[float, int]]:
    """Seconds of the recording at which the bass begins notes in a stretch, and their MIDI keys."""
    a, b = (stretch(f, start, end) for f in (whole, drums))
    return [(max(start, 0.0) + n.start, n.pitch) for n in bass.notes(a, b)]


def band_onsets(whole: BinaryIO, drums: BinaryIO, start: float, end: float) -> list[float]:
    """Seconds at which the band begins notes in a stretch of a recording.

    whole, drums: the recording, and its drums alone, in step by sample.
    """
    a, b = (stretch(f, start, end) for f in (whole, drums))
    size = min(len(a), len(b))
    return [max(start, 0.0) + float(t) for t in accompaniment.onsets(a[:size], b[:size])]
