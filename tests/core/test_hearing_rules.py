"""The rules behind the networks: openings keep their name, covered hats are raised by like bars, what
sounds before the kit enters is no kit, the form turns where the drums do."""

from __future__ import annotations

import numpy as np
import pytest

from orchesis.hearing import cymbals, form, percussion, sounds
from orchesis.hearing.network import CLASSES
from orchesis.hearing.types import HeardSection, Hit
from tests.core.test_repetition import BARS, BEATS, at, groove
from tests.core.test_sounds import EVERY, sounded


def test_an_opening_among_many_shut_hats_keeps_its_name():
    order = ["high"] * 120
    opened = (10, 40, 70)
    hits = [
        Hit((k + 1) * EVERY / 100, "hat_open" if k in opened else "hat_closed", 0.7, 0.8)
        for k in range(len(order))
    ]
    spectrum, activity = sounded(order)
    activity.strength[:] = 0.01
    for k in range(len(order)):
        clear, other = ("hat_open", "hat_closed") if k in opened else ("hat_closed", "hat_open")
        activity.strength[(k + 1) * EVERY, CLASSES.index(clear)] = 0.9
        activity.strength[(k + 1) * EVERY, CLASSES.index(other)] = 0.2
    named, _ = sounds.of_song(hits, spectrum, activity)
    assert [k for k, h in enumerate(named) if h.part == "hat_open"] == list(opened)
    # Where its own sound hardly tells, the group's name is taken.
    for k in opened:
        activity.strength[(k + 1) * EVERY, CLASSES.index("hat_closed")] = 0.85
    named, _ = sounds.of_song(hits, spectrum, activity)
    assert {h.part for h in named} == {"hat_closed"}


def test_a_hat_that_is_covered_in_one_bar_is_raised_by_the_others():
    covered = at(5, 1.5, "hat_closed", sure=0.25)
    hits = [h for h in groove() if (h.time, h.part) != (covered.time, covered.part)]
    raised, floor = cymbals.weighed([*hits, covered], BEATS, 0.4)
    now = next(h for h in raised if (h.time, h.part) == (covered.time, covered.part))
    assert now.confidence >= floor and now.confidence > covered.confidence + 0.1


def test_a_lone_weak_hat_and_every_drum_stay_as_they_are():
    lonely, crash = at(5, 2.25, "hat_closed", sure=0.15), at(5, 0, "crash", sure=0.3)
    hits = [*groove(), lonely, crash]
    weighed, floor = cymbals.weighed(hits, BEATS, 0.4)
    assert next(h for h in weighed if h.time == lonely.time).confidence < floor <= 0.4
    kept = [(h, w) for h, w in zip(hits, weighed, strict=True) if h.part not in cymbals.METAL]
    assert kept and all(h == w for h, w in kept)


def test_of_a_few_bars_nothing_is_weighed():
    short = groove(range(2))
    assert cymbals.weighed(short, BEATS[: 4 * 2 + 1], 0.4) == (short, 0.4)


@pytest.mark.parametrize(
    ("sure", "least"),
    [([0.9, 0.9, 0.9, 0.1], 0.9), ([0.5, 0.5, 0.5], 0.5), ([0.9, 0.45, 0.02], 0.45)],
)
def test_the_threshold_is_where_the_expected_f_is_greatest(sure, least):
    assert cymbals.best_threshold(np.array(sure)) == least


SECTIONS = (HeardSection(1, 4, "A"), HeardSection(5, BARS - 4, "B"))


def intro(level: float, parts=("tom_high", "snare")) -> list[Hit]:
    soft = [
        Hit(2.0 * b + 0.5 * k, parts[k % 2], 0.5, 0.7, level=level)
        for b in range(4)
        for k in range(4)
    ]
    kit = [
        Hit(h.time, h.part, h.loudness, h.confidence, level=-10.0) for h in groove(range(4, BARS))
    ]
    return [*soft, *kit]


def test_soft_hand_drums_before_the_kit_are_no_kit():
    hits = intro(-24.0)
    assert percussion.of_intro(hits, BEATS, SECTIONS) == set(range(16))


def test_an_intro_that_the_kit_plays_stays():
    assert percussion.of_intro(intro(-12.0), BEATS, SECTIONS) == set()
    # Soft all over, but with the kick as loud as later: somebody plays the kit softly.
    with_kick = [*intro(-24.0), Hit(0.1, "kick", 0.8, 0.9, level=-11.0)]
    assert percussion.of_intro(with_kick, BEATS, SECTIONS) == set()
    assert percussion.of_intro(intro(-24.0), BEATS, SECTIONS[:1]) == set()
    assert percussion.of_intro([], BEATS, SECTIONS) == set()


def test_the_drums_turn_where_their_part_does_and_nowhere_else():
    drums = np.zeros((16, 8))
    drums[:8, 0] = 1.0
    drums[8:, 5] = 1.0
    assert list(np.flatnonzero(form._turns(drums))) == [8]
    assert not form._turns(np.ones((16, 8))).any()
    assert not form._turns(np.ones((3, 8))).any()


def test_what_like_bars_moved_is_marked_and_the_last_that_is_chosen_is_written():
    covered = at(5, 1.5, "hat_closed", sure=0.2)
    hits = [h for h in groove() if (h.time, h.part) != (covered.time, covered.part)]
    weighed, floor = cymbals.weighed([*hits, covered], BEATS, 0.4)
    now = next(h for h in weighed if (h.time, h.part) == (covered.time, covered.part))
    assert now.recalled and not next(h for h in weighed if h.part == "kick").recalled
    # The floor is the confidence of a stroke as it is told, so that this one is written too.
    told = {h.confidence for h in weighed if h.part in cymbals.METAL}
    assert floor == 0.4 or floor in told
