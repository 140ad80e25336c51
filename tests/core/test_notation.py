"""Other ways of writing: exact, at the same moments, and never a stroke lost."""

from fractions import Fraction

import pytest

from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count
from orchesis.score.notation import as_written, in_notation, possible
from orchesis.score.swing import swung
from tests.edits import apply
from tests.songs import ROCK

SCORE = count.read(ROCK)
BLUES = count.read("""
tempo: 60
meter: 12/8
== A
hat: 8ths | 8ths
snare: 2 4 | 2 4
kick: 1 3l | 1 3
""")
WALTZ = count.read("""
tempo: 100
meter: 3/4
== A
hat: 8ths
kick: 1
""")


def swinging(swing, hats="8ths"):
    """Two bars of a groove that swings, with a stroke of a triplet."""
    return count.read(
        f"tempo: 100\nswing: {swing}\n== A\nhat: {hats} | {hats}\nsnare: 2 4 | 2 4l\nkick: 1 3 | 1 3\n"
    )


def moments(score):
    """When each stroke sounds, with its swing."""
    return sorted(
        (s.part, round(score.seconds(s.bar, swung(s.place, score.swing)), 6))
        for s in score.strokes.values()
    )


@pytest.mark.parametrize(
    ("score", "notation", "meter"),
    [(SCORE, "short", "2/4"), (SCORE, "long", "4/4"), (BLUES, "triplets", "4/4")],
)
def test_every_stroke_keeps_its_moment(score, notation, meter):
    written = in_notation(score, notation)
    assert moments(written) == moments(score)
    assert {str(m) for m in written.meters} == {meter}
    assert written.sections[-1].last_bar == written.bar_count
    assert [written.seconds(s.first_bar) for s in written.sections] == pytest.approx(
        [score.seconds(s.first_bar) for s in score.sections]
    )


def test_short_values_make_sixteenths_of_eighths():
    written = in_notation(SCORE, "short")
    assert {s.place % 1 for s in written.strokes.values() if s.part == "hat_closed"} == {
        Fraction(k, 4) for k in range(4)
    }
    assert written.pulse.tempo()[0] == pytest.approx(50)


def test_long_values_make_two_bars_of_one():
    written = in_notation(SCORE, "long")
    assert written.bar_count == 32 and written.pulse.tempo()[0] == pytest.approx(200)
    assert sorted(
        s.place for s in written.strokes.values() if s.bar == 3 and s.part == "snare"
    ) == [2]


def test_there_and_back_is_where_it_was():
    back = in_notation(in_notation(SCORE, "short"), "long")
    assert {(s.id, s.bar, s.place) for s in back.strokes.values()} == {
        (s.id, s.bar, s.place) for s in SCORE.strokes.values()
    }
    assert in_notation(in_notation(BLUES, "triplets"), "compound").meters == BLUES.meters


@pytest.mark.parametrize(
    ("score", "notation", "swing"),
    [
        (swinging("eighth 0.6"), "short", "sixteenth"),
        (swinging("sixteenth 0.6", "16ths"), "long", "eighth"),
    ],
)
def test_other_values_swing_at_the_level_that_is_theirs(score, notation, swing):
    written = in_notation(score, notation)
    assert written.swing == (swing, 0.6) and moments(written) == moments(score)
    with pytest.raises(BadScore, match="in full"):
        in_notation(written, notation)


def test_swing_in_full_is_triplets_or_where_it_is_hard_dotted_values():
    usual = in_notation(swinging("eighth 0.64"), "swung_triplets")
    places = {s.place for s in usual.strokes_of(1) if s.part == "hat_closed"}
    assert places == {b + Fraction(k, 3) for b in range(4) for k in (0, 2)}
    assert usual.swing == ("none", 0.5)
    hard = in_notation(swinging("sixteenth 0.73", "16ths"), "swung_dotted")
    assert [s.place for s in hard.strokes_of(1) if s.part == "hat_closed"][:4] == [
        0,
        Fraction(3, 8),
        Fraction(1, 2),
        Fraction(7, 8),
    ]
    assert possible(swinging("eighth 0.64")) == ["counted", "short", "swung_triplets"]
    assert "swung_dotted" in possible(swinging("sixteenth 0.73", "16ths"))


def test_swing_at_a_triplets_share_sounds_as_before_when_it_is_written_in_full():
    score = swinging(f"eighth {2 / 3}")
    assert moments(in_notation(score, "swung_triplets")) == moments(score)


def test_two_strokes_never_become_one():
    score = count.read("tempo: 100\nswing: eighth 0.66\n== A\nsnare: 1& 1l 2\nkick: 1\n")
    with pytest.raises(BadScore, match="Straight strokes"):
        in_notation(score, "swung_triplets")


def test_what_can_not_be_written_so_is_told():
    with pytest.raises(BadScore, match="even number"):
        in_notation(WALTZ, "short")
    with pytest.raises(BadScore, match="divide in two"):
        in_notation(SCORE, "compound")
    with pytest.raises(BadEdit, match="“notation”"):
        apply(SCORE, "set_notation", {"notation": "tablature"})


def test_the_possible_ways_are_offered():
    assert possible(SCORE) == ["counted", "short", "long"]
    assert possible(WALTZ) == ["counted", "long"]
    assert possible(BLUES) == ["counted", "triplets"]


def test_a_choice_that_no_longer_fits_is_written_as_counted():
    chosen = apply(SCORE, "set_notation", {"notation": "short"})[0]
    assert as_written(chosen).bar_count == 16
    three = apply(chosen, "set_meter", {"meter": "3/4"})[0]
    assert as_written(three).meters == three.meters
