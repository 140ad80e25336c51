"""What has to be learned of a part, and what of it is something that was played before."""

from __future__ import annotations

import pytest

from orchesis import explanations
from orchesis.formats import count
from orchesis.teaching import reuse


def read(snare, kick="", hat="8ths"):
    bars = snare.count("|") + 1
    lanes = [f"snare: {snare}", f"hat: {' | '.join([hat] * bars)}"]
    if kick:
        lanes.append(f"kick: {kick}")
    return reuse.read(count.read("tempo: 100\n" + "\n".join(lanes)))


def spots(found):
    return (
        [(f.where.bar, f.where.beat, f.where.beats) for f in found.figures],
        [(r.where.bar, r.where.beat, r.source.bar, r.source.beat, r.how) for r in found.returns],
    )


@pytest.mark.parametrize(
    ("snare", "figures", "returns"),
    [
        # a figure comes back within its bar
        ("2e 2& 2a 4e 4& 4a", [(1, 2, 1)], [(1, 4, 1, 2, "moved")]),
        # a bar that comes back is nothing new
        ("1e 2& 3a 4 | 1e 2& 3a 4", [(1, 1, 4)], [(2, 1, 1, 1, "same")]),
        # a bar opens with a beat of the one before
        ("1 3e 3a | 1e 1a", [(1, 1, 1), (1, 3, 1)], [(2, 1, 1, 3, "moved")]),
        # two beats come back as one figure
        ("1 1& 2e 2a | 3 3& 4e 4a", [(1, 1, 2)], [(2, 3, 1, 1, "moved")]),
        # the figure goes twice as fast
        ("1 2 2& | 3 3& 3a", [(1, 1, 2)], [(2, 3, 1, 1, "faster")]),
        # nothing comes back
        ("1 1e | 2& 2a 3", [(1, 1, 1), (2, 2, 2)], []),
    ],
)
def test_figures_and_returns(snare, figures, returns):
    assert spots(read(snare)) == (figures, returns)


def test_a_figure_on_other_drums_is_told_as_that():
    score = count.read(
        "tempo: 100\nhat: 8ths | =\nsnare: 2 2e 2& 2a | -\ntom_high: - | 4 4e 4&\ntom_floor: - | 4a"
    )
    found = reuse.read(score)
    assert [r.how for r in found.returns] == ["drums"]
    assert found.strokes == 4


def test_the_time_hand_is_no_figure():
    plain = read("2 2e 4a | 2 2e 4a", hat="-")
    assert read("2 2e 4a | 2 2e 4a", hat="16ths") == plain
    assert plain.strokes == 3


def test_what_must_be_learned_is_counted():
    found = read("1e 1& 1a 3e 3& 3a | 1e 1& 1a 3e 3& 3a", kick="1 3 | 1 3")
    assert found.strokes == 4 and len(found.figures) == 1


def test_a_return_is_told_in_a_sentence():
    inside = read("2e 2& 2a 4e 4& 4a")
    assert explanations.returned(inside.returns[0]) == "The figure of 2 comes back on 4."
    across = read("1 3e 3a | 1e 1a")
    assert (
        explanations.returned(across.returns[0]) == "Bar 2 opens with beat 3 of bar 1, nothing new."
    )
    two = read("1 1& 2e 2a | 3 3& 4e 4a")
    assert (
        explanations.returned(two.returns[0])
        == "Beats 3 and 4 of bar 2 are beats 1 and 2 of bar 1."
    )
    fast = read("1 2 2& | 3 3& 3a")
    assert explanations.returned(fast.returns[0]) == (
        "Beat 3 of bar 2 is beats 1 and 2 of bar 1 twice as fast."
    )


def test_the_whole_is_told_in_a_sentence():
    found = read("2e 2& 2a 4e 4& 4a")
    assert explanations.to_learn(found) == "One figure of 3 strokes; everything else is it again."
