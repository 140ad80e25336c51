"""The network's face: the same classes as in training, pieces joined without a seam."""

import json
from pathlib import Path

import numpy as np
import pytest

from materials.kits import CLASSES, TEST, TRAIN, TUNE
from orchesis.hearing import hits, network, spectrum, take_in
from orchesis.hearing.pulsegrid import ROWS
from orchesis.hearing.tempo_bins import BINS


@pytest.fixture(scope="module")
def heard(rock_file, tmp_path_factory):
    intake = take_in(rock_file, tmp_path_factory.mktemp("n") / "s.flac")
    return spectrum.measure(intake.path, intake.duration)


def test_the_weights_tell_as_many_things_as_the_code_reads():
    """Onset and level of each class, openness, ornaments; and a share for every band."""
    session = network._session("onset_model.onnx")
    heard, mask = session.run(None, {"sound": np.zeros((1, 2, 50, spectrum.BANDS), np.float32)})
    assert heard.shape == (1, 50, 2 * len(network.CLASSES) + 1 + len(network.ORNAMENTS))
    assert mask.shape == (1, 50, spectrum.BANDS)
    pulse = network.read_pulse(np.zeros((ROWS, 70), np.float32))
    assert pulse.shape == (3 + BINS, 70)
    assert pulse[3:].sum(axis=0) == pytest.approx(1.0, abs=1e-4)


def test_no_kit_both_trains_and_judges():
    assert not set(TRAIN) & set(TUNE) and not set(TEST) & (set(TRAIN) | set(TUNE))


def test_the_weights_are_small_and_their_thresholds_complete():
    folder = Path(network.__file__).parent
    assert (folder / "onset_model.onnx").stat().st_size < 4_000_000
    tuned = json.loads((folder / "onset_model.json").read_text())
    assert set(tuned) == set(CLASSES)


def test_pieces_join_without_a_seam(heard, monkeypatch):
    whole = network.hear(heard)
    monkeypatch.setattr(network, "_PIECE", 700)
    pieces = network.hear(heard)
    assert np.abs(whole.strength - pieces.strength).max() < 2e-3
    assert whole.strength.shape == (heard.frames, len(CLASSES))


def test_peaks_are_single_and_above_the_floor():
    curve = np.zeros(100)
    curve[[20, 50, 53, 80]] = (0.9, 0.8, 0.3, 0.1)
    assert list(hits.peaks(curve, 0.2)) == [20, 50]


def test_clearer_strokes_are_surer():
    for name in ("kick", "snare", "hat_closed"):
        weights = hits.tuned()[name]["weights"]
        unclear, clear = (
            hits.evidence(np.array([0.3, 0.95]), np.full(2, 0.7), np.zeros(2)) @ weights
        )
        assert unclear < clear
