"""The hardest beat of some bars, and the limb that goes most like a clock."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.hands import difficulty
from orchesis.score import KIT, Score, Stroke
from orchesis.score.stroke import LIMBS

_WINDOW = 1  # beats of the hardest place


@dataclass(frozen=True)
class Place:
    """A beat of a bar; total: its difficulty, 0..10."""

    bar: int
    place: Fraction
    total: float


def hardest(score: Score, bars: Sequence[int]) -> Place:
    """The beat of some bars that is hardest, taken with what leads into it."""
    best = Place(bars[0], Fraction(0), -1.0)
    for bar in bars:
        strokes = difficulty.played(score, [bar])
        for beat in range(score.meters[bar - 1].beats):
            strokes_here = [s for s in strokes if beat <= s.place < beat + _WINDOW]
            lead = [s for s in strokes if beat - Fraction(1, 2) <= s.place < beat]
            total = _hard(score, strokes_here) + 0.15 * _hard(score, lead)
            if strokes_here and total > best.total + 1e-9:
                best = Place(bar, Fraction(beat), total)
    return best


def _hard(score: Score, strokes: Sequence[Stroke]) -> float:
    """How much one beat asks: off-beat strokes of the other limbs, soft beside loud, ornaments, how
    fine it is."""
    if not strokes:
        return 0.0
    lead = steadiest(strokes)
    total = 0.35 * max(s.place.denominator for s in strokes)
    for s in strokes:
        off = {1: 0.1, 2: 0.5, 3: 0.9, 4: 1.2}.get(s.place.denominator, 1.5)
        total += off * (0.2 if s.limb == lead else 1.0)
        total += 0.8 * (s.dynamic == "ghost") + 1.2 * (s.ornament is not None)
        total += 1.0 * (s.part in ("hat_open", "hat_half"))
    return total


def steadiest(strokes: Sequence[Stroke]) -> str:
    """The limb that goes most like a clock: the one with most strokes, the time hand first."""
    strokes_of_limb = {limb: [s for s in strokes if s.limb == limb] for limb in LIMBS}
    times = {
        limb for limb, x in strokes_of_limb.items() if any(KIT[s.part].role == "time" for s in x)
    }
    return max(
        strokes_of_limb, key=lambda limb: (len(strokes_of_limb[limb]), limb in times, limb == "RH")
    )
