"""The written part as sound: one-shots of our own kit, mixed by adding.

The browser sounds strokes by the same rule (web/src/audio/kit.ts): the layer whose
velocity is nearest, scaled by (loudness / velocity) squared, times the part's gain; a
closed or foot hat stops an open one.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from functools import cache
from pathlib import Path

import numpy as np
import soundfile as sf

from orchesis.score import KIT
from orchesis.score.kit import HAT_PARTS

KIT_FOLDER = Path(__file__).parent / "kit"
RATE = 44100

_CHOKE = int(0.03 * RATE)


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


def render(strokes: Iterable[tuple[float, str, float]], seconds: float) -> np.ndarray:
    """Mono sound, shape (samples,), of strokes given as (seconds, part, loudness 0..1)."""
    mix = np.zeros(int(seconds * RATE) + RATE * 3, dtype=np.float32)
    ordered = sorted(strokes)
    hats = [time for time, part, _ in ordered if part in HAT_PARTS]
    for time, part, loudness in ordered:
        file, gain = layer_for(part, loudness)
        sound = _sound(file) * np.float32(gain)
        if part in HAT_PARTS:
            stop = next((t for t in hats if t > time + 0.005), None)
            length = None if stop is None else int((stop - time) * RATE) + _CHOKE
            if length is not None and length < len(sound):
                sound = sound[:length].copy()
                sound[-_CHOKE:] *= np.linspace(1, 0, _CHOKE, dtype=np.float32)
        at = round(time * RATE)
        if at >= 0:
            end = min(at + len(sound), len(mix))
            mix[at:end] += sound[: end - at]
    return mix[: int(seconds * RATE)]
