"""A limb for every stroke: sixty written cases, and what holds of any pattern."""

from __future__ import annotations

import random
from fractions import Fraction

import pytest

from materials.cases import stickings
from orchesis.correcting.limb_edits import SetPlayer
from orchesis.correcting.stroke_edits import SetLimb
from orchesis.editing import apply
from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.hands.pace import fast_steps, shortest
from orchesis.hands.plan import plan_of
from orchesis.hands.solver import Solution, solve
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.patches import patched
from orchesis.score.player import SCHOOLS, Player
from orchesis.score.stroke import LIMBS

HANDS = ("RH", "LH")


@pytest.mark.parametrize("case", stickings.CASES, ids=lambda c: c.name)
def test_a_written_case_is_stuck_as_expected(case):
    assert stickings.is_right(case), stickings.told(case)


def test_of_the_written_cases_nearly_all_are_right():
    assert stickings.share_right() >= 0.95


def made_up(seed: int) -> Score:
    """Two bars of anything at all, at any tempo, by a random but seeded hand."""
    rng = random.Random(seed)
    parts = rng.sample(sorted(KIT), rng.randint(2, 7))
    grid = rng.choice((2, 3, 4, 6, 8))
    strokes = {
        f"s{n}": Stroke(
            f"s{n}",
            bar,
            Fraction(step, grid),
            part,
            KIT[part].limb,
            rng.choice(("ghost", "normal", "accent")),
        )
        for n, (bar, step, part) in enumerate(
            (b, k, p)
            for b in (1, 2)
            for k in range(4 * grid)
            for p in parts
            if rng.random() < rng.choice((0.1, 0.3, 0.6))
        )
    }
    meters = (Meter(4, 4), Meter(4, 4))
    pulse = PulseMap.even(rng.choice((60, 96, 132, 190)), 8)
    return Score(meters, pulse, strokes, (Section("a", "A", "A", 1, 2),))


def must_hold(score: Score, found: Solution) -> None:
    """Each stroke has one limb that can be; none strikes twice at once, none sooner than it can."""
    assert set(found.limbs) == set(score.strokes) and set(found.limbs.values()) <= set(LIMBS)
    left_over = {u.stroke for u in found.unplayable}
    for hand in HANDS:
        own = [s for s in score.ordered() if found.limbs[s.id] == hand and s.id not in left_over]
        assert all(not KIT[s.part].role.endswith("_foot") for s in own)
        times = [score.seconds(s.bar, s.place) for s in own]
        fast = 0
        for n in range(1, len(own)):
            gap, reach = times[n] - times[n - 1], plan_of(()).distance(own[n - 1].part, own[n].part)
            assert gap >= shortest(fast, reach) - 1e-9
            fast = fast_steps(fast, gap)
    for foot in ("RF", "LF"):
        own = [s for s in score.ordered() if found.limbs[s.id] == foot and s.id not in left_over]
        spots = [(s.bar, s.place, s.part) for s in own]
        assert len(set(spots)) == len(spots)


@pytest.mark.parametrize("seed", range(60))
def test_no_limb_does_what_it_can_not(seed):
    score = made_up(seed)
    player = Player(("right", "left")[seed % 2], SCHOOLS[seed % len(SCHOOLS)], 1 + seed % 3 // 2)
    must_hold(score, solve(score, player))


def test_a_person_s_choice_is_a_constraint_and_the_rest_is_solved_round_it():
    score = count.read("tempo: 100\nsnare: 1.L 1e 1& 1a 2 2e 2& 2a\n")
    first = next(score.ordered())
    assert first.limb == "LH" and first.limb_by == "person"
    found = solve(score)
    assert found.limbs[first.id] == "LH"
    assert [found.limbs[s.id][0] for s in score.ordered()][2:] == list("RLRLRL")


def test_a_left_handed_player_mirrors_the_right_handed_one():
    score = made_up(7)
    right, left = solve(score), solve(score, Player(hand="left"))
    assert {k: {"R": "L", "L": "R"}[v[0]] + v[1] for k, v in right.limbs.items()} == left.limbs


def test_three_hands_are_told_and_never_handed_out():
    score = count.read("tempo: 100\nhat: 1\nsnare: 1\ntom_floor: 1\nkick: 1\n")
    [left_over] = solve(score).unplayable
    assert (left_over.reason, left_over.bar, left_over.place) == ("third hand", 1, 0)
    assert score.strokes[left_over.stroke].part == "tom_floor"


def test_strokes_that_no_hand_keeps_up_are_told():
    score = count.read(
        "tempo: 200\nride: 1:0/8 1:1/8 1:2/8 1:3/8\ncrash: 1:0/8 1:1/8 1:2/8 1:3/8\n"
    )
    assert {u.reason for u in solve(score).unplayable} == {"too fast"}
    kick = count.read("tempo: 240\nkick: 1:0/8 1:1/8 1:2/8 1:3/8\n")
    assert solve(kick).unplayable
    assert not solve(kick, Player(pedals=2)).unplayable


def test_a_chosen_limb_is_kept_and_its_bar_is_solved_round_it():
    score = with_limbs(count.read("tempo: 100\nsnare: 16ths\n"))
    first = next(score.ordered())
    changed = apply(score, SetLimb(id=first.id, limb="LH"))[0]
    limbs = [s.limb for s in changed.ordered()]
    assert limbs[0] == "LH" and changed.strokes[first.id].limb_by == "person"
    assert limbs[4:] == ["RH", "LH"] * 6
    assert all(s.limb_by == "program" for s in changed.ordered() if s.id != first.id)


def test_the_player_of_a_song_is_set_kept_and_taken_back():
    score = with_limbs(count.read("tempo: 100\nhat: 8ths\nsnare: 2 4\nkick: 1 3\n"))
    changed, _, inverse = apply(score, SetPlayer(hand="left", pedals=2))
    assert changed.player == Player("left", "natural", 2)
    assert {s.limb for s in changed.strokes.values() if s.part == "kick"} == {"LF"}
    assert Score.from_json(changed.to_json()).player == changed.player
    assert patched(changed, inverse).to_json() == score.to_json()
    with pytest.raises(BadScore, match="Nobody plays so"):
        Player("middle")


def test_an_empty_score_needs_no_limb():
    score = count.read("tempo: 100\nhat: - | -\n")
    assert solve(score).limbs == {}
