"""Thirty written bars that a player can't or would rather not play, and what is proposed for them.

Written before the rules (orchesis/hands/arranging.py). Each names the player's kit and the proposal
that is expected among the first two; every proposal has to be playable by that player.
"""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.formats import count
from orchesis.hands import arranging, solve
from orchesis.score import Score
from orchesis.score.player import Player

RIGHT = Player()


@dataclass(frozen=True)
class Bar:
    """way: of arranging.WAYS. left: the parts that it leaves in the bar, with how many strokes of
    each, where that is told."""

    name: str
    text: str
    way: str
    tempo: int = 100
    player: Player = RIGHT
    left: str = ""


SINGLE = Player(pedals=1)
SMALL = Player(lacks=("tom_high", "tom_mid", "tom_low"))
NO_TOMS = Player(lacks=("tom_high", "tom_mid", "tom_low", "tom_floor"))
ONE_CRASH = Player(lacks=("crash_2", "splash", "china"))
NO_PADS = Player(lacks=("clap", "shaker", "tambourine", "cowbell", "block"))
NO_RIDE = Player(lacks=("ride",))
BARS = (
    # two parts that were recorded over each other
    Bar(
        "groove and a tom line",
        "hat: 8ths\nsnare: 2 4\ntom_floor: 1& 2 2& 3& 4 4&\nkick: 1 3",
        "one_part",
    ),
    Bar("two hats", "hat: 16ths\nride: quarters\nsnare: 2 4\nkick: 1 3", "one_part", 130),
    Bar("a crash over the backbeat", "hat: 8ths\nsnare: 2 4\ncrash: 2 4\nkick: 1 3", "one_part"),
    Bar(
        "groove and a fill at once",
        "hat: 8ths\nsnare: 2 3 3e 3& 3a 4 4e 4& 4a\ntom_high: 3 3& 4 4&\nkick: 1",
        "one_part",
    ),
    Bar(
        "toms under a train",
        "snare: 16ths\ntom_floor: 1 2 3 4\nhat: 1 2 3 4\nkick: 1 3",
        "one_part",
    ),
    Bar(
        "hat, snare and cowbell", "hat: 8ths\nsnare: 2 4\ncowbell: quarters\nkick: 1 3", "one_part"
    ),
    # one pedal
    Bar(
        "16ths of two feet", "kick: 16ths\nsnare: 2 4\nride: quarters", "single_pedal", 150, SINGLE
    ),
    Bar(
        "bursts",
        "kick: 1 1:1/8 1:2/8 1:3/8 3 3:1/8 3:2/8 3:3/8\nhat: 8ths\nsnare: 2 4",
        "single_pedal",
        110,
        SINGLE,
    ),
    Bar(
        "gallop",
        "kick: 1 1& 1a 2 2& 2a 3 3& 3a 4 4& 4a\nride: quarters\nsnare: 2 4",
        "single_pedal",
        190,
        SINGLE,
    ),
    # a kit that lacks something
    Bar(
        "down four drums on a small kit",
        "snare: 1 1e 1& 1a\ntom_high: 2 2e 2& 2a\ntom_mid: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a",
        "toms",
        player=SMALL,
        left="tom_floor 8",
    ),
    Bar(
        "no toms at all",
        "tom_high: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a\nhat: 1 1& 2 2&\nsnare: 2\nkick: 1",
        "toms",
        player=NO_TOMS,
        left="snare 9",
    ),
    Bar(
        "floor tom time without one",
        "tom_floor: 8ths\nsnare: 2 4\nkick: 1 3",
        "toms",
        player=Player(lacks=("tom_floor",)),
    ),
    Bar(
        "two crashes, one owned",
        "crash: 1\ncrash_2: 3\nhat: 2 4\nsnare: 2 4\nkick: 1 3",
        "cymbals",
        player=ONE_CRASH,
        left="crash 2",
    ),
    Bar("a china", "china: quarters\nsnare: 2 4\nkick: 1 3", "cymbals", player=ONE_CRASH),
    Bar(
        "a splash", "splash: 4&\nhat: 8ths -4&\nsnare: 2 4\nkick: 1 3", "cymbals", player=ONE_CRASH
    ),
    Bar(
        "no ride",
        "ride: 8ths\nsnare: 2 4\nkick: 1 3",
        "cymbals",
        player=NO_RIDE,
        left="hat_closed 8",
    ),
    Bar(
        "a bell without a ride",
        "ride_bell: quarters\nsnare: 2 4\nkick: 1 3",
        "cymbals",
        player=NO_RIDE,
    ),
    # auxiliary sounds
    Bar("a shaker in 16ths", "shaker: 16ths\nsnare: 2 4\nkick: 1 3", "auxiliary", 90, NO_PADS),
    Bar(
        "claps with the snare",
        "hat: 8ths\nsnare: 2 4\nclap: 2 4\nkick: 1 3",
        "auxiliary",
        player=NO_PADS,
    ),
    Bar("a cowbell", "cowbell: quarters\nsnare: 2 4\nkick: 1 3", "auxiliary", player=NO_PADS),
    Bar(
        "a tambourine on 2 and 4",
        "hat: 8ths\nsnare: 2 4\ntambourine: 2 4\nkick: 1 3",
        "auxiliary",
        player=NO_PADS,
    ),
    Bar("block and clap", "block: 1 2 3 4\nclap: 2 4\nkick: quarters", "auxiliary", player=NO_PADS),
    # easier
    Bar("fast one-handed 16ths", "hat: 16ths\nsnare: 2 4\nkick: 1 3", "two_handed_hat", 126),
    Bar(
        "one-handed 16ths, busy kick",
        "hat: 16ths\nsnare: 2 4\nkick: 1 1a 2& 3 3a",
        "two_handed_hat",
        112,
    ),
    Bar("very fast 8ths", "hat: 8ths\nsnare: 2 4\nkick: 1 3", "thin_time", 290),
    Bar(
        "a dense fill",
        "snare: 1:0/8 1:1/8 1:2/8 1:3/8 1:4/8 1:5/8 1:6/8 1:7/8 2:0/8 2:1/8 2:2/8 2:3/8 2:4/8 2:5/8 2:6/8 2:7/8\ntom_floor: 3 3e 3& 3a 4 4e 4& 4a",
        "thin_fill",
        130,
    ),
    Bar(
        "a cross-stick ballad", "hat: 8ths\ncross_stick: 2 4\nkick: 1 3", "cross_stick_to_snare", 70
    ),
    Bar(
        "ghosts everywhere",
        "hat: 8ths\nsnare: (1e) (1a) 2 (2e) (2a) (3e) (3a) 4 (4e) (4a)\nkick: 1 2& 3",
        "no_ghosts",
        104,
    ),
    Bar(
        "flams all over", "snare: 1.f 1& 2.f 2& 3.f 3& 4.f 4&\nkick: quarters", "no_ornaments", 120
    ),
    Bar(
        "openings on every off-beat",
        "hat: 8ths 1&.o 2&.o 3&.o 4&.o\nsnare: 2 4\nkick: 1 3",
        "no_openings",
        120,
    ),
)


def score_of(bar: Bar) -> Score:
    return count.read(f"tempo: {bar.tempo}\n== A\n{bar.text}\n")


def is_right(bar: Bar) -> bool:
    """Whether the expected proposal is among the first two, and each is playable."""
    score = score_of(bar)
    made = arranging.proposals(score, bar.player, bars=[1])
    if bar.way not in [p.way for p in made[:2]]:
        return False
    if any(unplayable(p.apply(score), bar.player) for p in made):
        return False
    if bar.left:
        part, number = bar.left.split()
        own = next(p for p in made if p.way == bar.way).apply(score)
        return sum(s.part == part for s in own.strokes.values()) == int(number)
    return True


def unplayable(score: Score, player: Player) -> bool:
    """Whether something is left that this player can't play."""
    return bool(solve(score, player).unplayable) or any(
        s.part in player.lacking for s in score.strokes.values()
    )


def share_right(half: int | None = None) -> float:
    own = [b for n, b in enumerate(BARS) if half is None or n % 2 == half]
    return sum(map(is_right, own)) / len(own)
