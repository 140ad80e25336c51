"""Sixty common moves on the kit with every sticking that a teacher accepts, the usual one first.

Written before the solver's times and weights were touched for them. The odd ones were looked at
while they were, the even ones only at the end. The format is that of ``stickings``; the lane ``row``
means all strokes of the hands in order of time.
"""

from __future__ import annotations

from collections import defaultdict

from materials.cases.stickings import DOUBLE, LEFT, OPEN, Case
from orchesis.formats import count
from orchesis.hands.solver import solve
from orchesis.score import KIT

_INTO_CRASH = "tom_floor: 4 4e 4& 4a | -\ncrash: - | 1\nkick: - | 1\nsnare: - | 2"
_LANDS = "tom_floor RLRL; crash R; snare L / tom_floor RLRL; crash R; snare R"
_HAT_TO_RIDE = "hat: 8ths | -\nride: - | 8ths\nsnare: 2 4 | 2 4\nkick: 1 3 | 1 3"
_CRASH_RIDE = "crash: 1\nride: 8ths -1\nsnare: 2 4\nkick: 1 3"
_CRASH_RIDES = "crash R; ride RRRRRRR; snare LL / crash L; ride RRRRRRR; snare LL"
_ROUND = (
    "snare: 1 1e 1& 1a\ntom_high: 2 2e 2& 2a\ntom_mid: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a | -\n"
    "crash: - | 1\nkick: - | 1"
)
_SHUFFLE = "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: 2 4\nkick: 1 3"
_OF_SIX = "0/6 {0}:1/6 {0}:2/6 {0}:3/6 {0}:4/6 {0}:5/6"
_OF_EIGHT = "0/8 {0}:1/8 {0}:2/8 {0}:3/8 {0}:4/8 {0}:5/8 {0}:6/8 {0}:7/8"


def _six(beat: int) -> str:
    return f"{beat}:" + _OF_SIX.format(beat)


def _eight(beat: int) -> str:
    return f"{beat}:" + _OF_EIGHT.format(beat)


