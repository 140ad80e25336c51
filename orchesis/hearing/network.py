"""The trained network: features in, onset strength and loudness of every class out.

The weights (ears.onnx) come from `python -m training`; see training/CARD.md.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import onnxruntime

from orchesis.hearing.spectrum import Spectrum, features
from orchesis.hearing.types import Report, silent

CLASSES = (
    "kick", "snare", "cross_stick", "hat_closed", "hat_open", "hat_foot", "ride", "ride_bell",
    "crash", "tom", "clap",
)  # fmt: skip
_PIECE = 3000  # frames heard at a time
_MARGIN = 300  # frames of context on either side: the reach of the network


@dataclass(frozen=True)
class Activity:
    """strength and loudness: (frames, classes), 0..1; pulse: (frames, 2) beat, downbeat."""

    strength: np.ndarray
    loudness: np.ndarray
    pulse: np.ndarray


@cache
def _session() -> onnxruntime.InferenceSession:
    options = onnxruntime.SessionOptions()
    # One thread gives the same sums in the same order on every machine.
    options.intra_op_num_threads = options.inter_op_num_threads = 1
    return onnxruntime.InferenceSession(
        str(Path(__file__).parent / "ears.onnx"), options, providers=["CPUExecutionProvider"]
    )


def hear(spectrum: Spectrum, *, report: Report = silent) -> Activity:
    """What the network hears in a song, piece by piece so that memory stays small."""
    sound = features(spectrum.bands, spectrum.short)
    parts = []
    for start in range(0, spectrum.frames, _PIECE):
        report("strokes", start / spectrum.frames)
        before = min(start, _MARGIN)
        piece = sound[None, :, start - before : start + _PIECE + _MARGIN]
        heard = _session().run(None, {"sound": piece})[0][0]
        parts.append(heard[before : before + min(_PIECE, spectrum.frames - start)])
    out = 1 / (1 + np.exp(-np.concatenate(parts)))
    n = len(CLASSES)
    return Activity(out[:, :n], out[:, n : 2 * n], out[:, 2 * n :])
