"""Which was it?: every question has one right answer, and the transcription is its key."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.formats import count
from orchesis.teaching import which

SONG = count.read(
    "tempo: 100\n"
    "== Verse 1\nhat: 8ths | = | = | 8ths 4&.o\nsnare: 2 4 | 2 (2a) 4 | 2 4 | 2 4\nkick: 1 3 | 1 2& 3 | 1 3 | 1 3\n"
    "== Chorus 1\nride: quarters | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 3& | = | = | =\n"
    "== Bridge\ntom_floor: 8ths | =\nkick: quarters | =\n"
)


@given(st.integers(0, 10_000), st.integers(1, 5), st.sampled_from(which.KINDS))
def test_every_question_has_its_answer(seed, level, kind):
    asked = which.question(SONG, level, seed, kind)
    if kind == "there" and level >= 4 and asked is None:
        return
    assert asked is not None and asked == which.question(SONG, level, seed, kind)
    assert 0 <= asked.answer < len(asked.options)
    assert len({(o.says, o.bar) for o in asked.options}) == len(asked.options) >= 2
    bar = asked.first
    right = asked.options[asked.answer]
    if kind == "section":
        section = next(s for s in SONG.sections if s.name == right.says)
        assert section.first_bar <= bar <= section.last_bar
    elif kind == "variation":
        told = [which._pattern(SONG, o.bar) for o in asked.options]
        assert told[asked.answer] == which._pattern(SONG, bar)
        assert told.count(told[asked.answer]) == 1
    elif kind == "one":
        assert (asked.beat + asked.answer) % SONG.meters[bar - 1].beats == 0


def test_bars_in_doubt_are_no_key():
    unsure = SONG.with_strokes([s.changed(doubt="doubtful") for s in SONG.strokes.values()])
    assert which.question(unsure, 1, 1) is None


@pytest.mark.parametrize(
    ("answers", "level"),
    [([True] * 3, 3), ([True, True], 2), ([False, True, False], 1), ([False, True, True], 2)],
)
def test_it_grows_harder_with_right_answers(answers, level):
    assert which.next_level(2, answers) == level
