"""Pattern search against plain set arithmetic, for any bars."""

from fractions import Fraction

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from orchesis import search
from orchesis.score import Meter, PulseMap, Score, Section, Stroke

GRID = [Fraction(k, 4) for k in range(16)]
BARS = st.lists(st.frozensets(st.sampled_from(GRID), max_size=7), min_size=2, max_size=12)


def song_of(bars, part="kick", limb="RF"):
    strokes = [
        Stroke(f"{b}-{p}", b, p, part, limb) for b, places in enumerate(bars, 1) for p in places
    ]
    whole = Section("a", "Song", "A", 1, len(bars))
    pulse = PulseMap.even(100, 4 * len(bars))
    return Score((Meter(),) * len(bars), pulse, sections=(whole,)).with_strokes(strokes)


def found(bars, wanted):
    index = search.index_of({"s": song_of(bars)})
    return {m.bar: m for m in index.search(wanted)}


@settings(max_examples=60)
@given(BARS)
def test_every_equal_bar_is_found_and_nothing_else_is_called_the_same(bars):
    assume(len(bars[0]) >= 2)
    matches = found(bars, search.figure(song_of(bars), 1))
    for n, places in enumerate(bars, 1):
        is_same = n in matches and matches[n].how == "same"
        assert is_same == (places == bars[0])
        if is_same:
            assert (matches[n].likeness, matches[n].more, matches[n].less) == (1.0, 0, 0)


@settings(max_examples=60)
@given(BARS)
def test_more_and_less_are_counted_as_sets_are(bars):
    assume(len(bars[0]) >= 2)
    for n, match in found(bars, search.figure(song_of(bars), 1)).items():
        if match.how != "near":
            continue
        assert match.more == len(bars[n - 1] - bars[0])
        assert match.less == len(bars[0] - bars[n - 1])
        shared = len(bars[0] & bars[n - 1])
        assert abs(match.likeness - shared / len(bars[0] | bars[n - 1])) < 1e-6


@settings(max_examples=60)
@given(st.frozensets(st.sampled_from(GRID), min_size=2, max_size=7), st.integers(1, 15))
def test_a_figure_moved_along_the_bar_is_known_by_how_far(places, steps):
    by = Fraction(steps, 4)
    moved = frozenset((p + by) % 4 for p in places)
    assume(moved != places)
    bars = [places, moved]
    match = found(bars, search.figure(song_of(bars), 1)).get(2)
    assert match is not None
    if match.how == "moved":
        assert frozenset((p + match.by) % 4 for p in places) == moved
        assert abs(match.by) <= 2


@settings(max_examples=60)
@given(BARS, st.integers(1, 6))
def test_the_best_come_first_and_no_more_than_are_asked_for(bars, most):
    assume(len(bars[0]) >= 2)
    index = search.index_of({"s": song_of(bars), "t": song_of(bars[::-1])})
    wanted = search.figure(song_of(bars), 1)
    matches = index.search(wanted, most)
    assert len(index) == 2 * len(bars) and len(matches) <= most
    assert [m.likeness for m in matches] == sorted((m.likeness for m in matches), reverse=True)
    assert matches == index.search(wanted, 10_000)[: len(matches)]


@given(st.frozensets(st.sampled_from(GRID), min_size=2, max_size=6))
def test_another_voice_is_another_figure(places):
    wanted = search.figure(song_of([places]), 1, "kick")
    others = search.index_of({"s": song_of([places], "ride", "RH")})
    assert others.search(wanted) == []
