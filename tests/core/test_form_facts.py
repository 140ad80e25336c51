"""What is said of the form: surface, twins, odd lengths, what never happens, events, fades."""

import json
from dataclasses import replace

import pytest

from orchesis import form
from orchesis.explanations import summary
from orchesis.fills import fill_bars
from orchesis.form import form_events, pulse_agreement, section_names
from orchesis.formats import count
from orchesis.score import Measured, Score, Section
from tests.core.test_edits import timed
from tests.edits import apply
from tests.songs import ROCK

SONG = """
title: Map
tempo: 120
== Intro
ride: quarters | quarters
kick: 1 | 1
== A
hat:   8ths | 8ths | 8ths | 8ths | 8ths | 8ths | 8ths | 1 1&
snare: 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 3 3& 4 4&
tom_floor: - | - | - | - | - | - | - | 4& 4a
kick:  1 3 | 1 3 | 1 3 | 1 3 | 1 3 | 1 3 | 1 3 | 1
== B
crash: 1.> | - | - | - | 1.> | - | - | -
ride:  2 3 4 | quarters | quarters | quarters | 2 3 4 | quarters | quarters | quarters
snare: 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4
kick:  1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3
== A2
hat:   8ths | 8ths | 8ths | 8ths | 8ths | 8ths | 8ths 4&.o
snare: 2 4 | 2 4 | 2 4 | 3 | 2 4 | 2 4 | 2 4
kick:  1 3 | 1 3 | 1 3 | 1& 2& 4& | 1 3 | 1 3 | 1 3
== Hush
cowbell: - | -
== B2
crash: 1.> | - | - | - | 1.> | - | - | -
ride:  2 3 4 | quarters | quarters | quarters | 2 3 4 | quarters | quarters | quarters
snare: 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4 | 2 4
kick:  1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3 | 1 1& 3
"""


@pytest.fixture(scope="module")
def score() -> Score:
    made = count.read(SONG)
    ids = {s.name: s.id for s in made.sections}
    made = apply(made, "link_section", {"id": ids["A2"], "like": ids["A"]})[0]
    return apply(made, "link_section", {"id": ids["B2"], "like": ids["B"]})[0]


def form_of(score, levels=()):
    """What is said of the form, as it is sent."""
    fills = {bar for bar, _ in fill_bars(score.played())}
    return json.loads(json.dumps(summary.form_of(score, fills, levels)))


@pytest.fixture(scope="module")
def facts(score):
    made = form_of(score)
    return {s.name: f for s, f in zip(score.sections, made["sections"], strict=True)} | {
        "events": made["events"]
    }


def says(facts, kind):
    return [(e["bar"], e["says"]) for e in facts["events"] if e["kind"] == kind]


def test_each_section_tells_its_surface(facts):
    assert [facts[n]["surface"] for n in ("Intro", "A", "B", "A2", "Hush")] == [
        "ride",
        "hat",
        "ride",
        "hat",
        "",
    ]


def test_a_twin_tells_the_bars_that_differ(facts, score):
    assert facts["A2"]["twin"] == score.sections[1].id
    assert facts["A2"]["unlike"] == [4]
    assert facts["B2"]["unlike"] == [] and facts["A"]["twin"] is None


def test_an_odd_length_is_flagged(facts):
    assert facts["A2"]["odd"] and not facts["A"]["odd"] and not facts["B"]["odd"]


def test_what_never_happens_is_told(facts):
    assert "no crash" in facts["A"]["never"] and "the hat stays shut" in facts["A"]["never"]
    assert "no crash" not in facts["B"]["never"]
    assert "the hat stays shut" not in facts["A2"]["never"]
    assert "no backbeat" in facts["Intro"]["never"]
    assert facts["Hush"]["never"] == []


def test_fills_crashes_and_rests_are_listed_by_bar(facts):
    assert facts["A"]["fills"] == [10]
    assert facts["B"]["crashes"] == [11, 15]
    assert facts["Hush"]["rests"] == [26, 27]


