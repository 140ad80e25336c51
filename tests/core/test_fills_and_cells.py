"""Fills by their difference from the groove, cells by what turns round in them."""

from __future__ import annotations

from fractions import Fraction

import pytest

from materials.cases import fills as written
from orchesis import explanations, fills
from orchesis.fills import cells, fill_facts
from orchesis.formats import count
from orchesis.score import Meter
from orchesis.score.fill import Resolution

SONG = """
tempo: 100
== Verse
crash: - | - | - | - | - | - | - | -
hat:   8ths | = | = | = | = | = | = | 1 1& 2 2&
snare: 2.> 4.> | = | = | 2.> 4.> 4a | 2.> 4.> | = | = | 2.> 3 3e 3a 4
tom_high: - | - | - | - | - | - | - | 4& 4a
kick:  1 3 | = | = | = | = | = | = | 1 3& 4e
== Chorus
crash: 1.> | -
ride:  8ths -1 | 8ths | = | 1 1& 2 2& 3 3&
snare: 2.> 4.> | = | = | 2.> 4 4e 4& 4a
kick:  1 3 | = | = | =
== Tail
crash: 1 | -
ride: 8ths -1 | 8ths | = | =
snare: 2.> 4.> | = | = | =
kick:  1 3 | = | = | =
"""


@pytest.fixture(scope="module")
def told():
    return fill_facts.describe_fills(count.read(SONG))


def test_a_fill_is_where_the_time_hand_stops_and_drums_are_new():
    score = count.read(SONG)
    spans = [(s.bar, s.place, s.last_bar, s.end) for s in fills.find(score)]
    assert spans == [(8, 2, 8, 4), (12, 3, 12, 4)]
    assert fills.fill_bars(score) == [(8, 2), (12, 3)]


def test_one_more_stroke_is_an_option_and_no_fill():
    assert all(s.bar != 4 for s in fills.find(count.read(SONG)))


def test_a_fill_over_the_bar_line_is_one_fill():
    text = """
tempo: 100
== A
hat:   8ths | = | = | = | = | = | 1 1& 2 2& | -
snare: 2.> 4.> | = | = | = | = | = | 2.> 3 3e 3& 3a 4 4e 4& 4a | 1 1e 1& 1a 2 2e 2& 2a
tom_floor: - | - | - | - | - | - | - | 3 3e 3& 3a 4 4e 4& 4a
kick:  1 3 | = | = | = | = | = | 1 | 1
"""
    [span] = fills.find(count.read(text))
    assert (span.bar, span.place, span.last_bar, span.end) == (7, 2, 8, 4)


def test_floor_tom_time_is_a_surface_and_no_fill():
    text = "tempo: 100\n== A\ntom_floor: 8ths" + " | =" * 7 + "\nsnare: 4.>" + " | =" * 7
    assert fills.find(count.read(text)) == []


def test_drums_of_more_than_four_bars_are_a_part_and_no_fill():
    drums = "1 1e 1& 1a 2 2e 2& 2a 3 3e 3& 3a 4 4e 4& 4a"
    text = (
        "tempo: 100\n== A\nhat: 8ths"
        + " | =" * 11
        + " | -" * 6
        + "\nsnare: 2 4"
        + " | =" * 11
        + f" | {drums}"
        + " | =" * 5
    )
    assert fills.find(count.read(text)) == []


def test_a_fill_is_told_by_what_it_is(told):
    fill = told[0]
    assert fill.subdivisions == ("16th",)
    assert [(name, n) for name, n in fill.path] == [("snare", 4), ("tom_high", 2)]
    assert fill.is_linear
    assert (fill.entry.place, fill.entry.after) == (2, 1)
    assert fill.resolution == Resolution("crash", Fraction(0), "crash", True)
    assert explanations.fill_entry(fill, Meter()) == "on 3, after the backbeat on 2"
    assert explanations.fill_resolution(fill, Meter()) == "crash and kick on 1"
    assert 0 < fill.difficulty <= 10


def test_hands_alone_are_not_linear(told):
    assert not told[1].is_linear


def test_a_harder_fill_is_harder():
    def of(figure: str, grids: tuple[int, ...]) -> float:
        score, span = written.laid(written.Written(figure, grids, 0, ""))
        return fill_facts.tell(score, span).difficulty

    assert of("S", (2, 2, 2, 2)) < of("S", (4, 4, 4, 4)) < of("S T", (6, 6, 6, 6))
    assert of("S", (4, 4, 4, 4)) < of("K S S", (4, 4, 4, 4))


def test_the_same_fill_is_found_again_and_one_that_is_near():
    bar = "2.> 3 3e 3& 3a 4 4e 4& 4a"
    near = "2.> 3 3e 3& 4 4e 4& 4a"
    text = (
        "tempo: 90\n== A\nhat: "
        + " | ".join((["8ths"] * 3 + ["1 1& 2 2&"]) * 3)
        + "\nsnare: "
        + " | ".join(["2.> 4.>"] * 3 + [bar] + ["2.> 4.>"] * 3 + [bar] + ["2.> 4.>"] * 3 + [near])
        + "\nkick: 1 3"
        + " | =" * 11
    )
    likes = [fill.like for fill in fill_facts.describe_fills(count.read(text))]
    assert likes[0] == ((1, "same"), (2, "near"))


@pytest.mark.parametrize("fill", written.WRITTEN, ids=lambda w: f"{w.figure} {w.grids[0]}")
def test_the_cells_of_the_written_fills(fill):
    assert written.is_right(fill)


def test_a_cell_tells_where_each_turn_begins():
    score, span = written.laid(written.Written("K S S", (4, 4, 4, 4), 3, "16th"))
    [cell] = cells.cells(score, span, fills.inside(score, span))
    assert [place for _, place in cell.starts] == [Fraction(3 * k, 4) for k in range(6)]
    assert (cell.turns, cell.steps, cell.beat_steps, cell.crosses) == (5, 3, 4, True)


def test_a_figure_as_long_as_the_beat_does_not_cross_it():
    score, span = written.laid(written.Written("S T K K", (4, 4, 4, 4), 4, "16th"))
    [cell] = cells.cells(score, span, fills.inside(score, span))
    assert not cell.crosses


def test_two_stray_accents_make_no_figure():
    figure = "S S S> S S S S S S S> S S S S S S"
    score, span = written.laid(written.Written(figure, (4, 4, 4, 4), 0, ""))
    assert cells.cells(score, span, fills.inside(score, span)) == []


def test_two_figures_in_a_row_are_both_told():
    score, span = written.laid(
        written.Written("K S S K S S K S S K S S T F T F T F T F T F T F", (4,) * 6, 0, "", "6/4")
    )
    found = cells.cells(score, span, fills.inside(score, span))
    assert [c.strokes for c in found] == [3, 2]


@pytest.mark.parametrize(
    ("grids", "names"),
    [
        ((4, 4), ("16th",)),
        ((3, 6), ("triplet", "sextuplet")),
        ((8, 8), ("32nd",)),
        ((2, 4), ("16th",)),
        ((5, 5), ("quintuplet",)),
    ],
)
def test_subdivisions_are_named_in_their_order(grids, names):
    score, span = written.laid(written.Written("S T", grids, 0, "", "2/4"))
    assert fill_facts.tell(score, span).subdivisions == names
