"""Pulse and form from plain curves: what the arithmetic does apart from any sound."""

import numpy as np
import pytest

from orchesis.hearing import form, pulse, tempi
from orchesis.hearing.types import Hit


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
        column = np.exp(-0.5 * ((np.arange(tempi.BINS) - tempi.bin_of(bpm)) / 0.8) ** 2) + 1e-4
        columns += [column / column.sum()] * int(seconds * 50)
    length = len(columns) / 50
    beat, one = curve(times, length), curve(times[::4], length)
    return pulse.Felt(beat, one, np.array(columns).T)


def test_bins_and_tempi_are_each_others_inverse():
    bpm = np.array([45.0, 62, 96, 132.5, 190, 250])
    assert tempi.bpm_of(tempi.bin_of(bpm)) == pytest.approx(bpm)
    assert tempi.bin_of(10) == 0 and tempi.bin_of(999) == tempi.BINS - 1


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
    seven = pulse.Felt(curve(beats, 40), curve(beats[::7], 40), seven.tempo)
    seven.tempo[:] = 0.4 * seven.tempo + 0.6 * felt((40, 100)).tempo
    assert np.median(pulse.tempo_path(seven)) == pytest.approx(200, rel=0.03)


def test_the_tempo_follows_an_accelerando_but_no_single_slip():
    rising = felt(*((4, bpm) for bpm in range(90, 130, 4)))
    path = pulse.tempo_path(rising)
    assert path[50] == pytest.approx(90, rel=0.04) and path[-50] == pytest.approx(126, rel=0.04)
    slip = pulse.tempo_path(felt((20, 100), (2, 200), (20, 100)))
    assert slip.max() < 110


def test_tracking_follows_a_drifting_pulse():
    times = [0.5]
    while times[-1] < 58:
        times.append(times[-1] + 0.6 * (1 + 0.05 * np.sin(len(times) / 15)))
    found = pulse.track(curve(times, 60), np.full(6000, 60.0)) * 0.01
    near = [np.abs(found - t).min() for t in times[2:-3]]
    assert np.mean(np.array(near) < 0.03) > 0.97


def test_beats_go_on_through_a_stop():
    times = [0.5 + 0.5 * k for k in range(100) if not 40 <= k < 48]
    found = pulse.track(curve(times, 52), np.full(5200, 50.0)) * 0.01
    silent = [0.5 + 0.5 * k for k in range(40, 48)]
    assert max(np.abs(found - t).min() for t in silent) < 0.06


def test_beats_are_drawn_to_the_strokes_near_them():
    hits = [Hit(0.5 * k + 0.013, "kick", 0.8, 0.9) for k in range(1, 40)]
    rough = np.array([round(50 * k) for k in range(1, 40)])
    times = pulse.refine(rough, hits)
    assert np.abs(times - np.array([h.time for h in hits])).max() < 0.004


def ones(*sizes):
    """How likely each beat is a one, where bars have so many beats."""
    return np.concatenate([[0.9] + [0.06] * (n - 1) for n in sizes])


@pytest.mark.parametrize("size", [2, 3, 4, 5, 6, 7])
def test_bars_of_any_usual_meter_are_found(size):
    assert pulse.bars_of(ones(*[size] * 16)) == list(range(0, 16 * size, size))


def test_twos_at_a_usual_pace_are_counted_in_four():
    twos, one = list(range(0, 33, 2)), ones(*[2] * 17)
    brisk, slow = 0.6 * np.arange(34), 1.0 * np.arange(34)
    none = np.array([])
    assert pulse.in_fours(twos, brisk, one, none) == list(range(0, 33, 4))
    assert pulse.in_fours(twos, slow, one, none) == twos
    crashed = pulse.in_fours(twos, brisk, one, brisk[[2, 10, 18]])
    assert crashed[:3] == [0, 2, 6]
    single = [0, 4, 8, 10, 14, 18]
    assert pulse.in_fours(single, brisk, ones(4, 4, 2, 4, 4), none) == single


def sevens(first, second, *, bars=8, beat=0.6):
    """Beats, starts and strokes of bars of seven beats: places (in beats) of each half's strokes."""
    times = beat * np.arange(7 * bars + 1)
    hits = [
        Hit(beat * (7 * b + place), part, 0.8, 0.9)
        for b in range(bars)
        for half, strokes in ((0, first), (3.5, second))
        for place, part in ((half + at, part) for at, part in strokes)
    ]
    return list(range(0, 7 * bars + 1, 7)), times, hits


SEVEN_EIGHT = [(0, "kick"), (1, "snare"), (2, "kick"), (3, "snare")]


def test_a_seven_of_like_halves_is_two_bars_of_eighths():
    starts, times, hits = sevens(SEVEN_EIGHT, [*SEVEN_EIGHT, (0.5, "kick")])
    now, beats = pulse.in_eighths(starts, times, hits)
    assert now == list(range(0, 2 * 56 + 1, 7))
    assert np.diff(beats) == pytest.approx(0.3)
    assert beats[::2] == pytest.approx(times)


