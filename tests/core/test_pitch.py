"""The pitch of one voice, against tones whose pitch is known."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.hearing import pitch

RATE, WINDOW, HOP = 8000, 1024, 256


def tone(hz: np.ndarray, harmonics: tuple[float, ...] = (1.0,)) -> np.ndarray:
    """A tone that follows a frequency for each sample; harmonics: levels from the first on."""
    phase = 2 * np.pi * np.cumsum(hz) / RATE
    return 0.3 * sum(level * np.sin(n * phase) for n, level in enumerate(harmonics, 1))


def cents(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    return np.abs(1200 * np.log2(a / b))


def tracked(sound: np.ndarray) -> np.ndarray:
    return pitch.track(sound, RATE, 30.0, 400.0, WINDOW, HOP)


@pytest.mark.parametrize("hz", [41.2, 55.0, 82.4, 110.0, 196.0, 330.0])
@pytest.mark.parametrize("harmonics", [(1.0,), (1, 0.6, 0.4, 0.2), (0.1, 1, 0.7)])
def test_a_steady_tone_is_found_within_a_bin_and_a_half(hz, harmonics):
    found = tracked(tone(np.full(RATE, hz), harmonics))[6:-6]
    assert (cents(found, np.full(len(found), hz)) < 37.5).mean() > 0.95  # a bin: 25 cents


def test_a_glide_is_followed():
    hz = np.geomspace(60, 120, 2 * RATE)
    found = tracked(tone(hz, (1, 0.5, 0.3)))
    wanted = hz[np.minimum(np.arange(len(found)) * HOP, len(hz) - 1)]
    assert np.median(cents(found[6:-6], wanted[6:-6])) < 25


def test_silence_and_noise_have_no_pitch():
    rng = np.random.default_rng(3)
    assert np.isnan(tracked(np.zeros(RATE))).all()
    assert np.isnan(tracked(0.1 * rng.standard_normal(RATE))).mean() > 0.8


def test_a_note_begins_and_ends_where_it_sounds():
    quiet = np.zeros(RATE // 2)
    found = tracked(np.concatenate([quiet, tone(np.full(RATE, 82.4)), quiet]))
    voiced = np.flatnonzero(~np.isnan(found)) * HOP / RATE
    assert voiced[0] == pytest.approx(0.5, abs=0.08) and voiced[-1] == pytest.approx(1.5, abs=0.08)
