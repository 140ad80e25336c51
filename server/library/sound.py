"""Pieces of a take's sound for the page, and its outline for the waveform.

The page plays the very samples that were heard: it fetches them in pieces of ten seconds,
so that it never holds a long song decoded.
"""

from __future__ import annotations

from io import BytesIO

import numpy as np
import soundfile as sf

from library.models import Take

PIECE_SECONDS = 10
OUTLINE_RATE = 100  # peaks a second


def piece(take: Take, number: int) -> bytes | None:
    """Piece ``number`` (from 0) of the sound as FLAC; None behind the end."""
    with take.sound.open("rb") as file, sf.SoundFile(file) as sound:
        start = number * PIECE_SECONDS * sound.samplerate
        if number < 0 or start >= sound.frames:
            return None
        sound.seek(start)
        samples = sound.read(PIECE_SECONDS * sound.samplerate, dtype="int16", always_2d=True)
        out = BytesIO()
        sf.write(out, samples, sound.samplerate, format="FLAC", subtype="PCM_16")
        return out.getvalue()


def outline(take: Take) -> bytes:
    """Peaks of the sound, one byte (0..255) each 10 ms."""
    peaks = []
    with take.sound.open("rb") as file, sf.SoundFile(file) as sound:
        step = sound.samplerate // OUTLINE_RATE
        for block in sound.blocks(blocksize=step * 500, dtype="float32", always_2d=True):
            loud = np.abs(block).max(axis=1)
            loud = np.pad(loud, (0, -len(loud) % step)).reshape(-1, step).max(axis=1)
            peaks.append(np.minimum(loud * 255, 255).astype(np.uint8))
    return np.concatenate(peaks).tobytes() if peaks else b""
