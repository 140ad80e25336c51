"""From moments to written places, over every division that is written, at many tempi and hands."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from orchesis.placing import quantise
from orchesis.score.swing import swung

STRAIGHT = ("none", 0.5)


def row(beats, grid, left_out=()):
    """Places of so many beats on one division, some of each beat left out."""
    return [
        Fraction(b) + Fraction(k, grid)
        for b in range(beats)
        for k in range(grid)
        if k not in left_out
    ]


def read_back(at, tempo, spread_ms=0.0, swing=STRAIGHT, seed=1, late_ms=0.0, beats_a_bar=4):
    rng = np.random.default_rng(seed)
    period = 60 / tempo
    played = [
        int(p) + swung(p % 1, swing) + (late_ms + rng.normal(0, spread_ms)) / 1000 / period
        for p in at
    ]
    bars = [int(p) // beats_a_bar + 1 for p in at]
    return quantise.places(played, [period] * len(at), bars, swing)


@pytest.mark.parametrize("tempo", [60, 92, 128, 176])
@pytest.mark.parametrize("grid", [2, 3, 4])
def test_usual_divisions_come_back_with_a_drummers_spread(tempo, grid):
    at = row(16, grid)
    assert read_back(at, tempo, spread_ms=7) == at


@pytest.mark.parametrize("tempo", [56, 72, 90])
@pytest.mark.parametrize("grid", [6, 8])
def test_fine_divisions_come_back_where_all_of_them_is_played(tempo, grid):
    at = row(8, grid)
    assert read_back(at, tempo, spread_ms=4) == at


@pytest.mark.parametrize("grid", [6, 8])
def test_a_few_strokes_are_not_read_on_a_fine_division(grid):
    at = row(16, 4, left_out=(1, 3))
    assert all(p.denominator in (1, 2) for p in read_back(at, 100, spread_ms=12, seed=grid))


def test_one_beat_of_triplets_in_a_bar_of_sixteenths():
    at = [*row(2, 4), *(2 + p for p in row(1, 3)), *(3 + p for p in row(1, 4))]
    assert read_back(at * 1, 96, spread_ms=5) == at


def test_a_dotted_figure_is_no_triplet_and_a_triplets_outer_two_are():
    dotted = row(16, 4, left_out=(1, 2))
    outer = row(16, 3, left_out=(1,))
    assert read_back(dotted, 92, spread_ms=5) == dotted
    assert read_back(outer, 92, spread_ms=5) == outer


@pytest.mark.parametrize("ratio", [0.56, 0.6, 0.64])
def test_swung_sixteenths_are_written_straight(ratio):
    at = row(16, 4)
    assert read_back(at, 88, spread_ms=4, swing=("sixteenth", ratio)) == at


@pytest.mark.parametrize("ratio", [0.58, 0.62, 0.667, 0.7])
def test_swung_eighths_are_written_straight(ratio):
    at = row(16, 2)
    assert read_back(at, 120, spread_ms=4, swing=("eighth", ratio)) == at


@pytest.mark.parametrize("late", [-12, -6, 6, 12])
def test_who_plays_behind_or_ahead_of_the_beat_is_written_the_same(late):
    at = row(16, 4)
    assert read_back(at, 100, spread_ms=3, late_ms=late) == at


@pytest.mark.parametrize("seed", range(4))
def test_how_much_it_swings_is_measured(seed):
    rng = np.random.default_rng(seed)
    for level, step, ratio in (("eighth", 1.0, 0.64), ("sixteenth", 0.5, 0.6)):
        pairs = np.arange(0, 40, step)
        at = np.sort(np.concatenate([pairs, pairs + ratio * step])) + rng.normal(
            0, 0.008, 2 * len(pairs)
        )
        told, measured = quantise.swing_of(at)
        assert told == level
        assert measured == pytest.approx(ratio, abs=0.015)


@pytest.mark.parametrize("grid", [2, 3, 4])
def test_straight_rows_and_triplets_do_not_swing(grid):
    rng = np.random.default_rng(grid)
    at = np.array([float(p) for p in row(32, grid)])
    assert quantise.swing_of(at + rng.normal(0, 0.01, len(at))) == STRAIGHT


@pytest.mark.parametrize(
    ("position", "place"),
    [
        (0.0, 0),
        (0.24, "1/4"),
        (0.34, "1/3"),
        (0.3, "1/4"),
        (0.66, "2/3"),
        (0.93, 1),
        (3.98, 4),
        (0.5, "1/2"),
    ],
)
def test_one_moment_alone_lies_on_the_nearest_place(position, place):
    assert quantise.nearest(position, STRAIGHT) == Fraction(place)


def test_a_moment_alone_in_a_swung_song_lies_on_the_swung_place():
    assert quantise.nearest(0.65, ("eighth", 0.65)) == Fraction(1, 2)
