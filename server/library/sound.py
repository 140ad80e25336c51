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
from orchesis.hearing import excerpts

PIECE_SECONDS = 10


#: Gains of the drums and of the rest, as they are listened to.
BALANCES = {"recorded": (1.0, 1.0), "forward": (1.25, 0.3), "back": (0.12, 1.0)}


#: What a take's own file is served as; whatever is not listed is bytes to a browser.
_MEDIA_TYPES = {
    "mp4": "video/mp4",
    "m4v": "video/mp4",
    "mov": "video/quicktime",
    "webm": "video/webm",
    "mkv": "video/x-matroska",
    "avi": "video/x-msvideo",
    "wav": "audio/wav",
    "flac": "audio/flac",
    "ogg": "audio/ogg",
    "opus": "audio/ogg",
    "mp3": "audio/mpeg",
    "m4a": "audio/mp4",
}


def media_type(name: str) -> str:
    """The type that a take's own file is served with, by its ending and never by its content."""
    return _MEDIA_TYPES.get(name.rsplit(".", 1)[-1].lower(), "application/octet-stream")


def piece(take: Take, number: int, balance: str = "recorded") -> bytes | None:
    """Piece ``number`` (from 0) of the sound as FLAC; None behind the end.

    A further take sounds on the timeline of the song's first one. balance: a key of BALANCES; a
    take without its drums alone sounds as recorded.
    """
    samples, rate = _read(take.fitted or take.sound, number)
    if samples is None:
        return None
    if take.fitted:
        balance = "recorded"  # its drums alone are not on the song's timeline
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
    with take.sound.open("rb") as file:
        return excerpts.outline(file.file)


def picture(take: Take, start: float, end: float) -> bytes:
    """Spectrum of a stretch (seconds), one byte (0..255) a band and 10 ms, column by column."""
    with take.sound.open("rb") as file:
        return excerpts.picture(file.file, start, end)


def alikeness(take: Take, pairs: list[tuple[float, float]]) -> float | None:
    """How alike strokes sound, pair by pair of moments (seconds), -1 to 1; None: not known."""
    if not take.sound:
        return None
    with (take.drums or take.sound).open("rb") as file:
        return excerpts.alikeness(file.file, pairs)


def bass_notes(take: Take, start: float, end: float) -> list[tuple[float, int]]:
    """Seconds of the song at which the bass begins notes in a stretch, and their MIDI keys."""
    if not take.drums:
        return []
    with take.sound.open("rb") as whole, take.drums.open("rb") as drums:
        return excerpts.bass_notes(whole.file, drums.file, start, end)


def band_onsets(take: Take, start: float, end: float) -> list[float]:
    """Seconds of the song at which the band begins notes in a stretch."""
    if not take.drums:
        return []
    with take.sound.open("rb") as whole, take.drums.open("rb") as drums:
        return excerpts.band_onsets(whole.file, drums.file, start, end)
