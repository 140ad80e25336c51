"""Findings in words: every kind of them has its sentence."""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from orchesis import explanations
from orchesis.checks.review import Doubt
from orchesis.form.form_events import FormEvent
from orchesis.formats import count
from orchesis.score import Meter, Stroke
from orchesis.score.decision import Decision
from orchesis.score.difference import Difference
from orchesis.score.fill import Entry, Fill, Resolution, Span
from orchesis.score.groove import PATTERNS, Groove, Option, Phrase, Relation, Spot

FOUR, TWELVE = Meter(4, 4), Meter(12, 8)
SCORE = count.read("hat: 8ths | 8ths | 8ths | 8ths\nkick: 1 | 1 | 1 | 1")
SNARE = Stroke("s", 1, F(1), "snare", "LH")


@pytest.mark.parametrize(
    ("event", "says"),
    [
        (FormEvent(3, "enters", layer="toms"), "toms enters"),
        (FormEvent(3, "leaves", layer="hat"), "hat leaves"),
        (FormEvent(3, "surface", before="hat", after="ride"), "hat to ride, without announcement"),
        (
            FormEvent(3, "surface", before="hat", after="ride", by=("fill", "crash")),
            "hat to ride, announced by a fill and a crash",
        ),
        (FormEvent(3, "rest", bars=1), "1 bar of rest"),
        (FormEvent(3, "rest", bars=4), "4 bars of rest"),
        (FormEvent(3, "meter", meter="7/8"), "7/8"),
        (FormEvent(3, "build", rise=6.4, last=8), "builds by 6 dB up to bar 8"),
        (FormEvent(3, "fade"), "fades out from here"),
        (FormEvent(3, "disagrees"), "confirmed, but the sound lies elsewhere now"),
    ],
)
def test_what_happens_in_the_form(event, says):
    assert explanations.form_event(event) == says


def test_a_kind_without_words_is_a_fault_of_ours():
    with pytest.raises(ValueError, match="No words for dance"):
        explanations.form_event(FormEvent(1, "dance"))


def spots(*named):
    return tuple(Spot(part, F(place), ghost) for part, place, ghost in named)


def option(**fields):
    return Option(1, F(7, 2), "kick", "RF", "normal", (4, 8), 8, **fields)


def test_every_way_in_which_bars_lie_is_said():
    said = {p: explanations.option_pattern(option(pattern=p)) for p in PATTERNS}
    assert len(set(said.values())) == len(PATTERNS)
    assert said["only"] == "only in bar 4" and said["few"] == "in bars 4, 8"


def test_what_an_option_comes_with_and_instead_of():
    alone = option()
    both = option(beside=spots(("snare", "9/4", True)), instead=spots(("hat_closed", "3", False)))
    assert explanations.option_company(alone, FOUR) == ""
    assert (
        explanations.option_company(both, FOUR)
        == "with ghost snare on 3e, instead of hat closed on 4"
    )


def test_phrases_say_what_they_go_with():
    assert explanations.phrase(Phrase(1, (1,), 0.5)) == ""
    told = Phrase(1, (1, 5), 0.5, followed_by=1, of_four=4, tone=9, louder=-2.6)
    assert explanations.phrase(told) == (
        "mostly followed by phrase B; in bar 4 of the four; where the band is on A; "
        "where the song is softer (-3 dB)"
    )


def groove(kind, **fields):
    return Groove(
        "s1", 1, 8, fields.pop("length", 1), 0.75, (), fields.pop("options", ()), kind, **fields
    )


@pytest.mark.parametrize(
    ("of", "says"),
    [
        (groove("silent"), "The drums are silent."),
        (groove("fixed", length=2), "Fixed: two bars, the same all through."),
        (groove("options"), "A core of one bar, with single departures."),
        (groove("options", options=(option(),)), "A core of one bar with 1 option."),
        (groove("skeleton"), "Ad lib round a skeleton of 0 strokes."),
        (groove("through"), "Through-composed: hardly a bar comes back."),
        (
            groove("vocabulary", feet_are_free=True, feet=(Phrase(1, (1,), 1.0),)),
            "No core: phrases are woven. The feet choose for themselves among 1 patterns.",
        ),
    ],
)
def test_every_kind_of_groove(of, says):
    assert explanations.groove(of) == says


def test_strokes_that_come_once_are_named_four_at_most():
    many = spots(*(("kick", f"{k}", False) for k in range(4)), ("snare", "1/2", False))
    told = explanations.once(groove("fixed", once=((3, many[:1]), (7, many))), FOUR)
    assert told == ["bar 3: kick on 1", "bar 7: kick on 1, kick on 2, kick on 3, kick on 4 ..."]


GONE = Difference("removed", SNARE, None)


