"""How much one correction mends: the engine is made to err, then one key is pressed.

Each error is forced inside hearing (the tempo path doubled or halved, the bars laid beats too
late), so that what follows is what a user would meet; then one operation of
orchesis/correcting/pulse_edits.py is applied. Right is a song whose beats and ones are, after it, as
good as they were without the error.
"""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from unittest.mock import patch

import numpy as np

from materials.measures import f_measure
from orchesis.correcting.pulse_edits import DoubleTempo, HalveTempo, SetOne
from orchesis.editing import apply
from orchesis.errors import OrchesisError
from orchesis.hearing import hits, network, pulse, spectrum, take_in
from orchesis.hearing.types import Hearing
from orchesis.score import Score
from orchesis.transcribing import transcribe

_AS_GOOD = 0.03


@contextmanager
def made_to_err(kind: str) -> Iterator[None]:
    """Inside, the engine reads the pulse wrongly in one way."""
    path, bars = pulse.tempo_path, pulse.bars_of
    if kind in ("double", "half"):
        factor = 2.0 if kind == "double" else 0.5

        def wrong(felt: pulse.TempoActivation) -> np.ndarray:
            return path(felt) * factor

        with patch.object(pulse, "tempo_path", wrong):
            yield
    else:
        late = 1 if kind == "one beat late" else 2

        def shifted(one: np.ndarray) -> list[int]:
            found = [k + late for k in bars(one)]
            return [k for k in found if k < len(one)]

        with patch.object(pulse, "bars_of", shifted):
            yield


def _score(
    path: Path, seen: spectrum.Spectrum, activity: network.Activity, seconds: float
) -> Score:
    strokes = hits.Listener(seen, activity).hits()
    found = pulse.find(seen, activity, strokes)
    return transcribe(
        Hearing(
            seconds,
            44100,
            found.tempo,
            found.meters,
            found.beats,
            tuple(strokes),
            (),
            ones=found.ones,
            sounding=found.sounding,
        )
    )


def _right(score: Score, truth: dict) -> tuple[float, float]:
    bars = score.bar_beats()
    ones = [score.pulse.times[k] for k in bars[:-1]]
    beats = [b["time"] for b in truth["beats"]]
    return (
        f_measure(beats, list(score.pulse.times[:-1]), 0.07),
        f_measure([b["time"] for b in truth["beats"] if b["beat"] == 1], ones, 0.07),
    )


def _corrected(score: Score, kind: str, truth: dict) -> Score:
    """One operation, as a user would choose it who knows where the true ones are."""
    if kind == "double":
        return apply(score, HalveTempo())[0]
    if kind == "half":
        return apply(score, DoubleTempo())[0]
    ones = [b["time"] for b in truth["beats"] if b["beat"] == 1]
    moment = ones[len(ones) // 3]
    beat = round(score.pulse.beat(moment))
    starts = score.bar_beats()
    bar = max(b for b, s in enumerate(starts[:-1], 1) if s <= beat)
    return apply(score, SetOne(bar=bar, beat=beat - starts[bar - 1] + 1))[0]


def score_of(path: Path) -> Score:
    """A song as it is heard and read."""
    with tempfile.TemporaryDirectory() as folder:
        intake = take_in(path, Path(folder) / "s.flac")
        seen = spectrum.measure(intake.path, intake.duration)
    return _score(path, seen, network.hear(seen), intake.duration)


def run(paths: list[Path]) -> list[str]:
    """Lines for bench/RESULTS.md."""
    rows = []
    for path in paths:
        truth = json.loads((path.parent / f"{path.stem}.truth.json").read_text())
        with tempfile.TemporaryDirectory() as folder:
            intake = take_in(path, Path(folder) / "s.flac")
            seen = spectrum.measure(intake.path, intake.duration)
        activity = network.hear(seen)
        plain = _right(_score(path, seen, activity, intake.duration), truth)
        for kind in ("double", "half", "one beat late", "two beats late"):
            with made_to_err(kind):
                wrong = _score(path, seen, activity, intake.duration)
            if all(a >= p - _AS_GOOD for a, p in zip(_right(wrong, truth), plain, strict=True)):
                continue  # it did not err
            try:
                after = _right(_corrected(wrong, kind, truth), truth)
            except OrchesisError:
                after = (0.0, 0.0)
            good = all(a >= p - _AS_GOOD for a, p in zip(after, plain, strict=True))
            rows.append((path.stem, kind, *_right(wrong, truth), *after, good))
    right = sum(r[-1] for r in rows)
    lines = [
        "## One correction\n",
        f"{right} of {len(rows)} songs with a forced error are as right after one correction as "
        "without the error. The others:\n",
        "| song | error | beats | ones | beats after | ones after |",
        "|---|---|---|---|---|---|",
    ]
    lines += [
        f"| {name} | {kind} | {a:.2f} | {b:.2f} | {c:.2f} | {d:.2f} |"
        for name, kind, a, b, c, d, good in rows
        if not good
    ]
    return [*lines, ""]
