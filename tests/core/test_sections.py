"""Edits of the form: borders, names, links and notes; the bars are never touched by them."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import BadEdit
from orchesis.formats import count
from tests.edits import apply
from tests.songs import ROCK

SCORE = count.read(ROCK)  # Verse, bars 1 to 8, and Chorus, bars 9 to 16


def done(score, *edits):
    for operation, args in edits:
        score, *_ = apply(score, operation, args)
    return score


def spans(score):
    return [(s.id, s.first_bar, s.bars) for s in score.sections]


def section(score, wanted):
    return next(s for s in score.sections if s.id == wanted)


def test_a_section_is_split_and_merged_again():
    split = done(SCORE, ("split_section", {"id": "sec1", "bar": 5, "new": "half"}))
    assert spans(split) == [("sec1", 1, 4), ("half", 5, 4), ("sec2", 9, 8)]
    assert section(split, "half").label not in {s.label for s in SCORE.sections}
    merged = done(split, ("merge_section", {"id": "half"}))
    assert spans(merged) == spans(SCORE)


def test_merged_sections_keep_both_their_notes():
    noted = done(
        SCORE,
        ("note_section", {"id": "sec1", "note": "no crash"}),
        ("note_section", {"id": "sec2", "note": "open up"}),
        ("merge_section", {"id": "sec2"}),
    )
    assert section(noted, "sec1").note == "no crash; open up"


def test_linked_sections_are_the_same_music_until_they_are_unlinked():
    linked = done(SCORE, ("link_section", {"id": "sec2", "like": "sec1"}))
    assert len({s.label for s in linked.sections}) == 1
    apart = done(linked, ("unlink_section", {"id": "sec2"}))
    assert len({s.label for s in apart.sections}) == 2


@pytest.mark.parametrize(
    ("operation", "args", "says"),
    [
        ("split_section", {"id": "sec1", "bar": 1, "new": "x"}, "from bar 2 to bar 8"),
        ("split_section", {"id": "sec1", "bar": 9, "new": "x"}, "from bar 2 to bar 8"),
        ("split_section", {"id": "sec1", "bar": 5, "new": "sec2"}, "split already"),
        ("merge_section", {"id": "sec1"}, "none before it"),
        ("link_section", {"id": "sec1", "like": "sec1"}, "same as itself"),
        ("link_section", {"id": "sec1", "like": "sec7"}, "no longer there"),
        ("unlink_section", {"id": "sec1"}, "linked to no other"),
        ("note_section", {"id": "sec1", "note": "x" * 401}, "at most 400"),
        ("note_bar", {"bar": 0, "note": "x"}, "can't be the “bar”"),
        ("note_sound", {"key": "mood", "note": "x"}, "no sound note"),
        ("confirm_bars", {"bar": 3, "last": 2, "confirmed": True}, "not all in the song"),
        ("confirm_bars", {"bar": 3, "last": 17, "confirmed": True}, "not all in the song"),
    ],
)
def test_what_can_not_be_is_refused_in_one_sentence(operation, args, says):
    with pytest.raises(BadEdit, match=says):
        apply(SCORE, operation, args)


def test_notes_of_bars_and_sounds_come_and_go():
    score = done(
        SCORE,
        ("note_bar", {"bar": 4, "note": "  the hat opens "}),
        ("note_sound", {"key": "damping", "note": "a cloth on the snare"}),
        ("note_sound", {"key": "implement", "note": "brushes", "id": "sec2"}),
    )
    assert score.notes == {4: "the hat opens"}
    assert score.sound == {"damping": "a cloth on the snare"}
    assert section(score, "sec2").sound == {"implement": "brushes"}
    bare = done(
        score,
        ("note_bar", {"bar": 4, "note": ""}),
        ("note_sound", {"key": "damping", "note": " "}),
        ("note_sound", {"key": "implement", "note": "", "id": "sec2"}),
    )
    assert bare.to_json() == SCORE.to_json()


def test_bars_are_confirmed_and_let_go():
    score = done(SCORE, ("confirm_bars", {"bar": 2, "last": 6, "confirmed": True}))
    score = done(score, ("confirm_bars", {"bar": 4, "last": 4, "confirmed": False}))
    assert score.confirmed == {2, 3, 5, 6}


EDITS = st.one_of(
    st.tuples(
        st.just("split_section"),
        st.fixed_dictionaries(
            {
                "id": st.sampled_from(["sec1", "sec2", "n1", "n2"]),
                "bar": st.integers(1, 17),
                "new": st.sampled_from(["n1", "n2", "n3"]),
            }
        ),
    ),
    st.tuples(
        st.sampled_from(["merge_section", "unlink_section"]),
        st.fixed_dictionaries({"id": st.sampled_from(["sec1", "sec2", "n1", "n2", "n3"])}),
    ),
    st.tuples(
        st.just("move_border"),
        st.fixed_dictionaries(
            {"id": st.sampled_from(["sec2", "n1", "n2"]), "first_bar": st.integers(0, 18)}
        ),
    ),
    st.tuples(
        st.just("link_section"),
        st.fixed_dictionaries(
            {"id": st.sampled_from(["sec1", "sec2", "n1"]), "like": st.sampled_from(["sec1", "n2"])}
        ),
    ),
)


@settings(max_examples=60)
@given(st.lists(EDITS, min_size=1, max_size=8))
def test_sections_always_cover_the_song_without_a_gap(edits):
    score = SCORE
    for operation, args in edits:
        try:
            score, *_ = apply(score, operation, args)
        except BadEdit:
            continue
        at = 1
        for s in score.sections:
            assert s.first_bar == at and s.bars >= 1
            at += s.bars
        assert at == score.bar_count + 1
        assert len({s.id for s in score.sections}) == len(score.sections)
        assert score.strokes == SCORE.strokes
