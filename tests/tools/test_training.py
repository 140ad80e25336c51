"""What the network learns from: made-up grooves whose truth is consistent."""

import numpy as np
import pytest

from demo.make import PLAYERS, swung, wandering
from materials import drum_synth, mix, parts_by_style
from materials.kits import BANKS, CLASSES, FILES, PATCHED, TEST, TRAIN, TUNE
from materials.parts_by_style import STYLES, TOMS, compose
from orchesis.hearing.pulsegrid import ROWS
from orchesis.score import PulseMap
from training.pulsedata import made as pulse_made

PARTS = {*CLASSES, *TOMS, "crash2"}


@pytest.mark.parametrize("style", STYLES, ids=lambda s: s.name)
def test_each_style_fits_its_meter(style):
    size = style.beats * style.cells
    for lane, rivals in style.lanes.items():
        assert {len(p) for p in rivals} <= {size, 2 * size}, lane
        assert set("".join(rivals)) <= set("Xxg,?o."), lane


@pytest.mark.parametrize("style", STYLES, ids=lambda s: s.name)
def test_a_made_up_song_is_playable_truth(style):
    song = compose(np.random.default_rng(3), 20.0, style=style)
    assert len(song.events) > 15
    assert all(e.time > 0 and 0 < e.loudness <= 1 for e in song.events)
    assert {e.part for e in song.events} <= PARTS
    assert [e.time for e in song.events] == sorted(e.time for e in song.events)
    steps = np.diff(song.beats)
    assert (steps > 60 / 300).all() and (steps < 60 / 38).all()
    assert [i for i, n in enumerate(song.numbers) if n == 0] == song.bars
    assert song.beats[-1] > 20


def test_no_part_is_struck_twice_at_once():
    for seed in range(10):
        last = {}
        for e in compose(np.random.default_rng(seed), 30.0).events:
            assert e.time - last.get(e.part, -1) >= 0.03
            last[e.part] = e.time


def test_the_same_seed_makes_the_same_music():
    first, again = (compose(np.random.default_rng(5), 10.0) for _ in range(2))
    assert first.events == again.events and (first.beats == again.beats).all()


def test_a_made_kit_has_every_part_in_three_layers():
    pieces = drum_synth.kit(2)
    assert {p if not p.startswith("tom") else "tom" for p in pieces} - {"crash2"} == set(CLASSES)
    for name, layers in pieces.items():
        assert len(layers) == 3, name
        assert all(np.isfinite(s).all() and np.abs(s).max() == pytest.approx(1) for s in layers), (
            name
        )


def test_a_kick_is_lower_than_a_hat_and_a_foot_shorter_than_a_crash():
    pieces = drum_synth.kit(2)

    def centre(sound):
        power = np.abs(np.fft.rfft(sound)) ** 2
        return (power * np.fft.rfftfreq(len(sound), 1 / 44100)).sum() / power.sum()

    assert centre(pieces["kick"][-1]) < 400 < 2000 < centre(pieces["hat_closed"][-1])
    assert len(pieces["hat_foot"][-1]) < len(pieces["crash"][-1])


def test_every_named_kit_has_its_files_listed():
    sampled = {k for k in (*TRAIN, *TUNE, *TEST) if not k.startswith(("gm-", "made-"))}
    assert sampled == set(FILES) | set(PATCHED) | set(BANKS) - {"gm-rare"}
    assert not (set(TRAIN) & set(TUNE) or set(TRAIN) & set(TEST) or set(TUNE) & set(TEST))
    parts = {p for files in (*FILES.values(), *PATCHED.values()) for p in files}
    assert {p for p in parts if not p.startswith("tom") and p != "crash2"} <= set(CLASSES)


def test_a_piece_sounds_unlike_its_kit_but_begins_and_peaks_as_it_did():
    own, other = drum_synth.kit(2)["snare"][-1], drum_synth.kit(3)["snare"][-1]
    rng = np.random.default_rng(1)
    for beside in (None, other):
        made = mix._Curve.random(rng).applied(own, beside)
        assert np.abs(made).max() == pytest.approx(np.abs(own).max(), rel=1e-3)
        assert np.argmax(np.abs(made) > 0.2 * np.abs(made).max()) < 0.02 * mix.RATE
        short = made[: len(own)]
        assert np.corrcoef(short, own)[0, 1] < 0.999


def test_a_hat_is_opened_at_the_same_places_in_every_bar():
    bars = [
        [(k / 2, "hat_closed", 0.7, 0.0) for k in range(8)] + [(0.0, "kick", 0.8, 0.0)]
        for _ in range(2)
    ]
    parts_by_style._opened(np.random.default_rng(3), bars, 0.6)
    opened = [sorted(s[0] for s in bar if s[1] == "hat_open") for bar in bars]
    assert opened[0] == opened[1] and 1 <= len(opened[0]) <= 2
    assert all(len(bar) == 9 for bar in bars)


def test_drums_alone_leave_no_band_on_the_pulses_grid():
    silent = [s for s in range(40) if pulse_made(s)[0][11:14].max() == 0]
    assert silent


def test_the_pulse_is_taught_by_what_ears_would_hear():
    grid, truth = pulse_made(4)
    assert grid.shape == (ROWS, 3000) and truth.shape == (4, 3000)
    assert grid.min() >= 0 and grid.max() <= 1.6
    beats, ones = (np.flatnonzero(truth[k] == 1) for k in (0, 1))
    assert len(beats) > len(ones) > 3 and set(ones) <= set(beats)


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
