"""Cores, options, kinds of parts, relations and figures."""

from __future__ import annotations

from fractions import Fraction

import pytest

from materials import made_up_songs
from orchesis import explanations, search
from orchesis import grooves as reader
from orchesis.formats import count
from orchesis.formats.count_writer import lanes
from orchesis.grooves import grooves, relations
from orchesis.grooves.named_patterns import figures
from orchesis.score import Meter


def read(text: str, **more):
    return grooves(count.read("tempo: 100\n" + text), **more)


def bars(pattern: str, n: int = 8) -> str:
    own = pattern.split("|")
    return " | ".join(own[i % len(own)].strip() for i in range(n))


def text_of(groove) -> str:
    return lanes(list(groove.core), [Meter()] * groove.length)


def test_a_part_that_never_changes_is_fixed_and_one_bar_long():
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}")
    assert (g.length, g.kind, g.options) == (1, "fixed", ())
    assert text_of(g) == "hat:   8ths\nsnare: 2.> 4.>\nkick:  1 3"
    assert explanations.groove(g) == "Fixed: one bar, the same all through."


def test_a_two_bar_unit_says_how_its_second_bar_differs():
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3 | 1 2& 3')}")
    assert g.length == 2
    assert explanations.groove_differences(g, Meter()) == ["The second bar: kick on 2& is new"]


def test_the_shortest_unit_that_explains_the_bars_is_chosen():
    kick = bars("1 3 | 1 2& 3 | 1 3 | 1 4&")
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {kick}")
    assert g.length == 4


def test_options_are_told_with_how_often_and_where():
    kick = " | ".join(["1 3 4&", "1 3", "1 3", "1 3 4&", "1 3 4&", "1 3", "1 3 4&", "1 3"])
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {kick}")
    [option] = g.options
    assert (option.part, option.place, option.bars) == ("kick", Fraction(7, 2), (1, 4, 5, 7))
    assert option.share == 0.5


def test_an_option_that_replaces_a_core_stroke_says_so():
    hat = " | ".join(["8ths 4&.o" if n in (1, 4) else "8ths" for n in range(8)])
    [g] = read(f"== A\nhat: {hat}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}")
    [option] = [o for o in g.options if o.part == "hat_open"]
    assert explanations.option_company(option, Meter()) == "instead of hat closed on 4&"


def test_options_that_come_together_say_so():
    with_ = [1, 2, 6]
    kick = " | ".join("1 3 4&" if n in with_ else "1 3" for n in range(8))
    snare = " | ".join("2.> (3e) 4.>" if n in with_ else "2.> 4.>" for n in range(8))
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {snare}\nkick: {kick}")
    assert {explanations.option_company(o, Meter()) for o in g.options} == {
        "with kick on 4&",
        "with ghost snare on 3e",
    }


def test_what_comes_once_is_told_apart_from_the_options():
    kick = " | ".join("1 3 4a" if n == 5 else "1 3" for n in range(8))
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {kick}")
    assert g.options == ()
    assert explanations.once(g, Meter()) == ["bar 6: kick on 4a"]


def test_the_threshold_decides_what_is_core():
    kick = " | ".join("1 3 4&" if n != 3 else "1 3" for n in range(8))
    text = f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {kick}"
    assert len(read(text, threshold=0.75)[0].options) == 0
    assert len(read(text, threshold=0.95)[0].options) == 1


def test_fills_and_the_crash_on_one_do_not_blur_the_core():
    [g] = read(
        f"== A\ncrash: 1.> | -\nhat: 8ths -1 | {bars('8ths', 6)} | 1 1& 2 2&\n"
        f"snare: {bars('2.> 4.>', 7)} | 2.> 3 3e 3& 3a 4 4e 4& 4a\nkick: {bars('1 3')}"
    )
    assert text_of(g) == "hat:   8ths\nsnare: 2.> 4.>\nkick:  1 3"
    assert g.fills == (8,)


def test_crashes_in_every_bar_are_a_surface():
    [g] = read(f"== A\ncrash: {bars('1 2 3 4')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}")
    assert any(s.part == "crash" for s in g.core)


def test_another_groove_in_mid_section_is_one_of_its_own():
    first, second = read(
        f"== A\nhat: {bars('8ths', 4)} | {bars('-', 4)}\nride: {bars('-', 4)} | {bars('8ths', 4)}\n"
        f"snare: {bars('2.> 4.>', 4)} | {bars('3.>', 4)}\nkick: {bars('1 3', 4)} | {bars('1 2&', 4)}"
    )
    assert (first.first_bar, first.bars, second.first_bar, second.bars) == (1, 4, 5, 4)


