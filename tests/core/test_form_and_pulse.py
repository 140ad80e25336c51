"""Pulse and form from plain curves: what the arithmetic does apart from any sound."""

import numpy as np
import pytest

from orchesis.hearing import form, pulse
from orchesis.hearing.types import Hit


def clicks(times, seconds, level=1.0):
    curve = np.zeros(int(seconds * 100))
    for t in times:
        if 0 <= t < seconds - 0.02:
            curve[round(t * 100)] = level
    return curve


@pytest.mark.parametrize("bpm", [76, 96, 118, 140])
def test_a_backbeat_tells_the_tempo(bpm):
    step = 60 / bpm
    beats = np.arange(0.4, 60, step)
    onset = clicks(beats, 60) + clicks(beats + step / 2, 60, 0.4)
    backbeat = clicks(beats[1::2], 60)
    best = pulse.periods(onset, backbeat, clicks(beats, 60))[0][0]
    assert best * 0.01 == pytest.approx(step, rel=0.02)


def test_tracking_follows_a_drifting_pulse():
    times = [0.5]
    while times[-1] < 58:
        times.append(times[-1] + 0.6 * (1 + 0.05 * np.sin(len(times) / 15)))
    onset = clicks(times, 60) * 5
    found = pulse.track(onset, np.full(len(onset), 60.0)) * 0.01
    near = [np.abs(found - t).min() for t in times[2:-3]]
    assert np.mean(np.array(near) < 0.03) > 0.97


def test_beats_are_drawn_to_the_strokes_near_them():
    hits = [Hit(0.5 * k + 0.013, "kick", 0.8, 0.9) for k in range(1, 40)]
    rough = np.array([round(50 * k) for k in range(1, 40)])
    times = pulse.refine(rough, hits)
    assert np.abs(times - np.array([h.time for h in hits])).max() < 0.004


def test_bars_begin_with_the_first_sound_even_before_the_drums():
    times = np.arange(2.0, 30.0, 0.5)
    hits = [Hit(10.0, "kick", 1, 1), Hit(20.0, "snare", 1, 1)]
    beats = pulse._bars(times, 4, 0, hits, (2.0, 27.9))
    assert beats[0].time == pytest.approx(2.0) and beats[0].bar == 1
    assert beats[-1].beat == 1 and beats[-1].time >= 27.5
    early = pulse._bars(times, 4, 0, hits, (0.1, 20.0))
    assert early[0].time == pytest.approx(0.0)


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
    borders = form._divide(far, change, np.zeros(24))
    assert borders == [0, 8, 16, 24]
    assert [s.label for s in form._labelled(far, borders)] == ["A", "B", "A"]


def test_an_odd_phrase_comes_out_odd():
    far = bars(*"AAAAAAAACCCCCCCBBBBBBBB")
    change = np.zeros(23)
    change[[8, 15]] = 1.4
    found = form._labelled(far, form._divide(far, change, np.zeros(23)))
    assert [(s.first_bar, s.bars) for s in found] == [(1, 8), (9, 7), (16, 8)]
