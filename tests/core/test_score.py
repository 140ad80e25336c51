"""Exact time, the pulse map, and the score's JSON."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.score import KIT, LAYERS, Meter, PulseMap, Score, Stroke, part
from orchesis.score.counting import rows
from orchesis.score.kit import MIDI_PARTS
from orchesis.score.player import Player
from tests.songs import ROCK


@given(
    st.lists(st.floats(0.2, 1.5), min_size=2, max_size=60),
    st.floats(-2, 70),
)
def test_seconds_and_beats_are_each_others_inverse(steps, beat):
    times = [0.3]
    for step in steps:
        times.append(times[-1] + step)
    pulse = PulseMap.of(times)
    assert pulse.beat(pulse.seconds(beat)) == pytest.approx(beat, abs=1e-6)


def test_a_pulse_is_exact_at_its_beats_and_goes_on_behind_them():
    pulse = PulseMap.of([1.0, 1.5, 2.5])
    assert [pulse.seconds(b) for b in (0, 1, 2)] == [1.0, 1.5, 2.5]
    assert pulse.seconds(3) == 3.5
    assert pulse.seconds(-1) == 0.5
    assert pulse.seconds(Fraction(3, 2)) == 2.0


def test_an_honest_range():
    steady = PulseMap.even(92, 64)
    assert steady.tempo() == pytest.approx((92, 92, 92))
    wandering = PulseMap.of([sum(0.6 + 0.03 * (k // 16 % 2) for k in range(n)) for n in range(65)])
    _median, low, high = wandering.tempo()
    assert low == pytest.approx(95.2, abs=0.1) and high == pytest.approx(100, abs=0.1)


@pytest.mark.parametrize(
    ("text", "beats", "quarters"),
    [
        ("4/4", 4, 4),
        ("6/8", 2, 3),
        ("12/8", 4, 6),
        ("7/8", 7, Fraction(7, 2)),
        ("3/8", 3, Fraction(3, 2)),
    ],
)
def test_meters_are_counted_as_drummers_feel_them(text, beats, quarters):
    meter = Meter.parse(text)
    assert (meter.beats, meter.quarters) == (beats, quarters)
    assert meter.beats * meter.beat_quarters == meter.quarters


@pytest.mark.parametrize("text", ["0/4", "4/3", "waltz", "4", "33/8"])
def test_what_is_no_meter_is_refused(text):
    with pytest.raises(BadScore):
        Meter.parse(text)


def test_the_kit_table_stands_on_its_own():
    assert len({p.tab for p in KIT.values()}) == len(KIT)
    assert len({p.midi for p in KIT.values()}) == len(KIT)
    assert all(p.layer in LAYERS for p in KIT.values())
    assert MIDI_PARTS[35] == MIDI_PARTS[36] == "kick"
    shown = {(p.shape, p.letter) for p in KIT.values() if p.name != "rimshot"}
    assert len(shown) == len(KIT) - 1
    with pytest.raises(BadScore, match="gong"):
        part("gong")


def test_a_score_survives_its_json():
    score = count.read(ROCK)
    assert Score.from_json(score.to_json()).to_json() == score.to_json()


def test_impossible_strokes_are_refused():
    good = {"id": "a", "bar": 1, "place": Fraction(0), "part": "snare"}
    for bad in (
        {"part": "gong"},
        {"limb": "TAIL"},
        {"dynamic": "loud"},
        {"loudness": 2.0},
        {"place": Fraction(-1)},
        {"bar": 0},
        {"ornament": "trill"},
    ):
        with pytest.raises(BadScore):
            Stroke(**{**good, **bad})


def test_bars_and_beats_must_agree():
    with pytest.raises(BadScore, match="8 beats"):
        Score(meters=(Meter(),) * 2, pulse=PulseMap.even(100, 7))


def test_one_counts_in_words_of_ones_own():
    assert rows("own ti & ta la li")["simple"]["4"] == ("", "ti", "&", "ta")
    assert rows("own ti & ta la li")["simple"]["3"] == ("", "la", "li")
    assert rows("own - & - - -")["simple"]["4"] == ("", "", "&", "")
    for wrong in ("own ti ta", "own a b c d 5", "fast", "own abcdefghi b c d e"):
        with pytest.raises(BadScore, match="count in"):
            rows(wrong)
    own = Player(counting="own ti & ta la li")
    assert Player.from_json(own.to_json()) == own
    with pytest.raises(BadScore):
        Player(counting="fast")
