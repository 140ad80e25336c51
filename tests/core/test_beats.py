"""Beats and bars as arithmetic on plain curves and times, apart from any sound."""

import numpy as np
import pytest

from orchesis.beats import bars, tracking


def curve(times, seconds, level=0.9):
    made = np.full(int(seconds * 100), 0.01)
    for t in times:
        if 0 <= t < seconds - 0.02:
            made[round(t * 100)] = level
    return made


def test_tracking_follows_a_drifting_pulse():
    times = [0.5]
    while times[-1] < 58:
        times.append(times[-1] + 0.6 * (1 + 0.05 * np.sin(len(times) / 15)))
    found = tracking.track(curve(times, 60), np.full(6000, 60.0)) * 0.01
    near = [np.abs(found - t).min() for t in times[2:-3]]
    assert np.mean(np.array(near) < 0.03) > 0.97


def test_beats_go_on_through_a_stop():
    times = [0.5 + 0.5 * k for k in range(100) if not 40 <= k < 48]
    found = tracking.track(curve(times, 52), np.full(5200, 50.0)) * 0.01
    silent = [0.5 + 0.5 * k for k in range(40, 48)]
    assert max(np.abs(found - t).min() for t in silent) < 0.06


def ones(*sizes):
    """How likely each beat is a one, where bars have so many beats."""
    return np.concatenate([[0.9] + [0.06] * (n - 1) for n in sizes])


@pytest.mark.parametrize("size", [2, 3, 4, 5, 6, 7])
def test_bars_of_any_usual_meter_are_found(size):
    assert bars.bars_of(ones(*[size] * 16)) == list(range(0, 16 * size, size))


def test_twos_at_a_usual_pace_are_counted_in_four():
    twos, one = list(range(0, 33, 2)), ones(*[2] * 17)
    brisk, slow = 0.6 * np.arange(34), 1.0 * np.arange(34)
    none = np.array([])
    assert bars.in_fours(twos, brisk, one, none) == list(range(0, 33, 4))
    assert bars.in_fours(twos, slow, one, none) == twos
    crashed = bars.in_fours(twos, brisk, one, brisk[[2, 10, 18]])
    assert crashed[:3] == [0, 2, 6]
    single = [0, 4, 8, 10, 14, 18]
    assert bars.in_fours(single, brisk, ones(4, 4, 2, 4, 4), none) == single


def sevens(first, second, *, count=8, beat=0.6):
    """Starts, beats and kicks and snares (seconds) of bars of seven beats: places (in beats) of
    each half's strokes."""
    times = beat * np.arange(7 * count + 1)
    struck = [
        beat * (7 * b + half + place)
        for b in range(count)
        for half, strokes in ((0, first), (3.5, second))
        for place in strokes
    ]
    return list(range(0, 7 * count + 1, 7)), times, struck


SEVEN_EIGHT = [0, 1, 2, 3]


def test_a_seven_of_like_halves_is_two_bars_of_eighths():
    starts, times, hits = sevens(SEVEN_EIGHT, [*SEVEN_EIGHT, 0.5])
    now, beats = bars.in_eighths(starts, times, hits)
    assert now == list(range(0, 2 * 56 + 1, 7))
    assert np.diff(beats) == pytest.approx(0.3)
    assert beats[::2] == pytest.approx(times)


def test_a_true_seven_four_keeps_its_beats():
    starts, times, hits = sevens(SEVEN_EIGHT, [0.5, 1.5, 2.5])
    now, beats = bars.in_eighths(starts, times, hits)
    assert now == starts and beats is times


@pytest.mark.parametrize("lone", ["nothing", "first halves"])
def test_without_kick_and_snare_a_seven_stays_as_it_is(lone):
    starts, times, hits = sevens(SEVEN_EIGHT, SEVEN_EIGHT)
    kept = [] if lone == "nothing" else [t for t in hits if t % 4.2 < 2.0]
    assert bars.in_eighths(starts, times, kept)[0] == starts


def test_one_bar_of_another_length_among_sevens_is_doubled_with_them():
    starts, times, hits = sevens(SEVEN_EIGHT, SEVEN_EIGHT)
    longer = np.append(times, times[-1] + 0.6 * np.arange(1, 5))
    now, beats = bars.in_eighths([*starts, 60], longer, hits)
    assert np.diff(now).tolist() == [7] * 16 + [8] and len(beats) == 121


def test_a_four_with_one_bar_of_five_is_never_halved():
    starts = [0, 4, 8, 13, 17, 21]
    times = 0.5 * np.arange(22)
    assert bars.in_eighths(starts, times, [])[0] == starts


def test_a_single_short_bar_shifts_what_follows():
    sizes = [4] * 7 + [2] + [4] * 8
    assert np.diff(bars.bars_of(ones(*sizes))).tolist() == sizes[:-1]


