"""Strokes that have a moment, written anew on the places of a score's pulse."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction

from orchesis.placing import quantise
from orchesis.score import Score, Stroke, UnplacedStroke

_OUTSIDE_BEATS = 0.6  # beats before bar 1 or behind the last bar that still belong to it


def requantise(
    score: Score, moments: Mapping[str, float], closed: frozenset[int] = frozenset()
) -> Score:
    """Strokes written anew on the score's pulse by their moments.

    moments: seconds by id; strokes without one stay where they are written. closed: bars that
    take no others. Two strokes of one part that fall on one place become one, the louder. A
    person's stroke that loses its place so, and strokes in closed bars or outside the bars, are
    set aside.
    """
    timed = [s for s in score.strokes.values() if s.id in moments]
    positions = [score.pulse.beat(moments[s.id]) for s in timed]
    starts = score.bar_beats()
    beats = starts[-1]
    times = score.pulse.times
    periods, bars = [], []
    for p in positions:
        k = min(max(int(p), 0), beats - 1)
        periods.append(times[k + 1] - times[k])
        bars.append(bisect_right(starts, k))
    hands = [p for p, s in zip(positions, timed, strict=True) if s.part != "kick"]
    swing = score.swing if score.swing_is_said else quantise.swing_of(hands)
    written = quantise.places(positions, periods, bars, swing)
    strokes: dict[tuple[int, Fraction, str], Stroke] = {
        (s.bar, s.place, s.part): s for s in score.strokes.values() if s.id not in moments
    }
    fixed = set(strokes)
    aside = list(score.aside)
    for s, position, beat in zip(timed, positions, written, strict=True):
        if not -_OUTSIDE_BEATS <= position <= beats + _OUTSIDE_BEATS:
            aside.append(UnplacedStroke(s, moments[s.id]))
            continue
        inside = min(max(beat, Fraction(0)), Fraction(beats) - Fraction(1, 8))
        bar = bisect_right(starts, int(inside))
        if bar in closed:
            aside.append(UnplacedStroke(s, moments[s.id]))
            continue
        key = (bar, inside - starts[bar - 1], s.part)
        rival = strokes.get(key)
        loser: Stroke | None = s
        if rival is None or (key not in fixed and _outranks(s, rival)):
            strokes[key] = s.changed(bar=key[0], place=key[1])
            loser = rival
        if loser is not None and loser.placed_by == "person":
            # A person's stroke is never lost, only set aside.
            aside.append(UnplacedStroke(loser, moments.get(loser.id, moments[s.id])))
    return replace(
        score, strokes={s.id: s for s in strokes.values()}, swing=swing, aside=tuple(aside)
    )


def swing_heard(score: Score) -> tuple[str, float]:
    """The swing of the strokes that were heard."""
    hands = [s for s in score.strokes.values() if s.time is not None and s.part != "kick"]
    return quantise.swing_of([score.pulse.beat(s.time or 0.0) for s in hands])


def nearest_place(score: Score, moment: float) -> tuple[int, Fraction]:
    """The bar and the place in it (beats) nearest to a moment (seconds); moments outside the bars
    go to the first or the last of them."""
    starts = score.bar_beats()
    beat = quantise.nearest(score.pulse.beat(moment), score.swing)
    inside = min(max(beat, Fraction(0)), Fraction(starts[-1]) - Fraction(1, 8))
    bar = bisect_right(starts, int(inside))
    return bar, inside - starts[bar - 1]


def _outranks(s: Stroke, rival: Stroke) -> bool:
    return (s.placed_by == "person", s.loudness) > (rival.placed_by == "person", rival.loudness)
