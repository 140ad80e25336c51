"""The written part as sound: one-shots of our own kit, mixed by adding.

The browser sounds strokes by the same rule (web/src/audio/kit.ts): the layer whose
velocity is nearest, scaled by (loudness / velocity) squared, times the part's gain; every
stroke of the hat stops the one before it, and a hand stops what is choked.
"""

from __future__ import annotations

import json
from bisect import bisect_right
from collections.abc import Iterable
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import soundfile as sf

from orchesis.score import KIT
from orchesis.score.kit import HAT_PARTS

KIT_FOLDER = Path(__file__).parent / "kit"
RATE = 44100

#: Seconds in which a sound that is stopped dies away; seconds after which a hand has stopped a
#: choked one; seconds by which a hat must come later than another to stop it.
FADE, HELD, APART = 0.03, 0.11, 0.005
_FADE = int(FADE * RATE)


@cache
def _table() -> dict[str, list[dict]]:
    return json.loads((KIT_FOLDER / "kit.json").read_text())


@cache
def _sound(file: str) -> np.ndarray:
    return sf.read(KIT_FOLDER / file, dtype="float32")[0]


def layer_for(part: str, loudness: float) -> tuple[str, float]:
    """File and gain that sound a part at a loudness (0..1)."""
    layers = _table()[KIT[part].sample]
    layer = min(layers, key=lambda x: abs(x["velocity"] - loudness))
    gain = (loudness / layer["velocity"]) ** 2 * KIT[part].gain
    return layer["file"], gain


def render(strokes: Iterable[tuple[Any, ...]], seconds: float) -> np.ndarray:
    """Mono sound, shape (samples,), of strokes given as (seconds, part, loudness 0..1) and, where
    a hand may stop them, whether it does."""
    mix = np.zeros(int(seconds * RATE) + RATE * 3, dtype=np.float32)
    ordered = sorted(strokes)
    hats = [time for time, part, *_ in ordered if part in HAT_PARTS]
    for time, part, loudness, *choked in ordered:
        file, gain = layer_for(part, loudness)
        sound = _sound(file) * np.float32(gain)
        stop = HELD if any(choked[:1]) else None
        if part in HAT_PARTS:
            i = bisect_right(hats, time + APART)
            if i < len(hats):
                stop = min(hats[i] - time, stop or hats[i] - time)
        if stop is not None:
            sound = _stopped(sound, int(stop * RATE))
        at = round(time * RATE)
        if at >= 0:
            end = min(at + len(sound), len(mix))
            mix[at:end] += sound[: end - at]
    return mix[: int(seconds * RATE)]


def _stopped(sound: np.ndarray, after: int) -> np.ndarray:
    """A sound that dies away from a sample on."""
    end = after + _FADE
    if end >= len(sound):
        return sound
    cut = sound[:end].copy()
    cut[after:] *= np.linspace(1, 0, _FADE, dtype=np.float32)
    return cut
