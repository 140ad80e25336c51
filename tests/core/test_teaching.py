"""Teaching: stages of written lessons, the ladder, and a simulated player judged back."""

from __future__ import annotations

import json
from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from materials.cases import stages as lessons
from orchesis.cli import main
from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.teaching import ladder, stages
from orchesis.teaching.judging import judge
from orchesis.teaching.ladder import JUDGED, Ladder, Rung
from orchesis.teaching.simulated import Habits, from_midi, perform, to_midi

GROOVE = with_limbs(
    count.read(
        "tempo: 92\n== A\nhat: 8ths | =\nsnare: 2 (2a) 4 | 2 4 (4a)\nkick: 1 2& 3 | 1 3 3&\n"
    )
)


def test_written_lessons_are_told_as_a_teacher_would():
    assert lessons.share_right() >= 0.9


@pytest.mark.parametrize("school", stages.SCHOOLS)
def test_each_school_ends_with_the_whole_part(school):
    made = stages.plan(GROOVE, [1, 2], school)
    assert made[-1].title == "All of it"
    assert len(made[-1].score.strokes) == len(GROOVE.strokes)
    for a, b in pairwise(made):
        assert a.score.strokes != b.score.strokes
    assert all(s.says and s.ladder.start < s.ladder.goal for s in made)


def plan_titles(text, school, bars=(1,)):
    score = with_limbs(count.read(f"tempo: 96\n== A\n{text}\n"))
    return [s.title for s in stages.plan(score, list(bars), school)]


def test_orders_that_teachers_know():
    ghosted = "hat: 8ths 4&.o\nsnare: 2 (2a) 4.f\nkick: 1 2& 3"
    told = plan_titles(ghosted, "without")
    assert told[:2] == ["Without the ornaments", "With the ornaments"]
    assert "Without the ghosts" in told and "Without the openings" in told
    filled = "snare: 3 3e 3& 3a\ntom_high: 4 4e 4& 4a\nkick: 1 3 4"
    assert plan_titles(filled, "fill")[:3] == [
        "At half its density",
        "The feet alone",
        "The hands alone",
    ]
    crashed = "hat: 8ths | 8ths -1\ncrash: - | 1\nsnare: 2 4 | 2 4\nkick: 1 3 | 1 3"
    told = plan_titles(crashed, "crash", (1, 2))
    assert told[0].startswith("The crash") and told[1] == "With the beat that leads into it"
    varied = "hat: 8ths | = | =\nsnare: 2 4 | = | =\nkick: 1 3 | 1 3 4a | 1 3 3&"
    assert plan_titles(varied, "core", (1, 2, 3))[:2] == [
        "What the bars have in common",
        "With the kick on 4a of bar 2",
    ]
    assert plan_titles(varied, "variations", (1, 2, 3))[:2] == ["Bar 1 alone", "Bar 2 alone"]
    assert "The hands of bar 1 over the feet of bar 2" in plan_titles(
        varied, "transform", (1, 2, 3)
    )


def test_what_comes_back_is_said_first():
    score = with_limbs(count.read("hat: 8ths | =\nsnare: 2 (2e) 2a 4 (4e) 4a | =\nkick: 1 3 | =\n"))
    told = stages.recurring(score, [1, 2])
    assert "Bar 2 is bar 1 again: nothing new to learn." in told
    assert "The figure of 2 comes back on 4 of bar 1." in told


def test_a_school_that_is_none_and_an_empty_bar_are_told():
    with pytest.raises(BadScore, match="no school"):
        stages.plan(GROOVE, [1], "mountain")
    with pytest.raises(BadScore, match="nothing to learn"):
        stages.plan(with_limbs(count.read("kick: 1 | -")), [2])


@given(
    st.floats(40, 200),
    st.floats(1, 10),
    st.floats(1, 40),
    st.lists(st.sampled_from([*JUDGED, "away"]), max_size=60),
)
def test_the_ladder_never_leaves_its_ends(start, step, more, loops):
    own = Ladder(start, step, start + more)
    rungs = own.rungs()
    assert rungs[0] == start and rungs[-1] == own.goal and rungs == sorted(rungs)
    rung = Rung(start)
    for how in loops:
        was = rung
        rung = own.left_alone(rung, 5) if how == "away" else own.after(rung, how)
        assert rung.tempo in rungs
        assert 0 <= rung.clean < own.run
        assert rung.is_learned or not was.is_learned
        assert rung.tempo >= was.tempo if how in ("relaxed", "tense") else rung.tempo <= was.tempo


