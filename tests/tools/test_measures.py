"""The bench measures what it says: a perfect hearing scores one, known mistakes their share."""

import json
from dataclasses import replace

import pytest

from bench import on_kits, summary
from demo.make import truth
from materials import kits, measures
from orchesis.formats import count
from orchesis.hearing import Beat, HeardMeter, HeardSection, Hearing, Hit, Tempo
from orchesis.score import Measured
from orchesis.transcribing import transcribe
from tests.songs import ROCK


@pytest.fixture(scope="module")
def told():
    score = count.read(ROCK)
    score = score.with_strokes(
        s.changed(measured=Measured(score.seconds(s.bar, s.place))) for s in score.strokes.values()
    )
    return json.loads(json.dumps(truth(score, 40.0)))


@pytest.fixture
def perfect(told):
    return Hearing(
        duration=40.0,
        sample_rate=44100,
        tempo=Tempo(100, 100, 100, True, 1.0),
        meters=(HeardMeter(1, 4, 4),),
        beats=(
            *(Beat(b["time"], b["bar"], b["beat"]) for b in told["beats"]),
            Beat(2 * told["beats"][-1]["time"] - told["beats"][-2]["time"], 17, 1),
        ),
        hits=tuple(Hit(h["time"], h["part"], h["loudness"], 1.0) for h in told["hits"]),
        sections=(HeardSection(1, 8, "A"), HeardSection(9, 8, "B")),
    )


def test_a_perfect_hearing_scores_one(told, perfect):
    found = measures.strokes(told, perfect) | measures.form(told, perfect)
    for key in ("kick", "snare", "cymbals", "every part", "open/closed", "borders", "labels"):
        assert found[key] == pytest.approx(1.0), key
    time = measures.time(told, perfect, transcribe(perfect))
    assert [time[k] for k in ("beats", "downbeats", "tempo", "meter")] == pytest.approx(
        [1.0] * 4, abs=0.04
    )
    assert time["swing error"] == 0 and time["snare ms"] == 0


def test_mistakes_cost_what_they_are_worth(told, perfect):
    deaf = replace(perfect, hits=tuple(h for h in perfect.hits if h.part != "kick"))
    assert measures.strokes(told, deaf)["kick"] == 0
    late = replace(perfect, hits=tuple(replace(h, time=h.time + 0.06) for h in perfect.hits))
    assert measures.strokes(told, late)["snare"] == 0
    wrong = replace(perfect, tempo=replace(perfect.tempo, bpm=50))
    assert measures.time(told, wrong, transcribe(perfect))["tempo"] == 0
    one = replace(perfect, sections=(HeardSection(1, 16, "A"),))
    assert measures.form(told, one)["borders"] == 0
    assert measures.form(told, one)["labels"] < 0.75


def test_nothing_to_find_is_no_figure(told, perfect):
    assert measures.strokes(told, perfect)["toms"] != measures.strokes(told, perfect)["toms"]  # NaN
    assert measures.f_measure([1.0], [], 0.05) == 0


def test_the_bench_songs_are_written_as_music():
    from materials.songs import SONGS, text_of

    assert len(SONGS) >= 24 and len({s.name for s in SONGS}) == len(SONGS)
    for song in SONGS:
        score = count.read(text_of(song))
        assert 45 < score.pulse.times[-1] < 130, song.name


def figures(cymbals):
    known = {key: 1.0 for _, key, *_ in (*summary._STROKES, *summary._TIME)}
    return {**known, "cymbals": cymbals, "swing error": 0.0, "snare ms": 1.0, "above plain": 6.0}


def test_the_worst_kit_decides_whether_a_figure_is_reached():
    kits = {"a": "first", "b": "second"}
    cost = {"hearing": 4.0, "hearing with drums": 9.0}
    lines = summary.table({"a": figures(0.97), "b": figures(0.9)}, kits, cost)
    [cymbals] = [x for x in lines if x.startswith("| hats and cymbals")]
    assert cymbals == "| hats and cymbals, mixes | 0.95 | 0.97 | 0.90 | short |"
    assert [x for x in lines if x.startswith("| kick, mixes")] == [
        "| kick, mixes | 0.98 | 1.00 | 1.00 |  |"
    ]
    assert "| ghosts, drums alone | 0.95 | – | – |  |" in lines, "no song here has them"
    short = [x.split(" | ")[0] for x in lines if x.endswith("| short |")]
    assert short == ["| hats and cymbals, mixes", "| hearing with drums, % of the length"]


@pytest.mark.parametrize("name", [*on_kits.TESTED, *on_kits.TUNED])
def test_every_kit_that_is_compared_is_one_that_never_trained(name):
    assert not name or name in (*kits.TEST, *kits.TUNE)
    assert name not in kits.TRAIN
