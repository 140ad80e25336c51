"""Arranging: written bars, playable whatever was there, levels, edits that arrange."""

from __future__ import annotations

from dataclasses import replace

import pytest

from materials.cases import arrangings
from orchesis import explanations
from orchesis.correcting.arranging_edits import Arrange, Simplify, TakeBars
from orchesis.editing import apply
from orchesis.errors import BadEdit
from orchesis.formats import count
from orchesis.grooves.levels import FULL, at_level
from orchesis.hands import arranging, with_limbs
from orchesis.hands.ways import WAYS
from orchesis.score.player import MAY_LACK, Player
from tests.core.test_solver import made_up


@pytest.mark.parametrize("bar", arrangings.BARS, ids=lambda b: b.name)
def test_a_written_bar_gets_the_proposal_that_is_expected(bar):
    assert arrangings.is_right(bar)


@pytest.mark.parametrize("seed", range(25))
def test_whatever_was_there_it_can_be_played_afterwards(seed):
    score = with_limbs(made_up(seed))
    player = Player(
        hand="left" if seed % 2 else "right",
        pedals=1 + seed % 2,
        lacks=tuple(MAY_LACK[seed % 5 : seed % 5 + 4]),
    )
    for way in WAYS:
        new = arranging.arranged(score, way, [1, 2], player)
        assert not arrangings.unplayable(new, player), way


def test_each_way_has_words():
    assert all(explanations.way(way) for way in WAYS)


GROOVE = (
    "tempo: 90\n== A\nhat: 8ths | = | = | 1 1& 2 2&\nsnare: 2 4 (4a) | 2 4 (4a) | 2 4 (4a) |"
    " 2 3 3e 3& 3a 4 4e 4& 4a\nkick: 1 3 | 1 3 | 1 3 3& | 1\n"
)


def parts(score, bar):
    return [(s.part, str(s.place)) for s in score.strokes_of(bar)]


def test_levels_go_from_the_skeleton_to_everything():
    score = with_limbs(count.read(GROOVE))
    sizes = [len(at_level(score, level).strokes) for level in range(1, FULL + 1)]
    assert sizes == sorted(sizes)
    assert sizes[-1] == len(score.strokes)
    skeleton = at_level(score, 1)
    assert parts(skeleton, 1) == [("kick", "0"), ("snare", "1"), ("kick", "2"), ("snare", "3")]
    assert ("kick", "5/2") not in parts(skeleton, 3)  # comes once only
    assert ("kick", "5/2") in parts(at_level(score, 4), 3)
    assert parts(at_level(score, 2), 4)[-1] == ("snare", "7/2")  # the fill in 8ths


def test_a_way_is_an_edit_and_can_be_taken_back():
    score = with_limbs(count.read(GROOVE))
    new, _, inverse = apply(score, Arrange(way="no_ghosts", bars=[1, 2]))
    assert [s.dynamic for s in new.strokes_of(1)].count("ghost") == 0
    assert [s.dynamic for s in new.strokes_of(3)].count("ghost") == 1
    assert {k for k, s in inverse["strokes"].items() if s is not None}
    with pytest.raises(BadEdit, match="nothing in these bars"):
        Arrange(way="no_ghosts", bars=[1]).apply(new)
    assert len(Simplify(level=1).apply(score).strokes) < len(score.strokes)


def test_the_left_foot_can_be_put_on_2_and_4():
    new = Arrange(way="foot_on_2_and_4", bars=[1]).apply(with_limbs(count.read(GROOVE)))
    assert [p for part, p in parts(new, 1) if part == "hat_foot"] == ["1", "3"]


def test_bars_are_taken_over_from_another_arrangement():
    score = with_limbs(count.read(GROOVE))
    plain = at_level(score, 1)
    given = [s.to_json() for s in score.strokes_of(4)]
    new = TakeBars(bars=[4], strokes=given).apply(plain)
    assert parts(new, 4) == parts(score, 4)
    assert parts(new, 1) == parts(plain, 1)
    with pytest.raises(BadEdit, match="outside"):
        TakeBars(bars=[3], strokes=given).apply(plain)


def test_what_a_kit_lacks_is_told():
    score = count.read("tempo: 90\ntom_high: 1 2\nsnare: 3\n")
    lacking = replace(score, player=Player(lacks=("tom_high",)))
    [first, *_] = arranging.proposals(lacking)
    assert (first.way, first.must) == ("toms", True)
    assert "can be played" in explanations.proposal(first)
