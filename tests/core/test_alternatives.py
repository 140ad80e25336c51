"""Other stickings of a bar, what the recording says of the hands, schools and layers."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from orchesis import explanations
from orchesis.correcting.limb_edits import (
    FreeLimbs,
    SetLayer,
    SetPlayer,
    SetSchool,
    StickAs,
    StickBar,
)
from orchesis.editing import apply
from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count, count_writer
from orchesis.hands import alternatives, recorded, rudiments, with_limbs
from orchesis.hands.solver import solve, solve_loop
from orchesis.score import Measured, Score
from orchesis.score.player import Player


def read(text: str, tempo: int = 100) -> Score:
    return with_limbs(count.read(f"tempo: {tempo}\n== A\n{text}\n"))


def hands(score: Score, bar: int = 1) -> str:
    return "".join(s.limb[0] for s in score.strokes_of(bar) if s.limb.endswith("H"))


ROW = read("snare: 1.> 1e 1& 1a 2 2e 2&.> 2a 3 3e 3& 3a 4.> 4e 4& 4a\nkick: quarters")


def test_a_bar_has_other_stickings_as_it_stands_first():
    told = alternatives.alternatives(ROW, 1)
    assert told[0].is_now
    assert told[0].hands == "RL" * 8
    names = {a.hands: a.name for a in told}
    assert "single paradiddle" in names["RLRRLRLL" * 2]
    assert all(len(a.hands) == 16 for a in told)
    costs = [a.cost for a in told[1:]]
    assert costs == sorted(costs)


def test_each_says_what_it_keeps():
    told = {a.name: explanations.alternative(a) for a in alternatives.alternatives(ROW, 1)}
    [single] = [says for name, says in told.items() if name.startswith("natural")]
    assert "hands take turns" in single
    assert "8 fast doubles" in told["double stroke roll"]


def test_a_sticking_is_chosen_and_set_free_again():
    other = alternatives.alternatives(ROW, 1)[1]
    new, *_ = apply(ROW, StickBar(bar=1, limbs=other.limbs))
    assert hands(new) == other.hands
    assert all(s.limb_by == "person" for s in new.strokes_of(1) if s.limb.endswith("H"))
    free, *_ = apply(new, FreeLimbs(first=1, last=1))
    assert hands(free) == hands(ROW)
    with pytest.raises(BadEdit, match="no longer there"):
        StickBar(bar=1, limbs={"gone": "RH"}).apply(ROW)


def test_a_rudiment_is_asked_for_by_name():
    new, *_ = apply(ROW, StickAs(first=1, last=1, rudiment="six-stroke roll"))
    assert hands(new) == ("RLLRRL" * 3)[:16]
    with pytest.raises(BadEdit, match="no row"):
        StickAs(first=1, last=1, rudiment="single paradiddle").apply(read("kick: quarters"))


def measured(text: str, levels: list[float], late: list[float] | None = None) -> Score:
    score = read(text)
    own = sorted(score.strokes.values(), key=lambda s: s.place)
    made = [
        s.changed(
            measured=Measured(
                score.seconds(1, s.place) + (late or [0] * 99)[n], levels[n % len(levels)]
            )
        )
        for n, s in enumerate(own)
    ]
    return score.with_strokes(made)


EIGHT = "snare: 1 1e 1& 1a 2 2e 2& 2a"


@pytest.mark.parametrize(
    ("levels", "late", "kind"),
    [
        ([-20, -20.5], None, "turns"),
        ([-20, -26], None, "low"),
        ([-20, -25], [0, -0.02] * 4, "doubles"),
        ([-20, -20, -32, -20, -20], None, None),
    ],
)
def test_the_recording_speaks_for_a_way_of_the_hands(levels, late, kind):
    score = measured(EIGHT, levels, late)
    said = recorded.sayings(score, list(score.ordered()))
    assert [s.kind for s in said] == ([kind] if kind else [])
    if kind:
        assert explanations.saying(said[0])


def test_doubles_that_were_heard_are_stuck_as_doubles():
    score = measured(EIGHT, [-20, -25], [0, -0.02] * 4)
    assert hands(with_limbs(score)) == "RRLLRRLL"
    told = alternatives.alternatives(with_limbs(score), 1)
    assert told[0].heard is True


def test_a_section_has_a_school_of_its_own():
    score = count.read("tempo: 100\n== A\nhat: 8ths\nsnare: 2 4\n== B\nhat: 8ths\nsnare: 2 4\n")
    new, *_ = apply(with_limbs(score), SetSchool(id=score.sections[1].id, school="open"))
    assert new.strokes_of(1)[0].limb == "RH"
    assert new.strokes_of(2)[0].limb == "LH"
    assert Score.from_json(new.to_json()).sections[1].school == "open"


def test_a_layer_of_the_recording_asks_for_no_hand():
    score = read("hat: 8ths\nsnare: 2 4\nshaker: 16ths")
    assert solve(score).unplayable
    new, *_ = apply(score, SetLayer(part="shaker", first=1, last=1, is_layer=True))
    assert not solve(new).unplayable
    assert "1.~" in count_writer.write(new)
    assert {s.doubt for s in count.read("tempo: 90\nshaker: 1.~\n").strokes.values()} == {"layer"}
    back, *_ = apply(new, SetLayer(part="shaker", first=1, last=1, is_layer=False))
    assert solve(back).unplayable
    with pytest.raises(BadEdit, match="does not sound"):
        SetLayer(part="clap", first=1, last=1, is_layer=True).apply(score)


@pytest.mark.parametrize(
    ("text", "player", "reason"),
    [
        ("snare: 2.f\nhat: 2", Player(), "grace"),
        ("ride: 1", Player(lacks=("ride",)), "lacks"),
        ("kick: 1\nhat_foot: 1.R", Player(), "foot"),
        ("kick: 1 1:1/8 1:2/8 1:3/8\nhat: 16ths", Player(pedals=2), "held"),
        ("kick: 1 1:1/8 1:2/8 1:3/8", Player(), "too fast"),
    ],
)
def test_why_something_can_not_be_played(text, player, reason):
    score = replace(read(text, 140), player=player)
    reasons = {u.reason for u in solve(score).unplayable}
    assert reason in reasons
    assert all(explanations.unplayable(u, score) for u in solve(score).unplayable)


def test_a_phrase_that_comes_round_fits_its_start():
    score = replace(read("snare: triplets -4t -4l", 90), player=Player(school="alternating"))
    limbs = solve_loop(score, [1]).limbs
    row = [limbs[s.id] for s in score.strokes_of(1)]
    assert len(row) == 10
    assert all(a != b for a, b in pairwise([*row, row[0]]))  # also over the join


def test_an_odd_phrase_that_comes_round_begins_with_the_same_hand_again():
    score = replace(read("snare: triplets -4l -4t -3l", 90), player=Player(school="alternating"))
    once, round_ = solve(score).limbs, solve_loop(score, [1]).limbs
    row = [once[s.id] for s in score.strokes_of(1)]
    assert len(row) % 2 == 1
    assert all(a != b for a, b in pairwise(row))
    looped = [round_[s.id] for s in score.strokes_of(1)]
    joined = [*looped, looped[0]]
    assert sum(a == b for a, b in pairwise(joined)) == 1  # one double, where most room is
    assert looped[0] == row[0]


def test_half_a_word_of_a_rudiment_is_the_least():
    three = read("snare: 1 1e 1&")
    with pytest.raises(BadEdit, match="no row"):
        StickAs(first=1, last=1, rudiment="single paradiddle").apply(three)
    four, *_ = apply(
        read("snare: 1 1e 1& 1a"), StickAs(first=1, last=1, rudiment="single paradiddle")
    )
    assert hands(four) == "RLRR"


def test_a_kit_is_set_and_what_is_no_kit_is_refused():
    new, *_ = apply(ROW, SetPlayer(lacks=["ride", "ride"], plan=[["crash", 1, 1.2]]))
    assert new.player.lacks == ("ride",)
    assert "ride_bell" in new.player.lacking
    assert Score.from_json(new.to_json()).player == new.player
    assert new.player.plan == (("crash", 1.0, 1.2),)
    with pytest.raises(BadEdit, match="Nobody plays so"):
        SetPlayer(lacks=["snare"]).apply(ROW)
    with pytest.raises(BadScore):
        Player.from_json({"plan": [["ride", "far", 1]]})


def test_a_fill_is_stuck_from_its_own_first_stroke_on():
    fill = read("hat: 1 1& 2 2&\nsnare: 3 3& 4 4&\nkick: 1")
    stuck = StickAs(first=1, last=1, rudiment="single paradiddle").apply(fill)
    assert hands(stuck)[-4:] == "RLRR" and hands(stuck)[:4] == "RRRR"


def test_threes_with_a_double_are_never_called_single_strokes():
    row = read("snare: " + " ".join(f"{b}.> {b}t {b}l" for b in (1, 2, 3, 4)))
    assert hands(row) == "RLL" * 4
    assert "single stroke roll" not in rudiments.named(row, row.strokes_of(1))
