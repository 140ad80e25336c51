"""Rudiments by name, found in a row of hand strokes.

A sticking is a word of R and L; a rudiment is a sticking that the row follows with either
hand leading (the international drum rudiments, in the order of how specific they are).
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from orchesis.score import KIT, Stroke

#: (name, sticking, least strokes): the longer and more specific first.
_STICKINGS: tuple[tuple[str, str, int], ...] = (
    ("paradiddle-diddle", "RLRRLL", 12),
    ("six-stroke roll", "RLLRRL", 6),
    ("paradiddle", "RLRRLRLL", 8),
    ("inverted paradiddle", "RLLRLRRL", 8),
    ("double paradiddle", "RLRLRRLRLRLL", 12),
    ("double strokes", "RRLL", 8),
    ("five-stroke roll", "RRLLR", 5),
    ("single strokes", "RL", 4),
)


def rows(strokes: Sequence[Stroke]) -> list[list[Stroke]]:
    """Runs of single hand strokes that lie equally far apart within a bar's beats.

    strokes: in order of time; feet sound apart from them. Two hands together, or another distance,
    end a run.
    """
    found: list[list[Stroke]] = []
    run: list[Stroke] = []
    step: Fraction | None = None
    hands = [s for s in strokes if not KIT[s.part].role.endswith("_foot")]
    for a, b in pairwise([*hands, None]):
        if a is None:
            continue
        run.append(a)
        gap = b.place - a.place if b is not None and b.bar == a.bar else None
        if gap is None or gap == 0 or (step is not None and gap != step):
            found.append(run)
            run, step = [], None
        else:
            step = gap
    found.append(run)
    return [r for r in found if len(r) >= 4]


def named(strokes: Sequence[Stroke]) -> list[str]:
    """Names of the rudiments in a row of strokes, each once, in order."""
    told: list[str] = []
    for run in rows(strokes):
        sticking = "".join(s.limb[0] for s in run)
        if sticking[0] == "L":
            sticking = sticking.translate(str.maketrans("RL", "LR"))
        for name, word, least in _STICKINGS:
            size = len(sticking)
            repeated = (word * (size // len(word) + 1))[:size]
            if size >= least and sticking == repeated:
                told.append(name)
                break
    told += [f"{s.ornament} tap" for s in strokes if s.ornament in ("flam", "drag")]
    told += ["buzz roll" for s in strokes if s.ornament == "buzz"]
    return list(dict.fromkeys(told))
