"""Hits on written places: the bars, sections and strokes of a first score, without limbs."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import replace
from fractions import Fraction

from orchesis.hearing import Hearing, Hit
from orchesis.placing import dynamics, quantise
from orchesis.placing.requantise import requantise
from orchesis.score import Measured, Meter, Perhaps, PulseMap, Score, Section, Stroke
from orchesis.score.kit import HAT_PARTS


def place(hearing: Hearing, *, title: str = "", artist: str = "") -> Score:
    """A first score of what was heard: every hit on a written place, with its loudness class.

    Limbs are the default ones, and sections bear their labels for names.
    """
    bars = hearing.beats[-1].bar - 1
    score = Score(
        meters=_meters(hearing, bars),
        pulse=PulseMap.of([b.time for b in hearing.beats]),
        sections=_sections(hearing, bars),
        title=title,
        artist=artist,
        ones=hearing.ones,
        sounding=hearing.sounding,
        perhaps=tuple(
            Perhaps(h.part, Measured(h.time, h.level, _openness(h)), h.loudness, h.confidence)
            for h in hearing.perhaps
        ),
    )
    strokes = [
        Stroke(
            id=f"h{i + 1}",
            bar=1,
            place=Fraction(0),
            part=hit.part,
            loudness=hit.loudness,
            ornament=hit.ornament,
            measured=Measured(hit.time, hit.level, _openness(hit)),
            confidence=hit.confidence,
            placed_by="heard",
        )
        for i, hit in enumerate(hearing.hits)
    ]
    moments = {s.id: hit.time for s, hit in zip(strokes, hearing.hits, strict=True)}
    placed = requantise(replace(score, strokes={s.id: s for s in strokes}), moments)
    return placed.with_strokes(dynamics.classed(placed.strokes.values()))


def nearest_place(score: Score, moment: float) -> tuple[int, Fraction]:
    """The bar and the place in it (beats) nearest to a moment (seconds); moments outside the bars
    go to the first or the last of them."""
    starts = score.bar_beats()
    beat = quantise.nearest(score.pulse.beat(moment), score.swing)
    inside = min(max(beat, Fraction(0)), Fraction(starts[-1]) - Fraction(1, 8))
    bar = bisect_right(starts, int(inside))
    return bar, inside - starts[bar - 1]


def _openness(hit: Hit) -> float | None:
    return hit.openness if hit.part in HAT_PARTS else None


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
