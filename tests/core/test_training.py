"""What the network learns from: made-up grooves whose truth is consistent."""

from itertools import pairwise

import numpy as np
import pytest

from demo.make import PLAYERS, swung, wandering
from orchesis.score import PulseMap
from training.grooves import compose
from training.kits import CLASSES, FILES, TEST, TRAIN, TUNE


@pytest.mark.parametrize("seed", range(12))
def test_a_made_up_groove_is_playable_truth(seed):
    rng = np.random.default_rng(seed)
    events, beats, numbers = compose(rng, 20.0)
    assert len(events) > 20
    assert all(0 < t < 20 and 0 < loud <= 1 for t, _, loud in events)
    assert events == sorted(events)
    steps = np.diff(beats)
    assert (steps > 0.25).all() and (steps < 1.3).all()
    meter = max(numbers) + 1
    assert all((b - a) % meter == 1 % meter for a, b in pairwise(numbers))
    known = {*CLASSES, "tom1", "tom2", "tom3", "crash2"}
    assert {part for _, part, _ in events} <= known


def test_the_same_seed_makes_the_same_music():
    first, again = (compose(np.random.default_rng(5), 10.0)[0] for _ in range(2))
    assert first == again


def test_every_named_kit_has_its_files_listed():
    sampled = {k for k in (*TRAIN, *TUNE, *TEST) if not k.startswith("gm-")}
    assert sampled == set(FILES)
    parts = {p for files in FILES.values() for p in files}
    assert {p for p in parts if not p.startswith("tom") and p != "crash2"} <= set(CLASSES)


def test_the_demo_players_keep_or_lose_the_click_as_meant():
    even = PulseMap.even(100, 200)
    for name, player in PLAYERS.items():
        pulse = wandering(even, player, np.random.default_rng(0))
        _, low, high = pulse.tempo()
        assert (high - low < 0.1) is (player.drift == 0), name
        assert pulse.times[0] == player.lead_in


def test_swing_delays_the_second_of_each_pair():
    from fractions import Fraction

    assert swung(Fraction(1, 4), ("sixteenth", 0.6)) == pytest.approx(0.3)
    assert swung(Fraction(1, 2), ("sixteenth", 0.6)) == 0.5
    assert swung(Fraction(1, 2), ("eighth", 0.66)) == pytest.approx(0.66)
    assert swung(Fraction(1, 3), ("eighth", 0.66)) == pytest.approx(1 / 3)
