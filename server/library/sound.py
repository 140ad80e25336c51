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
from orchesis.hearing import accompaniment
from orchesis.hearing.spectrum import band_magnitudes

PIECE_SECONDS = 10
OUTLINE_RATE = 100  # peaks a second


#: Gains of the drums and of the rest, as they are listened to.
BALANCES = {"recorded": (1.0, 1.0), "forward": (1.25, 0.3), "back": (0.12, 1.0)}


#: What a take's own file is served as; whatever is not listed is bytes to a browser.
_MEDIA_TYPES = {
    "mp4": "video/mp4", "m4v": "video/mp4", "mov": "video/quicktime", "webm": "video/webm",
    "mkv": "video/x-matroska", "avi": "video/x-msvideo", "wav": "audio/wav", "flac": "audio/flac",
    "ogg": "audio/ogg", "opus": "audio/ogg", "mp3": "audio/mpeg", "m4a": "audio/mp4",
}  # fmt: skip


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
    peaks = []
    with take.sound.open("rb") as file, sf.SoundFile(file) as sound:
        step = sound.samplerate // OUTLINE_RATE
        for block in sound.blocks(blocksize=step * 500, dtype="float32", always_2d=True):
            loud = np.abs(block).max(axis=1)
            loud = np.pad(loud, (0, -len(loud) % step)).reshape(-1, step).max(axis=1)
            peaks.append(np.minimum(loud * 255, 255).astype(np.uint8))
    return np.concatenate(peaks).tobytes() if peaks else b""


PICTURE_LONGEST = 30.0  # seconds
_PICTURE_SPAN = 60.0  # dB from white to black


def picture(take: Take, start: float, end: float) -> bytes:
    """Spectrum of a stretch, one byte (0..255) a band and 10 ms, column by column.

    What sounds through is half taken out of each band, so that strokes stand out.
    """
    samples = _stretch(take.sound, start, end)
    power = band_magnitudes(samples) ** 2
    db = 10 * np.log10(power + 1e-10)
    db -= 0.5 * np.median(db - db.min(), axis=0)
    shown = np.clip((db - db.max() + _PICTURE_SPAN) / _PICTURE_SPAN, 0, 1)
    return np.round(255 * shown).astype(np.uint8).tobytes()


def _stretch(stored: FieldFile, start: float, end: float) -> np.ndarray:
    """Mono samples between two seconds; what lies outside of the sound is left out."""
    with stored.open("rb") as file, sf.SoundFile(file) as sound:
        first = min(max(int(start * sound.samplerate), 0), sound.frames)
        sound.seek(first)
        size = min(int((end - max(start, 0.0)) * sound.samplerate), sound.frames - first)
        return sound.read(max(size, 1), dtype="float32", always_2d=True).mean(axis=1)


_ALIKE_SPAN = 0.09  # seconds of a stroke that are compared
_MOST_PAIRS = 12


def alikeness(take: Take, pairs: list[tuple[float, float]]) -> float | None:
    """How alike the spectra of strokes are, pair by pair (seconds): the median correlation of
    their levels over the bands, -1 to 1; None where nothing could be compared."""
    stored = take.drums or take.sound
    found = []
    for pair in pairs[:: max(1, len(pairs) // _MOST_PAIRS)]:
        a, b = (
            np.log(
                band_magnitudes(_stretch(stored, t - 0.005, t + _ALIKE_SPAN)).mean(axis=0) + 1e-6
            )
            for t in pair
        )
        if a.std() > 0 and b.std() > 0:
            found.append(float(np.corrcoef(a, b)[0, 1]))
    return float(np.median(found)) if found else None


def band_onsets(take: Take, start: float, end: float) -> list[float]:
    """Seconds of the song at which the band begins notes in a stretch."""
    if not take.drums:
        return []
    whole, drums = (_stretch(f, start, end) for f in (take.sound, take.drums))
    size = min(len(whole), len(drums))
    return [max(start, 0.0) + float(t) for t in accompaniment.onsets(whole[:size], drums[:size])]