def test_a_ladder_is_climbed_by_relaxed_loops_alone():
    own = Ladder(60, 5, 70)
    rung = Rung(60)
    for _ in range(9):
        assert not rung.is_learned
        rung = own.after(rung, "relaxed")
    assert rung == Rung(70, 0, True)
    assert own.left_alone(rung, 9) == Rung(60, 0, True)
    assert own.left_alone(rung, 3) == rung


def test_habits_are_measured_back():
    habits = Habits(late={"RF": 14.0, "RH": -6.0}, ghosts=4.0, spread={"LH": 8.0})
    told = judge(GROOVE, perform(GROOVE, habits, loops=16, seed=3))
    assert told.limbs["RF"].offset_ms == pytest.approx(14, abs=2)
    assert told.limbs["RH"].offset_ms == pytest.approx(-6, abs=2)
    assert told.limbs["LH"].spread_ms == pytest.approx(8, abs=2)
    assert told.ghosts_db == pytest.approx(4, abs=2)
    assert abs(told.rush_percent) < 0.2


FAULTS = (
    [
        (Habits(late={limb: ms}), [limb, "late" if ms > 0 else "early"])
        for limb in ("RH", "LH", "RF")
        for ms in (25.0, -25.0)
    ]
    + [(Habits(missed={limb: 0.2}), [limb, "misses"]) for limb in ("RH", "LH", "RF")]
    + [(Habits(extra={limb: 0.25}), [limb, "not written"]) for limb in ("LH", "RF")]
    + [(Habits(spread={limb: 30.0}), [limb, "uneven"]) for limb in ("RH", "LH", "RF")]
    + [
        (Habits(ghosts=8.0), ["ghosts", "too loud"]),
        (Habits(rush=2.0), ["rush"]),
        (Habits(rush=-2.0), ["drag"]),
        (Habits(), ["That was it"]),
    ]
)
NAMES = {"RH": "right hand", "LH": "left hand", "RF": "right foot"}


def test_one_known_fault_gets_its_advice():
    right = 0
    for n, (habits, words) in enumerate(FAULTS * 2):
        told = judge(GROOVE, perform(GROOVE, habits, loops=8, seed=n)).advice
        right += all(NAMES.get(w, w) in told for w in words)
    assert right >= 0.9 * 2 * len(FAULTS)


def test_the_shell_makes_stages_and_judges(tmp_path):
    source, out = tmp_path / "song.count", tmp_path / "out.json"
    source.write_text("tempo: 92\nhat: 8ths\nsnare: 2 4\nkick: 1 2a 3\n")
    assert main(["stages", str(source), "--json", str(out)]) == 0
    made = json.loads(out.read_text())["stages"]
    assert {"title", "score", "tempo"} <= set(made[0])
    assert count.read(f"tempo: 90\n{made[-1]['score']}").bar_count == 1
    midi = tmp_path / "play.mid"
    score = with_limbs(count.read(source.read_text()))
    midi.write_bytes(to_midi(perform(score, Habits(late={"RF": 30.0}))))
    assert main(["judge", str(source), str(midi), "--json", str(out)]) == 0
    told = json.loads(out.read_text())
    assert {"offset_ms", "spread_ms", "missed", "extra", "level_db"} <= set(told["limbs"]["RF"])
    assert "right foot" in told["advice"]
    assert len(from_midi(midi.read_bytes())) > 40
    midi.write_bytes(b"nothing")
    assert main(["judge", str(source), str(midi), "--json", str(out)]) == 2


OPTIONS = with_limbs(
    count.read(
        "hat: 8ths | = | = | =\nsnare: 2 4 | = | = | =\nkick: 1 3 | 1 3 4& | 1 2& 3 | 1 2& 3 4&\n"
    )
)


def _kicks(stage):
    return [(s.bar, s.place) for s in stage.score.ordered() if s.part == "kick"]


