"""Grooves with real ghosts and grooves through a delay, as hearing would time them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

import numpy as np

from orchesis.checks.echo import echoes
from orchesis.score import Measured, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import class_of

_BARS = 16
_NOISE_MS, _NOISE_DB = 1.0, 0.8  # of a measured onset and level


def _groove(rng: np.random.Generator, with_ghosts: bool) -> tuple[Score, list[Stroke]]:
    """A humanly played groove: backbeats, perhaps ghosts behind every one of them."""
    bpm = float(rng.uniform(76, 124))
    drift = rng.choice([0.0, 0.0, 0.015])
    steps = np.full(_BARS * 4, 60 / bpm) * (
        1 + drift * np.sin(np.linspace(0, 2 * np.pi, _BARS * 4))
    )
    pulse = PulseMap.of(np.concatenate([[0.5], 0.5 + np.cumsum(steps)]).tolist())
    score = Score((Meter(),) * _BARS, pulse, sections=(Section("a", "Verse", "A", 1, _BARS),))
    full = [Fraction(1), Fraction(3)] + ([Fraction(5, 2)] if rng.random() < 0.3 else [])
    choices = [Fraction(k, 4) for k in (3, 5, 7, 9, 11, 13, 15)]
    soft = sorted(rng.choice(len(choices), size=3, replace=False)) if with_ghosts else []
    behind = rng.random() < 0.4  # a ghost behind every backbeat: hardest to tell
    ghosts = [choices[k] for k in soft]
    if with_ghosts and behind:
        gap = Fraction(int(rng.choice([1, 2, 3])), 4)
        ghosts = [p + gap for p in full if p + gap < 4]
    hand, own = rng.uniform(3.5, 7), rng.uniform(4, 8)
    late, level = rng.uniform(-4, 10), rng.uniform(0.26, 0.38)
    made = []
    for bar in range(1, _BARS + 1):
        for place, is_ghost in [(p, False) for p in full] + [(p, True) for p in ghosts]:
            if is_ghost and rng.random() < 0.05:
                continue
            off = late + rng.normal(0, own if is_ghost else hand)
            loud = rng.normal(level, 0.03) if is_ghost else rng.normal(0.85, 0.05)
            made.append(
                Stroke(
                    f"s{len(made)}",
                    bar,
                    place,
                    "snare",
                    dynamic="ghost" if is_ghost else "normal",
                    loudness=float(np.clip(loud, 0.12, 1.0)),
                    measured=Measured(score.seconds(bar, place) + off / 1000),
                    placed_by="heard",
                )
            )
    return score, made


def _measured(strokes: Iterable[Stroke], score: Score, rng: np.random.Generator) -> Score:
    """What hearing would make of them: noise on time and level, places by the nearest 16th."""
    made = []
    for n, s in enumerate(strokes):
        time = (s.time or 0.0) + rng.normal(0, _NOISE_MS) / 1000
        beat = Fraction(round(score.pulse.beat(time) * 4), 4)
        bar, place = divmod(beat, 4)
        if not 0 <= bar < _BARS:
            continue
        loud = float(np.clip(s.loudness * 10 ** (rng.normal(0, _NOISE_DB) / 40), 0.05, 1))
        made.append(
            replace(
                s,
                id=f"h{n}",
                bar=int(bar) + 1,
                place=place,
                measured=Measured(time),
                loudness=loud,
                dynamic=class_of(loud),
            )
        )
    unique = {(s.bar, s.place, s.dynamic): s for s in made}
    return score.with_strokes(unique.values())


def _delayed(strokes: list[Stroke], score: Score, rng: np.random.Generator) -> list[Stroke]:
    """The same through a delay: in time with the song or free, 9 to 15 dB down, perhaps twice."""
    beat = 60 / score.pulse.tempo()[0]
    in_time = rng.random() < 0.5
    delay = beat * float(rng.choice([0.5, 0.75, 1.0, 1 / 3])) if in_time else rng.uniform(0.16, 0.5)
    down = float(rng.uniform(9, 15))
    repeats = 2 if rng.random() < 0.3 else 1
    made = list(strokes)
    for s in strokes:
        for k in range(1, repeats + 1):
            loud = s.loudness * 10 ** (-down * k / 40)
            if loud > 0.12:
                made.append(replace(s, measured=Measured((s.time or 0) + k * delay), loudness=loud))
    return made


def run(count: int = 20, seed: int = 71) -> tuple[int, int]:
    """(false alarms on grooves with real ghosts, delays found), of ``count`` each."""
    rng = np.random.default_rng(seed)
    alarms = found = 0
    for _ in range(count):
        score, strokes = _groove(rng, with_ghosts=True)
        alarms += bool(echoes(_measured(strokes, score, rng)))
        score, strokes = _groove(rng, with_ghosts=bool(rng.random() < 0.5))
        found += bool(echoes(_measured(_delayed(strokes, score, rng), score, rng)))
    return alarms, found
