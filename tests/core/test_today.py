"""The time there is: plans, what returns, ears and breaks."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from orchesis.teaching import limits, today

PASSAGES = st.builds(
    today.Passage,
    st.text("abc", min_size=1, max_size=3),
    st.just("Verse 1"),
    st.floats(0, 10),
    st.integers(0, 5),
    st.integers(1, 5),
    st.floats(0, 60),
    st.integers(0, 6),
    st.none() | st.floats(0, 30),
)


@given(st.floats(0, 180), st.lists(PASSAGES, max_size=8))
def test_a_plan_never_takes_more_than_the_time_and_is_the_same_each_time(minutes, passages):
    made = today.plan(minutes, passages)
    assert sum(b.minutes for b in made) <= minutes + 1e-6
    assert made == today.plan(minutes, list(passages))
    assert all(b.minutes >= today._MIN_MINUTES_OF_A_BLOCK - 1e-9 for b in made[1:])
    of_one: dict[str, float] = {}
    for b in made:
        if b.kind in ("weak spot", "stage"):
            of_one[b.key] = of_one.get(b.key, 0.0) + b.minutes
    keys = [p.key for p in passages]
    assert all(m <= 20 * keys.count(key) + 1e-9 for key, m in of_one.items())
    assert [b.kind for b in made[:1]] == (["warm-up"] if minutes >= 3 else [])


def test_25_minutes_of_a_song_half_learned():
    own = [
        today.Passage("fill", "Fill of bar 8", 7.0, 1, 4, 1.0),
        today.Passage("verse", "Verse 1", 3.0, 4, 4, 8.0, returns=1),
    ]
    made = today.plan(25, own)
    assert [b.kind for b in made] == ["warm-up", "returns", "weak spot", "stage", "run through"]
    assert made[1].key == "verse" and made[2].key == "fill"


def test_what_is_needed_soon_comes_first():
    late = today.Passage("a", "A", 5.0, 0, 4, 0.0, due=30)
    soon = today.Passage("b", "B", 4.0, 0, 4, 0.0, due=1)
    assert next(b for b in today.plan(20, [late, soon]) if b.kind == "weak spot").key == "b"


ONE_BAR = today.Passage("a", "Bar 7", 6.0, 1, 5, 1.0)


def test_two_hours_with_one_bar_give_it_twenty_minutes_at_the_most():
    made = today.plan(120, [ONE_BAR])
    assert sum(b.minutes for b in made if b.kind in ("weak spot", "stage")) <= 20
    assert sum(b.minutes for b in made) == pytest.approx(120)
    assert max(b.minutes for b in made) <= 30 and [b.kind for b in made].count("break") == 2


@pytest.mark.parametrize("minutes", [3, 5, 8])
def test_a_few_minutes_are_not_only_a_warm_up(minutes):
    made = today.plan(minutes, [ONE_BAR])
    assert [b.kind for b in made[:1]] == ["warm-up"] and made[0].minutes <= minutes / 3
    if minutes >= 4:
        assert made[1].key == "a" and sum(b.minutes for b in made) == pytest.approx(minutes)


def test_who_has_practised_nothing_yet_is_told_where_to_begin():
    made = today.plan(30, [])
    assert [b.kind for b in made] == ["warm-up", "free"] and "first step" in made[1].says


@pytest.mark.parametrize(
    ("level", "protection", "rule", "hours"),
    [
        (85, 0, "85/3", 8),
        (88, 0, "85/3", 4),
        (108, 20, "85/3", 4),
        (95, 0, "90/5", 4),
        (90, 0, "90/5", 8),
    ],
)
def test_the_dose_halves_by_its_rule(level, protection, rule, hours):
    assert limits.HearingLimits(level, protection, rule).allowed() == pytest.approx(3600 * hours)


@given(st.floats(70, 120), st.floats(0, 35), st.floats(0, 40000), st.floats(0, 5000))
def test_more_played_leaves_never_more(level, protection, played, more):
    own = limits.HearingLimits(level, protection)
    assert 0 <= own.left(played + more) <= own.left(played)


def test_a_break_counts_only_when_it_was_one():
    spans = [(0.0, 600.0), (640.0, 1300.0), (2000.0, 2600.0)]
    assert limits.since_break(spans, 2610.0) == 600  # 700 s of pause before it
    assert limits.since_break(spans[:2], 1310.0) == 1260
    assert limits.since_break(spans, 9999.0) == 0
    assert limits.says(limits.HearingLimits(120, 0), 60.0, 0)
    assert limits.says(limits.HearingLimits(80, 0), 0, 2400.0)
    assert not limits.says(limits.HearingLimits(80, 0), 0, 0)