def test_options_are_drawn_by_lot_and_always_alike():
    made = stages.plan(OPTIONS, range(1, 5), "chance")
    assert made[0].title == "What the bars have in common" and made[-1].title == "All of it"
    draws = [s for s in made if s.title.startswith("Draw")]
    assert 2 <= len(draws) <= 4 and all("this time: with the kick on" in s.title for s in draws)
    assert all(len(_kicks(made[0])) < len(_kicks(s)) for s in draws)
    assert [s.title for s in stages.plan(OPTIONS, range(1, 5), "chance")] == [s.title for s in made]


def test_options_rise_and_fall_with_the_energy():
    made = {s.title.split(":")[0]: _kicks(s) for s in stages.plan(OPTIONS, range(1, 5), "energy")}
    added = {
        name: [sum(k[0] == bar for k in kicks) - 2 for bar in range(1, 5)]
        for name, kicks in made.items()
    }
    assert added["Rising"][0] == 0 and added["Rising"][3] == 2
    assert added["Falling"][3] == 0 and sum(added["Falling"]) > 0


def test_a_section_is_played_as_it_is():
    assert [s.title for s in stages.plan(OPTIONS, range(2, 4), "whole")] == ["All of it"]


@pytest.mark.parametrize(
    ("climb", "left"),
    [
        ([(4, 80), (3, 84), (2, 88), (1, 92), (0, 96)], 1.0),
        ([(4, 80), (3, 84), (2, 60), (1, 92), (0, 96)], 1.0),
        ([(9, 80), (9, 90), (0, 96)], None),
        ([(3, 90), (2, 88), (1, 88), (0, 85)], None),
        ([(2, 98), (1, 99), (0, 101)], 0.0),
    ],
)
def test_the_days_that_are_left_follow_ones_pace(climb, left):
    told = ladder.days_left(climb, 100)
    assert told == left if left is None else told == pytest.approx(left, abs=0.35)


def test_a_fill_is_turned_round_and_laid_over_triplets():
    bar = with_limbs(count.read("snare: 1 1e 1& 1a 2 2e 2& 2a\ntom_high: 3 3e 3& 3a"))
    made = {s.title: s.score.ordered() for s in stages.plan(bar, [1], "fill")}
    [turned] = [own for title, own in made.items() if title.startswith("Turned round")]
    usual = {s.id: s.limb for s in made["The fill"]}
    assert all({s.limb, usual[s.id]} == {"RH", "LH"} for s in turned)
    triplets = [s.place for s in made["The same strokes as triplets"]]
    assert triplets == [Fraction(k, 3) for k in range(12)]


@pytest.mark.parametrize(
    ("text", "cell"),
    [
        ("snare: 1 2 3\ntom_high: 1e 1& 2e 2& 3e 3&", 3),
        ("snare: 1 1e 1a 2 2e 2a 3 3e 3a", 3),
        ("snare: 16ths", 0),
        ("snare: 1 1& 1a\ntom_floor: 2 2t 3", 0),
    ],
)
def test_a_fill_begins_with_its_cell(text, cell):
    titles = plan_titles(text, "fill")
    assert (titles[0] == f"The cell alone: {cell} strokes") == bool(cell)


def test_a_fill_is_played_on_one_drum_before_it_is_orchestrated():
    titles = plan_titles("snare: 1 1e 1& 1a\ntom_high: 2 2e 2& 2a\nkick: 1", "fill")
    assert titles.index("On the snare alone") < titles.index("The fill")


@pytest.mark.parametrize(
    ("text", "titles", "count_of"),
    [
        ("snare: 8ths 1.>", ["The accent on 1", "The accent on 1&", "The accent on 2"], 9),
        # with the hat open on 4& it is all of it
        ("hat: 8ths 4&.o\nsnare: 2 4\nkick: 1 3", ["The hat open on 1", "The hat open on 1&"], 8),
    ],
)
def test_an_accent_or_an_opening_goes_round_the_bar(text, titles, count_of):
    made = stages.plan(with_limbs(count.read(text)), [1], "moved")
    assert [s.title for s in made][: len(titles)] == titles
    assert len(made) == count_of
    for stage in made[:-1]:
        marked = [s for s in stage.score.ordered() if s.part == "hat_open" or s.dynamic == "accent"]
        assert len(marked) == 1