def test_a_single_doubtful_one_changes_no_meter():
    unsure = ones(*[4] * 16)
    unsure[20], unsure[22] = 0.3, 0.7
    assert set(np.diff(bars.bars_of(unsure))) == {4}


def test_a_pick_up_comes_before_the_first_one():
    assert bars.bars_of(np.concatenate([[0.05, 0.1], ones(*[4] * 8)]))[0] == 2


def test_bars_begin_with_the_first_sound_even_before_the_drums():
    times = np.arange(2.0, 30.0, 0.5)
    marks = list(range(0, len(times), 4))
    known, lengths = bars.whole_bars(times, marks, 2.0, 27.5)
    assert known[0] == pytest.approx(2.0) and set(lengths) == {4}
    assert known[-1] >= 27.5 and len(known) == sum(lengths) + 1
    early, _ = bars.whole_bars(times, marks, 0.1, 20.0)
    assert early[0] == pytest.approx(0.0)
    late, _ = bars.whole_bars(times, marks, 9.9, 20.0)
    assert late[0] == pytest.approx(10.0)


def test_the_middle_triplet_makes_a_twelve_eight_of_a_shuffle():
    beats = [0.8 * k for k in range(33)]
    shuffle = [b + 0.8 * p for b in beats[:-1] for p in (0, 2 / 3)]
    full = shuffle + [b + 0.8 / 3 for b in beats[:-1]]
    straight = [b + 0.8 * p for b in beats[:-1] for p in (0, 0.5)]
    assert not bars.is_compound(beats, shuffle)
    assert not bars.is_compound(beats, straight)
    assert bars.is_compound(beats, full)
    assert bars.signatures([4] * 8, 70, True) == [(12, 8)] * 8


def test_fast_bars_of_seven_are_written_in_eighths():
    assert bars.signatures([4, 2, 7], 110, False) == [(4, 4), (2, 4), (7, 4)]
    assert bars.signatures([4, 7], 220, False) == [(4, 4), (7, 4)]
    assert bars.signatures([7, 4, 7], 220, False) == [(7, 8), (4, 8), (7, 8)]


def test_a_moment_of_a_one_belongs_to_the_beat_it_is_near():
    beats = np.arange(0.0, 4.0, 0.5)
    felt = bars.ones_at(beats, ((0.03, 0.9), (1.24, 0.8), (2.0, 0.4), (2.01, 0.7)))
    assert felt.tolist() == [0.9, 0, 0, 0, 0.7, 0, 0, 0]


def steady(count, size=4, clear=0.9):
    return np.array([clear if k % size == 0 else 0.05 for k in range(count)])


def test_bars_beside_the_usual_ones_stand_only_where_they_are_clear():
    weak = steady(96)
    weak[40:56] = 0.3
    weak[[42, 46, 50, 54]] = 0.42
    beside = [*range(0, 40, 4), *range(42, 56, 4), *range(60, 97, 4)]
    assert bars.settled(beside, weak) == list(range(0, 97, 4))
    clear = weak.copy()
    clear[40:56] = 0.05
    clear[[42, 46, 50, 54]] = 0.9
    assert bars.settled(beside, clear) == beside


def test_an_ending_beside_the_bars_needs_more_than_a_bar():
    one = steady(60)
    one[54:] = 0.9
    assert bars.settled([*range(0, 53, 4), 54, 58], one)[:14] == list(range(0, 53, 4))


def test_nothing_is_settled_where_no_bars_are_usual():
    starts = [0, 3, 7, 12, 14, 20]
    assert bars.settled(starts, np.full(21, 0.5)) == starts


def test_a_single_change_of_the_one_needs_the_rest_of_the_song():
    """A two-beat turn that moves every later 1 is found; a doubtful bar moves none."""
    turned = np.concatenate([steady(48), [0.9, 0.05], steady(48)])
    assert 50 in bars.bars_of(turned) and 98 - 4 in bars.bars_of(turned)
    doubtful = steady(96)
    doubtful[44:52] = [0.3, 0.2, 0.5, 0.2, 0.3, 0.2, 0.5, 0.2]
    assert bars.bars_of(doubtful) == list(range(0, 96, 4))


@pytest.mark.parametrize(("count", "size"), [(8, 4), (16, 4), (12, 3), (10, 5), (28, 7)])
def test_a_loop_is_divided_evenly_from_its_first_beat(count, size):
    assert bars.divided(steady(count, size)) == size


def test_what_no_bars_divide_is_no_loop():
    assert bars.divided(steady(11)) == 0


def test_regular_bars_say_more_than_irregular_ones():
    assert bars.regular(steady(64)) > bars.regular(np.random.default_rng(1).permutation(steady(64)))