def test_changes_of_surface_say_how_they_are_announced(facts):
    assert (11, "hat to ride, announced by a fill and a crash") in says(facts, "surface")
    assert (3, "ride to hat, without announcement") in says(facts, "surface")


def test_layers_that_enter_and_rests_are_events(facts):
    assert (3, "snare enters") in says(facts, "enters")
    assert (26, "2 bars of rest") in says(facts, "rest")


def test_names_are_proposed_as_drummers_say_them(score):
    assert section_names.names(score) == [
        "Intro",
        "Verse 1",
        "Chorus 1",
        "Verse 2",
        "Breakdown",
        "Chorus 2",
    ]


def named(*sections):
    """Names of a song of such sections: (label, bars, kick strokes a bar)."""
    first, made, lanes = 1, [], []
    for n, (label, bars, strokes) in enumerate(sections):
        made.append(Section(f"sec{n}", label, label, first, bars))
        lanes += [" ".join(str(k + 1) for k in range(strokes)) or "-"] * bars
        first += bars
    score = count.read("meter: 4/4\ntempo: 100\n== Song\nkick: " + " | ".join(lanes))
    return section_names.names(replace(score, sections=tuple(made)))


def test_where_the_form_does_not_speak_the_letters_do():
    assert named(("A", 8, 2), ("B", 8, 3), ("C", 4, 2), ("D", 8, 4)) == ["Intro", "B", "C", "Outro"]
    eleven = [("A", 4, 2), ("B", 4, 3)] * 7
    assert not {n.split()[0] for n in named(*eleven)} & {"Verse", "Chorus", "Pre-chorus"}
    assert named(*eleven)[:4] == ["A", "B", "A 2", "B 2"]


def test_stretches_without_drums_say_so_and_are_no_verse():
    found = named(("A", 8, 0), ("B", 8, 2), ("C", 8, 4), ("A", 8, 0), ("B", 8, 2), ("C", 8, 4))
    assert found == ["Intro", "Verse 1", "Chorus 1", "A, no drums", "Verse 2", "Chorus 2"]


def test_two_that_stand_alone_in_the_middle_are_no_bridges():
    verse, chorus = ("A", 8, 2), ("B", 8, 4)
    once = named(verse, chorus, ("C", 8, 3), verse, chorus)
    assert once == ["Verse 1", "Chorus 1", "Bridge", "Verse 2", "Chorus 2"]
    twice = named(verse, chorus, ("C", 8, 3), verse, ("D", 8, 3), chorus)
    assert [twice[2], twice[4]] == ["C", "D"]


def test_a_meter_change_is_an_event(score):
    short = apply(score, "set_meter", {"meter": "2/4", "bar": 12, "last": 12})[0]
    assert [e["says"] for e in form_of(short)["events"] if e["kind"] == "meter"] == [
        "2/4",
        "4/4",
    ]


def test_a_fade_is_told_from_an_end():
    flat = [(-6.0, -8.0)] * 40
    fade = flat + [(-6.0 - 1.5 * k, -8.0) for k in range(14)]
    assert form_events.fade_out(fade) == pytest.approx(39, abs=3)
    assert form_events.fade_out(flat) is None
    assert form_events.fade_out([*flat, (-40.0, -60.0), (-60.0, -80.0)]) is None
    assert form_events.fade_out([]) is None


def test_a_section_that_grows_evenly_louder_builds():
    score = count.read(ROCK)  # two sections of eight bars, 2.4 s each
    steady = [(-6.0, -8.0)] * 20
    grows = steady + [(-8.0 + 0.4 * k, -9.0) for k in range(20)]
    verse, chorus = score.sections
    assert form_events.build(score, verse, grows) is None
    assert 5 < form_events.build(score, chorus, grows) < 9
    told = [e for e in form_of(score, grows)["events"] if e["kind"] == "build"]
    assert [e["bar"] for e in told] == [9] and "up to bar 16" in told[0]["says"]
    assert form_events.build(score, verse, [(-6, -6)] * 3) is None


