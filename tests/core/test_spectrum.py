"""What the ears are given: bands, levels and envelopes of plain sounds."""

import numpy as np
import pytest
import soundfile as sf

from orchesis.hearing import spectrum
from orchesis.hearing.spectrum import BANDS, FINE, HOP, RATE, Spectrum, measure

T = np.arange(3 * RATE) / RATE


def tone(hz, level=0.5):
    return (level * np.sin(2 * np.pi * hz * T)).astype(np.float32)


def clicks(*moments):
    sound = np.zeros(len(T), np.float32)
    for m in moments:
        at = round(m * RATE)
        sound[at : at + 200] = np.random.default_rng(1).normal(0, 0.3, 200)
    return sound


@pytest.fixture
def measured(tmp_path):
    def of(sound, rate=RATE) -> Spectrum:
        path = tmp_path / "sound.flac"
        sf.write(path, sound, rate)
        return measure(path, len(sound) / rate)

    return of


def test_bands_rise_evenly_in_pitch():
    edges = spectrum.band_edges()
    assert len(edges) == BANDS + 2
    assert edges[0] == pytest.approx(30) and edges[-1] == pytest.approx(16000)
    assert (np.diff(edges) > 0).all() and (np.diff(edges, 2) > 0).all()


@pytest.mark.parametrize("hz", [60, 220, 1000, 4000, 12000])
def test_a_tone_lies_in_its_band(measured, hz):
    bands = measured(tone(hz)).bands
    centres = spectrum.band_edges()[1:-1]
    loudest = int(bands[100].argmax())
    assert abs(loudest - int(np.abs(centres - hz).argmin())) <= 1


def test_a_frame_is_centred_on_its_moment(measured):
    found = measured(clicks(0.5, 1.503, 2.25))
    power = found.bands.sum(axis=1)
    for moment in (0.5, 1.503, 2.25):
        near = slice(round(100 * moment) - 15, round(100 * moment) + 15)
        assert abs(near.start + int(power[near].argmax()) - 100 * moment) <= 1.2


def test_the_fine_envelope_tells_a_click_to_the_millisecond(measured):
    fine = measured(clicks(1.2345)).fine
    first = int(np.argmax(fine > 0.1 * fine.max()))
    assert abs(first * FINE / RATE - 1.2345) < 0.0015


def test_the_body_hears_drums_and_no_cymbals(measured):
    low, high = measured(tone(400)).body, measured(tone(9000)).body
    assert low[500:1500].mean() > 300 * high[500:1500].mean()


def test_the_pitch_classes_name_the_note(measured):
    chroma = measured(tone(440)).chroma[150]
    assert int(chroma.argmax()) == 9
    assert chroma[9] > 5 * np.delete(chroma, 9).max()


def test_pieces_make_no_seams(measured, monkeypatch, tmp_path):
    rng = np.random.default_rng(0)
    sound = rng.normal(0, 0.1, 25 * RATE).astype(np.float32)  # more than two pieces of ten seconds
    found = measured(sound)
    kept = sf.read(tmp_path / "sound.flac", dtype="float32")[0]  # as the file rounds it
    plain = spectrum.band_magnitudes(kept)
    assert found.frames >= len(plain)
    assert np.abs(found.bands[: len(plain)] - plain).max() < 1e-3 * plain.max()


def test_a_sound_shorter_than_a_window_has_frames_too(measured):
    found = measured(clicks(0.001)[:600])
    assert 1 <= found.frames <= 4
    assert found.bands.shape[1] == found.short.shape[1] == BANDS


def test_features_do_not_know_how_loud_the_file_is():
    sound = clicks(0.5, 1.0) + tone(200, 0.1)
    loud, soft = (spectrum.features_of(gain * sound) for gain in (1.0, 0.05))
    assert loud.shape == (2, -(-len(sound) // HOP), BANDS)
    assert np.abs(loud - soft).max() < 1e-3


def test_training_and_the_engine_hear_the_same(measured, tmp_path):
    found = measured(clicks(0.5, 1.0) + tone(200, 0.1))
    kept = sf.read(tmp_path / "sound.flac", dtype="float32")[0]
    ours = spectrum.features(found.bands, found.short, spectrum.level_of(found.bands))
    theirs = spectrum.features_of(kept)
    n = theirs.shape[1] - 4  # the end is padded otherwise
    assert np.abs(ours[:, :n] - theirs[:, :n]).max() < 0.05


def test_the_power_of_the_drums_is_their_share_of_the_whole():
    bands = np.full((7000, BANDS), 2.0, np.float32)  # more than a minute: two pieces
    mask = np.zeros_like(bands)
    mask[3500:] = 0.25
    whole, drums = spectrum.powers(bands, mask)
    assert whole == pytest.approx(4.0 * BANDS)
    assert drums[:3500] == pytest.approx(0) and drums[3500:] == pytest.approx(BANDS)
