"""A recording of one's practice, heard and laid beside the part: where its loops begin and how
fast they are, so that it can be judged like what comes in from pads.

Nothing tells where the click was: of how late all limbs are together nothing can be said, only of
each against the others.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import floor
from statistics import median

import numpy as np

from orchesis.errors import BadScore
from orchesis.score import Score
from orchesis.score.kit import PIECE
from orchesis.score.stroke import NOBODYS
from orchesis.teaching.judging import Played

LONGEST = 180.0  # seconds of a recording that are heard
_BIN = 0.01  # seconds
_NEAR = 0.06
_FACTORS = np.arange(0.85, 1.1501, 0.0025)  # of the stage's tempo
_FEWEST = 8  # strokes
_LEAST = 0.4  # share of the strokes that must fit


@dataclass(frozen=True)
class Laid:
    """played: seconds from the first 1, at the stage's own tempo. factor: by which it was played
    faster."""

    played: list[Played]
    factor: float


def laid(hits: Sequence[Played], score: Score) -> Laid:
    """What was heard, laid on loops of a part. hits: by the recording's own clock. Raises
    BadScore where the part is not to be found in it."""
    own = [s for s in score.played().ordered() if s.doubt not in NOBODYS]
    start, length = score.pulse.times[0], score.pulse.times[-1] - score.pulse.times[0]
    expected = [(score.played_at(s) - start, PIECE[s.part]) for s in own]
    heard = sorted(
        (Played(h.time, PIECE.get(h.part, h.part), h.loudness) for h in hits), key=lambda h: h.time
    )
    wanted = {piece for _, piece in expected}
    heard = [h for h in heard if h.part in wanted]
    if len(heard) < _FEWEST or not expected:
        raise BadScore("Too little of this part was heard in the recording.")
    best = (-1.0, 1.0, 0.0)
    for factor in _FACTORS:
        fits, phase = _phase(heard, expected, length, float(factor))
        best = max(best, (fits, float(factor), phase), key=lambda b: (b[0], -abs(b[1] - 1)))
    fits, factor, phase = best
    if fits < _LEAST * len(heard):
        raise BadScore(
            "This recording does not go with the stage: is it the right one, at its tempo?"
        )
    near = [off for h in heard if abs(off := _off(h, expected, length, factor, phase)) < _NEAR]
    base = phase + (median(near) if near else 0.0)
    # The recording may begin anywhere: what comes first lies in the first loop.
    base += length * floor((heard[0].time * factor - base) / length + 0.25)
    made = [Played(h.time * factor - base, h.part, h.loudness) for h in heard]
    return Laid([p for p in made if p.time > -_NEAR], factor)


def _off(
    h: Played, expected: Sequence[tuple[float, str]], length: float, factor: float, phase: float
) -> float:
    """Seconds from a stroke to the nearest expected one of its kind, late is +."""
    own = [
        (h.time * factor - phase - at + length / 2) % length - length / 2
        for at, piece in expected if piece == h.part
    ]  # fmt: skip
    return min(own, key=abs)


def _phase(
    heard: Sequence[Played], expected: Sequence[tuple[float, str]], length: float, factor: float
) -> tuple[float, float]:
    """(how many strokes fit, where a loop begins) if it was played faster by a factor: the
    fullest place of all distances between a stroke heard and one of its kind."""
    bins = np.zeros(max(8, round(length / _BIN)))
    for h in heard:
        for at, piece in expected:
            if piece == h.part:
                bins[int((h.time * factor - at) % length / length * len(bins)) % len(bins)] += 1
    smooth = bins + 0.7 * (np.roll(bins, 1) + np.roll(bins, -1))
    top = int(np.argmax(smooth))
    return float(smooth[top]), (top + 0.5) * length / len(bins)