def test_confirmed_bars_are_told_where_the_sound_disagrees():
    heard = timed(count.read(ROCK))
    sure = apply(heard, "confirm_bars", {"bar": 3, "last": 4, "confirmed": True})[0]
    assert pulse_agreement.disagreeing(sure) == []
    late = apply(sure, "shift_half", {"later": True})[0]
    assert pulse_agreement.disagreeing(late) == sorted(late.confirmed) != []
    told = [e for e in form_of(late)["events"] if e["kind"] == "disagrees"]
    assert [e["bar"] for e in told] == sorted(late.confirmed)


def test_the_level_of_a_section_is_its_mean_in_decibels(score):
    loud = [(-3.0, -5.0)] * 200
    assert form_of(score, loud)["sections"][0]["level"] == pytest.approx(-3.0)
    assert form_of(score)["sections"][0]["level"] is None


def test_the_pulse_is_sure_where_strokes_lie_on_its_beats(score):
    timed = score.with_strokes(
        s.changed(measured=Measured(score.seconds(s.bar, s.place))) for s in score.strokes.values()
    )
    sure = pulse_agreement.pulse_confidence(timed)
    assert len(sure) == score.bar_count
    assert sure[4] > 0.85 and sure[25] == 0.5
    off = timed.with_strokes(
        s.changed(measured=Measured(s.time + (0.09 if s.bar == 5 else 0)))
        for s in timed.strokes.values()
    )
    assert pulse_agreement.pulse_confidence(off)[4] < 0.5


def test_likeness_of_bars_leaves_ghosts_out(score):
    bars = score.by_bar()
    assert form.alike(bars[3], bars[4]) == 1.0
    ghosted = [
        *bars[4],
        bars[4][0].changed(id="g", part="snare", place=bars[4][0].place + 1, dynamic="ghost"),
    ]
    assert form.alike(bars[3], ghosted) == 1.0
    assert form.alike(bars[3], bars[12]) < 0.6


def test_a_long_opening_below_the_part_that_returns_is_its_verse():
    eight = " | ".join(["8ths"] * 8)
    text = f"""
== One
hat: {eight}
snare: {" | ".join(["2 4"] * 8)}
== Two 1
crash: {" | ".join(["1.>", "-"] * 4)}
ride: {eight}
snare: {" | ".join(["2 4"] * 8)}
== Three
tom_floor: {eight}
== Two 2
crash: {" | ".join(["1.>", "-"] * 4)}
ride: {eight}
snare: {" | ".join(["2 4"] * 8)}
"""
    assert section_names.names(count.read(text)) == ["Verse", "Chorus 1", "Bridge", "Chorus 2"]


def test_a_rename_goes_to_all_sections_of_the_same_music():
    score = count.read(
        "tempo: 100\n== Verse 1\nkick: 1\n== Chorus 1\nkick: 2\n== Verse 2\nkick: 1\n== Verse 3\nkick: 1"
    )
    labels = ("A", "B", "A", "B")
    score = replace(
        score,
        sections=tuple(replace(s, label=x) for s, x in zip(score.sections, labels, strict=True)),
    )

    def named(key, name):
        new, _, _ = apply(score, "rename_section", {"id": score.sections[key].id, "name": name})
        return [s.name for s in new.sections]

    assert named(0, "Hook") == ["Hook 1", "Chorus 1", "Hook 2", "Verse 3"]
    assert named(2, "Verse 9") == ["Verse 1", "Chorus 1", "Verse 2", "Verse 3"]
    assert named(0, "Chorus") == ["Chorus 2", "Chorus 1", "Chorus 3", "Verse 3"]
    assert named(1, "Bridge") == ["Verse 1", "Bridge", "Verse 2", "Verse 3"]
