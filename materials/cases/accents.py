"""Forty rows of the hands whose accents ask for a sticking.

Written before accents said anything to the solver. The odd ones were looked at while they were taught,
the even ones only at the end. ``first``: what a teacher proposes first, several as good; ``beside``: a
sticking that must stand among the first four. Bars of one row are stuck from their first stroke on.
"""

from __future__ import annotations

from dataclasses import dataclass

from materials.cases.stickings import LEFT, OPEN, RIGHT
from orchesis.score.player import Player


@dataclass(frozen=True)
class Row:
    name: str
    text: str
    first: tuple[str, ...]
    beside: str = ""
    tempo: int = 100
    player: Player = RIGHT


def _sixteenths(accents: str, drum: str = "snare") -> str:
    """A bar of 16ths on one drum; accents: 16 signs, ``>`` where one is accented."""
    places = [f"{b}{e}" for b in "1234" for e in ("", "e", "&", "a")]
    return f"{drum}: " + " ".join(
        p + (".>" if sign == ">" else "") for p, sign in zip(places, accents, strict=True)
    )


def _tuplets(size: int, accents: str, beats: int = 4, drum: str = "snare") -> str:
    """A bar of tuplets of one size on one drum, every beat with the same accents."""
    return f"{drum}: " + " ".join(
        f"{b}:{k}/{size}" + (".>" if sign == ">" else "")
        for b in range(1, beats + 1)
        for k, sign in enumerate(accents)
    )


