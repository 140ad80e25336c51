"""Pieces of a take's sound for the page, and its outline for the waveform.

The page plays the very samples that were heard: it fetches them in pieces of ten seconds,
so that it never holds a long song decoded.
"""

from __future__ import annotations

from io import BytesIO

import numpy as np
import soundfile as sf
from django.db.models.fields.files import FieldFile

from library.models import Take

PIECE_SECONDS = 10
OUTLINE_RATE = 100  # peaks a second


#: Gains of the drums and of the rest, as they are listened to.
BALANCES = {"recorded": (1.0, 1.0), "forward": (1.25, 0.3), "back": (0.12, 1.0)}


def piece(take: Take, number: int, balance: str = "recorded") -> bytes | None:
    """Piece ``number`` (from 0) of the sound as FLAC; None behind the end.

    balance: a key of BALANCES; a take without its drums alone sounds as recorded.
    """
    samples, rate = _read(take.sound, number)
    if samples is None:
        return None
    if balance != "recorded" and take.drums:
        drums, _ = _read(take.drums, number)
        forward, rest = BALANCES[balance]
        if drums is not None and drums.shape == samples.shape:
            mixed = rest * samples.astype(np.float32) + (forward - rest) * drums
            samples = np.clip(np.round(mixed), -32768, 32767).astype(np.int16)
    out = BytesIO()
    sf.write(out, samples, rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()


def _read(stored: FieldFile, number: int) -> tuple[np.ndarray | None, int]:
    with stored.open("rb") as file, sf.SoundFile(file) as sound:
        start = number * PIECE_SECONDS * sound.samplerate
        if number < 0 or start >= sound.frames:
            return None, sound.samplerate
        sound.seek(start)
        size = PIECE_SECONDS * sound.samplerate
        return sound.read(size, dtype="int16", always_2d=True), sound.samplerate


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
