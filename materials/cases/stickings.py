"""Sixty written cases of who plays what: grooves, fills, rudiments, linear and looping phrases,
left-handed and open-handed players, three arms.

Written before the solver (orchesis/hands/solver.py). The odd ones were looked at while it was made,
the even ones only at the end. Each is count text and, lane by lane, the limbs of its strokes in
order of time; where more than one sticking is as good, each stands behind a "/" (for the whole case,
lanes separated by ";").
"""

from __future__ import annotations

import time
from collections import defaultdict
from dataclasses import dataclass

from orchesis.formats import count
from orchesis.hands.solver import solve
from orchesis.score import KIT
from orchesis.score.player import Player

RIGHT = Player()


@dataclass(frozen=True)
class Case:
    """expected: "hat RRRR; snare LL / ..."; unplayable: how many strokes no limb is left for."""

    name: str
    text: str
    expected: str
    tempo: int = 100
    player: Player = RIGHT
    unplayable: int = 0


LEFT = Player(hand="left")
OPEN = Player(school="open")
ALTERNATING = Player(school="alternating")
LEAD = Player(school="lead")
FEWEST = Player(school="fewest")
DOUBLE = Player(pedals=2)
CASES = (
    # grooves
    Case("8ths", "hat: 8ths\nsnare: 2 4\nkick: 1 3", "hat RRRRRRRR; snare LL"),
    Case(
        "8ths, ghosts", "hat: 8ths\nsnare: 2.> (2a) (3e) 4.>\nkick: 1 3", "hat RRRRRRRR; snare LLLL"
    ),
    Case(
        "one-handed 16ths",
        "hat: 16ths\nsnare: 2 4\nkick: 1 3",
        "hat RRRRRRRRRRRRRRRR; snare LL",
        84,
    ),
    Case(
        "two-handed 16ths",
        "hat: 16ths -2 -4\nsnare: 2 4\nkick: 1 3",
        "hat RLRLLRLRLRLLRL; snare RR",
        116,
    ),
    Case(
        "ride quarters",
        "ride: quarters\nsnare: 2 4\nhat_foot: 2 4\nkick: 1 3",
        "ride RRRR; snare LL",
    ),
    Case(
        "swing ride", "ride: 1 2 2l 3 4 4l\nsnare: 1l 3 4l\nkick: 1", "ride RRRRRR; snare LLL", 160
    ),
    Case(
        "cross-stick",
        "ride: 8ths\ncross_stick: 1 2& 4\nkick: 1 2& 3 4&",
        "ride RRRRRRRR; cross_stick LLL",
    ),
    Case(
        "floor tom time", "tom_floor: 8ths\nsnare: 2 4\nkick: 1 3", "tom_floor RRRRRRRR; snare LL"
    ),
    Case(
        "half-time shuffle",
        "hat: 1 1l 2 2l 3 3l 4 4l\nsnare: (1t) (2t) 3.> (3t) (4t)\nkick: 1",
        "hat RRRRRRRR; snare LLLLL",
    ),
    Case(
        "open hat on 4&",
        "hat: 8ths 4&.o\nsnare: 2 4\nkick: 1 3",
        "hat RRRRRRR; hat_open R; snare LL",
    ),
    Case("off-beat hats", "hat: offbeats\nsnare: 2 4\nkick: quarters", "hat RRRR; snare LL"),
    Case(
        "crash on 1",
        "crash: 1\nhat: 8ths -1\nsnare: 2 4\nkick: 1 3",
        "crash R; hat RRRRRRR; snare LL",
    ),
    Case(
        "snare instead of the hat", "hat: 8ths -2 -4\nsnare: 2 4\nkick: 1 3", "hat RRRRRR; snare LL"
    ),
    Case(
        "ride bell and ghosts",
        "ride_bell: quarters\nsnare: (1e) (1a) 2.> (2a) (3e) 4.>\nkick: 1 3",
        "ride_bell RRRR; snare LLLLLL",
        96,
    ),
    Case(
        "snare on all four",
        "hat: 8ths\nsnare: quarters\nkick: offbeats",
        "hat RRRRRRRR; snare LLLL",
        140,
    ),
    Case(
        "samba 16ths",
        "hat: 16ths\ncross_stick: 1 1a 2& 3& 4\nkick: 1 1a 2 2a 3 3a 4 4a",
        "hat RRRRRRRRRRRRRRRR; cross_stick LLLLL",
        84,
    ),
    Case(
        "train",
        "snare: 1 1e 1&.> 1a 2 2e 2&.> 2a 3 3e 3&.> 3a 4 4e 4&.> 4a\nkick: quarters",
        "snare RLRLRLRLRLRLRLRL",
        104,
    ),
    Case(
        "two crashes",
        "crash: 1\ncrash_2: 1\nkick: 1\nhat: 2 3 4\nsnare: 2 4",
        "crash L; crash_2 R; hat RRR; snare LL",
    ),
    Case(
        "tom groove",
        "tom_floor: 1 1& 2& 3 3& 4&\ntom_high: 2 4\nkick: 1 3",
        "tom_floor RRRRRR; tom_high LL",
        110,
    ),
    Case(
        "fast punk 8ths",
        "hat: 8ths\nsnare: offbeats\nkick: quarters",
        "hat RRRRRRRR; snare LLLL",
        170,
    ),
    # fills
    Case("16ths on the snare", "snare: 16ths", "snare RLRLRLRLRLRLRLRL"),
    Case(
        "16ths round the kit",
        "snare: 1 1e 1& 1a\ntom_high: 2 2e 2& 2a\ntom_mid: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a",
        "snare RLRL; tom_high RLRL; tom_mid RLRL; tom_floor RLRL",
    ),
    Case(
        "8ths down",
        "snare: 1 1&\ntom_high: 2 2&\ntom_mid: 3 3&\ntom_floor: 4 4&",
        "snare RR; tom_high RR; tom_mid RR; tom_floor RR / snare RL; tom_high RL; tom_mid RL; tom_floor RL",
    ),
    Case("8ths and two 16ths", "snare: 3 3& 3a 4 4e 4&", "snare RRLRLR"),
    Case("dotted", "snare: 1 1a 2 2a 3 3a 4 4a", "snare RLRLRLRL"),
    Case("off the beat", "snare: 1e 1& 2e 2& 3e 3& 4e 4&", "snare LRLRLRLR"),
    Case("8th triplets", "snare: triplets", "snare RLRLRLRLRLRL"),
    Case(
        "sextuplets",
        "snare: 1:0/6 1:1/6 1:2/6 1:3/6 1:4/6 1:5/6 2:0/6 2:1/6 2:2/6 2:3/6 2:4/6 2:5/6",
        "snare RLRLRLRLRLRL",
        80,
    ),
    Case("32nds", "snare: 4:0/8 4:1/8 4:2/8 4:3/8 4:4/8 4:5/8 4:6/8 4:7/8", "snare RLRLRLRL", 80),
    Case(
        "triplets over the toms",
        "snare: 1 1t 1l\ntom_high: 2 2t 2l\ntom_mid: 3 3t 3l\ntom_floor: 4 4t 4l",
        "snare RLR; tom_high LRL; tom_mid RLR; tom_floor LRL",
        120,
    ),
    Case(
        "backbeat, then a fill",
        "hat: 1 1& 2 2&\nsnare: 2 3 3e 3& 3a 4 4e 4& 4a\nkick: 1",
        "hat RRRR; snare LRLRLRLRL",
    ),
    Case("flams in quarters", "snare: 1.f 2.f 3.f 4.f", "snare RRRR / snare RLRL"),
    Case(
        "unison on floor and snare",
        "snare: 3 3& 4 4&\ntom_floor: 3 3& 4 4&",
        "snare LLLL; tom_floor RRRR",
    ),
    Case(
        "ends on the crash", "snare: 4 4e 4& 4a |\ncrash: - | 1\nkick: - | 1", "snare RLRL; crash R"
    ),
    Case(
        "16ths with kick between",
        "snare: 1 1& 1a 2 2& 2a\nkick: 1e 2e",
        "snare RRLRRL / snare RLRLRL / snare RLRRLR",
    ),
    # linear
    Case(
        "R L K",
        "snare: 1 1e 1a 2 2& 2a 3e 3& 4 4e 4a\nkick: 1& 2e 3 3a 4&",
        "snare RLLRRLLRRLL / snare RLRLRLRLRLR / snare RLRLRLRLRLL",
    ),
    Case(
        "K R L in triplets",
        "snare: 1t 1l 2t 2l 3t 3l 4t 4l\nkick: quarters",
        "snare RLRLRLRL / snare LRLRLRLR",
    ),
    Case(
        "R L K K in 16ths",
        "tom_floor: 1 2 3 4\nsnare: 1e 2e 3e 4e\nkick: 1& 1a 2& 2a 3& 3a 4& 4a",
        "tom_floor RRRR; snare LLLL",
        110,
    ),
    Case(
        "hat and snare linear",
        "hat: 1 1& 2& 3 3& 4&\nsnare: 1e 2 2a 4\nkick: 1a 3e 3a",
        "hat RRRRRR; snare LLLL",
        92,
    ),
    Case(
        "six over two beats",
        "snare: 1 2& \ntom_high: 1e 1& 2a\ntom_floor: 1a 2 2e",
        "snare RR; tom_high LRL; tom_floor LRL / snare RR; tom_high LLL; tom_floor RRR",
    ),
    # left-handed, open-handed
    Case(
        "left-handed 8ths",
        "hat: 8ths\nsnare: 2 4\nkick: 1 3",
        "hat LLLLLLLL; snare RR",
        player=LEFT,
    ),
    Case("left-handed fill", "snare: 16ths", "snare LRLRLRLRLRLRLRLR", player=LEFT),
    Case(
        "left-handed ride",
        "ride: quarters\nsnare: 2 (2a) (3e) 4\nkick: 1 3",
        "ride LLLL; snare RRRR",
        player=LEFT,
    ),
    Case(
        "open-handed 8ths",
        "hat: 8ths\nsnare: 2 4\nkick: 1 3",
        "hat LLLLLLLL; snare RR",
        player=OPEN,
    ),
    Case(
        "open-handed, floor tom",
        "hat: 8ths\nsnare: 2\ntom_floor: 4\nkick: 1 3",
        "hat LLLLLLLL; snare R; tom_floor R",
        player=OPEN,
    ),
    Case("open-handed fill", "snare: 1 1e 1& 1a 2 2e 2& 2a", "snare RLRLRLRL", player=OPEN),
    # schools
    Case("alternating 8ths", "snare: 8ths", "snare RLRLRLRL", player=ALTERNATING),
    Case("alternating, dotted", "snare: 1 1& 1a 2 2& 2a", "snare RLRLRL", player=ALTERNATING),
    Case(
        "accents with the lead hand",
        "snare: 1.> (1e) (1&) 1a.> (2) (2e) 2&.> (2a) (3) 3e.> (3&) (3a) 4.> (4e) (4&) (4a)",
        "snare RLLRLLRLLRLLRLRL / snare RLLRLLRLLRLLRLLR / snare RLLRLLRLLRLLRLLL",
        player=LEAD,
        tempo=90,
    ),
    Case(
        "accented triplets, lead",
        "snare: 1.> (1t) (1l) 2.> (2t) (2l) 3.> (3t) (3l) 4.> (4t) (4l)",
        "snare RLLRLLRLLRLL",
        player=LEAD,
    ),
    Case(
        "fewest moves",
        "snare: 1 1e 1& 1a\ntom_floor: 2 2e 2& 2a",
        "snare LRLR; tom_floor RLRL / snare RLRL; tom_floor RLRL / snare LRLR; tom_floor LRLR",
        player=FEWEST,
    ),
    Case(
        "fewest moves, to and fro",
        "snare: 1 1& 2 2& 3 3& 4 4&\ntom_floor: 1e 1a 2e 2a 3e 3a 4e 4a",
        "snare LLLLLLLL; tom_floor RRRRRRRR",
        player=FEWEST,
    ),
    # feet
    Case("kick and foot hat", "kick: 1 3\nhat_foot: 2 4\nride: quarters", "kick FF; ride RRRR"),
    Case(
        "double pedal 16ths",
        "kick: 16ths\nsnare: 2 4\nride: quarters",
        "snare LL; ride RRRR",
        150,
        DOUBLE,
    ),
    # three arms
    Case(
        "hat, snare and tom together",
        "hat: 8ths\nsnare: 2 4\ntom_floor: 2 4\nkick: 1 3",
        "hat RRRRRR",
        unplayable=2,
    ),
    Case(
        "16ths and a crash at once",
        "hat: 8ths\nsnare: 2\ncrash: 2\nkick: 1",
        "snare L",
        unplayable=1,
    ),
    # across
    Case(
        "hat on the left, toms on the right",
        "hat: 1 2 3 4\ntom_floor: 1& 2& 3& 4&",
        "hat LLLL; tom_floor RRRR / hat RRRR; tom_floor RRRR / hat RRRR; tom_floor LLLL",
        150,
    ),
    Case(
        "ride and hat by hands",
        "ride: quarters\nhat: offbeats\nkick: 1 3",
        "ride RRRR; hat LLLL",
        120,
    ),
    Case(
        "paradiddle by accents",
        "snare: 1.> 1e 1& 1a 2.> 2e 2& 2a",
        "snare RLRLRLRL / snare RLRRLRLL",
    ),
    Case(
        "roll into the backbeat",
        "hat: 8ths\nsnare: (1&) (1a) 2.> 4.>\nkick: 1 3",
        "hat RRRRRRRR; snare LLLL",
        84,
    ),
)


