"""What drums lie on in training: strokes in a bed are found, guitars keep to their grid."""

from __future__ import annotations

import numpy as np

from materials import backings, mix
from orchesis.sounding.render import RATE, render


def test_strokes_are_found_in_a_bed_and_held_notes_are_not():
    seconds = 4.0
    t = np.arange(int(seconds * RATE)) / RATE
    held = (0.2 * np.sin(2 * np.pi * 220 * t) + 0.05 * np.sin(2 * np.pi * 1760 * t)).astype(
        np.float32
    )
    assert len(backings.struck(held)) == 0
    times = [0.5, 1.25, 2.0, 3.1]
    struck = backings.struck(
        held + render([(at, "snare", 0.9) for at in times], seconds)[: len(held)]
    )
    assert len(struck) == len(times)
    assert all(min(abs(100 * at - k) for k in struck) <= 4 for at in times)


def test_what_sounds_struck_counts_neither_way():
    near = backings.struck_frames(np.array([2, 50]), 60)
    assert near[0] and near[3] and near[47] and near[51] and not near[10]


def test_mastering_keeps_its_stems_in_step_and_its_peaks_below_one():
    rng = np.random.default_rng(3)
    drums = render([(k / 4, "kick" if k % 2 else "snare", 0.8) for k in range(8)], 2.5)
    rest = (0.1 * rng.normal(size=len(drums))).astype(np.float32)
    own, band, whole = mix.mastered(rng, drums, rest)
    assert own.shape == band.shape == whole.shape == drums.shape
    assert np.abs(whole).max() <= 1.0 and np.isfinite(whole).all()
    before, after = (np.abs(x).reshape(-1, 450).mean(axis=1) for x in (drums, own))
    assert np.corrcoef(before, after)[0, 1] > 0.6
