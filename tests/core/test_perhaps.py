"""What is perhaps a stroke: kept with the score, told in the analysis, never one of its strokes."""

from dataclasses import replace
from fractions import Fraction

import pytest

from orchesis.analysis_file import analysis, score_of
from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hearing.types import HeardMeter, Hearing, Hit, Tempo
from orchesis.placing.requantise import nearest_place
from orchesis.score import CandidateHit, Measured, Score
from tests.songs import ROCK

SCORE = count.read(ROCK)


def maybe(time, part="crash", id="p1"):
    return CandidateHit(id, part, Measured(time, -12.0), 0.5, 0.3)


def hearing_of(score):
    beats = ()
    return Hearing(
        duration=score.pulse.times[-1],
        sample_rate=44100,
        tempo=Tempo(100, 100, 100, True, 0.9),
        meters=(HeardMeter(1, 4, 4),),
        beats=beats,
        hits=(Hit(1.0, "kick", 0.7, 0.9),),
        sections=(),
    )


def test_they_are_kept_with_the_score_and_are_none_of_its_strokes():
    score = replace(SCORE, perhaps={"p1": maybe(2.41), "p2": maybe(7.0, "snare", "p2")})
    again = Score.from_json(score.to_json())
    assert again.perhaps == score.perhaps
    assert again.strokes == SCORE.strokes and again.played().strokes == SCORE.strokes
    assert "perhaps" not in again.frame()


def test_a_score_from_before_has_none():
    data = SCORE.to_json()
    del data["perhaps"]
    assert Score.from_json(data).perhaps == {}


def test_what_was_kept_before_it_had_ids_gets_them():
    told = replace(SCORE, perhaps={"p1": maybe(2.41)}).to_json()
    del told["perhaps"][0]["id"]
    assert Score.from_json(told).perhaps == {"p1": maybe(2.41)}


@pytest.mark.parametrize(
    "odd",
    [
        {"part": "triangle"},
        {"id": ""},
        {"measured": {"time": 1.0, "sound": -3}},
        {"measured": {"time": "soon"}},
        {"loudness": 2},
        {"confidence": None},
        {"measured": None},
    ],
)
def test_what_is_odd_is_refused_in_a_sentence(odd):
    with pytest.raises(BadScore):
        CandidateHit.from_json({**maybe(1.0).to_json(), **odd})


def test_the_analysis_tells_them_at_their_nearest_place_and_reads_them_back():
    moment = SCORE.seconds(3, Fraction(5, 2)) + 0.02
    told = analysis(hearing_of(SCORE), replace(SCORE, perhaps={"p1": maybe(moment)}))
    (only,) = [h for h in told["hits"] if h["state"] == "perhaps"]
    assert (only["bar"], only["position"], only["part"]) == (3, "5/8", "crash")
    told["beats"] = [
        {"time": t, "bar": i // 4 + 1, "beat": i % 4 + 1} for i, t in enumerate(SCORE.pulse.times)
    ]
    read = score_of(told)
    assert [p.part for p in read.perhaps.values()] == ["crash"]
    assert len(read.strokes) == len(SCORE.strokes)


def test_places_are_16ths_or_nearer_triplets_inside_the_bars():
    beat = SCORE.seconds(1, Fraction(1)) - SCORE.seconds(1)
    third = SCORE.seconds(2) + beat / 3
    assert nearest_place(SCORE, third) == (2, Fraction(1, 3))
    assert nearest_place(SCORE, SCORE.seconds(2, Fraction(3, 4)) + 0.01) == (2, Fraction(3, 4))
    assert nearest_place(SCORE, SCORE.pulse.times[-1] + 30)[0] == SCORE.bar_count
    assert nearest_place(SCORE, -5.0) == (1, Fraction(0))
