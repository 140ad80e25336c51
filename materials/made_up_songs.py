"""Made-up songs with their truth: units, cores, options and fills, composed by a seeded hand.

The strokes are true and played with jitter, so that the rules are tested without hearing.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from itertools import product

import numpy as np

from orchesis.score import Measured, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.groove import Groove
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.swing import swung

Key = tuple[int, Fraction, str, bool]


@dataclass
class MadeUpSong:
    """A made-up score and its truth: per section the core (unit bar, place, part, soft), the
    options' shares, and the bars of fills."""

    score: Score
    length: dict[str, int]
    core: dict[str, set[Key]]
    shares: dict[str, dict[Key, float]]
    fills: set[int]
    swing: tuple[str, float]
    late: float


def _surface(rng: np.random.Generator, beats: int, swing: bool) -> tuple[str, list[Fraction]]:
    part = str(rng.choice(["hat_closed", "ride", "hat_closed"]))
    if swing:
        return part, [Fraction(k, 4) for k in range(4 * beats)]
    step = rng.choice([2, 2, 4, 1])
    return part, [Fraction(k, int(step)) for k in range(int(step) * beats)]


def _music(
    rng: np.random.Generator, beats: int, swings: bool
) -> tuple[int, set[Key], dict[Key, float]]:
    """(bars of the unit, core, options with their shares) of one music."""
    length = int(rng.choice([1, 2, 2, 4]))
    part, places = _surface(rng, beats, swings)
    back = [Fraction(1), Fraction(3)] if beats >= 4 else [Fraction(2)]
    sixteenths = [Fraction(k, 4) for k in range(4 * beats)]
    own: set[Key] = set()
    for k in range(length):
        own |= {(k + 1, p, part, False) for p in places}
        own |= {(k + 1, p, "snare", False) for p in back}
        own.add((k + 1, Fraction(0), "kick", False))
        free = [p for p in sixteenths if p not in back and p > 0]
        more = rng.choice(len(free), size=int(rng.integers(1, 4)), replace=False)
        own |= {(k + 1, free[i], "kick", False) for i in more}
        if rng.random() < 0.5:
            spare = [p for p in free if (k + 1, p, "kick", False) not in own]
            own |= {(k + 1, spare[i], "snare", True) for i in rng.choice(len(spare), 2, False)}
    options: dict[Key, float] = {}
    if rng.random() < 0.7:
        spare = [p for p in sixteenths if all(p != q for _, q, *_ in own if _ != part)]
        for i in rng.choice(len(spare), size=min(2, len(spare)), replace=False):
            if (1, spare[i], "kick", False) not in own and spare[i] not in back:
                options[0, spare[i], "kick", False] = float(rng.choice([0.25, 0.5]))
    return length, own, options


def made_up(seed: int) -> MadeUpSong:
    """One song: verse, chorus, verse, chorus of eight bars, units of one, two or four bars.

    What a verse plays, the other one plays too, with other options and another fill.
    """
    rng = np.random.default_rng(seed)
    beats = int(rng.choice([4, 4, 4, 3, 5]))
    swing = ("sixteenth", float(rng.uniform(0.57, 0.66))) if rng.random() < 0.3 else ("none", 0.5)
    late = float(rng.uniform(-6, 14))
    bpm, total = float(rng.uniform(74, 150)), 4 * 8
    walk = np.cumsum(rng.normal(0, 0.002, total * beats))
    steps = 60 / bpm * (1 + np.clip(walk, -0.04, 0.04))
    pulse = PulseMap.of(np.concatenate([[0.4], 0.4 + np.cumsum(steps)]).tolist())
    sections = tuple(
        Section(f"{n}{i}", n, n, 1 + 8 * i, 8) for i, n in enumerate(("A", "B", "A", "B"))
    )
    music: dict[str, tuple[int, set[Key], dict[Key, float]]] = {}
    score = Score((Meter(beats, 4),) * total, pulse, sections=sections)
    found = MadeUpSong(score, {}, {}, {}, set(), swing, late)
    strokes: list[Stroke] = []

    def put(bar: int, place: Fraction, part: str, dynamic: str = "normal") -> None:
        beat = score.bar_beats()[bar - 1] + swung(place, swing)
        off = rng.normal(late if part == "snare" and dynamic != "ghost" else 0, 5) / 1000
        loud = float(np.clip(rng.normal(CLASS_LOUDNESS[dynamic], 0.04), 0.1, 1))
        limb = {"kick": "RF", "snare": "LH"}.get(part, "RH")
        strokes.append(
            Stroke(
                f"m{len(strokes)}",
                bar,
                place,
                part,
                limb=limb,
                dynamic=dynamic,
                loudness=loud,
                measured=Measured(score.pulse.seconds(beat) + off),
            )
        )

    for s in sections:
        if s.label not in music:
            music[s.label] = _music(rng, beats, swing[0] != "none")
        length, own, options = music[s.label]
        last = s.last_bar if rng.random() < 0.75 else 0
        chosen = {
            key: set(rng.choice(range(s.first_bar, s.last_bar), round(7 * share), False))
            for key, share in options.items()
        }
        found.length[s.id], found.core[s.id] = length, own
        found.shares[s.id] = {k: len(v) / 7 if last else len(v) / 8 for k, v in chosen.items()}
        start = Fraction(int(rng.choice([beats - 2, beats - 1, 1, 0])))
        for bar in range(s.first_bar, s.last_bar + 1):
            until = start if bar == last else Fraction(beats)
            for unit, place, name, soft in sorted(own):
                if (bar - s.first_bar) % length == unit - 1 and place < until:
                    put(
                        bar,
                        place,
                        name,
                        "ghost" if soft else "accent" if name == "snare" else "normal",
                    )
            for (_, place, name, _), where in chosen.items():
                if bar in where and place < until:
                    taken = ((bar - s.first_bar) % length + 1, place, name, False) in own
                    if not taken:
                        put(bar, place, name)
        if last:
            found.fills.add(last)
            drums = rng.choice(["snare", "tom_high", "tom_floor"], 3)
            grid = int(rng.choice([4, 3, 6])) if swing[0] == "none" else 4
            for b, k in product(range(int(start), beats), range(grid)):
                put(last, b + Fraction(k, grid), str(drums[(b + k // 2) % 3]))
        if rng.random() < 0.6:
            put(s.first_bar, Fraction(0), "crash", "accent")
    unique = {(s.bar, s.place, s.part): s for s in strokes}
    found.score = Score(
        score.meters, score.pulse, {s.id: s for s in unique.values()}, sections, swing=swing
    )
    return found


def unit_of_length(core: Iterable[Key], length: int, to: int) -> set[Key]:
    return {(b + k * length, p, n, soft) for k in range(to // length) for b, p, n, soft in core}


def core_of(g: Groove) -> set[Key]:
    return {(s.bar, s.place, s.part, s.dynamic == "ghost" and s.part == "snare") for s in g.core}
