"""How hard some bars are: the graded patterns, what each cause counts, how fast they can go."""

from __future__ import annotations

import pytest

from materials.cases import levels
from orchesis.formats import count
from orchesis.hands import difficulty, with_limbs


def of(text: str, tempo: int = 100) -> difficulty.Difficulty:
    score = with_limbs(count.read(f"tempo: {tempo}\n{text}\n"))
    return difficulty.of(score, range(1, score.bar_count + 1))


PLAIN = "hat: 8ths\nsnare: 2 4\nkick: 1 3"


def test_the_order_of_the_graded_patterns_comes_out_right():
    assert levels.spearman(levels.CALIBRATION) >= 0.9
    assert levels.spearman(levels.APART) >= 0.8


@pytest.mark.parametrize(
    ("harder", "cause"),
    [
        ("hat: 16ths\nsnare: 2 4\nkick: 1 3", "speed"),
        ("hat: 8ths\nsnare: 2 4\nkick: 1a 2e 3a 4e", "independence"),
        ("hat: 8ths\nsnare: (1e) 2 (2a) (3e) 4 (4a)\nkick: 1 3", "dynamics"),
        ("hat: 8ths -2 -4\nsnare: 2 4\ncrash: 1\ntom_floor: 3\nkick: 1 3", "moves"),
        ("hat: 1 1& 2 2t 2l 3 3& 4 4t 4l\nsnare: 2 4\nkick: 1 3", "changes"),
    ],
)
def test_what_makes_it_harder_shows_in_its_cause(harder, cause):
    assert getattr(of(harder), cause) > getattr(of(PLAIN), cause)


def test_faster_is_harder_and_nothing_is_nothing():
    assert of(PLAIN, 70).total < of(PLAIN, 120).total < of(PLAIN, 180).total
    assert difficulty.of_song([]) == difficulty.NOTHING


def test_the_causes_sum_to_the_total():
    told = of(PLAIN, 120)
    assert 1 + sum(getattr(told, c) for c in difficulty.CAUSES) == pytest.approx(
        told.total, abs=0.01
    )
    assert told.cause == "speed"


def test_a_limb_stays_inside_its_limits_up_to_a_tempo():
    score = with_limbs(count.read(f"tempo: 100\n{PLAIN}\n"))
    told = difficulty.fastest(score, [1])
    assert min(told, key=told.__getitem__) == "RH"
    assert 300 < told["RH"] < 360  # 8ths with one hand, ten to twelve a second
    assert told["RF"] > told["RH"]


def test_long_spaces_are_harder_slow():
    sparse = with_limbs(count.read("tempo: 70\nsnare: 1 3&\n"))
    dense = with_limbs(count.read(f"tempo: 70\n{PLAIN}\n"))
    assert difficulty.is_harder_slow(sparse, [1])
    assert not difficulty.is_harder_slow(dense, [1])
