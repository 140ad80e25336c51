"""Count text: what drummers write is what the score holds; errors name line and column."""

from fractions import Fraction

import pytest

from orchesis.errors import BadScore
from orchesis.formats import count


def places(score, part, bar=1):
    return [str(s.place) for s in score.ordered() if s.part == part and s.bar == bar]


def test_a_groove_reads_as_it_is_counted():
    score = count.read("""
meter: 4/4
tempo: 92
== Verse
hat:   8ths | 8ths 2&.o
snare: 2.> (1a) (4e) 4.> | =
kick:  1 2a 3 | 1 1& 3 (3e)
""")
    assert score.bar_count == 2
    assert places(score, "hat_closed") == ["0", "1/2", "1", "3/2", "2", "5/2", "3", "7/2"]
    assert places(score, "hat_open", 2) == ["3/2"]
    assert places(score, "snare") == places(score, "snare", 2) == ["3/4", "1", "3", "13/4"]
    assert places(score, "kick") == ["0", "7/4", "2"]
    dynamics = [s.dynamic for s in score.ordered() if s.part == "snare" and s.bar == 1]
    assert dynamics == ["ghost", "accent", "accent", "ghost"]
    assert score.pulse.tempo()[0] == pytest.approx(92)


def test_subdivisions_groups_and_marks():
    score = count.read("snare: 1t 1l 2:3/8 3:5/6.f 4.L@45\nhat: 16ths -2 -2e | offbeats | triplets")
    assert places(score, "snare") == ["1/3", "2/3", "11/8", "17/6", "3"]
    flam = next(s for s in score.ordered() if s.place == Fraction(17, 6))
    assert flam.ornament == "flam"
    left = next(s for s in score.ordered() if s.part == "snare" and s.place == 3)
    assert (left.limb, left.loudness) == ("LH", 0.45)
    assert len(places(score, "hat_closed")) == 14
    assert places(score, "hat_closed", 2) == ["1/2", "3/2", "5/2", "7/2"]
    assert len(places(score, "hat_closed", 3)) == 12


def test_meters_change_and_sections_take_their_bars():
    score = count.read("""
meter: 6/8
== Waltz
hat: 1 1t 1l 2 2t 2l | =
meter: 7/8 2+2+3
== Odd
kick: 1 3 5 | = | =
""")
    assert [str(m) for m in score.meters] == ["6/8"] * 2 + ["7/8"] * 3
    assert [(s.name, s.first_bar, s.bars) for s in score.sections] == [
        ("Waltz", 1, 2),
        ("Odd", 3, 3),
    ]
    assert score.meters[0].beats == 2 and score.meters[2].beats == 7


@pytest.mark.parametrize(
    ("text", "where", "what"),
    [
        ("kick: 1 5", "Line 1, column 9", "outside the bar"),
        ("kick: 1 2 2", "Line 1, column 11", "given twice"),
        ("drum: 1", "Line 1, column 1", "neither a header nor a part"),
        ("\nkick: 1 | x3", "Line 2, column 11", "not a place"),
        ("kick: 1.q", "Line 1, column 7", "not a mark"),
        ("kick: = ", "Line 1, column 7", "there is none"),
        ("tempo: soon", "Line 1, column 7", "not a tempo"),
        ("meter: 6/8\nkick: 1&", "Line 2, column 7", "dotted beat"),
        ("snare: 1:6/6", "Line 1, column 8", "counted from 0"),
        ("hello", "Line 1, column 1", "neither a header nor a lane"),
    ],
)
def test_mistakes_are_told_with_their_place(text, where, what):
    with pytest.raises(BadScore) as problem:
        count.read(text)
    assert where in str(problem.value) and what in str(problem.value)


def test_a_text_without_bars_is_refused():
    with pytest.raises(BadScore, match="no bar"):
        count.read("tempo: 90\n# nothing yet\n")


@pytest.mark.parametrize(
    ("header", "says"),
    [
        ("swing: eighth abc", "A swing's ratio"),
        ("swing: eighth 7", "A swing's ratio"),
        ("swing: 16ths 0.6", "“16ths” is not none, eighth, sixteenth"),
        ("felt: badly", "“badly” is not straight, half, double"),
        ("pickup: some", "“some” is no number of beats"),
        ("pickup: ²", "“²” is no number of beats"),
        ("meter: 7/8 2+2+2", "does not add up to 7"),
        ("meter: 7/8 two", "write them like 2+2+3"),
        ("meter: ²/4", "is not a meter"),
        ("tempo: 1e999", "no tempo between"),
    ],
)
def test_a_header_that_says_nothing_readable_is_told_with_its_place(header, says):
    with pytest.raises(BadScore, match=r"Line 1, column [0-9]+: ") as told:
        count.read(f"{header}\nkick: 1")
    assert says in str(told.value)


def test_headers_that_can_be_read_are():
    score = count.read(
        "meter: 7/8 2+2+3\nswing: sixteenth 0.58\nfelt: half\npickup: 1\nkick: 7 | 1"
    )
    assert score.swing == ("sixteenth", 0.58) and list(map(str, score.meters)) == ["1/8", "7/8"]
