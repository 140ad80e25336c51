"""Hits on written places: the bars, sections and strokes of a first score, without limbs."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from orchesis.hearing import Hearing, Hit
from orchesis.placing import dynamics
from orchesis.placing.requantise import requantise
from orchesis.score import CandidateHit, KitSound, Measured, Meter, PulseMap, Score, Section, Stroke
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
        evidence=hearing.evidence,
        perhaps={
            p.id: p
            for p in (
                CandidateHit(f"p{k}", h.part, _measured(h), h.loudness, h.confidence)
                for k, h in enumerate(hearing.perhaps, 1)
            )
        },
        sounds=tuple(
            KitSound(
                s.sound,
                s.part,
                picture=s.picture,
                halves=(s.first_half, s.second_half) if s.second_half else (),
            )
            for s in hearing.sounds
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
            measured=_measured(hit),
            confidence=hit.confidence,
            placed_by="heard",
        )
        for i, hit in enumerate(hearing.hits)
    ]
    moments = {s.id: hit.time for s, hit in zip(strokes, hearing.hits, strict=True)}
    placed = requantise(replace(score, strokes={s.id: s for s in strokes}), moments)
    return placed.with_strokes(dynamics.classed(placed.strokes.values()))


def _measured(hit: Hit) -> Measured:
    openness = hit.openness if hit.part in HAT_PARTS else None
    return Measured(hit.time, hit.level, openness, hit.sound, hit.half)


def _meters(hearing: Hearing, bars: int) -> tuple[Meter, ...]:
    changes = {m.bar: Meter(m.beats, m.unit) for m in hearing.meters}
    meters: list[Meter] = []
    for bar in range(1, bars + 1):
        meters.append(changes.get(bar) or meters[-1])
    return tuple(meters)


def _sections(hearing: Hearing, bars: int) -> tuple[Section, ...]:
    sections = tuple(
        Section(f"sec{i + 1}", s.label, s.label, s.first_bar, s.bars)
        for i, s in enumerate(hearing.sections)
    )
    return sections or (Section("sec1", "A", "A", 1, bars),)
