"""Bars that nobody would play, of every sign that a page knows; the same for the same seed."""

from __future__ import annotations

import random
from fractions import Fraction

from orchesis.score import Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import CLASS_LOUDNESS

BARS = 200
METERS = ("4/4", "3/4", "6/8", "7/8", "12/8", "2/4", "5/4", "9/8")
#: Parts of a beat; the dotted figures of 16ths and 8ths come from leaving most of a grid empty.
GRIDS = (1, 2, 2, 3, 4, 4, 4, 5, 6, 8)
HANDS = (
    "snare",
    "snare",
    "hat_closed",
    "hat_open",
    "hat_half",
    "ride",
    "ride_bell",
    "crash",
    "tom_high",
    "tom_floor",
    "cross_stick",
    "rimshot",
    "cowbell",
    "china",
)
FEET = ("kick", "kick", "hat_foot", "hat_splash")


def random_score(seed: int, bars: int = BARS) -> Score:
    """Bars that nobody would play, of every sign that a page knows."""
    rng = random.Random(seed)
    meters: list[Meter] = []
    while len(meters) < bars:
        meters += [Meter.parse(rng.choice(METERS))] * rng.randint(4, 9)
    meters = meters[:bars]
    strokes: dict[str, Stroke] = {}
    for bar, meter in enumerate(meters, 1):
        fullness = rng.choice((0.2, 0.35, 0.6, 0.9))
        for beat in range(meter.beats):
            grid = rng.choice(GRIDS)
            for k in range(grid):
                place = Fraction(beat) + Fraction(k, grid)
                picks = [
                    *(
                        (p, rng.choice(("RH", "LH")))
                        for p in rng.sample(HANDS, rng.randint(1, 2))
                        if rng.random() < fullness
                    ),
                    *(
                        (p, "LF" if p.startswith("hat") else "RF")
                        for p in rng.sample(FEET, 1)
                        if rng.random() < fullness / 2
                    ),
                ]
                for part, limb in dict(picks).items():
                    dynamic = rng.choice(("ghost", "normal", "normal", "accent"))
                    ornament = (
                        rng.choice(("flam", "drag", "ruff", "buzz", "diddle"))
                        if (limb in ("RH", "LH") and rng.random() < 0.12)
                        else None
                    )
                    key = f"s{len(strokes)}"
                    strokes[key] = Stroke(
                        key,
                        bar,
                        place,
                        part,
                        limb,
                        dynamic,
                        CLASS_LOUDNESS[dynamic],
                        ornament=ornament,
                        choked="crash" in part and rng.random() < 0.3,
                    )
    pulse = PulseMap.even(96, sum(m.beats for m in meters))
    return Score(tuple(meters), pulse, strokes, (Section("a", "A", "A", 1, bars),))
