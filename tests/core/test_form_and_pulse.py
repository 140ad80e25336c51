"""Pulse and form from plain curves: what the arithmetic does apart from any sound."""

import numpy as np
import pytest

from orchesis.hearing import form, pulse, tempo_bins


def curve(times, seconds, level=0.9):
    made = np.full(int(seconds * 100), 0.01)
    for t in times:
        if 0 <= t < seconds - 0.02:
            made[round(t * 100)] = level
    return made


def felt(*spans):
    """A pulse whose tempo is sure: (seconds, beats a minute) after one another, in fours."""
    columns, times = [], [0.0]
    for seconds, bpm in spans:
        end = len(columns) / 50 + seconds
        while times[-1] < end:
            times.append(times[-1] + 60 / bpm)
        column = (
            np.exp(-0.5 * ((np.arange(tempo_bins.BINS) - tempo_bins.bin_of(bpm)) / 0.8) ** 2) + 1e-4
        )
        columns += [column / column.sum()] * int(seconds * 50)
    length = len(columns) / 50
    beat, one = curve(times, length), curve(times[::4], length)
    return pulse.TempoActivation(beat, one, np.array(columns).T)


def test_bins_and_tempi_are_each_others_inverse():
    bpm = np.array([45.0, 62, 96, 132.5, 190, 250])
    assert tempo_bins.bpm_of(tempo_bins.bin_of(bpm)) == pytest.approx(bpm)
    assert tempo_bins.bin_of(10) == 0 and tempo_bins.bin_of(999) == tempo_bins.BINS - 1


@pytest.mark.parametrize("bpm", [58, 96, 132, 190, 240])
def test_a_sure_tempo_is_taken(bpm):
    reading = felt((30, bpm))
    assert pulse.rivals(reading)[0][0] == pytest.approx(bpm, rel=0.02)
    assert pulse.tempo_path(reading) == pytest.approx(np.full(1500, bpm), rel=0.02)


def test_a_rival_is_told_with_its_chance():
    two = felt((30, 70))
    two.tempo[:] = 0.7 * two.tempo + 0.3 * felt((30, 140)).tempo
    (first, a), (second, b), *_ = pulse.rivals(two)
    assert first == pytest.approx(70, rel=0.03) and second == pytest.approx(140, rel=0.03)
    assert a > b > 0.1


def test_beats_and_ones_decide_between_two_readings():
    for bpm in (70, 140):
        unsure = felt((40, bpm))
        unsure.tempo[:] = 0.5 * felt((40, 70)).tempo + 0.5 * felt((40, 140)).tempo
        assert np.median(pulse.tempo_path(unsure)) == pytest.approx(bpm, rel=0.03)


def test_a_seven_is_not_felt_at_half_its_tempo():
    beats = np.arange(0, 40, 0.3)
    seven = felt((40, 200))
    seven = pulse.TempoActivation(curve(beats, 40), curve(beats[::7], 40), seven.tempo)
    seven.tempo[:] = 0.4 * seven.tempo + 0.6 * felt((40, 100)).tempo
    assert np.median(pulse.tempo_path(seven)) == pytest.approx(200, rel=0.03)


def test_the_tempo_follows_an_accelerando_but_no_single_slip():
    rising = felt(*((4, bpm) for bpm in range(90, 130, 4)))
    path = pulse.tempo_path(rising)
    assert path[50] == pytest.approx(90, rel=0.04) and path[-50] == pytest.approx(126, rel=0.04)
    slip = pulse.tempo_path(felt((20, 100), (2, 200), (20, 100)))
    assert slip.max() < 110


def bars(*kinds):
    """Distances between bars: alike within a kind."""
    n = len(kinds)
    return np.array(
        [[0.1 if kinds[i] == kinds[j] else 1.6 for j in range(n)] for i in range(n)]
    ) * (1 - np.eye(n))


def test_equal_bars_make_sections_and_equal_sections_share_a_label():
    far = bars(*"AAAAAAAABBBBBBBBAAAAAAAA")
    change = np.zeros(24)
    change[[8, 16]] = 1.4
    borders = form._divide(far, change, np.zeros(24), np.zeros(24, bool))
    assert borders == [0, 8, 16, 24]
    assert [s.label for s in form._labelled(far, borders)] == ["A", "B", "A"]


def test_an_odd_phrase_comes_out_odd():
    far = bars(*"AAAAAAAACCCCCCCBBBBBBBB")
    change = np.zeros(23)
    change[[8, 15]] = 1.4
    found = form._labelled(far, form._divide(far, change, np.zeros(23), np.zeros(23, bool)))
    assert [(s.first_bar, s.bars) for s in found] == [(1, 8), (9, 7), (16, 8)]


def test_two_bars_behind_the_last_stop_stand_apart_and_a_last_bar_does_not():
    for kinds, wanted in (("AAAAAABB", [0, 6, 8]), ("AAAAAAAB", [0, 8])):
        count = len(kinds)
        apart = np.zeros(count, bool)
        told = np.zeros(count)
        told[kinds.index("B")] = form._STOPPED
        apart[-2] = kinds[-2] == "B"
        assert form._divide(bars(*kinds), np.zeros(count), told, apart) == wanted
