"""What the core and the page must reckon alike: one file of cases, read here and by
web/src/kit/golden.test.ts."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import pytest

from orchesis.checks.review import DOUBTFUL
from orchesis.score import KIT, Meter, Score
from orchesis.score.counting import place_text
from orchesis.score.moments import clock_text
from orchesis.score.stroke import class_of
from orchesis.score.swing import swung
from orchesis.sounding import layer_for, part
from orchesis.teaching.ladder import Ladder, Rung

GOLD = json.loads((Path(__file__).parents[1] / "golden" / "rules.json").read_text())
SCORE = Score.from_json(GOLD["score"])


def test_places_are_swung_and_named():
    for case in GOLD["swung"]:
        level, ratio = case["swing"]
        assert swung(Fraction(case["place"]), (level, ratio)) == pytest.approx(case["at"], abs=1e-6)
    for case in GOLD["names"]:
        assert place_text(Fraction(case["place"]), Meter.parse(case["meter"])) == case["name"]


def test_strokes_have_classes_layers_limbs_and_doubts():
    some = next(iter(SCORE.strokes.values()))
    for case in GOLD["classes"]:
        assert class_of(case["loudness"]) == case["class"]
    for case in GOLD["layers"]:
        stroke = some.changed(part=case["part"], dynamic=case["dynamic"])
        assert stroke.layer == case["layer"]
    assert {name: KIT[name].limb for name in KIT} == GOLD["limbs"]
    doubtful = sorted(s.id for s in SCORE.strokes.values() if s.confidence < DOUBTFUL)
    assert doubtful == GOLD["doubtful"]


def test_moments_are_written_as_minutes_and_seconds():
    for seconds, text in GOLD["clock"]:
        assert clock_text(seconds) == text


def test_bars_begin_and_one_shots_are_chosen():
    assert SCORE.bar_seconds == pytest.approx(GOLD["bars"], abs=1e-5)
    for case in GOLD["shots"]:
        file, gain = layer_for(case["part"], case["loudness"])
        assert (file, gain) == (case["file"], pytest.approx(case["gain"], abs=1e-5))


@pytest.mark.parametrize("case", GOLD["sounds"], ids=lambda c: f"{c['feel']} without {c['mute']}")
def test_what_sounds_when(case):
    shifts = GOLD["shifts"]
    made = part.events(SCORE, case["feel"], lambda s: shifts[s.id], case["mute"])
    assert len(made) == len(case["events"])
    for event, (time, name, loudness, choked) in zip(made, case["events"], strict=True):
        assert (event.part, event.choked) == (name, choked)
        assert (event.time, event.loudness) == pytest.approx((time, loudness), abs=2e-5)


def test_a_ladder_is_climbed():
    gold = GOLD["ladder"]
    own = Ladder(
        gold["rungs"][0], gold["rungs"][1] - gold["rungs"][0], gold["rungs"][-1], gold["run"]
    )
    rung = Rung(gold["rungs"][0])
    for judgement, tempo, clean, is_learned in gold["loops"]:
        rung = own.after(rung, judgement)
        assert rung == Rung(tempo, clean, is_learned)
