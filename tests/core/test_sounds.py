"""Strokes that sound alike are one sound under one name; two drums stay two."""

from types import SimpleNamespace

import numpy as np
import pytest

from orchesis.hearing import sounds
from orchesis.hearing.network import CLASSES
from orchesis.hearing.spectrum import BANDS
from orchesis.hearing.types import Hit

FRAMES, EVERY = 12_000, 40
RNG = np.random.default_rng(5)
#: Of a drum: the band it speaks in, and how it falls (share left a frame later).
DRUMS = {"low": (20, 0.80), "high": (55, 0.95)}


def sounded(order):
    """Spectrum and activity of single strokes, one every 0.4 s, each of one drum of DRUMS."""
    bands = np.full((FRAMES, BANDS), 1e-3, np.float32)
    strength = np.full((FRAMES, len(CLASSES)), 0.01, np.float32)
    for k, name in enumerate(order):
        band, falls = DRUMS[name]
        at = (k + 1) * EVERY
        shape = np.exp(-0.5 * ((np.arange(BANDS) - band) / 6) ** 2) * RNG.uniform(0.7, 1.0)
        for j in range(EVERY - 4):
            bands[at + j] += (shape * falls**j * RNG.uniform(0.9, 1.1, BANDS)).astype(np.float32)
        strength[at, CLASSES.index("snare")] = 0.8
    spectrum = SimpleNamespace(bands=bands, frames=FRAMES)
    mask = np.ones((FRAMES, BANDS), np.float16)
    return spectrum, SimpleNamespace(strength=strength, openness=np.zeros(FRAMES), mask=mask)


def strokes(order, wrong=()):
    """The low drum heard as a snare for certain, the high one half surely; some as a clap."""
    sure = {"low": 0.9, "high": 0.5}
    return [
        Hit(
            (k + 1) * EVERY / 100,
            "clap" if k in wrong else "snare",
            0.7,
            0.3 if k in wrong else sure[name],
        )
        for k, name in enumerate(order)
    ]


def test_two_drums_are_two_sounds_and_their_lone_strokes_take_the_name():
    order = ["low" if k % 3 else "high" for k in range(200)]
    made, told = sounds.of_song(strokes(order, wrong=(4, 10, 50)), *sounded(order))
    drums = {(h.sound, order[round(h.time * 100) // EVERY - 1]) for h in made}
    assert len(drums) == len({sound for sound, _ in drums}) > 1
    assert {h.part for h in made} == {"snare"}
    assert [s.sound for s in told] == list(range(1, len(told) + 1))
    assert {h.sound for h in made} == {s.sound for s in told} and len(made) == 200
    assert told[0].part == "snare"


def test_what_is_surely_one_part_is_one_sound_and_its_halves_tell_two_apart():
    order = ["low" if k % 3 else "high" for k in range(200)]
    sure = [Hit(h.time, "snare", 0.7, 0.9) for h in strokes(order)]
    made, (only,) = sounds.of_song(sure, *sounded(order))
    assert {h.sound for h in made} == {only.sound} and len(made) == 200
    halves = {(h.half, order[round(h.time * 100) // EVERY - 1]) for h in made}
    assert halves == {(0, "low"), (1, "high")}


def test_a_picture_shows_where_it_sounds_and_how_it_falls():
    order = ["low"] * 60 + ["high"] * 60
    _, told = sounds.of_song(strokes(order), *sounded(order))
    grids = [np.array(list(s.picture), int).reshape(sounds.ROWS, sounds.COLUMNS) for s in told[:2]]
    rows = sorted(int(g.sum(axis=1).argmax()) for g in grids)
    assert rows[0] < 5 < rows[1]
    low, high = sorted(grids, key=lambda g: int(g.sum(axis=1).argmax()))
    assert low[:, -1].max() < high[:, -1].max()
    assert low.max() == high.max() == 9 and low[:, 0].max() < 9


@pytest.mark.parametrize("count", [0, 1, 5])
def test_few_strokes_are_one_sound_or_none(count):
    order = ["low"] * count
    made, told = sounds.of_song(strokes(order), *sounded(order))
    assert len(made) == count and len(told) == min(count, 1)


def test_of_two_strokes_that_become_one_part_at_one_moment_the_surer_stays():
    order = ["low"] * 60
    twice = [*strokes(order), Hit(12 * EVERY / 100 + 0.01, "clap", 0.5, 0.2)]
    made, _ = sounds.of_song(twice, *sounded(order))
    assert len([h for h in made if abs(h.time - 12 * EVERY / 100) < 0.02]) == 1