@pytest.mark.parametrize(
    ("relation", "says", "rest"),
    [
        (None, "", []),
        (Relation("same", of="Verse"), "The same as in Verse", []),
        (Relation("same", bar=5), "The same as in bar 5", []),
        (Relation("stripped", of="Verse"), "Verse stripped down", []),
        (Relation("moved", F(-1, 2), of="Verse"), "Verse moved an 8th earlier", []),
        (Relation("moved", F(5, 4), of="Verse"), "Verse moved 5/4 beats later", []),
        (
            Relation(
                "surface",
                surface=("hat", "ride"),
                fineness=("8ths", "quarters"),
                of="Verse",
                rest=((1, (GONE,)),),
            ),
            "As in Verse, but on the ride instead of the hat, in quarters instead of 8ths; and",
            ["snare on 2 is gone"],
        ),
        (
            Relation("like", of="Verse", rest=((2, (GONE,)),), unit=2),
            "As in Verse, but",
            ["bar 2: snare on 2 is gone"],
        ),
    ],
)
def test_every_way_of_being_related(relation, says, rest):
    assert explanations.relation(relation) == says and explanations.related(relation, FOUR) == rest


def test_later_bars_of_a_unit_are_told_against_its_first():
    told = explanations.groove_differences(
        groove("fixed", length=3, differences=((GONE,), ())), FOUR
    )
    assert told == ["The second bar: snare on 2 is gone", "Bar 3 is the first again"]


def fill(entry, resolution):
    return Fill(
        Span(1, F(2), 1, F(4)), (), F(2), (), (), (), False, 0, (), (), entry, resolution, 3.0
    )


@pytest.mark.parametrize(
    ("entry", "resolution", "starts", "resolves"),
    [
        (None, Resolution("silence", F(0)), "", "into silence"),
        (Entry(F(0)), Resolution("open", F(0)), "with the bar", "open: nothing on 1"),
        (Entry(F(2)), Resolution("crash", F(0), "china"), "on 3", "china on 1"),
        (
            Entry(F(5, 2), F(1)),
            Resolution("crash", F(0), "crash", True),
            "on 3&, after the backbeat on 2",
            "crash and kick on 1",
        ),
        (Entry(F(2)), Resolution("time", F(0), "ride"), "on 3", "back to the ride on 1, no crash"),
        (Entry(F(2)), Resolution("plain", F(3), "kick"), "on 3", "kick on 4, no crash"),
    ],
)
def test_where_a_fill_comes_from_and_leads(entry, resolution, starts, resolves):
    own = fill(entry, resolution)
    assert (explanations.fill_entry(own, FOUR), explanations.fill_resolution(own, FOUR)) == (
        starts,
        resolves,
    )


def doubt(kind, **fields):
    return Doubt(
        "k", kind, "snare", F(9, 4), "LH", fields.pop("bars", (2, 4)), ("a",), 1.0, **fields
    )


@pytest.mark.parametrize(
    ("of", "says"),
    [
        (
            doubt("unsure", sure=0.42, ghost=True),
            "Ghost snare on 3e in 2 bars of the song: 42 % sure",
        ),
        (
            doubt("unsure", bars=(2,), sure=0.5, section="Verse", having=3),
            "Snare on 3e in bar 2 of Verse: 50 % sure; 3 other bars have it surely",
        ),
        (doubt("marked", bars=(2,)), "Snare on 3e in bar 2, marked as doubtful"),
        (
            doubt("marked", bars=(2,), reason="the horns"),
            "Snare on 3e in bar 2, marked as doubtful (the horns)",
        ),
        (
            doubt("missing", bars=(2,), having=7, of=8, section="Verse"),
            "No snare on 3e in bar 2; 7 of 8 bars of Verse have it",
        ),
        (
            doubt("missing", having=6, of=8),
            "No snare on 3e in bars 2, 4; 6 of 8 bars of the song have it",
        ),
        (
            doubt("unsure", sure=0.5, takes=(("live", 1, 2), ("demo", 0, 1))),
            "Snare on 3e in 2 bars of the song: 50 % sure; live has it in 1 of 2; demo has it in 0 of 1",
        ),
    ],
)
def test_every_doubt_asks_in_words(of, says):
    assert explanations.doubt(of, SCORE) == says


def test_decisions_of_many_bars_name_the_first_eight():
    of = Decision("a", tuple(range(1, 11)), F(0), "kick", "assumed", "", "", "")
    long = count.read("kick: " + " | ".join(["1"] * 12))
    assert explanations.decision(of, long) == "Bars 1, 2, 3, 4, 5, 6, 7, 8 ..., kick on 1: assumed"


def test_places_in_dotted_beats_are_named_as_they_are_counted():
    triplet = Difference("added", None, SNARE.changed(place=F(4, 3)))
    assert explanations.difference(triplet, TWELVE) == "snare on 2t is new"