def test_a_typical_bar_really_occurs_and_the_fullest_is_thinned():
    snare = " | ".join(
        [
            "2.> (2a) (3e) 4.> (4a)",
            "2.> (2a) 4.>",
            "2.> (3e) 4.>",
            "2.> (2a) (3e) 4.>",
            "2.> 4.>",
            "2.> (2a) 4.>",
            "2.> (3e) 4.>",
            "2.> (2a) 4.>",
        ]
    )
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {snare}\nkick: {bars('1 3')}")
    assert g.fullest == 1 and g.thinned == 1.0
    assert 1 <= g.typical <= 8


def test_a_vocabulary_of_phrases_is_told_as_such():
    a = "1 1a 2& 3 3a 4&"
    b = "1& 2 2e 2a 3& 4 4e"
    c = "1 1e 2 2& 3e 3& 4a"
    order = [a, b, a, c, b, b, c, a, c, b, a, c, b, a, c, a]
    feet = ["1 3", "1 2& 4", "1 3& 4a"]
    kick = " | ".join(feet[(n * 7 + n // 3) % 3] for n in range(16))
    [g] = read(f"== Solo\nsnare: {' | '.join(order)}\nkick: {kick}")
    assert g.kind == "vocabulary"
    assert len(g.phrases) == 3
    assert sum(p.share for p in g.phrases) == pytest.approx(1.0)
    assert "feet choose for themselves" in explanations.groove(g)
    tones = [9 if own == a else 2 for own in order]
    [told] = read(f"== Solo\nsnare: {' | '.join(order)}\nkick: {kick}", levels=(), tones=tones)
    assert "where the band is on A" in explanations.phrase(told.phrases[0])
    assert "where the band" not in explanations.phrase(told.phrases[1])


def test_a_silent_section_says_so():
    [first, second] = read("== A\nkick: - | - \n== B\nkick: 1 3 | =")
    assert first.kind == "silent" and second.kind == "fixed"


def test_what_never_happens_is_told():
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}")
    assert set(g.never) >= {"no fill", "no crash", "the hat stays shut"}


def related(a: str, b: str) -> tuple[str, tuple[str, ...]]:
    made = read(f"== Verse\n{a}\n== Chorus\n{b}")[1]
    return explanations.relation(made.relation), tuple(explanations.related(made.relation, Meter()))


BEAT = f"snare: {bars('2.> 4.>')}\nkick: {bars('1 2& 3')}"


def test_the_same_groove_on_another_surface():
    how, rest = related(f"hat: {bars('8ths')}\n{BEAT}", f"ride: {bars('8ths')}\n{BEAT}")
    assert (how, rest) == ("As in Verse, but on the ride instead of the hat", ())


def test_the_same_groove_in_another_subdivision():
    how, _ = related(f"hat: {bars('8ths')}\n{BEAT}", f"hat: {bars('16ths')}\n{BEAT}")
    assert how == "As in Verse, but in 16ths instead of 8ths"


def test_one_kick_more():
    how, rest = related(
        f"hat: {bars('8ths')}\n{BEAT}",
        f"hat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 2& 3 4&')}",
    )
    assert (how, rest) == ("As in Verse, but", ("kick on 4& is new",))


def test_a_groove_that_comes_back_is_the_same():
    assert related(f"hat: {bars('8ths')}\n{BEAT}", f"hat: {bars('8ths')}\n{BEAT}")[0] == (
        "The same as in Verse"
    )


def test_a_figure_moved_along_the_bar_is_displaced():
    how, _ = related(
        f"hat: {bars('8ths')}\nsnare: {bars('2 3& 4')}\nkick: {bars('1 2&')}",
        f"hat: {bars('8ths')}\nsnare: {bars('2e 3a 4e')}\nkick: {bars('1e 2a')}",
    )
    assert how == "Verse moved a 16th later"


def test_a_stripped_down_groove():
    how, _ = related(
        f"hat: {bars('16ths')}\n{BEAT}",
        f"hat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1')}",
    )
    assert how == "Verse stripped down"


def test_other_music_is_not_related():
    how, _ = related(
        f"hat: {bars('8ths')}\n{BEAT}", f"tom_floor: {bars('16ths')}\nkick: {bars('1e 2e 3e 4e')}"
    )
    assert how == ""


def test_likeness_is_one_for_equal_cores_and_small_for_others():
    [g] = read(f"== A\nhat: {bars('8ths')}\n{BEAT}")
    [h] = read(f"== A\ntom_floor: {bars('16ths')}\nkick: {bars('1e 2e')}")
    assert relations.likeness(g.core, g.core, Meter(), (1, 1)) == 1.0
    assert relations.likeness(g.core, h.core, Meter(), (1, 1)) < 0.3


@pytest.mark.parametrize(
    ("lanes_", "name"),
    [
        ("hat: 8ths\nsnare: 2.> 4.>\nkick: 1 3", "backbeat"),
        ("hat: 8ths\nsnare: 3.>\nkick: 1", "half-time backbeat"),
        ("hat: 8ths\nsnare: 2 4\nkick: quarters", "four on the floor"),
        ("hat: offbeats\nkick: quarters", "off-beat hats"),
        ("hat: 1&.o 2&.o 3&.o 4&.o\nkick: quarters", "open off-beats"),
        ("hat: 1 1l 2 2l 3 3l 4 4l\nsnare: 2 4\nkick: 1 3", "shuffle"),
        ("hat: 1 1l 2 2l 3 3l 4 4l\nsnare: 3\nkick: 1", "half-time shuffle"),
        ("hat: 8ths\ncross_stick: 3\nkick: 3", "one-drop"),
        ("kick: 1 1a 2 2a 3 3a 4 4a\nride: 8ths", "samba feet"),
        ("kick: 1 2& 3 4&\nhat: 8ths", "bossa feet"),
        ("cross_stick: 1 2& 4 | 2 3\nkick: 1 3 | =", "3-2 son clave"),
        ("cross_stick: 2 3 | 1 2& 4\nkick: 1 3 | =", "2-3 son clave"),
        ("cross_stick: 1 2& 4& | 2 3\nkick: 1 3 | =", "3-2 rumba clave"),
        ("cross_stick: 1 2& 4 | 2 3&\nkick: 1 3 | =", "3-2 bossa clave"),
        ("cross_stick: 1 1a 2& 3& 4\nkick: 1 3", "3-2 son clave"),
        ("kick: 1 1a 2& 3 3a 4&\nhat: 8ths", "tresillo in the kick"),
        ("kick: 1 2& 4\nhat: 8ths", "whole-bar tresillo in the kick"),
        ("hat: 1 2& 3& 4&\nsnare: 1a 2.> (3) 4.>\nkick: 1e 2e 3e 4e", "linear"),
        ("ride: 1 2 2l 3 4 4l\nhat_foot: 2 4", "swung ride"),
        ("snare: 1 (1e) (1&) 1a 2 (2e) 2& (2a) 3 (3e) 3& (3a) 4 (4e) 4&\nkick: quarters", "train"),
    ],
)
def test_common_figures_are_named(lanes_, name):
    score = count.read("tempo: 100\n" + lanes_)
    assert name in figures(list(score.ordered()), score.meters[0], score.bar_count)


def test_a_waltz_is_named_in_three():
    score = count.read("tempo: 100\nmeter: 3/4\nhat: 8ths\nsnare: 2 3\nkick: 1")
    assert "waltz" in figures(list(score.ordered()), score.meters[0], 1)


def test_a_plain_beat_has_no_special_figures():
    score = count.read("tempo: 100\nhat: 8ths\nsnare: 2.> 4.>\nkick: 1 2& 3")
    assert figures(list(score.ordered()), score.meters[0], 1) == ["backbeat"]


@pytest.mark.parametrize("seed", [3, 17, 29])
def test_cores_of_made_up_songs_are_exact(seed):
    made = made_up_songs.made_up(seed)
    for g in grooves(made.score):
        wanted = made_up_songs.unit_of_length(made.core[g.section], made.length[g.section], 4)
        assert made_up_songs.unit_of_length(made_up_songs.core_of(g), g.length, 4) == wanted


def test_the_core_can_be_laid_on_any_bar_of_its_groove():
    [g] = read(f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3 | 1 2& 3')}")
    assert {s.place for s in reader.at(g, 6) if s.part == "kick"} == {0, Fraction(3, 2), 2}


# -- search

SHELF = {
    "one": "== A\nhat: 8ths | =\nsnare: 2 4 | =\nkick: 1 2& 3 | 1 3",
    "two": "== A\nride: 16ths | =\nsnare: 3 | =\nkick: 1 2& 3 4a | 1& 3 3&",
    "slow": "== A\nhat: quarters | =\nkick: 1 4 | 1",
}


@pytest.fixture(scope="module")
def index():
    return search.index_of({k: count.read("tempo: 100\n" + t) for k, t in SHELF.items()})


def find(index, bar=1, scope="kick", **more):
    wanted = search.figure(count.read("tempo: 100\n" + SHELF["one"]), bar, scope, **more)
    return {(m.song, m.bar): m for m in index.search(wanted)}


def test_the_same_kick_is_found_first_and_a_near_one_behind_it(index):
    found = find(index)
    assert next(iter(found)) == ("one", 1)
    assert (found["one", 1].how, found["one", 1].likeness) == ("same", 1.0)
    assert (found["two", 1].how, found["two", 1].more) == ("near", 1)


def test_a_kick_moved_along_the_bar_is_found(index):
    score = count.read("tempo: 100\n== A\nkick: 1& 3 3& | 1")
    found = index.search(search.figure(score, 1, "kick"))
    moved = next(m for m in found if (m.song, m.bar) == ("one", 1))
    assert moved.how == "moved" and abs(moved.by) == Fraction(1, 2)


def test_half_the_speed_is_found(index):
    score = count.read("tempo: 100\n== A\nkick: 1 2& 3 | 1")
    found = index.search(search.figure(score, 1, "kick"))
    assert [m.how for m in found if (m.song, m.bar) == ("slow", 1)] == ["slower"]


def test_a_bar_with_one_stroke_is_no_slower_version_of_anything(index):
    score = count.read("tempo: 100\n== A\nkick: 1 3& 4 | 1")
    found = index.search(search.figure(score, 1, "kick"))
    assert not [m for m in found if m.how == "slower"]


def test_a_figure_of_two_beats_is_found_anywhere_in_a_bar(index):
    score = count.read("tempo: 100\n== A\nkick: 3 4& | 1\nsnare: 4 | -")
    wanted = search.figure(score, 1, "kick and snare", Fraction(2), Fraction(2))
    best = index.search(wanted)[0]
    assert (best.song, best.bar, best.place, best.how) == ("one", 1, 0, "same")


@pytest.mark.parametrize(
    ("bar", "scope", "words"), [(9, "kick", "no bar 9"), (1, "noise", "can't be searched")]
)
def test_what_cannot_be_searched_is_told(bar, scope, words):
    from orchesis.errors import BadScore

    with pytest.raises(BadScore, match=words):
        search.figure(count.read("tempo: 100\n" + SHELF["one"]), bar, scope)


def test_one_stroke_is_no_figure():
    from orchesis.errors import BadScore

    with pytest.raises(BadScore, match="less than two"):
        search.figure(count.read("tempo: 100\n" + SHELF["slow"]), 2, "kick")


def _as_heard(text: str, lost: set[tuple[int, str]]):
    """Count text as hearing gives it, with some strokes (bar, place) of the hat lost."""
    score = count.read("tempo: 100\n" + text)
    return score.with_strokes(
        s.changed(placed_by="heard")
        for s in score.strokes.values()
        if s.part != "hat_closed" or (s.bar, str(s.place)) not in lost
    )


def test_a_time_hand_that_hearing_lost_now_and_then_is_evened():
    lost = {(b, "3/2") for b in (1, 3, 5, 6, 8)}
    text = f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}"
    score = _as_heard(text, lost)
    [g] = grooves(score)
    assert text_of(g).splitlines()[0] == "hat:   8ths"
    assert not [o for o in g.options if o.part == "hat_closed"]


def test_confirmed_bars_are_taken_at_their_word():
    from dataclasses import replace

    lost = {(b, "3/2") for b in (1, 3, 5, 6, 8)}
    text = f"== A\nhat: {bars('8ths')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}"
    score = replace(_as_heard(text, lost), confirmed=frozenset(range(1, 9)))
    [g] = grooves(score)
    assert [o.place for o in g.options] == [Fraction(3, 2)]


def test_heard_bars_need_a_little_less_than_the_threshold():
    lost = {(b, "0") for b in (2, 5, 7)}
    text = f"== A\nhat: {bars('1 2')}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}"
    [g] = grooves(_as_heard(text, lost))
    assert Fraction(0) in {s.place for s in g.core if s.part == "hat_closed"}
