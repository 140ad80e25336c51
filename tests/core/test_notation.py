"""Other ways of writing: exact, at the same moments, and never a stroke lost."""

from fractions import Fraction

import pytest

from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count
from orchesis.score.notation import as_written, in_notation, possible
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


def moments(score):
    return sorted((s.part, round(score.seconds(s.bar, s.place), 6)) for s in score.strokes.values())


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
