"""Rules between the limbs: thirty written grooves, and that what is claimed is true."""

from __future__ import annotations

import pytest

from materials import made_up_songs
from materials.cases import limb_rules as written
from orchesis import explanations
from orchesis.formats import count
from orchesis.grooves import grooves
from orchesis.hands import rules, with_limbs


def test_the_first_rule_of_thirty_written_grooves():
    assert written.share_right() >= 0.9


def spots(score, limb, bar):
    return {s.place for s in score.strokes_of(bar) if s.limb == limb}


@pytest.mark.parametrize("seed", range(70, 90))
def test_every_rule_is_true_in_every_bar_that_it_claims(seed):
    score = with_limbs(made_up_songs.made_up(seed).score)
    bars = range(1, score.bar_count + 1)
    for r in rules.between(score, bars):
        for bar in (b for b in bars if b not in r.exceptions and score.strokes_of(b)):
            own = [spots(score, limb, bar) for limb in r.limbs]
            if r.kind == "always":
                assert own[0] <= own[1]
            elif r.kind == "never":
                assert not own[0] & own[1]
            elif r.kind == "unison":
                assert own[0] == own[1]
            elif r.kind == "alone":
                for place in r.places:
                    assert [s.limb for s in score.strokes_of(bar) if s.place == place] == [*r.limbs]
            elif r.kind == "linear":
                places = [s.place for s in score.strokes_of(bar)]
                assert len(places) == len(set(places))


def told(text):
    [g] = grooves(with_limbs(count.read(f"tempo: 92\n== A\n{text}\n")))
    return explanations.told_groove(g, count.read("kick: 1").meters[0])["rules"]


def test_rules_are_said_in_one_sentence_each():
    assert told("hat: 8ths | =\nsnare: 2 4 | =\nkick: 1 3 | =")[0] == (
        "The kick never falls together with the left hand."
    )
    assert "No two limbs sound together." in told(
        "hat: 1 1& 2& 3 3& 4& | =\nsnare: 2 4 | =\nkick: 1e 3e 3a | ="
    )
    exception = told("hat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | 1 3 | 1 3 | 1 2 3")
    assert "The kick never falls together with the left hand, but in bar 4." in exception
    alone = told("ride: quarters | =\nsnare: 2 4 | =\nkick: 1 2& 3 | =")
    assert any(says.startswith("On 2& only the kick sounds") for says in alone)


def test_silence_and_one_limb_have_no_rule():
    score = count.read("tempo: 92\nkick: quarters | -\n")
    assert rules.between(score, [1, 2]) == [] and rules.between(score, []) == []
    assert rules.between(score, [2], (1, 2)) == []
