"""A long walk of random edits: whatever was accepted can be read, printed, heard and undone."""

from __future__ import annotations

import re
import time
from dataclasses import replace

import pytest

from orchesis import charting, feel, grooves
from orchesis.checks import review
from orchesis.editing import EDITS
from orchesis.errors import BadEdit
from orchesis.explanations import summary
from orchesis.fills import fill_facts
from orchesis.formats import count, count_writer, midi, musicxml
from orchesis.score import CandidateHit, KitSound, Score
from orchesis.score.notation import as_written
from orchesis.score.patches import patched
from tests.edits import apply, timed
from tests.songs import ROCK
from tests.walks import Walker

ODD = (
    ROCK
    + """
meter: 7/8
tempo: 180
== Bridge
hat:   8ths | = | = | =
snare: 4.> | = | = | 4 5 6 7
kick:  1 6 | = | = | 1
meter: 12/8
tempo: 70
== Outro
ride:  8ths | 8ths | =
snare: 2 4 (3l) | = | 2 4.f
kick:  1 3 | = | 1
"""
)
#: What is made of a score, each within so many seconds of a processor.
OUTPUTS = {
    "grooves": lambda s: grooves.grooves(s, 0.75, [], []),
    "fills": fill_facts.describe_fills,
    "feel": feel.read,
    "form": lambda s: summary.form_of(s, ()),
    "review": review.queue,
    "chart": lambda s: charting.pages(s),
    "pdf": lambda s: charting.pdf(s),
    "musicxml": lambda s: musicxml.write(as_written(s)),
    "midi": lambda s: midi.write(as_written(s)),
    "count text": count_writer.write,
}
SECONDS = 5.0


def heard() -> Score:
    """As if it had been heard: every stroke and the likely 1s with their moments."""
    score = timed(count.read(ODD))
    ones = tuple((score.seconds(b), 0.8) for b in range(1, score.bar_count + 1))
    strokes = {
        k: s.changed(measured=replace(s.measured, sound=1 + (s.part != "kick"), half=s.bar % 2))
        for k, s in score.strokes.items()
        if s.measured
    }
    perhaps = {
        k: CandidateHit(k, s.part, s.measured, 0.5, 0.3)
        for k, s in list(strokes.items())[::7]
        if s.measured
    }
    for key in perhaps:
        del strokes[key]
    sounds = (KitSound(1, "kick", halves=("1", "2")), KitSound(2, "snare", halves=("1", "2")))
    score = replace(score, strokes=strokes, perhaps=perhaps, sounds=sounds)
    score = replace(score, ones=ones, sounding=(0.0, score.pulse.times[-1]))
    return Score.from_json(score.to_json())


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_360_random_edits_leave_a_song_that_can_be_read_and_taken_back(seed):
    start = score = heard()
    walker, inverses, kinds = Walker(seed), [], set()
    for _ in range(3600):
        name, args = walker.edit(score)
        try:
            score, _patch, inverse = apply(score, name, args)
        except BadEdit as refused:
            assert str(refused)
            continue
        assert Score.from_json(score.to_json()) == score, name
        inverses.append(inverse)
        kinds.add(name)
        if len(inverses) == 360:
            break
    assert len(inverses) == 360 and len(kinds) >= 0.8 * len(EDITS), sorted(set(EDITS) - kinds)
    for what, make in OUTPUTS.items():
        began = time.process_time()
        make(score)
        assert time.process_time() - began < SECONDS, what
    for inverse in reversed(inverses):
        score = patched(score, inverse)
    assert score.to_json() == start.to_json()


def test_every_kind_of_edit_is_walked():
    walker, score = Walker(0), heard()
    assert {walker.edit(score, name)[0] for name in EDITS} == set(EDITS)


def test_a_meter_that_leaves_a_bar_of_an_eighth_is_charted():
    score, *_ = apply(count.read(ROCK), "set_meter", {"meter": "7/8", "bar": 3, "last": 4})
    assert "1/8" in map(str, score.meters)
    assert charting.pages(score) and musicxml.write(as_written(score))


def test_beats_are_inserted_until_there_is_no_room_and_the_song_still_opens():
    score = heard()
    for _ in range(40):
        try:
            score, *_ = apply(score, "insert_beat", {"bar": 3, "beat": 1})
        except BadEdit as refused:
            assert "too short to hold another beat" in str(refused)
            break
    else:
        pytest.fail("forty beats found room in one")
    assert Score.from_json(score.to_json()) == score


@pytest.mark.parametrize(
    ("name", "args", "says"),
    [
        ("tap", {"taps": [20_000 + k / 2 for k in range(40)]}, "outside of the song"),
        ("tap", {"taps": [float("nan")] * 9}, "“nan” can't be the “taps”"),
        ("tap", {"taps": [k / 1000 for k in range(6000)]}, "8 to 5000"),
        (
            "tap_cue",
            {"moments": [k / 1000 for k in range(20_000)]},
            "at most 5000 items, not 20000",
        ),
        (
            "play_in",
            {"new": "p", "hits": [{"time": 1.0, "part": "kick"}] * 6000},
            "at most 5000 items, not 6000",
        ),
        (
            "play_in",
            {"new": "p", "hits": [{"time": 1.0, "part": "kick", "loudness": "loud"}]},
            "“loud” can't be the “loudness”",
        ),
        ("drag_beat", {"bar": 2, "beat": 1, "seconds": float("inf")}, "can't be the “seconds”"),
        ("drag_beat", {"bar": 2, "beat": 1, "seconds": 1e6}, "can't be the “seconds”"),
        ("drag_beat", {"bar": 2, "beat": 1, "seconds": 500.0}, "5 seconds at the most"),
        (
            "add_stroke",
            {"id": "n", "bar": 1, "place": "1e12000000", "part": "kick", "limb": "RF"},
            "not a place",
        ),
        (
            "add_stroke",
            {"id": "n", "bar": 1, "place": "²", "part": "kick", "limb": "RF"},
            "not a place",
        ),
        (
            "add_stroke",
            {"id": "n", "bar": 1, "place": "1/49", "part": "kick", "limb": "RF"},
            "finer than 48",
        ),
        ("rename_section", {"id": "sec1", "name": "Ver\x07se"}, "can't be printed (U+0007)"),
        ("rename_section", {"id": "sec1", "name": "\ud800"}, "can't be printed (U+D800)"),
        ("set_cue", {"bar": 1, "text": '"st\x07op"'}, "can't be printed (U+0007)"),
        ("set_cue", {"bar": 1, "text": "1:5/" + "9" * 400}, "not a place"),
        ("many", {"edits": [{"operation": "set_part"}]}, "needs “id”"),
    ],
)
def test_what_would_cost_or_break_too_much_is_refused_in_one_sentence(name, args, says):
    began = time.process_time()
    with pytest.raises(BadEdit, match=re.escape(says)):
        apply(heard(), name, args)
    assert time.process_time() - began < 2


def test_a_bar_holds_no_more_than_can_be_played():
    def full(part: str) -> dict:
        return {
            "edits": [
                {
                    "operation": "add_stroke",
                    "id": f"{part}{k}",
                    "bar": 3,
                    "place": f"{k}/48",
                    "part": part,
                    "limb": "RH",
                }
                for k in range(192)
            ]
        }

    score, *_ = apply(heard(), "many", full("tom_high"))
    with pytest.raises(BadEdit, match="Bar 3 would hold more than 256 strokes"):
        apply(score, "many", full("cowbell"))
    began = time.process_time()
    assert fill_facts.describe_fills(score)
    assert time.process_time() - began < 2
