"""Onsets told apart where two drums sound together.

The sharpest edge of two strokes together is the earlier one's, or the cymbal's. What each is by
itself is seen in the band in which its kind speaks: there the onset is where the envelope rises
most. How far a kind's band lags behind its edge is learned from its strokes that sound alone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Protocol, TypeVar

import numpy as np
import soundfile as sf
from scipy.signal import butter, sosfilt

from orchesis.hearing.sound import RATE
from orchesis.score import KIT

#: Bands (Hz) by family of sound; None: up to the top.
_BANDS: dict[str, tuple[float, float | None]] = {
    "kick": (35, 130),
    "snare": (140, 420),
    "cymbal": (7500, None),
}
_STEP_SAMPLES = 44  # samples: 1 ms
_TOGETHER_S = 0.045  # another onset so near hides this one's edge
_BACK_MS, _ON_MS, _RISE_MS = 28, 40, 4
_MIN_RISE = 0.8  # of the logarithm of the power
_MIN_ALONE = 5
_LEAK = 0.01  # of the greatest power near the onset
_MIN_MOVE_S = 0.006


class Onset(Protocol):
    @property
    def time(self) -> float: ...
    @property
    def part(self) -> str: ...
    @property
    def confidence(self) -> float: ...


AnOnset = TypeVar("AnOnset", bound=Onset)


def _band_of(part: str) -> str:
    if part == "kick":
        return "kick"
    if KIT[part].family in ("hat", "cymbal"):
        return "cymbal"
    return "snare" if part in ("snare", "cross_stick", "rimshot") else ""


def apart(heard: Sequence[AnOnset], path: str | Path) -> list[AnOnset]:
    """The same onsets, those that lie near one of another kind at the moment at which their own
    band rises. heard: dataclasses with a time, sorted. path: the sound, 44.1 kHz."""
    envelopes = _envelopes(path)
    times = np.array([h.time for h in heard])
    bands = [_band_of(h.part) for h in heard]
    sure = np.array([h.confidence > 0.3 for h in heard])
    lags: dict[str, list[float]] = {}
    hidden: list[int] = []
    for k, band in enumerate(bands):
        if not band:
            continue
        lo, hi = np.searchsorted(times, [times[k] - _TOGETHER_S, times[k] + _TOGETHER_S])
        if any(bands[j] != band and sure[j] for j in range(lo, hi)):
            hidden.append(k)
        elif (at := _rise(envelopes[band], times[k])) is not None and heard[k].confidence > 0.5:
            lags.setdefault(band, []).append(at - times[k])
    onsets_apart = list(heard)
    for k in hidden:
        delays = lags.get(bands[k], [])
        if len(delays) < _MIN_ALONE:
            continue
        at = _rise(envelopes[bands[k]], times[k])
        moved = None if at is None else at - float(np.median(delays))
        # Of two strokes that fall together the common edge is the more exact one.
        if moved is not None and abs(moved - times[k]) > _MIN_MOVE_S:
            onsets_apart[k] = replace(heard[k], time=moved)  # type: ignore[type-var]
    return sorted(onsets_apart, key=lambda h: h.time)


def _rise(envelope: np.ndarray, time: float) -> float | None:
    """Seconds at which the envelope rises most near a moment; None where it hardly does."""
    centre = round(time * RATE / _STEP_SAMPLES)
    lo = max(centre - _BACK_MS, _RISE_MS)
    hi = min(centre + _ON_MS, len(envelope) - _RISE_MS)
    if hi - lo < 8:
        return None
    near = envelope[lo - _RISE_MS : hi + _RISE_MS]
    # What leaks into the band from another drum is far below the drum's own body.
    level = np.log(near + _LEAK * near.max() + 1e-10)
    rise = level[2 * _RISE_MS :] - level[: -2 * _RISE_MS]
    best = int(np.argmax(rise))
    return (lo + best) * _STEP_SAMPLES / RATE if rise[best] > _MIN_RISE else None


def _envelopes(path: str | Path) -> dict[str, np.ndarray]:
    """Power by band, a value each millisecond."""
    filters = {
        name: butter(
            2,
            low if high is None else (low, high),
            "highpass" if high is None else "bandpass",
            fs=RATE,
            output="sos",
        )
        for name, (low, high) in _BANDS.items()
    }
    states = {name: np.zeros((len(sos), 2)) for name, sos in filters.items()}
    envelopes: dict[str, list[np.ndarray]] = {name: [] for name in filters}
    with sf.SoundFile(path) as file:
        for block in file.blocks(_STEP_SAMPLES * 20_000, dtype="float32", always_2d=True):
            mono = block.mean(axis=1)
            for name, sos in filters.items():
                out, states[name] = sosfilt(sos, mono, zi=states[name])
                rows = out[: len(out) // _STEP_SAMPLES * _STEP_SAMPLES].reshape(-1, _STEP_SAMPLES)
                envelopes[name].append((rows**2).mean(axis=1))
    return {name: np.concatenate(rows) for name, rows in envelopes.items()}
