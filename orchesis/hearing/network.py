"""The trained networks: what the onset model hears in each frame, and the pulse read from strokes.

The weights (onset_model.onnx, pulse.onnx) come from `python -m training` and `python -m
training.pulse`; see training/CARD.md.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import onnxruntime

from orchesis.hearing.ordered_map import in_order
from orchesis.hearing.spectrum import BANDS, Spectrum, features, level_of
from orchesis.hearing.types import Report, silent

CLASSES = (
    "kick",
    "snare",
    "cross_stick",
    "hat_closed",
    "hat_open",
    "hat_foot",
    "ride",
    "ride_bell",
    "crash",
    "splash",
    "china",
    "tom",
    "clap",
    "shaker",
    "tambourine",
    "cowbell",
    "block",
)
ORNAMENTS = ("flam", "drag", "buzz")
#: The network's loudness 0..1 is a level of FLOOR to FLOOR + SPAN dB against the whole mix.
FLOOR, SPAN = -45.0, 60.0
_PIECE = 2000  # frames heard at a time
_MARGIN = 300  # frames of context on either side: the reach of the network
_PULSE_PIECE, _PULSE_MARGIN = 6000, 1100


def heard_class(part: str) -> str:
    """The class that a kit part is heard as."""
    return "tom" if part.startswith("tom") else "hat_open" if part == "hat_half" else part


@dataclass(frozen=True)
class Activity:
    """What was heard in each frame of 10 ms, all 0..1.

    strength: (frames, classes) how surely each class begins there; level: (frames, classes)
    its level (see FLOOR); openness: (frames,) of a hat; ornaments: (frames, 3); mask: (frames,
    BANDS) the drums' share of the power.
    """

    strength: np.ndarray
    level: np.ndarray
    openness: np.ndarray
    ornaments: np.ndarray
    mask: np.ndarray


@cache
def _session(name: str) -> onnxruntime.InferenceSession:
    options = onnxruntime.SessionOptions()
    # One thread gives the same sums in the same order on every machine.
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    return onnxruntime.InferenceSession(
        str(Path(__file__).parent / name), options, providers=["CPUExecutionProvider"]
    )


def _share(logits: np.ndarray) -> np.ndarray:
    return (1 / (1 + np.exp(-logits))).astype(np.float32)


def hear(spectrum: Spectrum, *, report: Report = silent) -> Activity:
    """What the onset model hears in a song, piece by piece so that memory stays small."""
    level = level_of(spectrum.bands)
    heard = np.empty((spectrum.frames, 2 * len(CLASSES) + 1 + len(ORNAMENTS)), np.float32)
    mask = np.empty((spectrum.frames, BANDS), np.float16)

    def listen(start: int) -> None:
        before = min(start, _MARGIN)
        span = slice(start - before, start + _PIECE + _MARGIN)
        sound = features(spectrum.bands[span], spectrum.short[span], level)
        logits, share = _session("onset_model.onnx").run(None, {"sound": sound[None]})
        size = min(_PIECE, spectrum.frames - start)
        heard[start : start + size] = _share(logits[0][before : before + size])
        mask[start : start + size] = _share(share[0][before : before + size])

    starts = range(0, spectrum.frames, _PIECE)
    for start, _ in zip(starts, in_order(listen, starts), strict=True):
        report("strokes", start / spectrum.frames)
    n = len(CLASSES)
    return Activity(heard[:, :n], heard[:, n : 2 * n], heard[:, 2 * n], heard[:, 2 * n + 1 :], mask)


def read_pulse(grid: np.ndarray) -> np.ndarray:
    """(3 + BINS, frames of 20 ms) of a grid (ROWS, frames): beat, one, ternary 0..1, then the
    chances of the tempi (orchesis/hearing/tempo_bins.py), which sum to 1."""
    frames = grid.shape[1]
    parts = []
    for start in range(0, frames, _PULSE_PIECE):
        before = min(start, _PULSE_MARGIN)
        piece = grid[None, :, start - before : start + _PULSE_PIECE + _PULSE_MARGIN]
        heard = _session("pulse.onnx").run(None, {"grid": piece})[0][0]
        parts.append(heard[:, before : before + min(_PULSE_PIECE, frames - start)])
    out = np.concatenate(parts, axis=1)
    chances = np.exp(out[3:] - out[3:].max(axis=0))
    return np.concatenate([_share(out[:3]), chances / chances.sum(axis=0)])
