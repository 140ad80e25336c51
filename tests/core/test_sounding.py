"""Our own kit: strokes sound where they are written, as loud as they are meant."""

import json
from itertools import pairwise

import numpy as np
import pytest
import soundfile as sf

from orchesis.score import KIT
from orchesis.sounding import KIT_FOLDER, layer_for, render

RATE = 44100
SWELL = 0.007  # a shaker swells for some milliseconds; all else begins at once


def onset(sound):
    return int(np.argmax(np.abs(sound) > 0.05 * np.abs(sound).max())) / RATE


@pytest.mark.parametrize("part", KIT)
def test_every_part_sounds_at_its_moment(part):
    sound = render([(0.5, part, 0.8)], 2.0)
    assert len(sound) == 2 * RATE
    assert onset(sound) == pytest.approx(0.5, abs=SWELL)


@pytest.mark.parametrize("part", ["kick", "snare", "hat_closed", "ride", "tom_floor"])
def test_louder_strokes_sound_louder(part):
    levels = [np.abs(render([(0.1, part, x)], 1.0)).max() for x in (0.25, 0.5, 0.75, 1.0)]
    assert all(a < b for a, b in pairwise(levels))


def test_a_closed_hat_stops_an_open_one():
    ringing = render([(0.1, "hat_open", 0.9)], 2.0)
    stopped = render([(0.1, "hat_open", 0.9), (0.4, "hat_closed", 0.2)], 2.0)
    late = slice(int(0.8 * RATE), int(1.0 * RATE))
    assert np.abs(stopped[late]).max() < 0.2 * np.abs(ringing[late]).max()


def test_strokes_add_up():
    both = render([(0.1, "kick", 0.8), (0.3, "snare", 0.8)], 1.0)
    apart = render([(0.1, "kick", 0.8)], 1.0) + render([(0.3, "snare", 0.8)], 1.0)
    assert np.allclose(both, apart, atol=1e-6)


def test_every_one_shot_is_there_and_starts_at_its_onset():
    table = json.loads((KIT_FOLDER / "kit.json").read_text())
    assert {p.sample for p in KIT.values()} <= set(table)
    for layers in table.values():
        for layer in layers:
            sound, rate = sf.read(KIT_FOLDER / layer["file"])
            assert rate == RATE and sound.ndim == 1
            assert onset(sound) < SWELL, layer["file"]
    assert (KIT_FOLDER / "LICENSE").exists()


def test_the_nearest_layer_is_chosen():
    soft, _ = layer_for("snare", 0.3)
    hard, gain = layer_for("snare", 1.0)
    assert soft != hard and gain == pytest.approx(KIT["snare"].gain)
