"""Rhythm words: a syllable a stroke, stressed where the figure is."""

from __future__ import annotations

from fractions import Fraction

import pytest

from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.score import rhythm_text as rt
from orchesis.teaching import rhythm_words as rw

#: Bars and how many syllables their figure has, with its stresses.
FIGURES = [
    ("snare: 2 4\nkick: 1 3\nhat: 8ths", "SSSS"),
    ("snare: 16ths", "SuuuSuuuSuuuSuuu"),
    ("snare: triplets", "SuuSuuSuuSuu"),
    ("snare: 2 (2a) 4\nkick: 1 2& 3\nhat: 8ths", "SSuuSS"),
    ("snare: 1 1e 1& 1a 2 3 3& 4", "SuuuSSuS"),
    ("snare: 1& 2 2& 3.> 3a.>", "uSuSS"),
    ("hat: 8ths", "SuSuSuSu"),
    ("snare: 4a", "u"),
]


def bar_of(text):
    score = with_limbs(count.read(text))
    return score.strokes_of(1), score.meters[0]


@pytest.mark.parametrize(("text", "shape"), FIGURES)
def test_a_figure_is_as_many_syllables_as_strokes(text, shape):
    strokes, meter = bar_of(text)
    assert "".join("S" if s else "u" for _, s in rt.figure(strokes)) == shape
    proposed = rw.propose(strokes)
    said = rt.spoken(proposed, strokes, meter)
    assert [s.place for s in said] == [p for p, _ in rt.figure(strokes)]
    agrees = sum(s.is_stressed == (k == "S") for s, k in zip(said, shape, strict=True))
    assert agrees / len(shape) >= 0.75


def test_the_same_figure_is_always_the_same_word():
    strokes, _ = bar_of("snare: 1 1e 1& 1a 3 3e 3& 3a 4")
    words = rw.propose(strokes).split()
    assert words[0] == words[1] and words[2] != words[0]


def test_a_teachers_words_go_first():
    strokes, _ = bar_of("snare: 1 1& 2 2& 3 3& 4 4&")
    assert rw.propose(strokes, ["LIGHT-house"]).split() == ["LIGHT-house"] * 4


def test_own_words_are_checked_against_the_strokes():
    strokes, meter = bar_of("snare: 1 1& 2.> 3")
    assert not rw.against("KET-tle TEA BOAT", strokes, meter)
    assert rw.against("a-WAKE TEA BOAT", strokes, meter) == [
        "The stroke on 1 is strong, “a” is not."
    ]
    with pytest.raises(BadScore, match="has 2 syllables, the figure 4 strokes"):
        rt.spoken("KET-tle", strokes, meter)
    with pytest.raises(BadScore, match="can't be spoken"):
        rt.syllables_of("KET-tle 42")


def test_words_are_said_in_one_breath():
    strokes, meter = bar_of("snare: 1 1& 2 3")
    text = "KET-tle TEA BOAT"
    words = rt.as_words(text, rt.spoken(text, strokes, meter))
    assert [w for w, _ in words] == ["kettle", "tea", "boat"]
    assert [s.place for s in words[0][1]] == [0, Fraction(1, 2)]
