"""Figures that real drummers play, written as music: what is told of each, and what must not be."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from materials import made_up_songs
from materials.cases import across as written_across
from materials.cases import figures as written
from materials.cases import fills as written_fills
from materials.cases import pairs, reuses, sections
from orchesis import explanations, fills
from orchesis.checks import review, unlikely
from orchesis.fills import fill_facts
from orchesis.formats import count
from orchesis.grooves import grooves
from orchesis.grooves.compare import compare
from orchesis.score import KitSound, Measured
from orchesis.score.evidence import Evidence


def read(text):
    return count.read("tempo: 120\n" + text)


def bars(pattern, n=8):
    own = pattern.split("|")
    return " | ".join(own[i % len(own)].strip() for i in range(n))


SWING = f"ride: {bars('1 2 2l 3 4 4l', 16)}\nhat_foot: {bars('2 4', 16)}\n"
COMPED = ("2& 4l", "1l 3", "2 3l", "4", "1l 3l", "2l", "1 2l 4l", "3l")
ORDER = (0, 1, 2, 3, 4, 5, 6, 7, 3, 0, 6, 1, 5, 2, 7, 4)
BOMBS = ("1", "3l", "-", "2l", "4", "-", "1l", "-")


def comping():
    snare = " | ".join(COMPED[i] for i in ORDER)
    kick = " | ".join(BOMBS[(3 * i) % 8] for i in ORDER)
    return read(f"== A\n{SWING}snare: {snare}\nkick: {kick}")


def test_comping_under_an_unbroken_ride_is_a_vocabulary_and_no_fill():
    score = comping()
    assert fills.find(score) == []
    [g] = grooves(score)
    assert g.kind == "vocabulary" and g.over == "ride" and len(g.phrases) >= 5
    assert explanations.groove(g).startswith("The ride goes on: ")
    assert {s.part for s in g.core} == {"ride", "hat_foot"} and not g.options


def test_a_bossa_whose_cross_stick_wanders_is_comping_too():
    phrases = ("1 2& 4", "2 3&", "1& 3 4&", "2& 4", "1 3&", "2 4&", "1 2& 3", "3& 4")
    stick = " | ".join(phrases[i] for i in ORDER)
    score = read(
        f"== A\nride: {bars('8ths', 16)}\nkick: {bars('1 2& 3 4&', 16)}\ncross_stick: {stick}"
    )
    assert fills.find(score) == []
    [g] = grooves(score)
    assert g.kind == "vocabulary" and "bossa feet" in g.figures


def test_a_beat_full_of_strokes_or_the_toms_fill_though_the_time_goes_on():
    beat = f"hat: {bars('8ths', 4)}\nkick: {bars('1 3', 4)}\n"
    roll = read(f"== A\n{beat}snare: {bars('2 4', 3)} | 2 4 4e 4& 4a")
    assert [s.bar for s in fills.find(roll)] == [4]
    toms = read(f"== A\n{beat}snare: {bars('2 4', 3)} | 2\ntom_floor: {bars('-', 3)} | 3& 4 4&")
    assert [s.bar for s in fills.find(toms)] == [4]
    pushed = read(f"== A\n{beat}snare: {bars('2 4', 3)} | 2 3& 4a")
    assert fills.find(pushed) == []


def last_bar(snare, **lanes):
    """What is told of the fill in the fourth of four bars."""
    base = {"hat": "8ths", "snare": "2 4", "kick": "1 3"}
    rows = {n: f"{bars(base.get(n, '-'), 3)} | {lanes.get(n, '-')}" for n in {*base, *lanes}}
    rows["snare"] = f"{bars('2 4', 3)} | {snare}"
    [fill] = fill_facts.describe_fills(
        read("== A\n" + "\n".join(f"{n}: {x}" for n, x in rows.items()))
    )
    return fill


@pytest.mark.parametrize(
    ("snare", "lanes", "starts"),
    [
        ("2 2e 2& 2a", {"crash": "1", "kick": "1", "tom_floor": "3 3& 4 4&"}, 0),
        ("1& 1a 2 2& 3 3& 4 4&", {"crash": "1", "kick": "1"}, 0),
        ("2 3 3e 3& 3a 4 4&", {"crash": "1", "kick": "1"}, 2),  # the backbeat is still the groove's
        ("2 2e 2& 2a 3 3& 4 4&", {"crash": "1", "kick": "1", "hat": "1&"}, 1),  # so is the hat
        ("3 3e 3& 3a 4 4&", {"hat": "1 1& 2 2&", "kick": "1"}, 2),
    ],
)
def test_a_fill_that_opens_with_crash_and_kick_begins_with_them(snare, lanes, starts):
    assert last_bar(snare, **lanes).span.place == starts


def test_a_double_stop_keeps_its_second_drum_and_a_cross_stick_its_name():
    double = last_bar("3 3& 4 4&", tom_floor="3 3& 4 4&", hat="1 1& 2 2&", kick="1")
    assert double.path == (("snare+tom_floor", 4),)
    side = last_bar("3 3& 4", cross_stick="4e 4& 4a", hat="1 1& 2 2&", kick="1")
    assert side.path == (("snare", 3), ("cross_stick", 3))


@pytest.mark.parametrize("snare", ["2.> 4.> | 2.> 4.d", "2.> 4.> | 2.> 4.f"])
def test_an_ornament_in_every_second_bar_makes_two_bars(snare):
    [g] = grooves(read(f"== A\nhat: {bars('8ths')}\nsnare: {bars(snare)}\nkick: {bars('1 3')}"))
    assert g.length == 2
    assert "snare on 4" in explanations.groove_differences(g, read("kick: 1").meters[0])[0]


def test_accents_of_the_hat_in_every_second_bar_make_two_bars():
    hat = bars("8ths | 8ths 1.> 2.> 3.> 4.>")
    [g] = grooves(read(f"== A\nhat: {hat}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}"))
    assert g.length == 2


def test_a_stray_accent_makes_no_unit():
    hat = " | ".join("8ths 3.>" if n in (2, 5) else "8ths" for n in range(8))
    [g] = grooves(read(f"== A\nhat: {hat}\nsnare: {bars('2.> 4.>')}\nkick: {bars('1 3')}"))
    assert g.length == 1


def test_four_bars_on_the_ride_and_four_on_the_crash_are_two_grooves():
    first, second = grooves(
        read(
            f"== A\nride: {bars('8ths', 4)} | {bars('-', 4)}\ncrash: {bars('-', 4)} | {bars('quarters', 4)}\n"
            f"snare: {bars('2 4')}\nkick: {bars('1 3')}"
        )
    )
    assert (first.bars, second.bars) == (4, 4)
    assert any(s.part == "crash" for s in second.core)


def test_one_bar_of_hits_and_three_of_silence_are_stops():
    hits = bars("1 | - | - | -")
    [g] = grooves(read(f"== A\ncrash: {hits}\nsnare: {hits}\nkick: {hits}"))
    assert g.kind == "stops" and explanations.groove(g).startswith("Stops")


def test_a_march_without_feet_has_no_feet_that_choose_and_no_fill_in_its_first_bar():
    snare = (
        "1 1e 1& 1a 2 2& 3 3e 3& 3a 4 | 1 1& 2 2e 2& 2a 3 4 | "
        "1 1e 1& 1a 2 2& 3 3e 3& 3a 4 | 1 1& 2 2e 2& 2a 3 4 | "
        "1.z 2 2& 3.z 4 | 1 1& 2 3 3& 4 | 1 2 3 4 | 1 1e 1& 1a 2 2e 2& 2a 3 3e 3& 3a 4"
    )
    score = read(f"== A\nsnare: {snare}")
    assert fills.find(score) == []
    for g in grooves(score):
        assert not g.feet and "feet" not in explanations.groove(g)


FULL = "1 1e 1& 1a 2 2& 3 3e 3& 3a 4 4&"


@pytest.mark.parametrize("at", [0, 3, 7])
def test_a_march_that_thins_its_fullest_bar_is_told_so(at):
    thinner = [
        "1 1& 1a 2 3 3& 4",
        "1 1e 1& 2 2& 3 3a 4",
        "1 2 2& 3 3e 3& 4 4&",
        "1 1a 2 3 3e 4",
        "1 1& 2 2& 3 3& 4 4&",
        "1 1e 1& 1a 2 3 4",
        "1 3 3e 3& 3a 4 4&",
    ]
    snare = " | ".join([*thinner[:at], FULL, *thinner[at:]])
    [g] = grooves(read(f"== A\nsnare: {snare}"))
    assert (g.kind, g.fullest, g.thinned) == ("thinned", at + 1, 1.0)
    assert explanations.groove(g) == f"One fullest bar: the others are bar {at + 1}, thinned."


def test_figures_are_named_where_their_part_and_accents_are_meant():
    assert written.named_right() >= 0.92 and written.none_claimed() >= 0.92


def missing(text):
    return [d for d in review.queue(read(text)) if d.kind == "missing"]


BEAT = f"snare: {bars('2 4', 7)} | LAST\nkick: {bars('1 3', 8)}\n"


def test_what_a_fill_leaves_out_is_not_asked_for():
    fill = BEAT.replace("LAST", "2 3 3e 3& 3a 4 4e 4& 4a")
    assert missing(f"== A\nhat: {bars('8ths', 7)} | 1 1& 2 2&\n{fill}") == []
    plain = BEAT.replace("LAST", "2 4")
    assert len(missing(f"== A\nhat: {bars('8ths', 7)} | 1 1& 2 2&\n{plain}")) == 4


def test_a_crash_or_a_ride_stands_for_the_hat():
    plain = BEAT.replace("LAST", "2 4")
    crash = f"crash: {bars('-', 7)} | 1\n"
    assert missing(f"== A\nhat: {bars('8ths', 7)} | 8ths -1\n{crash}{plain}") == []
    ride = f"ride: {bars('-', 7)} | 8ths\n"
    assert missing(f"== A\nhat: {bars('8ths', 7)} | -\n{ride}{plain}") == []


def test_a_sound_that_may_be_called_wrongly_is_asked_about_once():
    score = read(f"== A\nhat: {bars('8ths')}\ntom_mid: {bars('2 4')}\nkick: {bars('1 3')}")
    number = {"tom_mid": 1, "hat_closed": 2, "kick": 3}
    heard = score.with_strokes(
        s.changed(
            placed_by="heard",
            confidence=0.9,
            measured=Measured(score.seconds(s.bar, s.place), sound=number[s.part]),
        )
        for s in score.strokes.values()
    )
    named = [KitSound(n, part) for part, n in number.items()]
    heard = replace(heard, sounds=tuple(named))
    [asked] = [d for d in review.queue(heard) if d.kind == "sound"]
    assert asked.part == "tom_mid" and len(asked.to_json()["examples"]) == 5
    assert explanations.doubt(asked, heard) == (
        "16 strokes sound alike and are written as mid tom. Is it that tom?"
    )
    answered = replace(heard, sounds=tuple(replace(s, answer="named") for s in named))
    assert not [d for d in review.queue(answered) if d.kind == "sound"]
    unsure = heard.with_strokes(s.changed(confidence=0.45) for s in heard.strokes.values())
    assert {d.part for d in review.queue(unsure) if d.kind == "sound"} == set(number)


def test_a_gap_is_asked_about_only_where_something_was_heard():
    text = f"== A\nhat: {bars('8ths', 7)} | 8ths -3&\nsnare: {bars('2 4')}\nkick: {bars('1 3')}"
    assert len(missing(text)) == 1
    score = read(text)
    at = np.array([round(score.seconds(8, Fraction(5, 2)) * 100)])
    silent, heard = ({p: (at, np.array([x]))} for p, x in (("kick", 9), ("hat", 6)))
    asked = [
        [d.place for d in review.queue(replace(score, evidence=Evidence(e))) if d.kind == "missing"]
        for e in (silent, heard)
    ]
    assert asked == [[], [Fraction(5, 2)]]


def test_a_third_hand_is_asked_for_only_where_all_strokes_are_sure():
    score = read("== A\nhat: 8ths | =\nsnare: 2 4 | =\nclap: 2 4 | =\nkick: 1 3 | =")
    assert len(unlikely.third_hand(score)) >= 1
    unsure = score.with_strokes(
        s.changed(confidence=0.4, placed_by="heard") if s.part == "clap" else s
        for s in score.strokes.values()
    )
    assert unlikely.third_hand(unsure) == []


def test_the_kind_of_written_sections_is_told():
    assert sections.share_right() >= 0.92


@pytest.mark.parametrize(
    "score",
    [
        *(made_up_songs.made_up(seed).score for seed in range(60, 72)),
        *(count.read(w.text) for w in sections.WRITTEN),
    ],
)
def test_no_sentence_denies_what_stands_beside_it(score):
    for g in grooves(score):
        says = explanations.groove(g)
        if g.kind == "options":
            assert f"{len(g.options)} option" in says if g.options else "option" not in says
        else:
            assert not g.options and not g.once
        if g.kind == "vocabulary":
            assert len(g.phrases) >= 2 and f"{len(g.phrases)} phrases" in says
        else:
            assert not g.phrases and not g.feet
        assert (f"among {len(g.feet)} patterns" in says) == g.feet_are_free
        assert not g.feet_are_free or len(g.feet) > 1


def differences(a, b):
    """What is told of two bars of the snare over the same hat and kick."""
    one, two = (list(read(f"hat: 8ths\nkick: 1 3\nsnare: {x}").ordered()) for x in (a, b))
    return explanations.differences(compare(one, two), read("kick: 1").meters[0])


@pytest.mark.parametrize(
    ("a", "b", "told"),
    [
        ("2 4 (4a)", "2 4&", ["snare moves from 4 to 4& (later)", "ghost snare on 4a is gone"]),
        ("2 4 (4a)", "2 4& (4a)", ["snare moves from 4 to 4& (later)"]),
        ("2 (2&) 4", "2& 4", ["snare moves from 2 to 2& (later)", "ghost snare on 2& is gone"]),
        ("2 4", "2 (4)", ["snare on 4 is softer, now ghost"]),
        ("2 4", "2 4", []),
        ("2 4", "2 3& 4", ["snare on 3& is new"]),
    ],
)
def test_what_moved_is_told_by_its_weight(a, b, told):
    found = differences(a, b)
    assert found == told


def test_a_kick_under_a_fill_hides_no_figure_of_the_hands():
    assert written_fills.share_right(written_fills.WITH_FEET) >= 0.9
    found = written_fills.read(written_fills.WITH_FEET[0])
    assert found is not None and found.of == "hands"
    assert written_fills.share_right() == 1.0  # and what the feet share in stays one figure


def test_figures_that_run_across_the_bars_are_told_and_only_they():
    assert written_across.share_right() >= 0.92
    score = count.read(f"tempo: 100\n== A\n{written_across.WRITTEN[4].text}")
    [g] = grooves(score)
    [says] = explanations.told_groove(g, score.meters[0])["across"]
    assert says == (
        "The kick runs across the bars from bar 1 on: a stroke every 3 16ths, on the 1 again "
        "after 3 bars."
    )


def test_what_comes_back_is_told_of_forty_written_passages():
    assert reuses.f_measure() >= 0.9


def test_forty_pairs_of_bars_are_told_apart_as_a_drummer_would():
    assert pairs.share_right() >= 0.92
