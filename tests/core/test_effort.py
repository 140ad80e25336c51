"""How long a transcription takes: learned from what one finished, sober where nothing is known."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.planning.effort import PAUSE, Work, forecast, worked

sizes = st.builds(Work, bars=st.integers(1, 400), doubts=st.integers(0, 200))


def finished(pace: float, count: int = 8) -> list[Work]:
    plain = [Work(bars=60 + 10 * k, doubts=5 * k) for k in range(count)]
    return [Work(w.bars, w.doubts, pace * w.size, 1.0) for w in plain]


@given(sizes, st.floats(0.3, 3))
def test_a_pace_is_learned_and_the_forecast_lies_between_its_ends(song, pace):
    told = forecast(finished(pace), song)
    assert told.low < told.likely < told.high and told.songs == 8
    assert told.likely == pytest.approx(pace * song.size, rel=0.25)


@given(sizes)
def test_who_finished_nothing_has_the_usual_pace_and_wide_ends(song):
    new, known = forecast([], song), forecast(finished(1.0), song)
    assert new.likely == pytest.approx(song.size)
    assert new.high / new.low > known.high / known.low
    assert new.songs == 0


def test_newer_songs_say_more():
    slow, fast = finished(2.0, 6), finished(0.7, 6)
    song = Work(100, 20)
    assert forecast([*slow, *fast], song).likely < forecast([*fast, *slow], song).likely


def test_less_is_left_the_more_is_done_and_nothing_at_the_end():
    left = [
        forecast(finished(1.0), Work(100, 20, 0, done)).likely for done in (0, 0.2, 0.5, 0.9, 1)
    ]
    assert left == sorted(left, reverse=True)
    assert left[-1] == pytest.approx(0)


def test_a_song_that_goes_slowly_says_so_itself():
    usual = Work(100, 20, minutes=0, done=0.5)
    slow = Work(100, 20, minutes=200, done=0.5)
    assert forecast(finished(1.0), slow).likely > 1.1 * forecast(finished(1.0), usual).likely


def test_the_first_minutes_say_nothing_yet():
    opened = Work(100, 20, minutes=30, done=0.02)
    assert forecast([], opened).likely == pytest.approx(forecast([], Work(100, 20, 0, 0.02)).likely)


def test_time_counts_while_one_works_and_stops_in_a_pause():
    assert worked(0, None) == 1
    assert worked(10, 30) == 10.5
    assert worked(10, PAUSE + 1) == 11
    assert worked(10, -5) == 10  # a clock that was set back
