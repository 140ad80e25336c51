"""From activity to hits: toms by pitch, loudness by level, ornaments and openness."""

import numpy as np
import pytest

from orchesis.hearing.hits import loudness_of, tom_names, written
from orchesis.hearing.pulsegrid import ROWS, band_rows, stroke_rows
from orchesis.hearing.types import Hit


def test_three_toms_are_high_mid_and_low():
    pitches = np.array([80, 82, 81, 115, 116, 118, 170, 172, 168.0])
    assert tom_names(pitches) == ["tom_low"] * 3 + ["tom_mid"] * 3 + ["tom_high"] * 3


def test_the_lowest_of_four_is_the_floor_tom():
    pitches = np.repeat([70.0, 100, 140, 200], 3)
    assert tom_names(pitches)[::3] == ["tom_floor", "tom_low", "tom_mid", "tom_high"]


@pytest.mark.parametrize(
    ("pitch", "name"), [(85, "tom_floor"), (140, "tom_mid"), (190, "tom_high")]
)
def test_a_single_tom_is_named_by_its_pitch(pitch, name):
    assert tom_names(np.full(5, float(pitch))) == [name] * 5


def test_loudness_keeps_the_order_of_levels_and_full_strokes_are_full():
    levels = np.array([-6.0] * 20 + [-30.0, -24, -18, -12])
    loud = loudness_of(levels)
    assert loud[0] == pytest.approx(0.85)
    assert (np.diff(loud[20:]) > 0).all() and loud[20] < 0.35
    assert len(loudness_of(np.array([]))) == 0


def test_twelve_decibels_are_half_as_loud():
    loud = loudness_of(np.array([0.0] * 9 + [-12.0]))
    assert loud[-1] / loud[0] == pytest.approx(0.5, rel=0.02)


def test_unsure_candidates_are_not_written():
    given = [Hit(1, "kick", 0.8, 0.99), Hit(2, "tom_low", 0.8, 0.11), Hit(3, "hat_half", 0.5, 0.98)]
    assert [h.time for h in written(given)] == [1, 3]


def test_strokes_fall_between_frames_of_the_grid():
    grid = stroke_rows(
        [(0.025, "kick", 1.0, 1.0), (0.5, "tom_high", 1.0, 0.5), (9, "kick", 1, 1)], 100
    )
    assert grid.shape == (ROWS, 100)
    assert grid[0, 1] == pytest.approx(0.75) and grid[0, 2] == pytest.approx(0.25)
    assert grid[9, 25] == pytest.approx(0.5)
    assert grid[1:9].sum() == 0


def test_the_band_is_seen_where_it_begins_and_where_the_chord_changes():
    rest = np.full((1000, 84), 0.01)
    chroma = np.full((1000, 12), 0.01)
    for k in range(0, 1000, 200):
        rest[k : k + 150, 20:40] = 1.0
        chroma[k : k + 200, (k // 100) % 12] = 1.0
    band, _, chord = band_rows(rest, 1.2 * rest, chroma)
    assert abs(int(np.argmax(band[90:110])) - 10) <= 1
    assert abs(int(np.argmax(chord[80:120])) - 20) <= 2
    assert chord[150] < 0.2 * chord.max()


def test_what_is_left_of_drums_alone_is_no_band():
    rng = np.random.default_rng(0)
    whole = rng.random((1000, 84))
    assert band_rows(0.05 * whole, whole, rng.random((1000, 12))).max() == 0


def test_a_second_of_sound_has_no_band_rows_to_speak_of():
    assert band_rows(*np.zeros((2, 60, 84)), np.zeros((60, 12))).shape == (3, 30)
