"""Sixty written patterns, graded by how hard they are to play: 1 a first lesson, 10 the end.

The grades are our own judgement and were written before the rules (orchesis/hands/difficulty.py).
What counts is the order: Spearman's rank correlation. Two of three were used to set the rules'
weights; every third is apart and was looked at only at the end.
"""

from __future__ import annotations

from dataclasses import dataclass

from scipy.stats import spearmanr

from orchesis.formats import count
from orchesis.hands import difficulty, with_limbs


@dataclass(frozen=True)
class Graded:
    level: float
    tempo: int
    text: str


PATTERNS = (
    Graded(1, 70, "hat: quarters\nkick: 1 3\nsnare: 2 4"),
    Graded(1, 80, "snare: quarters"),
    Graded(1.5, 90, "kick: quarters\nhat: quarters"),
    Graded(1.5, 80, "hat: 8ths\nkick: 1 3"),
    Graded(2, 80, "hat: 8ths\nkick: 1 3\nsnare: 2 4"),
    Graded(2, 90, "snare: 8ths\nkick: quarters"),
    Graded(2, 100, "ride: quarters\nkick: 1 3\nsnare: 2 4"),
    Graded(2.5, 110, "hat: 8ths\nkick: 1 3 3&\nsnare: 2 4"),
    Graded(2.5, 100, "crash: 1\nhat: 8ths -1\nkick: 1 3\nsnare: 2 4"),
    Graded(3, 110, "hat: 8ths\nkick: 1 2& 3&\nsnare: 2 4"),
    Graded(3, 80, "snare: 16ths"),
    Graded(3, 90, "hat: 8ths 4&.o\nkick: 1 3\nsnare: 2 4"),
    Graded(3, 96, "ride: 8ths\nkick: 1 1& 3\nsnare: 2 4\nhat_foot: 2 4"),
    Graded(
        3, 80, "snare: 1 1e 1& 1a\ntom_high: 2 2e 2& 2a\ntom_mid: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a"
    ),
    Graded(3, 110, "hat: offbeats\nkick: quarters\nsnare: 2 4"),
    Graded(3.5, 90, "hat: 8ths\nkick: 1 1a 3\nsnare: 2 4"),
    Graded(3.5, 90, "hat: 16ths -2 -4\nkick: 1 3\nsnare: 2 4"),
    Graded(3.5, 120, "hat: 1 1l 2 2l 3 3l 4 4l\nkick: 1 3\nsnare: 2 4"),
    Graded(3.5, 90, "snare: triplets\nkick: quarters"),
    Graded(4, 92, "hat: 8ths\nkick: 1 2a 3 4e\nsnare: 2 4"),
    Graded(4, 130, "ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nkick: 1 3"),
    Graded(4, 96, "hat: 8ths\nkick: 1 2& 3\nsnare: 2 (2a) 4"),
    Graded(4, 72, "hat: 16ths\nkick: 1 3\nsnare: 2 4"),
    Graded(4, 100, "snare: 1.f 2.f 3.f 4.f\nkick: quarters"),
    Graded(4, 170, "hat: 8ths\nkick: 1 3\nsnare: 2 4"),
    Graded(
        4,
        104,
        "snare: 1 1e 1& 1a\ntom_high: 2 2e 2& 2a\ntom_mid: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a",
    ),
    Graded(4.5, 110, "hat: 8ths\nkick: 1 1a 2& 3e 3& 4a\nsnare: 2 4"),
    Graded(4.5, 100, "hat: 8ths 1&.o 3&.o\nkick: 1 2& 3\nsnare: 2 4"),
    Graded(4.5, 110, "hat: 16ths -2 -4\nkick: 1 1a 2& 3\nsnare: 2 4"),
    Graded(5, 96, "hat: 8ths\nkick: 1 2& 3a\nsnare: (1e) 2 (2a) (3e) 4 (4a)"),
    Graded(5, 84, "hat: 16ths\nkick: 1 1a 2& 3 3a\nsnare: 2 4"),
    Graded(5, 90, "snare: 1e 1& 2e 2& 3e 3& 4e 4&\nkick: quarters"),
    Graded(5, 160, "ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nsnare: 1l 3 4l\nkick: 2l"),
    Graded(5, 100, "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (3t) (4t)\nkick: 1 2l"),
    Graded(5, 120, "snare: 16ths\nkick: quarters\nhat_foot: offbeats"),
    Graded(
        5,
        76,
        "snare: 1:0/6 1:1/6 1:2/6 1:3/6 1:4/6 1:5/6 2:0/6 2:1/6 2:2/6 2:3/6 2:4/6 2:5/6\nkick: 3\ncrash: 3",
    ),
    Graded(
        5,
        130,
        "snare: 1 1e\ntom_high: 1& 1a\ntom_mid: 2 2e\ntom_floor: 2& 2a 3 3e 3& 3a\nkick: 4\ncrash: 4",
    ),
    Graded(5.5, 96, "snare: 1 1e 2 2e 3 3e 4 4e\nkick: 1& 1a 2& 2a 3& 3a 4& 4a"),
    Graded(
        5.5,
        104,
        "snare: 1 1e 1&.> 1a 2 2e 2&.> 2a 3 3e 3&.> 3a 4 4e 4&.> 4a\nkick: quarters\nhat_foot: offbeats",
    ),
    Graded(
        5.5,
        110,
        "snare: 1.> (1e) (1&) 1a.> (2) (2e) 2&.> (2a) (3) 3e.> (3&) (3a) 4.> (4e) (4&) (4a)\nkick: quarters",
    ),
    Graded(
        6, 92, "ride_bell: offbeats\nsnare: (1e) 2 (2a) (3e) (3a) 4\nkick: 1 1a 2& 3\nhat_foot: 2 4"
    ),
    Graded(6, 108, "hat: 16ths\nkick: 1 1a 2& 3 3a\nsnare: 2 4"),
    Graded(6, 130, "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (3t) (4t)\nkick: 1 2l 4l"),
    Graded(
        6, 110, "ride: 8ths\nhat_foot: quarters\ncross_stick: 1 2& 4\nkick: 1 1a 2 2a 3 3a 4 4a"
    ),
    Graded(6, 90, "snare: 1t 1l 2t 2l\ntom_floor: 3t 3l 4t 4l\nkick: quarters\nhat_foot: 1 3"),
    Graded(6, 100, "hat: 1 1& 2& 3 3& 4&\nsnare: (1e) 2 (2a) 4\nkick: 1a 3e 3a"),
    Graded(6.5, 116, "tom_floor: 1 2 3 4\nsnare: 1e 2e 3e 4e\nkick: 1& 1a 2& 2a 3& 3a 4& 4a"),
    Graded(
        6.5,
        96,
        "snare: 1:0/6 1:1/6 1:2/6 1:3/6 2:0/6 2:1/6 2:2/6 2:3/6 3:0/6 3:1/6 3:2/6 3:3/6\nkick: 1:4/6 1:5/6 2:4/6 2:5/6 3:4/6 3:5/6",
    ),
    Graded(
        7, 104, "hat: 8ths 1&.o 2&.o\nsnare: (1e) 2 (2e) (2a) (3e) (3a) 4 (4e)\nkick: 1 1a 2& 3& 4a"
    ),
    Graded(
        7,
        100,
        "ride: 8ths\nhat_foot: 1e 2e 3e 4e\nsnare: (1a) 2 (2a) 3& 4 (4a)\nkick: 1 1& 2& 3 4&",
    ),
    Graded(7, 160, "snare: 16ths\nkick: quarters"),
    Graded(7, 220, "ride: 1 2 2l 3 4 4l\nhat_foot: 2 4\nsnare: 1l 2l 3 4l\nkick: 1t 2l 3l"),
    Graded(
        7,
        84,
        "snare: 1 1:1/8 1:2/8 1:3/8 1:4/8 1:5/8 1:6/8 1:7/8\ntom_high: 2 2:1/8 2:2/8 2:3/8\ntom_floor: 2:4/8 2:5/8 2:6/8 2:7/8\nkick: 3\ncrash: 3",
    ),
    Graded(7.5, 118, "hat: 16ths\nkick: 1 1a 2& 2a 3e 3a 4&\nsnare: (1e) 2 (2e) (3) 4 (4e)"),
    Graded(
        8,
        120,
        "snare: 1:0/6 1:1/6 2:0/6 2:1/6 3:0/6 3:1/6 4:0/6 4:1/6\ntom_high: 1:2/6 3:2/6\ntom_floor: 1:3/6 2:2/6 2:3/6 3:3/6 4:2/6 4:3/6\nkick: 1:4/6 1:5/6 2:4/6 2:5/6 3:4/6 3:5/6 4:4/6 4:5/6",
    ),
    Graded(
        8,
        112,
        "ride_bell: 1 1a 2& 3 3a 4&\nhat_foot: quarters\nsnare: (1e) 2 (2e) (2a) (3e) 4 (4e) (4a)\nkick: 1a 2& 3& 4a",
    ),
    Graded(8.5, 200, "snare: 16ths\nkick: quarters\nhat_foot: offbeats"),
    Graded(
        8.5,
        104,
        "snare: 1.f 1e 1& 1a.f 2 2e 2&.f 2a 3 3e.f 3& 3a 4.f 4e 4& 4a.f\nkick: 1 1a 2& 3e 4\nhat_foot: offbeats",
    ),
    Graded(
        9,
        126,
        "ride: 1 1:2/5 1:4/5 2:1/5 2:3/5 3 3:2/5 3:4/5 4:1/5 4:3/5\nhat_foot: quarters\nsnare: (1:1/5) 2 (2:2/5) (3:3/5) 4 (4:4/5)\nkick: 1 1:3/5 2:4/5 3:1/5 4:2/5",
    ),
    Graded(
        10, 230, "snare: 16ths\ntom_floor: 2 4\nkick: 1e 1& 2e 2& 3e 3& 4e 4&\nhat_foot: offbeats"
    ),
)

#: Two of three set the weights, every third is apart.
CALIBRATION = [p for n, p in enumerate(PATTERNS) if n % 3 != 2]
APART = [p for n, p in enumerate(PATTERNS) if n % 3 == 2]


def figure(p: Graded) -> difficulty.Difficulty:
    score = with_limbs(count.read(f"tempo: {p.tempo}\n{p.text}\n"))
    return difficulty.of(score, range(1, score.bar_count + 1))


def spearman(own: list[Graded]) -> float:
    return float(spearmanr([p.level for p in own], [figure(p).total for p in own]).statistic)
