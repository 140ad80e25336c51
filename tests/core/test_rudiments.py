"""Rudiments by name: the written rows, and what is asked for by name."""

from __future__ import annotations

from dataclasses import replace

import pytest

from materials.cases import rudiment_rows
from orchesis.hands import rudiments


@pytest.mark.parametrize("row", rudiment_rows.ROWS, ids=lambda r: f"{r.names} {r.steps}")
def test_a_written_row_holds_its_rudiments(row):
    assert rudiment_rows.told(row) == row.names


@pytest.mark.parametrize("row", rudiment_rows.ROWS[:40], ids=lambda r: r.names[0])
def test_with_the_other_hand_leading_it_is_the_same_rudiment(row):
    turned = row.steps.translate(str.maketrans("RL", "LR"))
    assert rudiment_rows.told(replace(row, steps=turned)) == row.names


def test_each_of_the_forty_is_written_once():
    names = {row.names[0] for row in rudiment_rows.ROWS[:40]}
    assert len(names) == 40
    assert names <= set(rudiments.NAMES)


@pytest.mark.parametrize(
    ("name", "size", "hands"),
    [
        ("single paradiddle", 8, "RLRRLRLL"),
        ("five-stroke roll", 10, "RRLLRLLRRL"),
        ("swiss army triplet", 6, "RRLRRL"),
        ("pataflafla", 8, "RLRLRLRL"),
    ],
)
def test_a_rudiment_asked_for_gives_its_hands(name, size, hands):
    made = rudiments.sticking(name, size)
    assert made == hands
    assert rudiments.sticking(name, size, "L") == hands.translate(str.maketrans("RL", "LR"))
