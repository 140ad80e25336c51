"""Corrections of the pulse: halve, double, shift the 1, change the meter.

The strokes keep their seconds and are read anew on the new grid; what a person wrote
keeps its moment too, so that nothing is lost by finding the right pulse.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

from orchesis.errors import BadEdit, BadScore
from orchesis.reading.read import reread
from orchesis.score import Meter, PulseMap, Score, Section
from orchesis.score.edits import Operation

_FASTEST, _SLOWEST = 320.0, 25.0


def halve_tempo(score: Score, _args: Mapping[str, Any]) -> Score:
    """Every second beat goes: 180 becomes 90."""
    times = score.pulse.times[::2]
    if len(times) < 3 or score.pulse.tempo()[0] / 2 < _SLOWEST:
        raise BadEdit("The tempo can't be halved any further.")
    return _on_pulse(score, list(times), score.meters[0])


def double_tempo(score: Score, _args: Mapping[str, Any]) -> Score:
    """A beat more between any two: 90 becomes 180."""
    if score.pulse.tempo()[0] * 2 > _FASTEST:
        raise BadEdit("The tempo can't be doubled any further.")
    times = [t for a, b in pairwise(score.pulse.times) for t in (a, (a + b) / 2)]
    return _on_pulse(score, [*times, score.pulse.times[-1]], score.meters[0])


def shift_one(score: Score, args: Mapping[str, Any]) -> Score:
    """beats: how many felt beats later (positive) or earlier the 1 falls."""
    beats = args.get("beats")
    if not isinstance(beats, int) or isinstance(beats, bool) or not 0 < abs(beats) < 16:
        raise BadEdit("Say by how many beats the 1 is to move (1 to 15, either way).")
    times = list(score.pulse.times)
    meter = score.meters[0]
    first = times[1] - times[0]
    beats %= meter.beats
    if beats:  # the beats before the new 1 become the end of a bar that begins earlier
        times = [times[0] - first * k for k in range(meter.beats - beats, 0, -1)] + times
    sounding = min((s.time for s in score.strokes.values() if s.time is not None), default=None)
    if sounding is not None:
        while len(times) > 2 * meter.beats and times[meter.beats] <= sounding - 0.25 * first:
            times = times[meter.beats :]
    return _on_pulse(score, times, meter)


def set_meter(score: Score, args: Mapping[str, Any]) -> Score:
    """meter: the signature of the whole song, “3/4”."""
    try:
        meter = Meter.parse(str(args.get("meter")))
    except BadScore as problem:
        raise BadEdit(str(problem)) from None
    return _on_pulse(score, list(score.pulse.times), meter)


PULSE_OPERATIONS: dict[str, Operation] = {
    f.__name__: f for f in (halve_tempo, double_tempo, shift_one, set_meter)
}


def _on_pulse(score: Score, times: list[float], meter: Meter) -> Score:
    """The score on new beats of one meter; every stroke and border keeps its moment."""
    end = times[-1] - times[-2]
    while (len(times) - 1) % meter.beats:
        times.append(times[-1] + end)
    bars = (len(times) - 1) // meter.beats
    moments = {
        s.id: s if s.time is not None else s.changed(time=score.seconds(s.bar, s.place))
        for s in score.strokes.values()
    }
    starts = [(s, score.seconds(s.first_bar)) for s in score.sections]
    grid = replace(
        score,
        meters=(meter,) * bars,
        pulse=PulseMap.of(times),
        strokes=moments,
        sections=(),
    )
    return replace(reread(_empty_placed(grid)), sections=_resectioned(grid, starts))


def _empty_placed(score: Score) -> Score:
    """Strokes wait on bar 1 until they are read, so that no old bar number is left over."""
    waiting = {k: s.changed(bar=1, place=Fraction(0)) for k, s in score.strokes.items()}
    return replace(score, strokes=waiting)


def _resectioned(score: Score, starts: list[tuple[Section, float]]) -> tuple[Section, ...]:
    bar_times = [score.seconds(b) for b in range(1, score.bar_count + 1)]
    firsts: dict[int, Section] = {}
    for section, moment in starts:
        nearest = min(range(score.bar_count), key=lambda b: abs(bar_times[b] - moment)) + 1
        firsts.setdefault(nearest if firsts else 1, section)
    order = sorted(firsts)
    return tuple(
        replace(firsts[first], first_bar=first, bars=following - first)
        for first, following in pairwise([*order, score.bar_count + 1])
    )
