"""Evidence of every part: laid on the grid of the bars, anew where the pulse is corrected, kept small."""

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest

from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hearing import evidence
from orchesis.hearing.network import CLASSES
from orchesis.score import Score
from orchesis.score.evidence import CELLS, STEPS, Evidence
from tests.edits import apply, timed
from tests.songs import ROCK

SCORE = timed(count.read(ROCK))


def heard(moments, frames=6000, strength=0.9):
    """Onsets of parts at some moments, in what the network hears."""
    curves = np.full((frames, len(CLASSES)), 0.005, np.float32)
    for name, own in moments.items():
        for t in own:
            curves[round(t * 100), CLASSES.index(name)] = strength
    return evidence.of_song(SimpleNamespace(strength=curves))


FOUND = heard(
    {
        "snare": [SCORE.seconds(1) + 0.6, SCORE.seconds(3) + 0.6],
        "hat_open": [SCORE.seconds(2) + 0.3],
        "hat_closed": [SCORE.seconds(2)],
    }
)
WITH = replace(SCORE, evidence=FOUND)


def test_onsets_lie_on_the_cell_where_they_sound():
    told = WITH.evidence.of_bar(WITH, 3)
    assert len(told["snare"]) == 4 * CELLS
    assert np.flatnonzero(told["snare"]).tolist() == [CELLS]  # beat 2
    assert np.flatnonzero(WITH.evidence.of_bar(WITH, 2)["hat"]).tolist() == [0, CELLS // 2]
    assert not any(told["kick"])


def test_the_clearer_the_higher_and_what_hardly_sounds_is_not_kept():
    steps = [
        heard({"kick": [5.0]}, strength=x).onsets["kick"][1] for x in (0.03, 0.2, 0.5, 0.9, 0.995)
    ]
    values = [int(s[0]) for s in steps]
    assert values == sorted(values) and values[0] == 1 and values[-1] == STEPS and values[2] == 5
    assert len(heard({"kick": [5.0]}, strength=0.015).onsets["kick"][0]) == 0


def test_a_correction_of_the_pulse_lays_it_anew():
    new, _, _ = apply(WITH, "shift_one", {"beats": 1})
    assert new.evidence is WITH.evidence
    moment = SCORE.seconds(3) + 0.6
    bar = max(b for b in range(1, new.bar_count + 1) if new.seconds(b) <= moment + 0.01)
    at = np.flatnonzero(new.evidence.of_bar(new, bar)["snare"])
    assert at.tolist() == [0]  # what was beat 2 is the 1 now
    half, _, _ = apply(WITH, "halve_tempo", {})
    assert (
        sum(any(half.evidence.of_bar(half, b)["snare"]) for b in range(1, half.bar_count + 1)) == 2
    )


def test_it_is_kept_with_the_score_and_older_scores_have_none():
    assert Score.from_json(WITH.to_json()).evidence == FOUND
    told = WITH.to_json()
    del told["evidence"]
    assert Score.from_json(told).evidence.of_bar(SCORE, 1) == {}


def test_it_is_read_back_from_the_grid():
    bars = [WITH.evidence.of_bar(WITH, b) for b in range(1, WITH.bar_count + 1)]
    again = replace(SCORE, evidence=Evidence.laid(SCORE, bars))
    assert [again.evidence.of_bar(again, b) for b in range(1, again.bar_count + 1)] == bars


@pytest.mark.parametrize(
    "odd",
    [
        {"gong": {"steps": [1], "clear": "1"}},
        {"kick": {"steps": [1], "clear": "12"}},
        {"kick": {"steps": [-1, -1], "clear": "11"}},
        {"kick": []},
        {"kick": {"steps": [2**63], "clear": "1"}},
        {"kick": {"steps": [1e308], "clear": "1"}},
        {"kick": {"steps": [2**62, 2**62], "clear": "11"}},
    ],
)
def test_what_is_odd_is_refused(odd):
    with pytest.raises(BadScore):
        Evidence.from_json(odd)
