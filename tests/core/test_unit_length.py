"""How long the unit of a groove is, and where another one begins, bar by bar."""

from __future__ import annotations

import random
from fractions import Fraction

import pytest

from orchesis.formats import count
from orchesis.grooves.length import bars_of, key_of, marks_of, parts_of, phased, unit_of
from orchesis.score.fill import Span

HAT = "hat: 8ths"


def song(*kicks: str, snare: str = "2 4", more: str = ""):
    lanes = f"hat: {' | '.join(['8ths'] * len(kicks))}\nkick: {' | '.join(kicks)}\n"
    lanes += f"snare: {' | '.join([snare] * len(kicks))}\n{more}"
    return count.read(f"tempo: 100\n== A\n{lanes}")


def placed(score, spans=()):
    return list(enumerate(bars_of(score, spans, 1, score.bar_count)))


def length(*kicks: str, **more) -> int:
    return unit_of(placed(song(*kicks, **more)))[0]


A, B, C, D = "1 3", "1 2& 3", "1 3&", "1 2 4&"


@pytest.mark.parametrize(
    ("row", "bars"),
    [
        ([A] * 8, 1),
        ([A, B] * 4, 2),
        ([A, B, A, C] * 2, 4),
        ([A, A, A, B] * 3, 4),
        ([A, B, C, D] * 2, 4),
        ([A, A, B, B] * 3, 4),
        ([A, B] * 8, 2),
        ([A] * 3, 1),
    ],
)
def test_the_unit_is_as_long_as_what_comes_back(row, bars):
    assert length(*row) == bars


def test_a_longer_unit_must_come_round_twice():
    assert length(A, B) == 1
    assert length(A, B, A, C) in (1, 2)


@pytest.mark.parametrize("seed", [0, 1, 2, 4, 5, 6])
def test_options_by_chance_make_no_longer_unit(seed):
    rng = random.Random(seed)
    assert length(*(rng.choice([A, B]) for _ in range(12))) == 1


@pytest.mark.parametrize("at", [0, 3, 6])
def test_one_bar_that_strays_does_not_hide_a_unit_of_two(at):
    row = [A, B] * 6
    row[at] = "1 3 4a"
    assert length(*row) == 2


def test_only_what_differs_is_told_bar_by_bar():
    _, keys = unit_of(placed(song(*[A, B] * 4)))
    assert {(k.place, k.part) for k in keys} == {(Fraction(3, 2), "kick")}


def test_a_longer_unit_costs_what_it_is_worth():
    plain, varied = placed(song(*[A] * 8)), placed(song(*[A, B] * 4))
    assert phased(plain, 2)[0] >= phased(plain, 1)[0]
    assert phased(varied, 2)[0] < phased(varied, 1)[0]


def test_accents_alone_may_make_the_unit():
    score = count.read(
        f"tempo: 100\n== A\n{HAT}{' | 8ths' * 7}\nkick: 1 3{' | 1 3' * 7}\n"
        f"snare: {' | '.join(['2 4', '2 4.>'] * 4)}\n"
    )
    assert unit_of(placed(score))[0] == 2


def test_ghosts_and_backbeats_are_other_strokes_of_the_same_drum():
    score = song(A, snare="2 (2a) 4.>")
    keys = {(key_of(s).place, key_of(s).soft) for s in score.ordered() if s.part == "snare"}
    assert keys == {(Fraction(1), False), (Fraction(7, 4), True), (Fraction(3), False)}
    loud = next(s for s in score.ordered() if s.dynamic == "accent")
    assert marks_of(loud) == ("accent",)
    assert all(marks_of(s) == () for s in score.ordered() if s.dynamic != "accent")


def test_a_crash_on_one_is_no_stroke_of_the_groove_and_hides_the_time_there():
    score = song(A, A, A, A, more="crash: 1 | - | - | -\n")
    first = bars_of(score, (), 1, 4)[0]
    assert not any(k.part == "crash" for k in first.strokes)
    hat = next(k for k in first.strokes if k.part == "hat_closed" and k.place == 0)
    assert first.tells(hat)  # it was played all the same
    other = key_of(next(s for s in count.read("tempo: 90\n== A\nride: 1\n").ordered()))
    assert not first.tells(other)


def test_a_bar_that_rides_the_crash_keeps_it():
    score = count.read(
        "tempo: 100\n== A\ncrash: quarters | quarters\nkick: 1 3 | 1 3\nsnare: 2 4 | 2 4\n"
    )
    for bar in bars_of(score, (), 1, 2):
        assert sum(k.part == "crash" for k in bar.strokes) == 4


def test_a_fill_tells_nothing_of_the_groove_from_where_it_begins():
    score = song(A, A, A, "1 3 3& 4")
    span = Span(4, Fraction(2), 4, Fraction(4))
    told = bars_of(score, [span], 1, 4)[-1]
    assert told.until == 2 and all(k.place < 2 for k in told.strokes)
    late = key_of(next(s for s in score.ordered() if s.place == 3))
    assert not told.tells(late)


@pytest.mark.parametrize(("first", "second"), [(4, 4), (4, 8), (8, 4), (2, 6)])
def test_a_second_groove_is_cut_off_where_it_begins(first, second):
    score = song(*[A] * first, *["1e 2a 3& 4a"] * second)
    parts = parts_of(bars_of(score, (), 1, first + second), 1)
    assert [len(p) for p in parts] == [first, second]


def test_a_cut_stands_at_an_even_bar_and_options_cut_nothing():
    score = song(A, A, A, A, B, A, A, B, A, A)
    assert len(parts_of(bars_of(score, (), 1, 10), 1)) == 1
    score = song(*[A] * 5, *["1e 2a 3& 4a"] * 5)
    assert all((p[0].number - 1) % 2 == 0 for p in parts_of(bars_of(score, (), 1, 10), 1))
