"""Thirty bars that nobody plays, for one of the four reasons that there are: three sounds for two hands, a
speed beyond a hand, one foot on two pedals or too fast for it, a grace whose hand strikes elsewhere.

``reason``: of REASONS in orchesis/hands/solver.py, which must be among those that are told.
"""

from __future__ import annotations

from materials.cases.stickings import DOUBLE, LEFT, OPEN, RIGHT
from orchesis.score.player import Player


def _run(part: str, beat: int, size: int, count: int) -> str:
    return f"{part}: " + " ".join(f"{beat + k // size}:{k % size}/{size}" for k in range(count))


def _together(*parts: str, beat: int = 1, size: int = 8, count: int = 8) -> str:
    return "\n".join(_run(p, beat, size, count) for p in parts)


#: (count text, tempo, player, reason)
BARS: tuple[tuple[str, int, Player, str], ...] = (
    ("hat: 1\nsnare: 1\ntom_floor: 1", 60, RIGHT, "third hand"),
    ("ride: 8ths\nsnare: 2 4\ntom_floor: 2\nkick: 1 3", 90, RIGHT, "third hand"),
    ("crash: 1\ncrash_2: 1\nsnare: 1\nkick: 1", 120, RIGHT, "third hand"),
    ("hat: 8ths\ncowbell: quarters\nsnare: 2 4", 110, RIGHT, "third hand"),
    ("ride: quarters\ntom_high: 3\ntom_floor: 3", 80, LEFT, "third hand"),
    ("hat: 16ths\nsnare: 2 4\nclap: 2 4", 96, OPEN, "third hand"),
    ("snare: 1\ntom_high: 1\ntom_mid: 1\ntom_floor: 1", 100, RIGHT, "third hand"),
    ("shaker: 8ths\nhat: 8ths\nsnare: 2 4\nkick: 1 3", 100, RIGHT, "third hand"),
    ("china: 1\nride: 1\ncrash: 1", 70, DOUBLE, "third hand"),
    ("hat_open: 4\nsnare: 4\ntambourine: 4", 130, RIGHT, "third hand"),
    (_run("snare", 1, 16, 32), 110, RIGHT, "too fast"),
    (_run("snare", 1, 12, 24), 150, RIGHT, "too fast"),
    (_together("ride", "snare"), 120, RIGHT, "too fast"),
    (_together("hat", "snare", size=6, count=12), 160, RIGHT, "too fast"),
    (_together("hat", "tom_floor", size=8, count=16), 100, OPEN, "too fast"),
    (_together("crash", "snare", size=4, count=16), 200, RIGHT, "too fast"),
    (_run("tom_floor", 1, 16, 16), 140, LEFT, "too fast"),
    ("hat: 16ths\nride: 16ths", 210, RIGHT, "too fast"),
    (_together("tom_high", "tom_floor", size=4, count=12), 190, RIGHT, "too fast"),
    (_run("hat", 1, 16, 48), 120, RIGHT, "too fast"),
    (_run("kick", 1, 8, 16), 110, RIGHT, "too fast"),
    (_run("kick", 1, 4, 16), 180, RIGHT, "too fast"),
    (_run("kick", 1, 6, 12), 120, RIGHT, "too fast"),
    (_run("kick", 1, 12, 24), 200, DOUBLE, "too fast"),
    (_run("hat_foot", 1, 8, 16), 120, RIGHT, "too fast"),
    ("hat: 8ths\nsnare: 2.f 4.f", 100, RIGHT, "grace"),
    ("ride: quarters\nsnare: 2.d\nkick: 1 3", 90, RIGHT, "grace"),
    ("crash: 1\ntom_floor: 1.f\nkick: 1", 110, LEFT, "grace"),
    ("hat: 8ths\ntom_high: 3.u", 84, OPEN, "grace"),
    ("cowbell: quarters\nsnare: 4.f", 120, RIGHT, "grace"),
)
