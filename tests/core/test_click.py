"""Beats of a click, and the smoother: what holds through pauses, at the ends, and over a cut."""

import numpy as np
import pytest

from orchesis.beats import click
from orchesis.beats.smoothing import smooth
from orchesis.beats.tracking import held
from orchesis.hearing.readings import lay

RNG = np.random.default_rng(3)


def curves(times, seconds, ones=()):
    """Likelihoods of beats and ones (frames of 10 ms) with a little noise, certain at their times."""
    made = []
    for moments in (times, ones):
        curve = RNG.uniform(0, 0.03, round(seconds * 100))
        for t in moments:
            if 0 <= t < seconds - 0.02:
                curve[round(t * 100)] = 0.9
        made.append(curve)
    return made


def clicked(bpm, seconds, silent=(), start=0.3):
    beats = np.arange(start, seconds, 60 / bpm)
    return beats, [t for t in beats if not any(a < t < b for a, b in silent)]


@pytest.mark.parametrize("bpm", [72.3, 100.0, 127.4, 181.9])
def test_a_click_goes_on_through_a_long_pause_and_to_the_ends(bpm):
    beats, heard = clicked(bpm, 120, silent=[(0, 12), (40, 71), (110, 120)])
    found = click.find(*curves(heard, 120, heard[::4]), 6000 / bpm * 1.013)
    frames, breaks = click.path_of(found)
    assert len(found.spans) == 1 and len(breaks) == 0
    assert 6000 / found.spans[0].period == pytest.approx(bpm, rel=4e-4)
    assert max(np.abs(frames / 100 - t).min() for t in beats) < 0.03


def test_a_long_song_is_one_grid_though_its_period_lies_between_those_that_are_tried():
    beats = np.arange(0.3, 290, 0.72)
    found = click.find(*curves(beats, 290, beats[::4]), 75.05)
    assert len(found.spans) == 1 and found.spans[0].period == pytest.approx(72.0, rel=2e-4)


def test_a_cut_moves_the_grid_at_its_place_only():
    beats, _ = clicked(120, 100)
    beats = np.concatenate([beats[beats < 50], beats[beats >= 50] + 0.2])
    found = click.find(*curves(beats, 100, beats[::4]), 50.4)
    assert len(found.spans) == 2
    assert found.spans[0].end == pytest.approx(5000, abs=60)
    frames, breaks = click.path_of(found)
    assert len(breaks) == 1
    assert max(np.abs(frames / 100 - t).min() for t in beats) < 0.04


def test_a_change_of_tempo_is_followed_to_another_click():
    first, second = np.arange(0.3, 60, 0.5), np.arange(60.0, 120, 0.489)
    beats = np.concatenate([first, second])
    found = click.find(*curves(beats, 120, beats[::4]), 50.0)
    tempi = [6000 / s.period for s in found.spans]
    assert tempi[0] == pytest.approx(120, rel=1e-3) and tempi[-1] == pytest.approx(122.7, rel=1e-3)


def test_a_band_that_plays_round_the_beat_does_not_move_it():
    beats, _ = clicked(100, 90)
    heard, ones = curves(beats, 90, beats[::4])
    heard = np.maximum(heard, 1.03 * np.roll(heard, 30))  # the off-beats are a little likelier
    frames, _ = click.path_of(click.find(heard, ones, 60.3))
    assert np.median([np.abs(frames / 100 - t).min() for t in beats]) < 0.02


def wandering(count=180, amount=0.03):
    steps = 0.55 * (1 + amount * np.sin(np.arange(count) / 14))
    return 0.4 + np.concatenate([[0], np.cumsum(steps)])


def test_what_wanders_is_no_click():
    beats = wandering()
    heard, ones = curves(beats, beats[-1] + 1, beats[::4])
    laid = lay(heard, ones, np.full(len(heard), 55.0))
    assert not laid.to_click
    assert np.median([np.abs(laid.frames / 100 - t).min() for t in beats]) < 0.03


def test_a_wandering_tempo_is_held_where_nothing_is_felt():
    beats = wandering(amount=0.01)
    seen = np.zeros(round(beats[-1] * 100) + 50)
    for t in beats:
        if not 40 < t < 60:
            seen[round(t * 100)] = 3.4
    path = [round(t * 100) for t in beats if not 40 < t < 60]
    path += list(range(4030, 5990, 49))  # what a path does where it knows nothing: too fast
    found = held(np.array(sorted(path)), seen) / 100
    silent = [t for t in beats if 41 < t < 59]
    assert max(np.abs(found - t).min() for t in silent) < 0.12
    assert sum((found > 41) & (found < 59)) == pytest.approx(len(silent), abs=1)


def test_the_smoother_finds_a_click_behind_human_strokes():
    true = 0.5 + 0.5 * np.arange(200)
    seen = true + RNG.normal(0, 0.008, 200)
    seen[80:120] = np.nan
    made = smooth(true + RNG.normal(0, 0.02, 200), seen, np.ones(200))
    assert made.freedom == 0
    assert np.abs(made.times - true).max() < 0.004


def test_the_smoother_follows_a_tempo_that_wanders():
    true = wandering()
    made = smooth(np.round(true, 2), true + RNG.normal(0, 0.005, len(true)), np.ones(len(true)))
    assert made.freedom > 0
    assert np.abs(made.times - true).max() < 0.015


def test_one_stroke_far_off_moves_no_beat():
    true = 0.5 + 0.5 * np.arange(64)
    seen = true.copy()
    seen[-2] += 0.045
    assert np.abs(smooth(true, seen, np.ones(64)).times - true).max() < 0.003


def test_a_break_lets_the_grid_start_anew():
    true = np.concatenate([0.5 * np.arange(50), 25.2 + 0.5 * np.arange(50)])
    made = smooth(true, true + RNG.normal(0, 0.003, 100), np.ones(100), np.array([50]))
    assert np.abs(made.times - true).max() < 0.006


def test_few_beats_stay_as_they_were_guessed():
    guess = np.array([0.5, 1.0, 1.5])
    assert smooth(guess, np.full(3, np.nan), np.ones(3)).times == pytest.approx(guess)
