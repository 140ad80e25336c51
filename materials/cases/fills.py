"""Forty written fills and what a drummer would say their cell is; and fills found in songs.

Each fill is a row of words laid over a grid: K kick, S snare, T M F toms, C crash, X the next
drum round the kit, - rest; behind the letter > accent, ( ghost, R or L the hand. Where one
reading of a figure is a shorter one that travels (hand, foot over several drums), the shorter
one is the cell and the drums are its orchestration.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis import fills
from orchesis.fills import cells
from orchesis.score import Meter, PulseMap, Score, Section, Stroke
from orchesis.score.fill import Cell, Span

_PARTS = {
    "K": "kick",
    "S": "snare",
    "T": "tom_high",
    "M": "tom_mid",
    "F": "tom_floor",
    "C": "crash",
}
_ROUND = ("snare", "tom_high", "tom_mid", "tom_floor")


@dataclass(frozen=True)
class Written:
    """grids: how many equal parts each beat has. strokes, grid: of the cell; 0 and "" for none. feet: beats
    (fractions, from 0) on which a kick sounds under it."""

    figure: str
    grids: tuple[int, ...]
    strokes: int
    grid: str
    meter: str = "4/4"
    tail: str = ""
    feet: str = ""


_BAR = (4, 4, 4, 4)
WRITTEN = (
    Written("K S S", _BAR, 3, "16th"),
    Written("K X X", _BAR, 3, "16th"),
    Written("S S K", _BAR, 3, "16th"),
    Written("S T K K", _BAR, 4, "16th"),
    Written("S K T K", _BAR, 2, "16th"),
    Written("S> S S S S S>", (6, 6, 6, 6), 6, "sextuplet"),
    Written("S> S S S S S>", _BAR, 6, "16th"),
    Written("S T S T K", _BAR, 5, "16th"),
    Written("S S K S S K K", _BAR, 7, "16th"),
    Written("K S S", (3, 3, 3, 3), 3, "triplet"),
    Written("S S K K", (3, 3, 3, 3), 4, "triplet"),
    Written("S K", (3, 3, 3, 3), 2, "triplet"),
    Written("S T F K K", (3, 3, 3, 3), 5, "triplet"),
    Written("K S T", (6, 6, 6, 6), 3, "sextuplet"),
    Written("K S S K", (6, 6, 6, 6), 4, "sextuplet"),
    Written("S S T T F F K K", (8, 8), 8, "32nd", "2/4"),
    Written("K S S S S", (5, 5, 5), 5, "quintuplet", "3/4"),
    Written("K S S", (5, 5, 5, 5), 3, "quintuplet"),
    Written("K S S", (4, 4, 6, 6), 3, "16th, sextuplet"),
    Written("S S K", (3, 3, 4, 4), 3, "triplet, 16th"),
    Written("S> S( S(", _BAR, 3, "16th"),
    Written("S> S( S( S> S( S( S> S(", _BAR, 8, "16th"),
    Written("S T -", _BAR, 2, "16th"),
    Written("K S - S", _BAR, 3, "16th"),
    Written("X X -", _BAR, 2, "16th"),
    Written("S S S S T T T T M M M M F F F F", _BAR, 0, ""),
    Written("S", (6, 6, 6, 6), 0, ""),
    Written("S S T S K T F K S F T S S K F K", _BAR, 0, ""),
    Written("C - - S - - - T S S F F T - K -", _BAR, 0, ""),
    Written("K S S", (*_BAR, *_BAR), 3, "16th"),
    Written("K S T", (4, 4), 3, "16th", "2/4"),
    Written("S S K - K", _BAR, 4, "16th"),
    Written("K S S", (2, 2, 2, 2, 2, 2, 2), 3, "16th", "7/8"),
    Written("S S K", (3, 3, 3, 3), 3, "8th", "12/8"),
    Written("K S S S", (6, 6, 6, 6), 4, "16th", "12/8"),
    Written("S T F K K", (4, 4, 4), 5, "16th", "3/4"),
    Written("S T K F K", _BAR, 5, "16th"),
    Written("SR SL SR SR SL SR SL SL", _BAR, 8, "16th"),
    Written("SR SR TL TL", _BAR, 4, "16th"),
    Written("K S S", (4, 4, 4), 3, "16th", tail="S T F S"),
)


#: The same with feet under the hands: whose figure it is stays the hands'. Written beside a first rule that
#: failed on them; the odd ones (from 0) were looked at for the second, which stands.
WITH_FEET = (
    Written("T S S S", (3, 3, 3, 3), 4, "triplet", feet="2 3"),
    Written("S S T", _BAR, 3, "16th", feet="0 1 2 3"),
    Written("S> S S", _BAR, 3, "16th", feet="0 1 2 3"),
    Written("S T F", _BAR, 3, "16th", feet="0 2"),
    Written("S> S S S S S>", (6, 6, 6, 6), 6, "sextuplet", feet="0"),
    Written("S S T T S", _BAR, 5, "16th", feet="0 1 2 3"),
    Written("S T S", (3, 3, 3, 3), 3, "triplet", feet="1 3"),
    Written("S S S T T", _BAR, 5, "16th", feet="2"),
    Written("S S T -", _BAR, 3, "16th", feet="0 1 2 3"),
    Written("S T T S F F", (6, 6, 6, 6), 6, "sextuplet", feet="0 2"),
    Written("S> S( S(", _BAR, 3, "16th", feet="0 2 3"),
    Written("S S S F", (3, 3, 3, 3), 4, "triplet", feet="0 1 2 3"),
    Written("S T M F M", _BAR, 5, "16th", feet="1 3"),
    Written("S S T F F T S", (*_BAR, *_BAR), 7, "16th", feet="0 1 2 3 4 5 6 7"),
    Written("F S S", _BAR, 3, "16th", feet="0 1 2 3"),
    Written("SR SL SR SR SL SR SL SL", _BAR, 8, "16th", feet="0 1 2 3"),
    Written("T T S", (*_BAR, *_BAR), 3, "16th", feet="0 2 4 6"),
    Written("S T F S T", (5, 5, 5, 5), 5, "quintuplet", feet="0 1 2 3"),
    Written("S S F", (2, 2, 2, 2, 2, 2, 2), 3, "16th", "7/8", feet="0 4"),
    Written("S M S M F", (4, 4, 4), 5, "16th", "3/4", feet="0 1 2"),
)


def laid(fill: Written) -> tuple[Score, Span]:
    """The fill as a score of its own bars."""
    meter = Meter.parse(fill.meter)
    words = fill.figure.split()
    places = [Fraction(b) + Fraction(k, g) for b, g in enumerate(fill.grids) for k in range(g)]
    row = [(p, words[i % len(words)]) for i, p in enumerate(places)]
    row += [
        (Fraction(len(fill.grids)) + Fraction(k, 4), w) for k, w in enumerate(fill.tail.split())
    ]
    beats = len(fill.grids) + (1 if fill.tail else 0)
    bars = -(-beats // meter.beats)
    strokes, turn = [], 0
    for i, (place, word) in enumerate(row):
        if word == "-":
            continue
        part = _PARTS.get(word[0]) or _ROUND[(turn // 2) % 4]
        turn += word[0] == "X"
        hand = {"R": "RH", "L": "LH"}.get(word[-1], "RH" if i % 2 == 0 else "LH")
        dynamic = "accent" if ">" in word else "ghost" if "(" in word else "normal"
        bar, inside = divmod(place, meter.beats)
        strokes.append(
            Stroke(
                f"s{i}",
                int(bar) + 1,
                inside,
                part,
                limb="RF" if part == "kick" else hand,
                dynamic=dynamic,
                loudness={"ghost": 0.3, "normal": 0.7, "accent": 0.95}[dynamic],
            )
        )
    for i, word in enumerate(fill.feet.split()):
        bar, inside = divmod(Fraction(word), meter.beats)
        strokes.append(Stroke(f"k{i}", int(bar) + 1, inside, "kick", limb="RF"))
    score = Score(
        meters=(meter,) * bars,
        pulse=PulseMap.even(100, bars * meter.beats),
        strokes={s.id: s for s in strokes},
        sections=(Section("a", "A", "A", 1, bars),),
    )
    last = max(strokes, key=lambda s: (s.bar, s.place))
    end = Fraction(beats - (last.bar - 1) * meter.beats)
    return score, Span(1, Fraction(0), last.bar, end)


def read(fill: Written) -> Cell | None:
    """The first cell that is read of a written fill."""
    score, span = laid(fill)
    found = cells.cells(score, span, fills.inside(score, span))
    return max(found, key=lambda c: c.turns * c.strokes) if found else None


def is_right(fill: Written) -> bool:
    found = read(fill)
    if found is None:
        return fill.strokes == 0
    return (found.strokes, found.grid) == (fill.strokes, fill.grid)


def share_right(written: Sequence[Written] = WRITTEN) -> float:
    return sum(map(is_right, written)) / len(written)
