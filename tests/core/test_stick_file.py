"""`orchesis stick`: the file, its options, and what is wrong with a kit."""

from __future__ import annotations

import json

import pytest

from orchesis.cli import main

TEXT = (
    "tempo: 92\n== A\nhat: 8ths | =\nsnare: 2 4 | 2 4 4a\nkick: 1 3 | =\nshaker: 1.~ | -\n"
    "== B\nsnare: 1.R 1e.L 1&.R 1a.R 2.L 2e.R 2&.L 2a.L 3 3e 3& 3a 4 4e 4& 4a | 2 4\n"
)


@pytest.fixture
def stick(tmp_path):
    def run(*options: str) -> dict:
        score, out = tmp_path / "song.count", tmp_path / "out.json"
        score.write_text(TEXT)
        assert main(["stick", str(score), "--json", str(out), *options]) == 0
        return json.loads(out.read_text())

    return run


def test_the_file_holds_what_is_fixed(stick):
    told = stick()
    assert {"strokes", "unplayable", "rudiments", "rules", "difficulty"} <= set(told)
    first = told["strokes"][0]
    assert set(first) == {"bar", "position", "part", "limb", "ornament"}
    assert "shaker" not in {s["part"] for s in told["strokes"]}
    assert told["rudiments"][0] == {
        "name": "single paradiddle",
        "bar": 3,
        "position": "0",
        "strokes": 8,
    }
    assert 0 < told["difficulty"] <= 10
    rule = told["rules"][0]
    assert set(rule) == {"says", "kind", "bars", "exceptions"} and rule["bars"]


def test_hand_and_school_change_the_limbs(stick):
    def hats(told):
        return {s["limb"] for s in told["strokes"] if s["part"] == "hat_closed"}

    assert hats(stick()) == {"RH"}
    assert hats(stick("--hand", "left")) == {"LH"}
    assert hats(stick("--school", "open")) == {"LH"}


def test_a_kit_file_says_what_is_lacked(stick, tmp_path):
    kit = tmp_path / "kit.json"
    kit.write_text('{"lacks": ["ride"], "pedals": 2}')
    assert stick("--kit", str(kit))["player"]["pedals"] == 2


@pytest.mark.parametrize("text", ["no json", '{"hand": "third"}', "[1]"])
def test_a_kit_that_is_none_is_told_in_one_line(text, tmp_path, capsys):
    score, kit = tmp_path / "song.count", tmp_path / "kit.json"
    score.write_text(TEXT)
    kit.write_text(text)
    assert main(["stick", str(score), "--kit", str(kit), "--json", str(tmp_path / "o")]) == 2
    assert capsys.readouterr().err.count("\n") == 1
