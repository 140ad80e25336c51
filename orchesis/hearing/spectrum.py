"""Log-spaced spectrum of a recording, made in pieces so that memory stays small."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
from scipy.fft import rfft
from scipy.signal import butter, sosfilt

from orchesis.hearing.ordered_map import in_order
from orchesis.hearing.sound import RATE, mono_blocks
from orchesis.hearing.types import Report, silent

HOP = 441
WINDOW = 2048
SHORT = 1024
BANDS = 84
FINE = 63  # samples; seven of them are a hop
LOWEST, HIGHEST = 30.0, 16000.0


@dataclass(frozen=True)
class Spectrum:
    """bands: (frames, 84) magnitudes, 10 ms a frame, frame k centred on k * 10 ms.
    short: the same from a window half as long.

    chroma: (frames, 12) pitch-class energies, 100-2000 Hz. fine: (n,) energy of the
    differenced signal every 63 samples (1.43 ms), for exact onset times; body: the same of what
    lies between 180 and 1400 Hz, where drums speak and cymbals don't.
    """

    bands: np.ndarray
    short: np.ndarray
    chroma: np.ndarray
    fine: np.ndarray
    body: np.ndarray
    duration: float

    @property
    def frames(self) -> int:
        return len(self.bands)


@cache
def band_edges() -> np.ndarray:
    """Mel-spaced centre frequencies in Hz, shape (BANDS + 2,)."""
    low, high = (2595 * np.log10(1 + f / 700) for f in (LOWEST, HIGHEST))
    mel = np.linspace(low, high, BANDS + 2)
    return 700 * (10 ** (mel / 2595) - 1)


def _triangles(window: int) -> np.ndarray:
    """Triangular band filters of unit sum for a window, shape (bins, BANDS)."""
    freqs = np.arange(window // 2 + 1) * RATE / window
    edges = band_edges()
    up = (freqs[:, None] - edges[None, :-2]) / np.diff(edges)[None, :-1]
    down = (edges[None, 2:] - freqs[:, None]) / np.diff(edges)[None, 1:]
    bands = np.maximum(0, np.minimum(up, down))
    for k in np.flatnonzero(bands.sum(axis=0) < 0.5):  # low bands narrower than a bin
        bands[np.argmin(np.abs(freqs - edges[k + 1])), k] = 1.0
    return (bands / bands.sum(axis=0)).astype(np.float32)


@cache
def _filters() -> tuple[np.ndarray, np.ndarray]:
    """Band filters of the long window and the pitch-class folding, both (bins, outputs)."""
    freqs = np.arange(WINDOW // 2 + 1) * RATE / WINDOW
    chroma = np.zeros((len(freqs), 12))
    inside = (freqs > 100) & (freqs < 2000)
    pitch = np.round(69 + 12 * np.log2(freqs[inside] / 440)).astype(int) % 12
    chroma[np.flatnonzero(inside), pitch] = 1.0
    return _triangles(WINDOW), chroma.astype(np.float32)


@cache
def _short_filters() -> np.ndarray:
    return _triangles(SHORT)


def short_bands(frames: np.ndarray) -> np.ndarray:
    """Bands of the middle of windowed frames, shape (n, WINDOW) -> (n, BANDS)."""
    edge = (WINDOW - SHORT) // 2
    middle = frames[:, edge : edge + SHORT] * np.hanning(SHORT).astype(np.float32)
    return np.abs(rfft(middle, axis=1)) @ _short_filters()


def level_of(long: np.ndarray) -> float:
    """The song's own level, which the features are taken against."""
    return float(np.sqrt(sum_of_squares(long) / max(long.size, 1))) + 1e-9


def sum_of_squares(values: np.ndarray) -> float:
    """Of a matrix, exactly enough and without a copy of it."""
    return float(np.einsum("ij,ij->", values, values, dtype=np.float64))


def features(long: np.ndarray, short: np.ndarray, level: float) -> np.ndarray:
    """What the network hears: (2, frames, BANDS), compressed, at the song's own level."""
    return np.log1p(np.stack([long, short * 2]) * (8.0 / level)).astype(np.float32)


