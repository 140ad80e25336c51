"""What is left of a song, learned from finished ones."""

from __future__ import annotations

import pytest

from orchesis.planning import Work, forecast, worked


def test_changes_close_together_are_one_sitting():
    minutes = worked(0.0, None)
    for gap in (60, 120, 30):
        minutes = worked(minutes, gap)
    assert minutes == pytest.approx(1 + 3.5)
    assert worked(minutes, 3600) == pytest.approx(1 + 3.5 + 1)


def test_nobody_known_gets_the_usual_pace():
    song = Work(bars=100, doubts=20)
    told = forecast([], song)
    assert told.likely == pytest.approx(song.size)
    assert told.low < told.likely < told.high and told.songs == 0


def test_a_slow_person_is_told_more_and_the_newest_songs_count_most():
    song = Work(80, 10)
    slow = [Work(80, 10, 3 * song.size)] * 6
    assert forecast(slow, song).likely > 2.2 * song.size
    faster = [*slow, *[Work(80, 10, song.size)] * 6]
    slower = [*[Work(80, 10, song.size)] * 6, *slow]
    assert forecast(faster, song).likely < forecast(slower, song).likely


def test_what_is_done_counts_and_a_finished_song_has_nothing_left():
    half = Work(80, 10, 60.0, 0.5)
    assert 0 < forecast([], half).likely < forecast([], Work(80, 10)).likely * 2
    assert forecast([], Work(80, 10, 60.0, 1.0)).likely == pytest.approx(0)


def test_more_known_songs_make_the_answer_narrower():
    song = Work(80, 10)
    few, many = (forecast([Work(80, 10, 40.0)] * n, song) for n in (1, 10))
    assert many.high / many.low < few.high / few.low
