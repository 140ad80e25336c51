"""How well the strokes and the pulse agree, bar by bar."""

from __future__ import annotations

from collections.abc import Sequence
from math import exp, log
from statistics import median

from orchesis.score import Meter, PulseMap, Score, Stroke
from orchesis.score.bar import of_bar

_ON_THE_BEAT_S = 0.035  # seconds from a beat within which a stroke lies on it
_OFF = 0.033  # seconds from which on a bar's strokes lie elsewhere, on the whole


@of_bar
def _off(strokes: Sequence[Stroke], pulse: PulseMap, first: int) -> list[tuple[bool, float]]:
    """(whether on a beat, seconds from its place) of each stroke that was measured, of a bar
    that begins at beat ``first`` of the song."""
    return [
        (s.place.denominator == 1, abs(s.time - pulse.seconds(first + float(s.place))))
        for s in strokes
        if s.time is not None
    ]


def disagreeing(score: Score) -> list[int]:
    """Confirmed bars whose strokes sound elsewhere than on their places by now: most of them by
    more than a thirtieth of a second and an eighth of a beat."""
    bars = []
    for bar in sorted(score.confirmed):
        beat = (score.seconds(bar + 1) - score.seconds(bar)) / score.meters[bar - 1].beats
        off = [x for _, x in _off(score.strokes_of(bar), score.pulse, score.start_of(bar))]
        if off and median(off) > max(_OFF, beat / 8):
            bars.append(bar)
    return bars


def pulse_confidence(score: Score) -> list[float]:
    """How well the strokes of each bar lie on its beats, 0..1; 0.5 where nothing sounds.

    From the strokes on the beats and half-beats, and from how much the tempo jumps there.
    """
    return [
        _confidence(score.strokes_of(bar), score.pulse, score.start_of(bar), meter)
        for bar, meter in enumerate(score.meters, 1)
    ]


@of_bar
def _confidence(strokes: Sequence[Stroke], pulse: PulseMap, first: int, meter: Meter) -> float:
    off = [x for is_on, x in _off(strokes, pulse, first) if is_on]
    near = sum(x < _ON_THE_BEAT_S for x in off) / len(off) if off else 0.5
    struck = min(1.0, len(off) / max(1, meter.beats))
    calm = exp(-8 * max(_jump(pulse, beat) for beat in range(first, first + meter.beats)))
    return round(calm * (0.5 + (near - 0.5) * struck if off else 0.5), 2)


def _jump(pulse: PulseMap, beat: int) -> float:
    """By how much (log of the ratio) a beat is longer or shorter than the one before it."""
    if beat == 0:
        return 0.0
    before, start, end = pulse.times[beat - 1 : beat + 2]
    return abs(log((end - start) / (start - before)))
