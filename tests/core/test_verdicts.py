"""What a person says of a finding holds: fills, grooves, swing."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from orchesis import explanations, fills
from orchesis.correcting.finding_edits import (
    DenyFill,
    ForgetFill,
    ForgetGroove,
    JudgeGroove,
    MarkFill,
    SetCore,
    SetSwing,
)
from orchesis.correcting.form_edits import SplitSection, UnlinkSection
from orchesis.correcting.pulse_edits import DoubleTempo, HalveTempo, ShiftOne
from orchesis.editing import apply
from orchesis.errors import BadEdit
from orchesis.fills import fill_facts
from orchesis.formats import count
from orchesis.grooves import grooves
from orchesis.score import Score
from orchesis.score.evidence import Evidence
from orchesis.score.fill import Span
from orchesis.score.patches import patched

F = Fraction
BEAT = "tempo: 120\n== A\nhat: {hat}\nkick: 1 3 | = | = | =\nsnare: 2 4 | = | = | {last}\n"


def song(last: str = "2 3 3e 3& 3a 4 4e 4& 4a") -> Score:
    return count.read(BEAT.format(hat="8ths | = | = | 1 1& 2 2&", last=last))


def edited(score: Score, *edits) -> Score:
    """As the server keeps it: each edit applied, and read back from JSON."""
    for edit in edits:
        score = apply(score, edit)[0]
    return Score.from_json(score.to_json())


FILL = {"bar": 4, "place": "2", "last_bar": 4, "end": "4"}


def test_a_denied_fill_does_not_come_back():
    score = song()
    assert [(s.bar, s.place) for s in fills.find(score)] == [(4, 2)]
    denied = edited(score, DenyFill(**FILL))
    assert fills.find(denied) == [] and fills.said(denied, False) == [Span(4, F(2), 4, F(4))]
    [g] = grooves(denied)
    assert g.fills == ()
    back = edited(denied, ForgetFill(**FILL))
    assert fills.find(back) == fills.find(score)


def test_a_marked_fill_takes_the_place_of_what_it_overlaps_and_is_told_as_marked():
    longer = edited(song(), MarkFill(bar=4, place="1", last_bar=4, end="4"))
    [fill] = fill_facts.describe_fills(longer)
    assert fill.span == Span(4, F(1), 4, F(4)) and fill.is_marked and fill.beats == 3
    plain = edited(song(last="2 4"), MarkFill(bar=2, place="2", last_bar=3, end="4/3"))
    assert fills.find(plain) == [Span(2, F(2), 3, F(4, 3))]
    assert grooves(plain)[0].fills == (2, 3)


def test_the_last_word_of_a_stretch_holds():
    both = edited(song(), DenyFill(**FILL), MarkFill(**FILL))
    assert fills.find(both) == [Span(4, F(2), 4, F(4))]
    assert len(both.fill_verdicts) == 1
    none = edited(both, DenyFill(**FILL))
    assert fills.find(none) == []


@pytest.mark.parametrize("edits", [[HalveTempo()], [DoubleTempo()], [ShiftOne(beats=1)]])
def test_what_is_said_of_a_fill_stays_at_its_moments(edits):
    before = edited(song(), MarkFill(bar=2, place="2", last_bar=2, end="4"))
    after = edited(before, *edits)
    times = [fills.seconds(s, fills.said(s, True)[0]) for s in (before, after)]
    assert times[1] == pytest.approx(times[0], abs=0.02)


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"bar": 9}, "There is no bar 9"),
        ({"place": "4"}, "lies outside bar 4"),
        ({"last_bar": 3}, "are not all in the song"),
        ({"end": "5"}, "must end within bar 4"),
        ({"end": "2"}, "ends behind its beginning"),
    ],
)
def test_a_stretch_that_is_none_is_refused(fields, says):
    with pytest.raises(BadEdit, match=says):
        MarkFill(**(FILL | fields)).apply(song())


def test_a_groove_takes_the_name_the_unit_and_the_kind_a_person_gives_it():
    score = song()
    at = score.sections[0].id
    said = edited(score, JudgeGroove(id=at, name="The walk", length=2, kind="vocabulary"))
    [g] = grooves(said)
    assert (g.name, g.length, g.kind, g.said) == (
        "The walk",
        2,
        "vocabulary",
        ("name", "length", "kind"),
    )
    assert explanations.groove(g).endswith("phrases are woven.")
    plain = edited(said, JudgeGroove(id=at, kind="", length=0))
    [g] = grooves(plain)
    assert (g.name, g.length, g.kind) == ("The walk", 1, grooves(score)[0].kind)
    assert edited(plain, ForgetGroove(id=at)).groove_verdicts == ()


def test_a_denied_figure_does_not_come_back_and_one_can_be_named():
    score = count.read(BEAT.format(hat="8ths | = | = | =", last="2 4"))
    at = score.sections[0].id
    found = grooves(score)[0].figures
    [g] = grooves(edited(score, JudgeGroove(id=at, figures=["plain eights"])))
    assert g.figures == ("plain eights",) != found
    [g] = grooves(edited(score, JudgeGroove(id=at, figures=[])))
    assert g.figures == () and g.said == ("figures",)


def test_core_and_option_are_set_by_hand():
    score = count.read(
        "tempo: 120\n== A\nhat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\n"
        "kick: 1 3 | 1 3 3& | 1 3 | 1 3 3&\n"
    )
    at = score.sections[0].id
    spot = {"in_bar": 0, "place": "5/2", "part": "kick", "ghost": False}
    core = edited(score, SetCore(id=at, standing="core", **spot))
    assert any(s.part == "kick" and s.place == F(5, 2) for s in grooves(core)[0].core)
    off = {"in_bar": 0, "place": "2", "part": "kick", "ghost": False}
    option = edited(core, SetCore(id=at, standing="option", **off))
    [g] = grooves(option)
    assert not any(s.part == "kick" and s.place == 2 for s in g.core)
    assert "core" in g.said
    found = edited(
        option, SetCore(id=at, standing="found", **off), SetCore(id=at, standing="found", **spot)
    )
    assert grooves(found) == grooves(score)


def test_what_is_said_of_a_music_goes_with_a_section_that_leaves_it():
    score = count.read(
        "tempo: 120\n== A\nkick: 1 3 | =\n== B\nkick: 1 3 | =\n== A\nkick: 1 3 | =\n"
    )
    first, _, last = (s.id for s in score.sections)
    said = edited(score, JudgeGroove(id=first, name="Feet"))
    assert [g.name for g in grooves(said)] == ["Feet", "", "Feet"]
    apart = edited(said, UnlinkSection(id=last))
    assert [g.name for g in grooves(apart)] == ["Feet", "", "Feet"]
    split = edited(said, SplitSection(id=first, bar=2, new="x"))
    assert grooves(split)[0].name == "Feet"


def test_a_swing_that_a_person_says_lasts_until_the_beats_are_others():
    score = edited(song(), SetSwing(level="eighth", ratio=0.6))
    assert score.swing == ("eighth", 0.6) and score.swing_is_said
    assert edited(score, ShiftOne(beats=1)).swing == ("eighth", 0.6)
    assert not edited(score, HalveTempo()).swing_is_said
    straight = edited(score, SetSwing(level="none", ratio=0.6))
    assert straight.swing == ("none", 0.5)
    found = edited(straight, SetSwing(level="found"))
    assert not found.swing_is_said


def test_every_verdict_can_be_taken_back():
    score = song()
    at = score.sections[0].id
    for edit in (
        MarkFill(**FILL),
        JudgeGroove(id=at, name="x"),
        SetSwing(level="eighth", ratio=0.6),
    ):
        new, _, inverse = apply(score, edit)
        assert patched(new, inverse) == score


def test_what_goes_with_what_is_kept_in_a_person_s_words():
    score = song()
    said = edited(score, JudgeGroove(id=score.sections[0].id, note="the 2& only in the chorus"))
    [g] = grooves(said)
    assert (g.note, g.said) == ("the 2& only in the chorus", ("note",))


def test_strokes_below_certainty_are_unsure_options_with_their_evidence():
    score = count.read(
        "tempo: 120\n== A\nhat: 8ths | = | = | =\nsnare: 2 4 | 2 (2a) 4 | 2 4 | 2 (2a) 4\n"
        "kick: 1 3 | = | = | =\n"
    )
    at = np.array([round(100 * score.seconds(b, F(7, 4))) for b in (1, 2, 4)])
    faint = replace(score, evidence=Evidence({"snare": (at, np.array([4, 5, 5]))})).with_strokes(
        s.changed(placed_by="heard", confidence=0.42 if s.dynamic == "ghost" else 0.9)
        for s in score.strokes.values()
    )
    [g] = grooves(faint)
    assert not g.options and g.kind == "fixed"
    [perhaps] = g.unsure
    assert (perhaps.place, perhaps.bars, perhaps.heard) == (F(7, 4), (2, 4), 3)
    told = explanations.told_groove(g, score.meters[0])
    assert told["unsure"][0]["goes"] == "42 % sure; something is heard there in 1 more"
    sure = edited(
        faint,
        SetCore(
            id=score.sections[0].id,
            in_bar=0,
            place="7/4",
            part="snare",
            ghost=True,
            standing="option",
        ),
    )
    [g] = grooves(sure)
    assert [o.place for o in g.options] == [F(7, 4)] and not g.unsure