def test_a_true_seven_four_keeps_its_beats():
    first = [(0, "kick"), (1, "snare"), (2, "kick"), (3, "snare")]
    second = [(0.5, "kick"), (1.5, "snare"), (2.5, "snare")]
    starts, times, hits = sevens(first, second)
    now, beats = pulse.in_eighths(starts, times, hits)
    assert now == starts and beats is times


@pytest.mark.parametrize("lone", ["all", "hats", "none"])
def test_without_kick_and_snare_a_seven_stays_as_it_is(lone):
    starts, times, hits = sevens(SEVEN_EIGHT, SEVEN_EIGHT)
    kept = {"all": [], "hats": [Hit(h.time, "hat_closed", 0.8, 0.9) for h in hits],
            "none": [h for h in hits if h.time % 4.2 < 2.0]}[lone]  # fmt: skip
    assert pulse.in_eighths(starts, times, kept)[0] == starts


def test_one_bar_of_another_length_among_sevens_is_doubled_with_them():
    starts, times, hits = sevens(SEVEN_EIGHT, SEVEN_EIGHT)
    longer = np.append(times, times[-1] + 0.6 * np.arange(1, 5))
    now, beats = pulse.in_eighths([*starts, 60], longer, hits)
    assert np.diff(now).tolist() == [7] * 16 + [8] and len(beats) == 121


def test_a_four_with_one_bar_of_five_is_never_halved():
    starts = [0, 4, 8, 13, 17, 21]
    times = 0.5 * np.arange(22)
    assert pulse.in_eighths(starts, times, [])[0] == starts


def test_a_single_short_bar_shifts_what_follows():
    sizes = [4] * 7 + [2] + [4] * 8
    assert np.diff(pulse.bars_of(ones(*sizes))).tolist() == sizes[:-1]


def test_a_single_doubtful_one_changes_no_meter():
    unsure = ones(*[4] * 16)
    unsure[20], unsure[22] = 0.3, 0.7
    assert set(np.diff(pulse.bars_of(unsure))) == {4}


def test_a_pick_up_comes_before_the_first_one():
    assert pulse.bars_of(np.concatenate([[0.05, 0.1], ones(*[4] * 8)]))[0] == 2


def test_bars_begin_with_the_first_sound_even_before_the_drums():
    times = np.arange(2.0, 30.0, 0.5)
    marks = list(range(0, len(times), 4))
    known, lengths = pulse.whole_bars(times, marks, 2.0, 27.5)
    assert known[0] == pytest.approx(2.0) and set(lengths) == {4}
    assert known[-1] >= 27.5 and len(known) == sum(lengths) + 1
    early, _ = pulse.whole_bars(times, marks, 0.1, 20.0)
    assert early[0] == pytest.approx(0.0)
    late, _ = pulse.whole_bars(times, marks, 9.9, 20.0)
    assert late[0] == pytest.approx(10.0)


def test_the_middle_triplet_makes_a_twelve_eight_of_a_shuffle():
    beats = [0.8 * k for k in range(33)]
    shuffle = [Hit(b + 0.8 * p, "hat_closed", 1, 1) for b in beats[:-1] for p in (0, 2 / 3)]
    full = shuffle + [Hit(b + 0.8 / 3, "hat_closed", 1, 1) for b in beats[:-1]]
    straight = [Hit(b + 0.8 * p, "hat_closed", 1, 1) for b in beats[:-1] for p in (0, 0.5)]
    assert not pulse.is_compound(beats, shuffle)
    assert not pulse.is_compound(beats, straight)
    assert pulse.is_compound(beats, full)
    assert pulse.signatures([4] * 8, 70, True) == [(12, 8)] * 8


def test_fast_bars_of_seven_are_written_in_eighths():
    assert pulse.signatures([4, 2, 7], 110, False) == [(4, 4), (2, 4), (7, 4)]
    assert pulse.signatures([4, 7], 220, False) == [(4, 4), (7, 4)]
    assert pulse.signatures([7, 4, 7], 220, False) == [(7, 8), (4, 8), (7, 8)]


def test_a_moment_of_a_one_belongs_to_the_beat_it_is_near():
    beats = np.arange(0.0, 4.0, 0.5)
    felt = pulse.ones_at(beats, ((0.03, 0.9), (1.24, 0.8), (2.0, 0.4), (2.01, 0.7)))
    assert felt.tolist() == [0.9, 0, 0, 0, 0.7, 0, 0, 0]


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
        told[kinds.index("B")] = 0.5
        apart[-2] = kinds[-2] == "B"
        assert form._divide(bars(*kinds), np.zeros(count), told, apart) == wanted
