"""The first reading of a hearing, and the re-reading of strokes on another pulse."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import replace
from fractions import Fraction

from orchesis.hands import assign
from orchesis.hearing import Hearing
from orchesis.reading import dynamics, form, quantise
from orchesis.score import Meter, PulseMap, Score, Section, Stroke


def read(hearing: Hearing, *, title: str = "", artist: str = "") -> Score:
    """A first score of what was heard: every hit on a written place, in a limb's lane."""
    bars = hearing.beats[-1].bar - 1
    score = Score(
        meters=_meters(hearing, bars),
        pulse=PulseMap.of([b.time for b in hearing.beats]),
        sections=_sections(hearing, bars),
        title=title,
        artist=artist,
        ones=hearing.ones,
        sounding=hearing.sounding,
    )
    strokes = [
        Stroke(
            id=f"h{i + 1}",
            bar=1,
            place=Fraction(0),
            part=hit.part,
            loudness=hit.loudness,
            ornament=hit.ornament,
            time=hit.time,
            confidence=hit.confidence,
            origin="heard",
        )
        for i, hit in enumerate(hearing.hits)
    ]
    placed = reread(replace(score, strokes={s.id: s for s in strokes}))
    placed = placed.with_strokes(assign(dynamics.classed(placed.strokes.values())))
    proposed = form.names(placed, hearing.levels)
    named = (replace(s, name=n) for s, n in zip(placed.sections, proposed, strict=True))
    return replace(placed, sections=tuple(named))


_OUTSIDE = 0.6  # beats before bar 1 or behind the last bar that still belong to it


def reread(
    score: Score, keep: frozenset[str] = frozenset(), closed: frozenset[int] = frozenset()
) -> Score:
    """The strokes that have a moment, written anew on the score's pulse.

    keep: ids of strokes that stay where they are written. closed: bars that take no others.
    Two strokes of one part that fall on one place become one, the louder. A person's stroke
    that loses its place so, and strokes in closed bars or outside the bars, are set aside.
    """
    timed = [s for s in score.strokes.values() if s.time is not None and s.id not in keep]
    positions = [score.pulse.beat(s.time or 0.0) for s in timed]
    starts = score.bar_beats()
    beats = starts[-1]
    times = score.pulse.times
    periods, bars = [], []
    for p in positions:
        k = min(max(int(p), 0), beats - 1)
        periods.append(times[k + 1] - times[k])
        bars.append(bisect_right(starts, k))
    heard = [p for p, s in zip(positions, timed, strict=True) if s.part != "kick"]
    swing = quantise.swing_of(heard)
    written = quantise.places(positions, periods, bars, swing)
    made: dict[tuple[int, Fraction, str], Stroke] = {
        (s.bar, s.place, s.part): s
        for s in score.strokes.values()
        if s.time is None or s.id in keep
    }
    fixed = set(made)
    aside = list(score.aside)
    for s, position, beat in zip(timed, positions, written, strict=True):
        if not -_OUTSIDE <= position <= beats + _OUTSIDE:
            aside.append(s)
            continue
        inside = min(max(beat, Fraction(0)), Fraction(beats) - Fraction(1, 8))
        bar = bisect_right(starts, int(inside))
        if bar in closed:
            aside.append(s)
            continue
        key = (bar, inside - starts[bar - 1], s.part)
        rival = made.get(key)
        loser: Stroke | None = s
        if rival is None or (key not in fixed and _outranks(s, rival)):
            made[key] = s.changed(bar=key[0], place=key[1])
            loser = rival
        if loser is not None and loser.origin == "written":
            aside.append(loser)  # a person's stroke is never lost, only set aside
    return replace(score, strokes={s.id: s for s in made.values()}, swing=swing, aside=tuple(aside))


def _outranks(s: Stroke, rival: Stroke) -> bool:
    return (s.origin == "written", s.loudness) > (rival.origin == "written", rival.loudness)


def _meters(hearing: Hearing, bars: int) -> tuple[Meter, ...]:
    changes = {m.bar: Meter(m.beats, m.unit) for m in hearing.meters}
    made: list[Meter] = []
    for bar in range(1, bars + 1):
        made.append(changes.get(bar) or made[-1])
    return tuple(made)


def _sections(hearing: Hearing, bars: int) -> tuple[Section, ...]:
    made = tuple(
        Section(f"sec{i + 1}", s.label, s.label, s.first_bar, s.bars)
        for i, s in enumerate(hearing.sections)
    )
    return made or (Section("sec1", "A", "A", 1, bars),)