MOVES = (
    Case("floor tom into the crash, slow", _INTO_CRASH, _LANDS, 60),
    Case("floor tom into the crash", _INTO_CRASH, _LANDS, 100),
    Case("floor tom into the crash, brisk", _INTO_CRASH, _LANDS, 132),
    Case("floor tom into the crash, fast", _INTO_CRASH, _LANDS, 160),
    Case("hat to ride", _HAT_TO_RIDE, "hat RRRRRRRR; ride RRRRRRRR; snare LLLL", 120),
    Case("hat to ride, fast", _HAT_TO_RIDE, "hat RRRRRRRR; ride RRRRRRRR; snare LLLL", 176),
    Case(
        "ride to the hat behind a crash",
        "ride: 8ths | -\ncrash: - | 1\nhat: - | 8ths -1\nsnare: 2 4 | 2 4\nkick: 1 3 | 1 3",
        "ride RRRRRRRR; crash R; hat RRRRRRR; snare LLLL"
        " / ride RRRRRRRR; crash L; hat RRRRRRR; snare LLLL",
        110,
    ),
    Case("crash on 1, ride on the and", _CRASH_RIDE, _CRASH_RIDES, 100),
    Case("crash on 1, ride on the and, fast", _CRASH_RIDE, _CRASH_RIDES, 160),
    Case("16ths round the kit", _ROUND, "row RLRLRLRLRLRLRLRLR", 104),
    Case("16ths round the kit, fast", _ROUND, "row RLRLRLRLRLRLRLRLR", 144),
    Case(
        "sextuplets down the toms",
        f"snare: {_six(1)}\ntom_high: {_six(2)}\ntom_mid: {_six(3)}\ntom_floor: {_six(4)} | -\n"
        "crash: - | 1\nkick: - | 1",
        "row RLRLRLRLRLRLRLRLRLRLRLRLR",
        80,
    ),
    Case(
        "32nds from snare to floor tom",
        f"snare: {_eight(3)}\ntom_floor: {_eight(4)} | -\ncrash: - | 1\nkick: - | 1",
        "row RLRLRLRLRLRLRLRLR / row RRLLRRLLRRLLRRLLR",
        72,
    ),
    Case(
        "two and two over snare and tom",
        "snare: 3 3e 4 4e\ntom_high: 3& 3a 4& 4a",
        "snare RLRL; tom_high RLRL / snare RRRR; tom_high LLLL",
        112,
    ),
    Case(
        "a fill that begins with the left",
        "hat: 1 1& 2 2&\nsnare: 2 2a 3 3e 3& 3a 4 4e 4& 4a\nkick: 1",
        "hat RRRR; snare LLRLRLRLRL",
        104,
    ),
    Case(
        "a fill from the e",
        "snare: 3e 3& 3a 4 4e 4& 4a",
        "row LRLRLRL / row RLRLRLR",
        100,
    ),
    Case(
        "the hand behind the crash",
        "snare: 3 3e 3& 3a 4 4e 4& 4a | 2 4\ncrash: - | 1\nhat: - | 8ths -1\nkick: - | 1 3",
        "snare RLRLRLRLLL; crash R; hat RRRRRRR",
        120,
    ),
    Case(
        "a crash ahead of the 1",
        "hat: 8ths -4& | 8ths -1\ncrash: 4& | -\nsnare: 2 4 | 2 4\nkick: 1 3 4& | 3",
        "hat RRRRRRRRRRRRRR; crash R; snare LLLL / hat RRRRRRRRRRRRRR; crash L; snare LLLL",
        116,
    ),
    Case(
        "both crashes, then the hat",
        "crash: 1\ncrash_2: 1\nhat: 8ths -1\nsnare: 2 4\nkick: 1 3",
        "crash L; crash_2 R; hat RRRRRRR; snare LL",
        126,
    ),
    Case(
        "crash and backbeat together",
        "hat: 8ths -4\ncrash: 4\nsnare: 2 4\nkick: 1 3 4",
        "hat RRRRRRR; crash R; snare LL",
        108,
    ),
    Case(
        "open-handed, a tom on the and",
        "hat: 8ths\nsnare: 2 4\ntom_floor: 4&\nkick: 1 3",
        "hat LLLLLLLL; snare RR; tom_floor R",
        100,
        OPEN,
    ),
    Case(
        "open-handed with ghosts",
        "hat: 8ths\nsnare: 2.> (2a) (3e) 4.>\nkick: 1 2& 3",
        "hat LLLLLLLL; snare RRRR",
        96,
        OPEN,
    ),
    Case(
        "train beat",
        "snare: (1) (1e) 1&.> (1a) (2) (2e) 2&.> (2a) (3) (3e) 3&.> (3a) (4) (4e) 4&.> (4a)\n"
        "kick: quarters",
        "snare RLRLRLRLRLRLRLRL",
        116,
    ),
    Case(
        "train beat in 8ths",
        "snare: (1) (1&) 2.> (2&) (3) (3&) 4.> (4&)\nkick: quarters\nhat_foot: 2 4",
        "snare RLRLRLRL",
        210,
    ),
    Case("shuffle", _SHUFFLE, "hat RRRRRRRR; snare LL", 132),
    Case("shuffle, fast", _SHUFFLE, "hat RRRRRRRR; snare LL", 200),
    Case(
        "both hands shuffle",
        "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1) (1l) 2.> (2l) (3) (3l) 4.> (4l)\nkick: quarters",
        "hat RRRRRRRR; snare LLLLLLLL",
        120,
    ),
    Case(
        "fast swung ride",
        "ride: 1 2 2l 3 4 4l\nsnare: (2l) 4\nhat_foot: 2 4",
        "ride RRRRRR; snare LL",
        240,
    ),
    Case(
        "samba on the ride",
        "ride: 1 1& 1a 2 2& 2a 3 3& 3a 4 4& 4a\ncross_stick: 1 1a 2& 3e 4\n"
        "kick: 1 1a 2 2a 3 3a 4 4a\nhat_foot: 1& 2& 3& 4&",
        "ride RRRRRRRRRRRR; cross_stick LLLLL",
        104,
    ),
    Case(
        "bossa",
        "hat: 8ths | 8ths\ncross_stick: 1 2& 4 | 2 3&\nkick: 1 2& 3 4& | 1 2& 3 4&",
        "hat RRRRRRRRRRRRRRRR; cross_stick LLLLL",
        144,
    ),
    Case(
        "bell on the quarters, the left between snare and tom",
        "cowbell: quarters\nsnare: 2 (2a) (3e)\ntom_high: 4 4&\nkick: 1& 2& 4&",
        "cowbell RRRR; snare LLL; tom_high LL",
        104,
    ),
    Case(
        "an ostinato of the right against a clave of the left",
        "ride: 1 1& 2& 3 3& 4&\ncross_stick: 1 2& 4\nkick: 2& 4",
        "ride RRRRRR; cross_stick LLL",
        160,
    ),
    Case(
        "linear threes on hat, snare and kick",
        "hat: 1 1a 2& 3e 4\nsnare: (1e) 2 (2a) (3&) (4e)\nkick: 1& 2e 3 3a 4&",
        "hat RRRRR; snare LLLLL",
        96,
    ),
    Case(
        "linear sextuplets, four hands and two kicks",
        "snare: 1:0/6 1:1/6 2:0/6 2:1/6\ntom_floor: 1:2/6 1:3/6 2:2/6 2:3/6\n"
        "kick: 1:4/6 1:5/6 2:4/6 2:5/6",
        "row RLRLRLRL / row RLLRRLLR / row RLRRRLRR",
        84,
    ),
    Case(
        "floor tom, snare, kick in triplets",
        "tom_floor: quarters\nsnare: 1t 2t 3t 4t\nkick: 1l 2l 3l 4l",
        "tom_floor RRRR; snare LLLL",
        112,
    ),
    Case(
        "flams for backbeats",
        "hat: 8ths -2 -4\nsnare: 2.f 4.f\nkick: 1 3",
        "hat RRRRRR; snare LL / hat RRRRRR; snare RR",
        100,
    ),
    Case(
        "drags for backbeats",
        "hat: 8ths -2 -4\nsnare: 2.d 4.d\nkick: 1 3",
        "hat RRRRRR; snare LL / hat RRRRRR; snare RR",
        92,
    ),
    Case(
        "a ruff into a fill of 8ths",
        "hat: 1 1& 2\nsnare: 3.u 3& 4 4&\nkick: 1",
        "hat RRR; snare RRRR / hat RRR; snare RLRL",
        104,
    ),
    Case(
        "pairs of kicks with one pedal",
        "hat: 8ths\nsnare: 2 4\nkick: 1 1e 2& 2a 3 3e 4& 4a",
        "hat RRRRRRRR; snare LL",
        112,
    ),
    Case(
        "16ths of two feet",
        "ride: 8ths\nsnare: 3\nkick: 16ths",
        "ride RRRRRRRR; snare L",
        176,
        DOUBLE,
    ),
    Case(
        "ghosts between the backbeats",
        "hat: 8ths\nsnare: (1a) 2.> (2a) (3e) (3a) 4.> (4a)\nkick: 1 2& 3",
        "hat RRRRRRRR; snare LLLLLLL",
        100,
    ),
    Case(
        "16ths in one hand with ghosts",
        "hat: 16ths\nsnare: (1e) 2.> (2a) (3e) 4.>\nkick: 1 2& 3",
        "hat RRRRRRRRRRRRRRRR; snare LLLLL",
        90,
    ),
    Case(
        "16ths in both hands",
        "hat: 16ths -2 -4\nsnare: 2 4\nkick: 1 2& 3",
        "hat RLRLLRLRLRLLRL; snare RR",
        124,
    ),
    Case(
        "16ths in one hand, brisk",
        "hat: 16ths\nsnare: 2 4\nkick: 1 3",
        "hat RRRRRRRRRRRRRRRR; snare LL",
        112,
    ),
    Case(
        "16ths in both hands with an opening",
        "hat: 16ths -2 -4 4a.o\nsnare: 2 4\nkick: 1 3",
        "hat RLRLLRLRLRLLR; hat_open L; snare RR",
        128,
    ),
    Case(
        "a ghost on the and, and the 32nd behind it",
        "hat: 8ths\nsnare: 2.> (2:4/8) (2:5/8) 4.>\nkick: 1 3",
        "hat RRRRRRRR; snare LLLL",
        90,
    ),
    Case(
        "every and open",
        "hat: 8ths 1&.o 2&.o 3&.o 4&.o\nsnare: 2 4\nkick: quarters",
        "hat RRRR; hat_open RRRR; snare LL",
        122,
    ),
    Case(
        "riding the crash",
        "crash: quarters\nsnare: 2 4\nkick: 1 1& 3 3&",
        "crash RRRR; snare LL",
        152,
    ),
    Case(
        "time on the floor tom",
        "tom_floor: 8ths\nsnare: 2 4\nkick: 1 3",
        "tom_floor RRRRRRRR; snare LL",
        138,
    ),
    Case(
        "16ths of the floor tom, snare for backbeats",
        "tom_floor: 16ths -2 -4\nsnare: 2.> 4.>\nkick: quarters",
        "tom_floor RLRLLRLRLRLLRL; snare RR",
        108,
    ),
    Case(
        "paradiddle between hat and snare",
        "hat: 1 1& 1a 2e 3 3& 3a 4e\nsnare: (1e) 2.> (2&) (2a) (3e) 4.> (4&) (4a)\nkick: 1 3",
        "hat RRRRRRRR; snare LLLLLLLL",
        100,
    ),
    Case(
        "six-stroke roll over the toms",
        "tom_high: 1:0/6.> 2:0/6.>\nsnare: (1:1/6) (1:2/6) (1:3/6) (1:4/6) (2:1/6) (2:2/6) (2:3/6) "
        "(2:4/6)\ntom_floor: 1:5/6.> 2:5/6.>",
        "row RLLRRLRLLRRL / row RLRLRLRLRLRL",
        92,
    ),
    Case(
        "two 32nds and two 16ths, to and fro",
        "snare: 1:0/8 1:1/8 1:2/8 1:4/8 2:0/8 2:1/8 2:2/8 2:4/8\ntom_floor: 1:6/8 2:6/8",
        "row RLRLRRLRLR / row RLRRLRLRRL / row RLRLRLRLRL / row RLRRRRLRRR / row RLRRLRLRRL",
        80,
    ),
    Case(
        "ride and snare in turns, fast",
        "ride: 8ths\nsnare: 1e 1a 2e 2a 3e 3a 4e 4a\nkick: 8ths",
        "ride RRRRRRRR; snare LLLLLLLL",
        168,
    ),
    Case(
        "half-time shuffle",
        "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (3t) (4t)\nkick: 1 2l",
        "hat RRRRRRRR; snare LLLLL",
        96,
    ),
    Case(
        "a stopped crash, then time",
        "crash: 1.x\nhat: 2 2& 3 3& 4 4&\nsnare: 2 4\nkick: 1 3",
        "crash R; hat RRRRRR; snare LL / crash L; hat RRRRRR; snare LL",
        116,
    ),
    Case(
        "china in quarters",
        "china: quarters\nsnare: 2 4\nkick: 8ths",
        "china RRRR; snare LL",
        160,
    ),
    Case("left-handed round the kit", _ROUND, "row LRLRLRLRLRLRLRLRL", 104, LEFT),
    Case(
        "left-handed floor tom into the crash",
        _INTO_CRASH,
        "tom_floor LRLR; crash L; snare R / tom_floor LRLR; crash L; snare L",
        120,
        LEFT,
    ),
    Case(
        "left-handed hat to ride",
        _HAT_TO_RIDE,
        "hat LLLLLLLL; ride LLLLLLLL; snare RRRR",
        132,
        LEFT,
    ),
)


