"""Written rows of hands and the rudiments in them: each of the forty once, some in other writing,
some with feet under them, and rows that hold none.

Written before the rules (orchesis/hands/rudiments.py). The odd ones were looked at while these were
made, the even ones only at the end. A row is written step by step: R and L the hand, "-" nothing,
"K" the kick alone, "+" behind a hand: the kick with it; before a hand f flam, d drag, z buzz, i
diddle, > accent.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from orchesis.hands import rudiments
from orchesis.score import Meter, PulseMap, Score, Section, Stroke

_ORNAMENTS = {"f": "flam", "d": "drag", "z": "buzz", "i": "diddle", "u": "ruff"}


@dataclass(frozen=True)
class Row:
    """grid: steps a beat. names: the rudiments that are in it, in order."""

    names: tuple[str, ...]
    grid: int
    steps: str
    tempo: int = 90


def _of(name: str, grid: int, steps: str, tempo: int = 90) -> Row:
    return Row(tuple(filter(None, name.split(", "))), grid, steps, tempo)


ROWS = (
    _of("single stroke roll", 4, "R L R L R L R L"),
    _of("single stroke four", 6, "R L R L - - R L R L - -"),
    _of("single stroke seven", 6, "R L R L R L R - - - - -"),
    _of("multiple bounce roll", 2, "zR zL zR zL"),
    _of("triple stroke roll", 4, "R R R L L L R R R L L L - - - -"),
    _of("double stroke roll", 8, "R R L L R R L L R R L L R R L L"),
    _of("five-stroke roll", 8, "R R L L >R - - - L L R R >L - - -"),
    _of("six-stroke roll", 6, ">R L L R R >L >R L L R R >L"),
    _of("seven-stroke roll", 8, "R R L L R R >L - R R L L R R >L -"),
    _of("nine-stroke roll", 8, "R R L L R R L L >R - - - - - - -"),
    _of("ten-stroke roll", 8, "R R L L R R L L >R >L - - - - - -"),
    _of("eleven-stroke roll", 8, "R R L L R R L L R R >L - - - - -"),
    _of("thirteen-stroke roll", 8, "R R L L R R L L R R L L >R - - -"),
    _of("fifteen-stroke roll", 8, "R R L L R R L L R R L L R R >L -"),
    _of("seventeen-stroke roll", 8, "R R L L R R L L R R L L R R L L >R - - - - - - -"),
    _of("single paradiddle", 4, ">R L R R >L R L L"),
    _of("double paradiddle", 6, ">R L R L R R >L R L R L L"),
    _of("triple paradiddle", 4, ">R L R L R L R R >L R L R L R L L"),
    _of("single paradiddle-diddle", 6, ">R L R R L L >R L R R L L"),
    _of("flam", 1, "fR fL fR fL"),
    _of("flam accent", 3, "fR L R fL R L"),
    _of("flam tap", 4, "fR R fL L fR R fL L"),
    _of("flamacue", 4, "fR >L R L fR - - -"),
    _of("flam paradiddle", 4, "fR L R R fL R L L"),
    _of("single flammed mill", 4, "fR R L R fL L R L"),
    _of("flam paradiddle-diddle", 6, "fR L R R L L fL R L L R R"),
    _of("pataflafla", 4, "fR L R fL fR L R fL"),
    _of("swiss army triplet", 3, "fR R L fR R L"),
    _of("inverted flam tap", 4, "fR L fL R fR L fL R"),
    _of("flam drag", 3, "fR iL R fL iR L"),
    _of("drag", 1, "dR dL dR dL"),
    _of("single drag tap", 2, "dR L dL R"),
    _of("double drag tap", 3, "dR dR L dL dL R"),
    _of("lesson 25", 4, "dR L R - dR L R -"),
    _of("single dragadiddle", 4, "iR L R R iL R L L"),
    _of("drag paradiddle 1", 6, "R - dR L R R L - dL R L L"),
    _of("drag paradiddle 2", 4, "R dR dR L R R - - L dL dL R L L - -"),
    _of("single ratamacue", 6, "dR L R >L - - dL R L >R - -"),
    _of("double ratamacue", 6, "dR - - dR L R >L - - - - -"),
    _of("triple ratamacue", 6, "dR - - dR - - dR L R >L - -"),
    # with feet under them
    _of("single paradiddle", 4, "R+ L R R L+ R L L"),
    _of("single stroke roll", 4, "R+ L R+ L R L+ R L"),
    _of("six-stroke roll", 6, "R+ L L R R L R+ L L R R L"),
    _of("double stroke roll", 4, "R+ R L L R+ R L L"),
    # in other writing
    _of("five-stroke roll", 4, "iR iL >R - iL iR >L -"),
    _of("nine-stroke roll", 4, "iR iL iR iL >R - - -"),
    _of("single paradiddle", 4, "L R L L R L R R"),
    _of("single ratamacue", 6, "dL R L >R - -"),
    # two in a row
    _of("single paradiddle, single stroke roll", 4, "R L R R L R L L R L R L R L R L"),
    _of("single stroke roll, double stroke roll", 4, "R L R L R L R L R R L L R R L L"),
    _of("flam tap, single stroke roll", 4, "fR R fL L fR R fL L R L R L R L R L"),
    _of("single stroke roll, flam", 4, "R L R L R L R L fR - - - fL - - -"),
    # none
    _of("", 1, "L L L L"),
    _of("", 2, "R R R R R R R R"),
    _of("", 4, "R - - L - R - -"),
    _of("", 4, "L - L - - L K L"),
    _of("", 4, "R L K K R L K K"),
    _of("", 2, "R K L K R K L K"),
    _of("", 4, "R R R R R R R R L L L L"),
    _of("", 3, "R - R L - L R - R"),
)


def score_of(row: Row) -> Score:
    strokes: dict[str, Stroke] = {}

    def put(part: str, limb: str, at: Fraction, **more: str | None) -> None:
        bar, place = divmod(at, 4)
        name = f"s{len(strokes)}"
        strokes[name] = Stroke(name, int(bar) + 1, place, part, limb, limb_by="person", **more)  # type: ignore[arg-type]

    steps = row.steps.split()
    for n, step in enumerate(steps):
        at = Fraction(n, row.grid)
        if "K" in step or "+" in step:
            put("kick", "RF", at)
        hand = step.replace("+", "")
        if hand in ("-", "K"):
            continue
        ornament = next((_ORNAMENTS[c] for c in hand if c in _ORNAMENTS), None)
        dynamic = "accent" if ">" in hand else "normal"
        put("snare", f"{hand[-1]}H", at, ornament=ornament, dynamic=dynamic)
    bars = max(s.bar for s in strokes.values())
    meters = (Meter(4, 4),) * bars
    pulse = PulseMap.even(row.tempo, 4 * bars)
    return Score(meters, pulse, strokes, (Section("a", "A", "A", 1, bars),))


def told(row: Row) -> tuple[str, ...]:
    score = score_of(row)
    return tuple(dict.fromkeys(r.name for r in rudiments.found(score, list(score.ordered()))))


def share_right(half: int | None = None) -> float:
    """half: 0 the odd ones (first, third ...), 1 the even ones."""
    own = [r for n, r in enumerate(ROWS) if half is None or n % 2 == half]
    return sum(told(r) == r.names for r in own) / len(own)