def powers(bands: np.ndarray, mask: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(frames,) power of the whole and of the drums from magnitudes and the drums' share, both
    (frames, BANDS); a minute at a time, for the sake of memory."""
    whole, drums = np.zeros(len(bands)), np.zeros(len(bands))
    for k in range(0, len(bands), 6000):
        power = bands[k : k + 6000].astype(np.float64) ** 2
        whole[k : k + 6000] = power.sum(axis=1)
        drums[k : k + 6000] = (power * mask[k : k + 6000]).sum(axis=1)
    return whole, drums


def band_magnitudes(sound: np.ndarray, *, centred: bool = True) -> np.ndarray:
    """Bands of a short mono sound, (frames, BANDS); centred: frame k is centred on k * HOP."""
    if centred:
        sound = np.pad(sound.astype(np.float32), (WINDOW // 2, WINDOW // 2))
    frames = np.lib.stride_tricks.sliding_window_view(sound, WINDOW)
    frames = frames[: len(sound) - WINDOW : HOP] if centred else frames[::HOP]
    return magnitudes(frames) @ _filters()[0]


def features_of(mix: np.ndarray) -> np.ndarray:
    """Features of a short mono sound, as training makes them."""
    padded = np.pad(mix.astype(np.float32), (WINDOW // 2, WINDOW // 2))
    frames = np.lib.stride_tricks.sliding_window_view(padded, WINDOW)[: len(mix) : HOP]
    long = magnitudes(frames) @ _filters()[0]
    return features(long, short_bands(frames), level_of(long))


def magnitudes(frames: np.ndarray) -> np.ndarray:
    """Magnitude spectrum of windowed frames, shape (n, WINDOW) -> (n, bins)."""
    return np.abs(rfft(frames * np.hanning(WINDOW).astype(np.float32), axis=1))


def measure(path: str | Path, duration: float, *, report: Report = silent) -> Spectrum:
    """The spectrum of a taken-in sound (44.1 kHz) of that duration in seconds."""
    piece = HOP * 1000
    total = max(1, int(duration * RATE / piece))
    blocks: list[_Rows] = []
    for rows in in_order(_rows, _pieces(path, piece)):
        blocks.append(rows)
        report("spectrum", min(1.0, len(blocks) / total))
    bands, short, chroma, fine, body = (np.concatenate(rows) for rows in zip(*blocks, strict=True))
    return Spectrum(bands, short, chroma, fine, body, duration)


_Rows = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]
_Piece = tuple[np.ndarray, np.ndarray, np.ndarray]


def _rows(piece: _Piece) -> _Rows:
    """Bands, short bands, chroma, fine and body envelope of one piece."""
    sound, *powers_ = piece
    bands, fold = _filters()
    count = max(0, (len(sound) - WINDOW) // HOP + 1)
    fine, body = (p[: len(p) // FINE * FINE].reshape(-1, FINE).mean(axis=1) for p in powers_)
    if count == 0:
        none = np.zeros((0, BANDS), np.float32)
        return none, none, np.zeros((0, 12), np.float32), fine, body
    view = np.lib.stride_tricks.sliding_window_view(sound, WINDOW)[: count * HOP : HOP]
    spectrum = magnitudes(view)
    return (
        (spectrum @ bands).astype(np.float32),
        short_bands(view).astype(np.float32),
        (spectrum @ fold).astype(np.float32),
        fine,
        body,
    )


@cache
def _body_filter() -> np.ndarray:
    return butter(2, (180, 1400), "bandpass", fs=RATE, output="sos").astype(np.float32)


def _pieces(path: str | Path, piece: int) -> Iterator[_Piece]:
    """The sound in pieces: what the next frames are made of, its squared differences, and the
    power of its body."""
    state = np.zeros((len(_body_filter()), 2), np.float32)
    rest = np.zeros(WINDOW // 2, dtype=np.float32)
    before = np.float32(0)
    for block in _padded(path, piece):
        sound = np.concatenate([rest, block])
        count = max(0, (len(sound) - WINDOW) // HOP + 1)
        rest = sound[count * HOP :]
        edge = np.diff(block, prepend=before) ** 2
        before = block[-1]
        body, state = sosfilt(_body_filter(), block, zi=state)
        yield sound, edge, body**2


def _padded(path: str | Path, piece: int) -> Iterator[np.ndarray]:
    """Blocks of the sound, then half a window of silence to bring the last frames out."""
    for block in mono_blocks(path, piece):
        yield block if len(block) == piece else np.pad(block, (0, -len(block) % FINE))
    yield np.zeros(WINDOW // 2 // FINE * FINE + FINE, dtype=np.float32)