def lanes_of(case: Case) -> tuple[dict[str, str], int]:
    """(limbs by lane, and of all hands as ``row``; strokes that no limb is left for)."""
    score = count.read(f"tempo: {case.tempo}\n{case.text}\n")
    found = solve(score, case.player)
    left_over = {u.stroke for u in found.unplayable}
    lanes: dict[str, str] = defaultdict(str)
    for s in score.ordered():
        if KIT[s.part].role.endswith("_foot"):
            continue
        lane = "hat" if s.part == "hat_closed" else s.part
        limb = "-" if s.id in left_over else found.limbs[s.id][0]
        lanes[lane] += limb
        lanes["row"] += limb
    return dict(lanes), len(left_over)


def rank(case: Case) -> int | None:
    """Which of the accepted stickings it is (0 the usual one); None if it is none of them."""
    lanes, left_over = lanes_of(case)
    if left_over == case.unplayable:
        for n, one in enumerate(case.expected.split("/")):
            wanted = dict(pair.split() for pair in one.split(";"))
            if all(lanes.get(k) == v for k, v in wanted.items()):
                return n
    return None


def shares(half: int | None = None) -> tuple[float, float]:
    """(share that a teacher accepts, share that is the usual one). half: 0 the odd ones (first,
    third ...), 1 the even ones."""
    ranks = [rank(c) for n, c in enumerate(MOVES) if half is None or n % 2 == half]
    accepted = sum(r is not None for r in ranks) / len(ranks)
    return accepted, sum(r == 0 for r in ranks) / len(ranks)
