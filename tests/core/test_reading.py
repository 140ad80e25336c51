"""Reading: moments become places; swing, dynamics and limbs as a drummer would write them."""

import numpy as np
import pytest

from orchesis.analysis_file import analysis, score_of
from orchesis.errors import BadScore
from orchesis.fills import fill_bars
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.placing import dynamics, quantise
from orchesis.placing.requantise import requantise
from orchesis.score import Measured
from orchesis.transcribing import transcribe
from tests.songs import ROCK


def humanised(text, spread_ms=6.0, swing=0.5, seed=0):
    """The written strokes played by somebody: moments with spread and swung 16ths."""
    rng = np.random.default_rng(seed)
    score = count.read(text)

    def moment(s):
        place = s.place
        if place % 1 in (0.25, 0.75):
            place = float(place) + (swing - 0.5) / 2
        return score.pulse.seconds(
            float(score.beat_of(s.bar, 0 * s.place)) + float(place)
        ) + rng.normal(0, spread_ms / 1000)

    return score, score.with_strokes(
        s.changed(measured=Measured(moment(s))) for s in score.strokes.values()
    )


def written_again(heard):
    """As ``requantise`` writes strokes by the moments at which they were measured."""
    return requantise(heard, {s.id: s.time for s in heard.strokes.values()})


def written(score):
    return sorted((s.bar, s.place, s.part) for s in score.strokes.values())


@pytest.mark.parametrize(
    "bars",
    [
        "hat: 8ths\nsnare: 2 4\nkick: 1 2a 3",
        "hat: 16ths\nsnare: 2 4\nkick: 1 1a 3&",
        "hat: triplets\nsnare: 2 4\nkick: 1 1l 3",
        "hat: 8ths -4 -4&\nsnare: 2 4:0/6 4:1/6 4:2/6 4:3/6 4:4/6 4:5/6\nkick: 1 3",
        "meter: 6/8\nhat: 1 1t 1l 2 2t 2l\nsnare: 2\nkick: 1",
        "meter: 7/8\nhat: 1 2 3 4 5 6 7\nsnare: 3 7\nkick: 1 5",
    ],
)
def test_played_strokes_go_back_to_their_places(bars):
    lanes = "\n".join(
        line if line.startswith("meter") else line + " | =" * 7 for line in bars.splitlines()
    )
    score, heard = humanised("tempo: 96\n" + lanes)
    assert written(written_again(heard)) == written(score)


def test_swung_sixteenths_are_written_as_sixteenths_with_their_ratio():
    score, heard = humanised(
        "tempo: 88\nhat: 16ths | = | = | = | = | =\nsnare: 2 4 | = | = | = | = | =", swing=0.6
    )
    read_again = written_again(heard)
    assert written(read_again) == written(score)
    assert read_again.swing[0] == "sixteenth"
    assert read_again.swing[1] == pytest.approx(0.6, abs=0.02)


def test_straight_is_straight():
    _, heard = humanised(ROCK)
    assert written_again(heard).swing == ("none", 0.5)


def test_swing_is_not_claimed_from_a_few_pairs():
    assert quantise.swing_of([0.3, 0.8] * 5) == ("none", 0.5)


def test_soft_snares_are_ghosts_and_the_loudest_strokes_accents():
    score = count.read(
        "snare: 2.@80 2a.@25 3.@78 4.@82 | 2.@80 2a.@28 4.@80 | 2.@80 3e.@26 4.@100\nhat: 8ths | = | ="
    )
    named = {
        (s.bar, str(s.place)): s.dynamic
        for s in dynamics.classed(score.strokes.values())
        if s.part == "snare"
    }
    assert named[1, "7/4"] == named[2, "7/4"] == named[3, "9/4"] == "ghost"
    assert named[1, "1"] == "normal"
    assert named[3, "3"] == "accent"


def limbs(text):
    strokes = with_limbs(count.read(text)).strokes
    return {(s.part, str(s.place)): s.limb for s in strokes.values()}


def test_the_right_hand_keeps_time_and_the_left_plays_the_backbeat():
    found = limbs("hat: 8ths\nsnare: 2 (2a) 4\nkick: 1 3\nhat_foot: 2 4")
    assert {limb for (part, _), limb in found.items() if part == "hat_closed"} == {"RH"}
    assert {limb for (part, _), limb in found.items() if part == "snare"} == {"LH"}
    assert found["kick", "0"] == "RF" and found["hat_foot", "1"] == "LF"


def test_a_fill_goes_hand_to_hand_with_the_lead_on_the_numbers():
    found = limbs("hat: 1 1& 2 2&\nsnare: 3 3e 3& 3a\ntom_floor: 4 4e 4& 4a\nkick: 1")
    assert [found["snare", p] for p in ("2", "9/4", "5/2", "11/4")][1:] == ["LH", "RH", "LH"]
    assert [found["tom_floor", p] for p in ("3", "13/4", "7/2", "15/4")] == ["RH", "LH", "RH", "LH"]


def test_no_hand_plays_two_things_at_once():
    by_moment = {}
    for s in with_limbs(count.read(ROCK)).strokes.values():
        assert (s.bar, s.place, s.limb) not in by_moment
        by_moment[s.bar, s.place, s.limb] = s


def test_fills_are_found_by_their_difference():
    assert fill_bars(count.read(ROCK)) == [(8, 3)]


def test_an_analysis_file_brings_the_score_back(heard_rock):
    score = transcribe(heard_rock, title="Plain Rock")
    data = analysis(heard_rock, score)
    again = score_of(data, title="Plain Rock")
    assert written(again) == written(score)
    assert analysis(heard_rock, again)["hits"] == data["hits"]


@pytest.mark.parametrize(
    "data",
    [
        [],
        {},
        {"format": "else"},
        {"format": "orchesis-analysis", "version": 9},
        {"format": "orchesis-analysis", "version": 1, "beats": []},
    ],
)
def test_other_files_are_no_analysis(data):
    with pytest.raises(BadScore):
        score_of(data)
