"""From the curves of the network to candidates: what is a stroke, which part, when, how loud."""

import numpy as np
import pytest

from orchesis.hearing.hits import Listener, evidence, logit, peaks
from orchesis.hearing.network import CLASSES, ORNAMENTS, Activity
from orchesis.hearing.spectrum import BANDS, FINE, HOP, RATE, Spectrum, band_edges

FRAMES = 600


class Heard:
    """A song of six seconds in which nothing is heard but what is put into it."""

    def __init__(self):
        self.strength = np.full((FRAMES, len(CLASSES)), 0.002, np.float32)
        self.level = np.full((FRAMES, len(CLASSES)), 0.6, np.float32)
        self.openness = np.zeros(FRAMES, np.float32)
        self.ornaments = np.zeros((FRAMES, len(ORNAMENTS)), np.float32)
        self.bands = np.full((FRAMES, BANDS), 1e-3, np.float32)
        self.fine = np.full(FRAMES * HOP // FINE, 1e-6, np.float32)
        self.body = self.fine.copy()

    def put(self, name, *frames, sure=0.97):
        for k in frames:
            self.strength[k, CLASSES.index(name)] = sure
        return self

    def edge(self, seconds, envelope="fine"):
        at = round(seconds * RATE / FINE)
        getattr(self, envelope)[at:] = np.maximum(
            getattr(self, envelope)[at:], np.exp(-np.arange(FRAMES * HOP // FINE - at) / 40)
        )
        return self

    def candidates(self):
        activity = Activity(
            self.strength,
            self.level,
            self.openness,
            self.ornaments,
            np.ones((FRAMES, BANDS), np.float16),
        )
        none = np.zeros((FRAMES, 12), np.float32)
        spectrum = Spectrum(self.bands, self.bands, none, self.fine, self.body, FRAMES / 100)
        return Listener(spectrum, activity).candidates()

    def parts(self, least=0.5):
        return [h.part for h in self.candidates() if h.confidence > least]


def test_a_clear_crest_is_a_stroke_and_silence_is_none():
    assert Heard().parts(0.0) == []
    assert Heard().put("kick", 100, 300).parts() == ["kick", "kick"]


def test_one_stroke_spread_over_frames_is_one():
    assert Heard().put("snare", 99, 101, sure=0.4).put("snare", 100).parts() == ["snare"]
    curve = np.zeros(50)
    curve[[10, 11, 12, 30]] = 0.3, 0.9, 0.3, 0.5
    assert peaks(curve, 0.1).tolist() == [11, 30]
    assert peaks(curve, 0.6).tolist() == [11]


def test_strokes_of_one_part_need_forty_milliseconds():
    heard = Heard().put("snare", 100, 104, 300).put("snare", 301, sure=0.9)
    assert len(heard.parts()) == 3


def test_one_hand_plays_one_cymbal_at_a_time():
    heard = Heard().put("hat_closed", 100, sure=0.9).put("ride", 101, sure=0.6)
    assert heard.parts(0.0) == ["hat_closed"]
    assert Heard().put("hat_closed", 100).put("ride", 110).parts() == ["hat_closed", "ride"]


def test_kick_snare_and_hat_sound_together():
    heard = Heard().put("kick", 100).put("snare", 100).put("hat_closed", 100)
    assert sorted(heard.parts()) == ["hat_closed", "kick", "snare"]


@pytest.mark.parametrize(
    ("openness", "part"), [(0.1, "hat_open"), (0.3, "hat_half"), (0.8, "hat_open")]
)
def test_a_hat_is_half_open_by_degree(openness, part):
    heard = Heard().put("hat_open", 100)
    heard.openness[99:102] = openness
    assert heard.parts() == [part]


def test_an_ornament_is_told_of_drums_only():
    heard = Heard().put("snare", 100).put("hat_closed", 200)
    heard.ornaments[[100, 200], ORNAMENTS.index("drag")] = 0.9
    found = {h.part: h.ornament for h in heard.candidates() if h.confidence > 0.5}
    assert found == {"snare": "drag", "hat_closed": None}


def test_a_stroke_is_timed_by_its_sharpest_edge():
    (hit,) = Heard().put("snare", 100).edge(1.0063).candidates()
    assert hit.time == pytest.approx(1.0063, abs=0.0025)


def test_without_an_edge_the_frame_is_the_time():
    (hit,) = Heard().put("snare", 100).candidates()
    assert hit.time == 1.0


def test_a_late_drum_under_a_cymbal_is_timed_by_its_body():
    heard = Heard().put("snare", 100).put("hat_closed", 100)
    heard.edge(1.0).edge(1.012, "body")
    times = {h.part: h.time for h in heard.candidates() if h.confidence > 0.5}
    assert times["hat_closed"] == pytest.approx(1.0, abs=0.002)
    assert times["snare"] == pytest.approx(1.012, abs=0.004)


def test_a_drum_alone_keeps_its_own_moment():
    heard = Heard().put("snare", 100).edge(1.0).edge(1.012, "body")
    (hit,) = heard.candidates()
    assert hit.time == pytest.approx(1.0, abs=0.002)


def snares_one_of_them_soft(*, is_measured, is_felt):
    """Snares every 0.6 s; loudness of a full one and of that at 3 s, soft in its band, by the network, or
    both."""
    heard = Heard()
    speaking = np.flatnonzero((band_edges()[1:-1] > 500) & (band_edges()[1:-1] < 1800))
    for k in range(60, 540, 60):
        heard.put("snare", k)
        heard.bands[k : k + 6, speaking] = 0.1 if k == 300 and is_measured else 1.0
    if is_felt:
        heard.level[290:310] = 0.3
    loud = {round(h.time, 1): h.loudness for h in heard.candidates()}
    return loud[1.2], loud[3.0]


def test_a_loud_stroke_is_louder_than_a_soft_one_of_its_part():
    full, soft = snares_one_of_them_soft(is_measured=True, is_felt=True)
    assert soft < 0.4 < 0.7 < full


@pytest.mark.parametrize(("is_measured", "is_felt"), [(True, False), (False, True)])
def test_what_is_measured_of_its_band_and_what_is_felt_both_count(is_measured, is_felt):
    full, soft = snares_one_of_them_soft(is_measured=is_measured, is_felt=is_felt)
    both = snares_one_of_them_soft(is_measured=True, is_felt=True)[1]
    assert both < soft < 0.9 * full


def test_a_band_that_something_else_fills_or_empties_does_not_run_away_with_the_level():
    heard = Heard()
    kicks = np.flatnonzero(band_edges()[1:-1] < 110)
    for k in range(60, 540, 60):
        heard.put("kick", k)
        heard.bands[k : k + 6, kicks] = 1e-3 if k == 300 else 1.0  # nothing of it is left there
    loud = {round(h.time, 1): h.loudness for h in heard.candidates()}
    assert 0.35 < loud[3.0] < loud[1.2]


def test_log_odds_are_bounded_and_odd():
    assert logit(np.array([0.0, 0.5, 1.0]))[1] == 0
    assert [logit(0.0), -logit(1.0)] == pytest.approx([-5.806, -5.806], abs=0.001)
    assert logit(0.2) == pytest.approx(-logit(0.8))


def test_the_evidence_of_no_strokes_is_empty():
    none = np.zeros(0)
    assert evidence(none, none, none).shape == (0, 10)
