"""The second pass: repetition raises what recurs, lowers what is lonely, invents nothing."""

import pytest

from orchesis.hearing.recall import again
from orchesis.hearing.types import Beat, Hit

BARS, PERIOD = 12, 0.5
BEATS = tuple(Beat(PERIOD * k, k // 4 + 1, k % 4 + 1) for k in range(4 * BARS + 1))


def at(bar, beat, part="snare", sure=0.95):
    return Hit(round(2.0 * bar + PERIOD * beat, 3), part, 0.8, sure)


def groove(bars=range(BARS)):
    made = []
    for b in bars:
        made += [at(b, 0, "kick"), at(b, 2, "kick"), at(b, 1), at(b, 3)]
        made += [at(b, k / 2, "hat_closed") for k in range(8)]
    return made


def sure_of(hits, like):
    return next(h for h in hits if h.time == like.time and h.part == like.part)


def test_a_weak_ghost_that_recurs_is_raised_and_marked():
    weak = at(5, 1.75, sure=0.35)
    others = [at(b, 1.75, sure=0.9) for b in range(BARS) if b != 5]
    now = sure_of(again([*groove(), *others, weak], BEATS), weak)
    assert now.confidence > 0.55 and now.recalled


def test_a_lonely_weak_stroke_is_lowered():
    lonely = at(5, 2.25, sure=0.5)
    now = sure_of(again([*groove(), lonely], BEATS), lonely)
    assert now.confidence < 0.4 and now.recalled


def test_a_sure_lonely_stroke_stays_written():
    lonely = at(5, 2.25, sure=0.97)
    assert sure_of(again([*groove(), lonely], BEATS), lonely).confidence > 0.8


def test_nothing_is_added_and_nothing_moves():
    given = [h for h in groove() if h != at(5, 3)]
    now = again(given, BEATS)
    assert [(h.time, h.part, h.loudness) for h in now] == [
        (h.time, h.part, h.loudness) for h in given
    ]


def test_bars_of_another_length_say_nothing():
    beats = [Beat(PERIOD * k, k // 4 + 1, k % 4 + 1) for k in range(20)]
    beats += [Beat(10 + PERIOD * k, 6 + k // 3, k % 3 + 1) for k in range(4)]
    weak = Hit(10 + 0.875, "snare", 0.5, 0.4)
    given = [*groove(range(5)), *[at(b, 1.75, sure=0.9) for b in range(5)], weak]
    assert sure_of(again(given, tuple(beats)), weak).confidence == pytest.approx(0.4)


def test_three_bars_are_no_repetition():
    beats = BEATS[:13]
    given = [*groove(range(3)), at(1, 1.75, sure=0.3)]
    assert again(given, beats) == given


def test_the_same_place_is_meant_in_milliseconds_not_in_cells():
    weak = at(5, 1.75, sure=0.35)
    off = [at(b, 1.75 + 0.2, sure=0.9) for b in range(BARS) if b != 5]
    assert sure_of(again([*groove(), *off, weak], BEATS), weak).confidence <= 0.35
