"""Common moves and accented rows stuck as a teacher would, and what is unplayable and what is not."""

from __future__ import annotations

import random
from fractions import Fraction
from itertools import product

import numpy as np
import pytest

from materials.cases import accents, moves
from materials.cases.unplayable import BARS
from materials.parts_by_style import STYLES, _groove
from orchesis.explanations import unplayable
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.hands.alternatives import alternatives
from orchesis.hands.pace import fast_steps, shortest
from orchesis.hands.plan import plan_of
from orchesis.hands.solver import solve
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke

PLAN = plan_of(())


def is_hand(s: Stroke) -> bool:
    return not KIT[s.part].role.endswith("_foot")


def test_common_moves_are_stuck_as_a_teacher_would():
    accepted, usual = moves.shares()
    wrong = [(c.name, moves.lanes_of(c)) for c in moves.MOVES if moves.rank(c) is None]
    assert accepted >= 0.95 and usual >= 0.8, wrong


def hands_of(row: accents.Row) -> str:
    score = count.read(f"tempo: {row.tempo}\n{row.text}\n")
    limbs = solve(score, row.player).limbs
    return "".join(limbs[s.id][0] for s in score.ordered() if is_hand(s))


def test_accents_choose_the_sticking():
    wrong = [(r.name, hands_of(r)) for r in accents.ROWS if hands_of(r) not in r.first]
    assert len(wrong) <= 0.05 * len(accents.ROWS), wrong


def test_beside_the_first_sticking_the_usual_other_one_is_offered():
    wrong = []
    for row in accents.ROWS:
        score = with_limbs(count.read(f"tempo: {row.tempo}\n{row.text}\n"), row.player)
        offered = [a.hands for a in alternatives(score, 1, row.player)[:4]]
        if row.beside and row.beside not in offered:
            wrong.append((row.name, offered))
        assert len(offered) >= 2, row.name
    assert len(wrong) <= 0.05 * len(accents.ROWS), wrong


@pytest.mark.parametrize(("text", "tempo", "player", "reason"), BARS)
def test_what_nobody_plays_is_told(text, tempo, player, reason):
    score = count.read(f"tempo: {tempo}\n{text}\n")
    assert reason in {u.reason for u in solve(score, player).unplayable}


def test_a_crash_takes_the_place_of_the_hat_s_stroke():
    score = with_limbs(count.read("tempo: 100\nhat: 8ths\nsnare: 1\ncrash: 1\nkick: 1"))
    [left_over] = solve(score).unplayable
    assert unplayable(left_over, score) == (
        "Hat closed on 1 in bar 1, with snare and crash: the crash takes its place."
    )
    alone = count.read("tempo: 100\nhat: 8ths -1\ncrash: 1\nkick: 1")
    assert not solve(alone).unplayable


# -- everything that is told as too fast is so, whatever hands one tries


def a_bar(rng: random.Random) -> Score:
    """Up to sixteen strokes of the hands in a bar, at most two at a time, fast enough to be hard."""
    parts = rng.sample([p for p in sorted(KIT) if not KIT[p].role.endswith("_foot")], 4)
    grid = rng.choice((4, 6, 8))
    strokes: dict[str, Stroke] = {}
    at = 0
    while len(strokes) < 16 and at < 4 * grid:
        for part in rng.sample(parts, rng.choice((1, 1, 1, 2))):
            if len(strokes) < 16:
                key = f"s{len(strokes)}"
                strokes[key] = Stroke(key, 1, Fraction(at, grid), part)
        at += rng.choice((1, 1, 1, 2, 3))
    pulse = PulseMap.even(rng.choice((90, 120, 150, 190)), 4)
    return Score((Meter(4, 4),), pulse, strokes, (Section("a", "A", "A", 1, 1),))


def can_be_played(score: Score) -> bool:
    """By trying each hand for each moment, one behind the other, without any cost or memory."""
    moments: dict[Fraction, list[Stroke]] = {}
    for s in score.ordered():
        moments.setdefault(s.place, []).append(s)
    rows = [(score.seconds(1, at), own) for at, own in sorted(moments.items())]

    def goes_on(n: int, hands: tuple) -> bool:
        if n == len(rows):
            return True
        time, own = rows[n]
        for ways in product((0, 1), repeat=len(own)):
            if len(set(ways)) < len(ways):
                continue
            now = list(hands)
            for s, hand in zip(own, ways, strict=True):
                before, part, fast = now[hand]
                gap = time - before
                if part and gap < shortest(fast, PLAN.distance(part, s.part)):
                    break
                now[hand] = (time, s.part, fast_steps(fast, gap))
            else:
                if goes_on(n + 1, tuple(now)):
                    return True
        return False

    return goes_on(0, ((-99.0, "", 0), (-99.0, "", 0)))


def test_what_is_told_as_unplayable_is_so_whatever_hands_one_tries():
    told = 0
    for seed in range(400):
        score = a_bar(random.Random(seed))
        reported = solve(score).unplayable
        assert bool(reported) != can_be_played(score), seed
        told += bool(reported)
    assert 40 < told < 360  # both happen


def test_grooves_of_every_style_are_playable_up_to_their_fastest_tempo():
    styles = [s for s in STYLES if s.name != "random"]
    for seed in range(300):
        rng = np.random.default_rng(seed)
        style = styles[seed % len(styles)]
        strokes = {}
        for bar, own in enumerate(_groove(rng, style)[:2], 1):
            kept: dict[Fraction, list[str]] = {}
            for place, part, loud, _ in own:
                at = Fraction(round(place * 12), 12)
                name = {"tom1": "tom_floor", "tom2": "tom_mid", "tom3": "tom_high"}.get(part, part)
                name = {"crash2": "crash_2"}.get(name, name)
                is_second = name in kept.setdefault(at, [])
                hands = [p for p in kept[at] if not KIT[p].role.endswith("_foot")]
                if KIT[name].family == "auxiliary":
                    continue  # shaken along by somebody else
                if is_second or (not KIT[name].role.endswith("_foot") and len(hands) == 2):
                    continue
                kept[at].append(name)
                key = f"{bar}-{len(strokes)}"
                strokes[key] = Stroke(key, bar, at, name, loudness=loud)
        pulse = PulseMap.even(style.tempi[1], 2 * style.beats)
        score = Score((Meter(style.beats, 4),) * 2, pulse, strokes)
        hands = [u for u in solve(score).unplayable if is_hand(strokes[u.stroke])]
        assert not hands, (seed, style.name, style.tempi, hands)
