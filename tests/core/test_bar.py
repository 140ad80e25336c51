"""What follows from a bar is reckoned once a bar, and what is kept of it does not grow."""

from __future__ import annotations

from dataclasses import replace

import pytest

from orchesis.explanations import summary
from orchesis.fills import fill_bars
from orchesis.formats import count
from orchesis.score import PulseMap, Score
from orchesis.score.bar import Bar, of_bar, of_bars
from tests.edits import apply
from tests.songs import ROCK

SCORE = count.read(ROCK)


def reckoner(of):
    """A function that is kept, and the list of what it was really asked."""
    asked = []

    @of
    def size(what, more=0):
        asked.append((what, more))
        return len(what) + more

    return size, asked


def test_a_bar_is_reckoned_once_and_another_argument_takes_its_place():
    size, asked = reckoner(of_bar)
    bar = SCORE.strokes_of(3)
    assert [size(bar), size(bar), size(bar, 2), size(bar, 2)] == [len(bar)] * 2 + [len(bar) + 2] * 2
    assert len(asked) == 2 and size(bar) == len(bar) and len(asked) == 3
    assert size(list(bar)) == len(bar) and len(asked) == 4  # no bar: reckoned anew


def test_some_bars_are_reckoned_once_as_long_as_they_are_the_very_same():
    size, asked = reckoner(of_bars)
    one, two = SCORE.strokes_of(1), SCORE.strokes_of(2)
    assert size((one, two)) == size((one, two)) == 2 and len(asked) == 1
    assert size((one, Bar(two))) == 2 and len(asked) == 2  # equal, but another one
    assert size((one,)) == 1 and size((one, two), 1) == 3 and len(asked) == 4
    assert size(()) == 0 and size((Bar(), one)) == size((Bar(), two)) == 2


def test_an_edit_leaves_the_bars_it_does_not_touch():
    stroke = SCORE.strokes_of(5)[0]
    new = apply(SCORE, "set_dynamic", {"id": stroke.id, "dynamic": "ghost"})[0]
    same = {b for b in range(1, 17) if new.strokes_of(b) is SCORE.strokes_of(b)}
    assert same == set(range(1, 17)) - {5}
    moved = apply(SCORE, "move_stroke", {"id": stroke.id, "bar": 6, "place": "15/4"})[0]
    same = {b for b in range(1, 17) if moved.strokes_of(b) is SCORE.strokes_of(b)}
    assert same == set(range(1, 17)) - {5, 6} and stroke.id in {s.id for s in moved.strokes_of(6)}
    out = apply(SCORE, "set_doubt", {"id": stroke.id, "doubt": "left_out"})[0]
    assert stroke.id not in {s.id for s in out.played().strokes_of(5)}
    assert out.played().strokes_of(4) is SCORE.strokes_of(4)


def facts(score):
    return summary.form_of(score, {bar for bar, _ in fill_bars(score.played())})


@pytest.mark.parametrize("bar", [1, 5, 8, 9, 16])
def test_what_is_kept_and_what_is_reckoned_anew_are_the_same(bar):
    facts(SCORE)  # kept with its bars from here on
    score = SCORE
    for stroke in SCORE.strokes_of(bar):
        score = (
            apply(score, "set_part", {"id": stroke.id, "part": "tom_floor"})[0]
            if (stroke.part == "snare")
            else apply(score, "remove_stroke", {"id": stroke.id})[0]
        )
    assert facts(score) == facts(Score.from_json(score.to_json()))
    assert fill_bars(score) == fill_bars(Score.from_json(score.to_json()))


def test_what_a_bar_keeps_does_not_grow_with_every_pulse():
    facts(SCORE)
    before = [len(SCORE.strokes_of(b).known) for b in range(1, 17)]
    for n in range(20):
        pulse = PulseMap.of([t * (1 + n / 100) for t in SCORE.pulse.times])
        facts(replace(SCORE, pulse=pulse).sharing_bars(SCORE, set()))
    assert [len(SCORE.strokes_of(b).known) for b in range(1, 17)] == before
