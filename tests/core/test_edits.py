"""Edits: each does what its name says, and the difference brings everything back."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import BadEdit
from orchesis.formats import count
from orchesis.score.patches import patched
from tests.edits import apply, timed
from tests.songs import ROCK

SCORE = count.read(ROCK)
FIRST_KICK = next(s for s in SCORE.ordered() if s.part == "kick").id


def text_of(score, bar, part):
    return [str(s.place) for s in score.ordered() if s.bar == bar and s.part == part]


def test_strokes_are_added_moved_changed_and_removed():
    score, *_ = apply(
        SCORE,
        "add_stroke",
        {"id": "n", "bar": 3, "place": "7/4", "part": "snare", "limb": "LH", "dynamic": "ghost"},
    )
    assert text_of(score, 3, "snare") == ["1", "7/4", "3"]
    assert score.strokes["n"].loudness == 0.3
    score, *_ = apply(score, "move_stroke", {"id": "n", "bar": 3, "place": "5/4"})
    assert text_of(score, 3, "snare") == ["1", "5/4", "3"]
    score, *_ = apply(score, "set_part", {"id": "n", "part": "tom_high"})
    score, *_ = apply(score, "set_limb", {"id": "n", "limb": "RH"})
    score, *_ = apply(score, "set_dynamic", {"id": "n", "dynamic": "accent"})
    stroke = score.strokes["n"]
    assert (stroke.part, stroke.limb, stroke.dynamic) == ("tom_high", "RH", "accent")
    score, *_ = apply(score, "remove_stroke", {"id": "n"})
    assert score.to_json() == SCORE.to_json()


@pytest.mark.parametrize(
    ("operation", "args", "says"),
    [
        ("remove_stroke", {"id": "nobody"}, "no longer there"),
        ("remove_stroke", {}, "needs “id”"),
        ("remove_stroke", {"id": FIRST_KICK, "bar": 1}, "has no “bar”"),
        ("remove_stroke", {"id": 7}, "“7” can't be the “id”"),
        (
            "add_stroke",
            {"id": "n", "bar": 99, "place": "0", "part": "kick", "limb": "RF"},
            "no bar 99",
        ),
        (
            "add_stroke",
            {"id": "n", "bar": 1, "place": "4", "part": "kick", "limb": "RF"},
            "outside bar 1",
        ),
        (
            "add_stroke",
            {"id": "n", "bar": 1, "place": "0", "part": "kick", "limb": "RF"},
            "already",
        ),
        (
            "add_stroke",
            {"id": "n", "bar": 1, "place": "1/0", "part": "kick", "limb": "RF"},
            "not a place",
        ),
        ("add_stroke", {"id": "n", "bar": 1, "place": "1", "part": "gong", "limb": "RF"}, "gong"),
        ("set_limb", {"id": FIRST_KICK, "limb": "tail"}, "“tail” can't be the “limb”"),
        ("rename_section", {"id": "sec1", "name": "  "}, "1 to 60"),
        ("rename_section", {"id": "sec9", "name": "x"}, "no longer there"),
        ("move_border", {"id": "sec1", "first_bar": 2}, "begins with the song"),
        ("move_border", {"id": "sec2", "first_bar": 1}, "between bar 2 and bar 16"),
        ("shift_one", {"beats": 0}, "how many beats"),
        ("set_meter", {"meter": "waltz"}, "not a meter"),
        ("dance", {}, "no edit called"),
    ],
)
def test_what_does_not_fit_is_refused_in_one_sentence(operation, args, says):
    with pytest.raises(BadEdit, match=says):
        apply(SCORE, operation, args)


def test_borders_move_and_the_neighbour_gives():
    score, *_ = apply(SCORE, "move_border", {"id": "sec2", "first_bar": 7})
    assert [(s.first_bar, s.bars) for s in score.sections] == [(1, 6), (7, 10)]


def test_halving_and_doubling_keep_every_moment():
    heard = timed(SCORE)
    moments = sorted(s.time for s in heard.strokes.values())
    halved, *_ = apply(heard, "halve_tempo", {})
    assert halved.pulse.tempo()[0] == pytest.approx(50, rel=0.01)
    assert halved.bar_count == 8
    assert sorted(s.time for s in halved.strokes.values()) == pytest.approx(moments, abs=1e-5)
    assert text_of(halved, 1, "snare") == ["1/2", "3/2", "5/2", "7/2"]
    again, *_ = apply(halved, "double_tempo", {})
    assert text_of(again, 1, "snare") == ["1", "3"]
    assert [(s.first_bar, s.bars) for s in again.sections] == [(1, 8), (9, 8)]


def test_the_one_shifts_and_comes_back():
    heard = timed(SCORE)
    later, *_ = apply(heard, "shift_one", {"beats": 1})
    assert text_of(later, 2, "snare") == ["0", "2"]
    back, *_ = apply(later, "shift_one", {"beats": -1})
    first = next(b for b in range(1, 4) if text_of(back, b, "crash"))
    assert text_of(back, first, "snare") == ["1", "3"]


def test_another_meter_lays_other_bars_over_the_same_strokes():
    heard = timed(SCORE)
    score, *_ = apply(heard, "set_meter", {"meter": "2/4"})
    assert score.bar_count == 32
    assert len(score.strokes) == len(heard.strokes)
    assert text_of(score, 1, "snare") == text_of(score, 2, "snare") == ["1"]


def test_what_a_person_wrote_is_not_lost_by_a_new_pulse():
    heard = timed(SCORE)
    edited, *_ = apply(
        heard,
        "add_stroke",
        {"id": "mine", "bar": 5, "place": "3/2", "part": "cowbell", "limb": "RH"},
    )
    moment = edited.seconds(5, edited.strokes["mine"].place)
    halved, *_ = apply(edited, "halve_tempo", {})
    mine = halved.strokes["mine"]
    assert halved.seconds(mine.bar, mine.place) == pytest.approx(moment, abs=0.002)


OPERATIONS = st.one_of(
    st.tuples(st.just("halve_tempo"), st.just({})),
    st.tuples(st.just("double_tempo"), st.just({})),
    st.tuples(st.just("shift_one"), st.fixed_dictionaries({"beats": st.integers(-3, 3)})),
    st.tuples(
        st.just("set_meter"),
        st.sampled_from([{"meter": "3/4"}, {"meter": "4/4"}, {"meter": "6/8"}]),
    ),
    st.tuples(
        st.just("remove_stroke"),
        st.fixed_dictionaries({"id": st.sampled_from(sorted(SCORE.strokes))}),
    ),
    st.tuples(st.just("rename_section"), st.just({"id": "sec1", "name": "New"})),
    st.tuples(
        st.just("move_border"),
        st.fixed_dictionaries({"id": st.just("sec2"), "first_bar": st.integers(1, 20)}),
    ),
)


@settings(max_examples=40)
@given(st.lists(OPERATIONS, min_size=1, max_size=5))
def test_every_difference_leads_there_and_back(edits):
    score = timed(SCORE)
    for operation, args in edits:
        try:
            new, forward, backward = apply(score, operation, args)
        except BadEdit:
            continue
        assert patched(score, forward).to_json() == new.to_json()
        assert patched(new, backward).to_json() == score.to_json()
        score = new
