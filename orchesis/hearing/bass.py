"""The bass line of a stretch of a recording: when its notes begin and how high they are.

The recording without its drums is brought down to the bass's octaves, and its pitch tracked
(``pitch.py``). A note begins where a pitch sets in, where it steps to another one, and where the
level of its overtones rises anew.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import maximum_filter1d, median_filter, uniform_filter1d
from scipy.signal import butter, resample_poly, sosfiltfilt

from orchesis.hearing import pitch

_DOWN = 8
_RATE = 44100 / _DOWN
_HOP = 64
FRAME = _HOP / _RATE  # seconds
_LOW, _HIGH = 31.0, 260.0  # Hz: B0 to B3
_WINDOW = 1024
_SMOOTH = 7  # frames
_HOLDS = 8  # frames that a pitch holds to be a note
_RISE = 2.5  # dB by which a repeated note rises
_STAYS, _AFTER = 0.0, (5, 11)  # dB by which it stays up, so many frames later
_SOUNDS = 0.7  # share of a note's frames that have a pitch, where it goes on
_APART = 0.09  # seconds between two notes
_OVERTONES = (90.0, 700.0)  # Hz


@dataclass(frozen=True)
class Note:
    """A note of the bass: start and end in seconds of the stretch, pitch as a MIDI key."""

    start: float
    end: float
    pitch: int


def notes(sound: np.ndarray, drums: np.ndarray) -> list[Note]:
    """The bass notes of a short stretch of sound.

    sound, drums: mono (samples,) at 44.1 kHz, in step: the recording and its drums alone.
    """
    size = min(len(sound), len(drums))
    rest = resample_poly(np.asarray(sound[:size] - drums[:size], float), 1, _DOWN)
    if len(rest) < 2 * _WINDOW or np.abs(rest).max() < 1e-5:
        return []
    hz = pitch.track(rest, _RATE, _LOW, _HIGH, _WINDOW, _HOP)
    key = np.where(
        np.isnan(hz), 0.0, np.round(69 + 12 * np.log2(np.nan_to_num(hz, nan=440.0) / 440))
    )
    key = median_filter(key, _SMOOTH)
    level = _level(rest, len(key))
    starts = _apart(key, _steps(key), _rises(key, level))
    bass_notes: list[Note] = []
    for n, at in enumerate(starts):
        end = starts[n + 1] if n + 1 < len(starts) else len(key)
        frames = key[at:end]
        frames = frames[frames > 0]
        if len(frames) < _HOLDS:
            continue
        values, counts = np.unique(frames, return_counts=True)
        silent = np.flatnonzero(key[at + _HOLDS : end] == 0)
        stop = at + _HOLDS + int(silent[0]) if len(silent) else end
        bass_notes.append(Note(at * FRAME, stop * FRAME, int(values[counts.argmax()])))
    return bass_notes


def _apart(key: np.ndarray, steps: list[int], rises: list[int]) -> list[int]:
    """Beginnings that are no echo of one another: a step is felt in a long window, so that a rise
    close to it tells its moment; a pitch that only wavers and comes back begins none."""
    gap = int(_APART / FRAME)
    starts: list[int] = []
    last = 0
    for at in sorted(
        {
            min((r for r in rises if abs(r - at) <= gap), key=lambda r: abs(r - at), default=at)
            for at in (*steps, *rises)
        }
    ):
        sounds = key[at : at + 2 * _HOLDS]
        sounds = sounds[sounds > 0]
        pitch = int(np.median(sounds)) if len(sounds) else 0
        sounded = bool(starts) and (key[starts[-1] : at] > 0).mean() > _SOUNDS
        wavers = sounded and at not in rises and abs(pitch - last) <= 1
        if (starts and at - starts[-1] <= gap) or wavers:
            continue
        starts.append(at)
        last = pitch
    return starts


def _level(rest: np.ndarray, frames: int) -> np.ndarray:
    """dB of the overtones, frame by frame."""
    band = sosfiltfilt(butter(4, _OVERTONES, "bandpass", fs=_RATE, output="sos"), rest)
    power = uniform_filter1d(band**2, 256)[::_HOP][:frames]
    level = 10 * np.log10(np.maximum(power, 0) + 1e-12)
    return np.pad(level, (0, max(0, frames - len(level))), mode="edge")


def _steps(key: np.ndarray) -> list[int]:
    """Frames at which a pitch sets in or steps to another that holds."""
    return [
        i
        for i in range(len(key))
        if key[i] > 0 and (i == 0 or key[i] != key[i - 1]) and (key[i : i + _HOLDS] == key[i]).all()
    ]


def _rises(key: np.ndarray, level: np.ndarray) -> list[int]:
    """Frames at which the level rises anew while a pitch sounds, and stays up: what is left of a
    drum, or the hole that it left, is as it was a moment later."""
    rise = np.maximum(level[4:] - level[:-4], 0)
    rise = np.pad(rise, (2, 2))
    crest = (rise == maximum_filter1d(rise, int(_APART / FRAME) | 1)) & (rise > _RISE)

    def stays(i: int) -> bool:
        after = level[i + _AFTER[0] : i + _AFTER[1]]
        return (
            len(after) > 0 and after.mean() - level[max(0, i - 9) : max(1, i - 3)].mean() > _STAYS
        )

    sounding = [int(i) for i in np.flatnonzero(crest) if (key[max(0, i - 2) : i + 8] > 0).any()]
    return [i for i in sounding if stays(i)]
