"""Drums forward: gains from a mask, pieces joined, better than splitting by median filters."""

import numpy as np
import pytest
import soundfile as sf
from scipy.ndimage import median_filter

from materials.measures import si_sdr
from orchesis.hearing import network, separate, spectrum, take_in
from orchesis.hearing.spectrum import BANDS
from tests import songs

RATE = 44100


@pytest.fixture(scope="module")
def noise():
    return np.random.default_rng(1).normal(0, 0.1, (3 * RATE, 2)).astype(np.float32)


def mask_of(value, seconds):
    return np.full((int(seconds * 100) + 3, BANDS), value, np.float16)


def test_a_full_mask_gives_the_sound_back(noise):
    out = separate.drums_of(noise, mask_of(1.0, 3), sharpen=0)
    assert out.shape == noise.shape
    assert np.abs(out - noise)[3000:-3000].max() < 1e-3


def test_an_empty_mask_gives_silence(noise):
    assert np.abs(separate.drums_of(noise, mask_of(0.0, 3), sharpen=0)).max() < 1e-6


def test_a_gain_is_between_none_and_all(noise):
    rng = np.random.default_rng(2)
    mask, magnitude = rng.random((60, BANDS)), rng.random((60, 1025)).astype(np.float32)
    for sharpen in (0.0, 0.5, 1.0):
        gain = separate.gains(mask, magnitude, sharpen=sharpen)
        assert gain.shape == (60, 1025) and gain.min() >= 0 and gain.max() <= 1


def test_pieces_join_without_a_seam(noise, tmp_path, monkeypatch):
    path = tmp_path / "n.flac"
    sf.write(path, noise, RATE)
    mask = np.random.default_rng(3).random((303, BANDS)).astype(np.float16)
    whole = np.concatenate(list(separate.drum_blocks(path, mask)))
    monkeypatch.setattr(separate, "_PIECE", 90)
    pieces = np.concatenate(list(separate.drum_blocks(path, mask)))
    assert len(whole) == len(pieces) == len(noise)
    assert np.abs(whole - pieces).max() < 2e-3


def test_drums_come_forward_better_than_by_median_filters(tmp_path):
    drums = songs.drums()
    mix = drums + songs.band(len(drums) / songs.RATE + 1)[: len(drums)]
    scale = 0.8 / np.abs(mix).max()
    intake = take_in(songs.write(tmp_path / "mix.wav", scale * mix), tmp_path / "s.flac")
    heard = spectrum.measure(intake.path, intake.duration)
    target = tmp_path / "drums.flac"
    separate.write_drums(intake.path, network.hear(heard).mask, target)
    ours, rate = sf.read(target)
    assert rate == RATE and len(ours) == round(intake.duration * RATE)
    plain = _median_split(scale * mix)
    ours = ours if ours.ndim == 1 else ours.mean(axis=1)
    n = min(len(ours), len(drums))
    assert si_sdr(drums[:n], ours[:n]) > si_sdr(drums[:n], plain[:n]) + 1


def _median_split(sound):
    from scipy.signal import istft, stft

    _, _, z = stft(sound, RATE, nperseg=2048)
    held, struck = median_filter(np.abs(z), (1, 17)), median_filter(np.abs(z), (17, 1))
    return istft(z * struck**2 / (struck**2 + held**2 + 1e-9), RATE, nperseg=2048)[1][: len(sound)]