def told(case: Case) -> tuple[dict[str, str], int]:
    """(limbs by lane: R, L, or F for a foot, strokes that no limb is left for)."""
    score = count.read(f"tempo: {case.tempo}\n{case.text}\n")
    found = solve(score, case.player)
    lanes: dict[str, str] = defaultdict(str)
    left_over = {u.stroke for u in found.unplayable}
    for s in score.ordered():
        if s.id in left_over:
            continue
        limb = found.limbs[s.id]
        lane = "hat" if s.part == "hat_closed" else s.part
        lanes[lane] += "F" if KIT[s.part].role.endswith("_foot") else limb[0]
    return dict(lanes), len(left_over)


def is_right(case: Case) -> bool:
    """Whether the sticking is an expected one, and as many strokes are told as unplayable."""
    lanes, left_over = told(case)
    if left_over != case.unplayable:
        return False
    for one in case.expected.split("/"):
        wanted = dict(pair.split() for pair in one.split(";"))
        if case.unplayable:  # which of them is left over is open
            if all(set(lanes.get(k, "")) <= set(v) for k, v in wanted.items()):
                return True
        elif all(lanes.get(k) == v for k, v in wanted.items()):
            return True
    return False


def seconds() -> tuple[float, float]:
    """(seconds that a busy song of 160 bars takes, seconds that one of its bars takes)."""
    bars = 160
    lanes = {"hat": "8ths", "snare": "2 (2a) (3e) 4 (4a)", "kick": "1 1a 2& 3 4e"}
    text = "".join(f"{part}: {' | '.join([bar] * bars)}\n" for part, bar in lanes.items())
    score = count.read(f"tempo: 108\n== A\n{text}")
    start = time.perf_counter()
    solve(score)
    whole = time.perf_counter() - start
    start = time.perf_counter()
    for bar in range(1, 41):
        solve(score, None, [bar])
    return whole, (time.perf_counter() - start) / 40


def share_right(half: int | None = None) -> float:
    """Share of the cases that are right; half: 0 the odd ones (first, third ...), 1 the even ones."""
    own = [c for n, c in enumerate(CASES) if half is None or n % 2 == half]
    return sum(map(is_right, own)) / len(own)