_SINGLES_16, _SINGLES_12 = "RLRLRLRLRLRLRLRL", "RLRLRLRLRLRL"
_THREES = "RLLRLLRLLRLL"
ROWS = (
    Row("triplets, first accented", _tuplets(3, ">.."), (_THREES,), _SINGLES_12),
    Row("fast triplets, first accented", _tuplets(3, ">.."), (_THREES,), _SINGLES_12, 168),
    Row(
        "sextuplets, first and last accented",
        _tuplets(6, ">....>", 2),
        ("RLLRRLRLLRRL",),
        _SINGLES_12,
        76,
    ),
    Row("sextuplets in threes", _tuplets(6, ">..>..", 2), (_THREES,), _SINGLES_12, 72),
    Row(
        "sextuplets, first accented",
        _tuplets(6, ">.....", 2),
        ("RLRRLLRLRRLL", _SINGLES_12),
        _SINGLES_12,
        80,
    ),
    Row(
        "sextuplets, two accents in front",
        _tuplets(6, ">>....", 2),
        (_SINGLES_12, "RLRRLLRLRRLL"),
        _SINGLES_12,
        76,
    ),
    Row(
        "16ths, first of four accented",
        _sixteenths(">...>...>...>..."),
        (_SINGLES_16, "RLRRLRLLRLRRLRLL"),
        "RLRRLRLLRLRRLRLL",
    ),
    Row(
        "fast 16ths, first of four accented",
        _sixteenths(">...>...>...>..."),
        (_SINGLES_16, "RLRRLRLLRLRRLRLL"),
        "RLRRLRLLRLRRLRLL",
        152,
    ),
    Row(
        "16ths, numbers and ands accented",
        _sixteenths(">.>.>.>.>.>.>.>."),
        (_SINGLES_16,),
    ),
    Row("16ths, e and a accented", _sixteenths(".>.>.>.>.>.>.>.>"), (_SINGLES_16,)),
    Row(
        "three, three and two",
        "snare: 1.> 1e 1& 1a.> 2 2e 2&.> 2a",
        ("RLLRLLRL",),
        "RLRLRLRL",
    ),
    Row(
        "threes over the bar line",
        _sixteenths(">..>..>..>..>.>."),
        ("RLLRLLRLLRLLRLRL",),
        _SINGLES_16,
        92,
    ),
    Row(
        "threes in 16ths over three beats",
        "snare: 1.> 1e 1& 1a.> 2 2e 2&.> 2a 3 3e.> 3& 3a",
        (_THREES,),
        _SINGLES_12,
        108,
    ),
    Row(
        "fives in 16ths",
        _sixteenths(">....>....>....>"),
        ("RLRLLRLRLLRLRLLR", "RLLRLRLLRLRLLRLR", "RLRRLRLRRLRLRRLR", _SINGLES_16),
        _SINGLES_16,
    ),
    Row(
        "sixes in 16ths",
        _sixteenths(">.....>.....>..."),
        ("RLRRLLRLRRLLRLRR", "RLRRLLRLRRLLRLRL", _SINGLES_16),
        _SINGLES_16,
    ),
    Row(
        "an accent that moves through the beat",
        _sixteenths(">....>....>....>"),
        (_SINGLES_16, "RLRLLRLRLLRLRLLR", "RLLRLRLLRLRLLRLR", "RLRRLRLRRLRLRRLR"),
        _SINGLES_16,
        84,
    ),
    Row(
        "three, three and two, twice",
        _sixteenths(">..>..>.>..>..>."),
        ("RLLRLLRLRLLRLLRL",),
        _SINGLES_16,
    ),
    Row(
        "three and five",
        _sixteenths(">..>....>..>...."),
        ("RLLRLRLLRLLRLRLL", "RLLRLLRLRLLRLLRL", "RLLRLRRLRLLRLRRL"),
        _SINGLES_16,
    ),
    Row(
        "first and last of four",
        _sixteenths(">..>>..>>..>>..>"),
        ("RLLRLRRLRLLRLRRL", _SINGLES_16),
        _SINGLES_16,
        88,
    ),
    Row(
        "triplets, middle accented",
        _tuplets(3, ".>."),
        ("LRLLRLLRLLRL", "RLRRLRRLRRLR", _SINGLES_12),
        _SINGLES_12,
        92,
    ),
    Row(
        "triplets, last accented",
        _tuplets(3, "..>"),
        ("LLRLLRLLRLLR", "RRLRRLRRLRRL", _SINGLES_12),
        _SINGLES_12,
        92,
    ),
    Row(
        "triplets, first and last accented",
        _tuplets(3, ">.>"),
        (_SINGLES_12, "RLRRLRRLRRLR"),
        _SINGLES_12,
        104,
    ),
    Row(
        "32nds, first of eight accented",
        "snare: "
        + " ".join(f"{b}:{k}/8" + (".>" if k == 0 else "") for b in (1, 2) for k in range(8)),
        (_SINGLES_16, "RLRRLRLLRLRRLRLL", "RLRRLLRLRLRRLLRL"),
        _SINGLES_16,
        70,
    ),
    Row(
        "crashes in threes",
        "crash_2: 1.> 1a.> 2&.>\nsnare: 1e 1& 2 2e 2a\nkick: 1 1a 2&",
        ("RLLRLLRL",),
        tempo=104,
    ),
    Row(
        "floor tom leads the triplets",
        "tom_floor: 1.> 2.> 3.> 4.>\nsnare: (1t) (1l) (2t) (2l) (3t) (3l) (4t) (4l)\nkick: quarters",
        (_THREES,),
        tempo=112,
    ),
    Row(
        "crash in front, tom behind",
        "crash_2: 1:0/6.> 2:0/6.>\nsnare: 1:1/6 1:2/6 1:3/6 1:4/6 2:1/6 2:2/6 2:3/6 2:4/6\n"
        "tom_high: 1:5/6.> 2:5/6.>\nkick: 1 2",
        ("RLLRRLRLLRRL",),
        tempo=80,
    ),
    Row(
        "floor tom on numbers and ands",
        "tom_floor: 1.> 1&.> 2.> 2&.>\nsnare: (1e) (1a) (2e) (2a)",
        ("RLRLRLRL",),
        tempo=96,
    ),
    Row(
        "left-handed triplets, first accented",
        _tuplets(3, ">.."),
        ("LRRLRRLRRLRR",),
        "LRLRLRLRLRLR",
        player=LEFT,
    ),
    Row(
        "left-handed three, three and two",
        "snare: 1.> 1e 1& 1a.> 2 2e 2&.> 2a",
        ("LRRLRRLR",),
        "LRLRLRLR",
        player=LEFT,
    ),
    Row(
        "open-handed triplets, first accented",
        _tuplets(3, ">.."),
        (_THREES,),
        _SINGLES_12,
        player=OPEN,
    ),
    Row(
        "quintuplets, first accented",
        _tuplets(5, ">....", 2),
        ("RLRLLRLRLL", "RLRRLRLRRL", "RLLRLRLLRL", "RLRLRLRLRL"),
        "RLRLRLRLRL",
        66,
    ),
    Row(
        "septuplets, first accented",
        _tuplets(7, ">......", 2),
        ("RLRLRLLRLRLRLL", "RLRLRLRLRLRLRL", "RLRRLRLRLRRLRL", "RLLRLRLRLLRLRL", "RLRLLRLRLRLLRL"),
        "RLRLRLRLRLRLRL",
        54,
    ),
    Row(
        "two accents in front of four",
        _sixteenths(">>..>>..>>..>>.."),
        (_SINGLES_16, "RLRRLRLLRLRRLRLL"),
        _SINGLES_16,
    ),
    Row("three accents of four", _sixteenths(">>>.>>>.>>>.>>>."), (_SINGLES_16,)),
    Row(
        "an 8th and two 16ths, first accented",
        "snare: 1.> 1& 1a 2.> 2& 2a 3.> 3& 3a 4.> 4& 4a",
        ("RRLRRLRRLRRL", "RLRRLRRLRRLR", "RLLRLLRLLRLL"),
        "RRLRRLRRLRRL",
    ),
    Row(
        "two 16ths and an 8th, first accented",
        "snare: 1.> 1e 1& 2.> 2e 2& 3.> 3e 3& 4.> 4e 4&",
        ("RLRRLRRLRRLR", "RLLRLLRLLRLL"),
        "RLRRLRRLRRLR",
    ),
    Row(
        "two beats of numbers, two of e",
        _sixteenths(">...>....>...>.."),
        (_SINGLES_16,),
        _SINGLES_16,
        92,
    ),
    Row(
        "a roll of nine",
        "snare: 1:0/8 1:1/8 1:2/8 1:3/8 1:4/8 1:5/8 1:6/8 1:7/8 2.>",
        ("RRLLRRLLR", "RLRLRLRLR"),
        "RLRLRLRLR",
        84,
    ),
    Row(
        "the last two thirds of the beat",
        "snare: 1t 1l.> 2t 2l.> 3t 3l.> 4t 4l.>",
        ("LRLRLRLR", "RLRLRLRL", "LLLLLLLL", "RRRRRRRR"),
        "RLRLRLRL",
        120,
    ),
    Row(
        "accents on snare and floor tom in threes",
        "snare: 1.> (1e) (1&) (2) (2e) (2a) (3) (3&)\ntom_floor: 1a.> 2&.> 3e.> 3a.>",
        ("RLLRLLRLLRLR",),
        tempo=96,
    ),
)
