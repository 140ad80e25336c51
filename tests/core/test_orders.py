"""The orders in which a part is learned, each held to its promise on grooves of many kinds."""

from __future__ import annotations

from itertools import pairwise

import pytest

from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.score import KIT
from orchesis.teaching import orders, stages

GROOVES = {
    "rock": "hat: 8ths | = | =\nsnare: 2 4 | = | =\nkick: 1 3 | 1 2& 3 | 1 3 4a",
    "ghosts and a drag": "hat: 8ths 4&.o | =\nsnare: 2.> (2a) (3e) 4.d | 2.> 4.>\nkick: 1 2& 3 | 1 3&",
    "half time": "ride: 8ths | =\nsnare: 3.> (4a) | 3.>\nkick: 1 1a 2& | 1 2a 4&",
    "shuffle": "swing: eighth 0.66\nhat: 1 1& 2 2& 3 3& 4 4&\nsnare: 2 4\nkick: 1 3 3&",
    "waltz": "meter: 3/4\nride: 1 2 2& 3 | =\nhat_foot: 2 3 | =\nkick: 1 | 1 3&\nsnare: (2&) | 3",
    "bossa": "hat: 8ths | =\ncross_stick: 1 2& 4 | 2 3&\nkick: 1 2& 3 4& | =\nhat_foot: 2 4 | =",
    "toms alone": "tom_floor: 8ths | =\nsnare: 2 4 | =\nkick: 1 3 | 1 2& 3",
    "crash in the second bar": "hat: 8ths | 8ths -1\ncrash: - | 1.>\nsnare: 2 4 | =\nkick: 1 3 | 1 3 4&",
    "a fill in 16ths": "snare: 3 3e 3& 3a\ntom_high: 4 4e\ntom_floor: 4& 4a\nkick: 1 3 4",
    "linear": "hat: 1 1& 2& 3 4 | =\nsnare: 2 3a 4& | =\nkick: 1e 2a 3& | 1e 2a 3e",
}
SCORES = {}


@pytest.fixture(params=sorted(GROOVES))
def part(request):
    """(score, its bars, its strokes)"""
    if request.param not in SCORES:
        text = GROOVES[request.param]
        head = [x for x in text.split("\n") if x.split(":")[0] in ("meter", "swing")]
        lanes = "\n".join(x for x in text.split("\n") if x not in head)
        SCORES[request.param] = with_limbs(
            count.read("\n".join(["tempo: 96", *head, "== A", lanes, ""]))
        )
    score = SCORES[request.param]
    bars = list(range(1, score.bar_count + 1))
    return score, bars, list(score.ordered())


def spots(strokes):
    return {(s.bar, s.place, s.part) for s in strokes}


def grows(made):
    return all(spots(a) < spots(b) for (_, a), (_, b) in pairwise(made))


@pytest.mark.parametrize("name", sorted(orders.ORDERS))
def test_every_order_says_what_it_does_and_gives_something_to_play(part, name):
    score, bars, strokes = part
    made = orders.ORDERS[name][1](score, bars, list(strokes))
    for title, own, *_span in made:
        assert title[0].isupper() and len(title) < 160
        for s in own:
            meter = score.meters[s.bar - 1]
            assert s.bar in bars and 0 <= s.place < meter.beats
    if name != "whole":
        assert made and any(own for _, own, *_ in made)


def test_limb_by_limb_adds_one_limb_each_time_and_ends_with_all(part):
    score, bars, strokes = part
    made = orders.limbs(score, bars, strokes)
    counts = [len({s.limb for s in own}) for _, own in made]
    assert counts == list(range(1, len(counts) + 1))
    assert spots(made[-1][1]) == spots(strokes)
    assert grows(made)


def test_what_keeps_the_time_is_the_first_limb(part):
    score, bars, strokes = part
    first = orders.limbs(score, bars, strokes)[0][1]
    if any(KIT[s.part].role == "time" for s in strokes):
        assert any(KIT[s.part].role == "time" for s in first)


def test_the_hands_come_before_any_foot(part):
    score, bars, strokes = part
    made = orders.hands(score, bars, strokes)
    assert all(s.limb[1] == "H" for s in made[0][1])
    assert grows(made)


def test_what_is_steady_is_one_limb_and_grows_to_the_whole(part):
    score, bars, strokes = part
    made = orders.steady(score, bars, strokes)
    assert len({s.limb for s in made[0][1]}) == 1
    assert grows(made) and spots(made[-1][1]) == spots(strokes)


def test_a_skeleton_has_no_ornaments_and_is_clothed_step_by_step(part):
    score, bars, strokes = part
    made = orders.skeleton(score, bars, strokes)
    assert not any(s.ornament for _, own in made for s in own)
    assert all(spots(a) <= spots(b) for (_, a), (_, b) in pairwise(made))


def test_the_hard_place_widens_till_its_bar(part):
    score, bars, strokes = part
    made = orders.zoom(score, bars, strokes)
    assert made[0][0].startswith("The hard place: beat ")
    assert all(spots(a[1]) <= spots(b[1]) for a, b in pairwise(made))
    assert len({s.bar for _, own, *_ in made for s in own}) == 1


def test_the_hard_place_goes_round_without_silent_beats(part):
    """Seven beats of silence behind one of music are no loop."""
    score, bars, _strokes = part
    total = sum(score.meters[b - 1].beats for b in bars)
    steps = stages.plan(score, bars, "zoom")
    hard = steps[0]
    assert hard.title.startswith("The hard place") and hard.beats == min(2, total)
    assert sum(m.beats for m in hard.score.meters) == hard.beats
    assert {s.id for s in hard.strokes} == set(hard.score.strokes)
    for step in steps:
        for s in step.score.strokes.values():
            bar, place = stages.on_song(step, score.meters, bars[0], s.bar, s.place)
            known = next(x for x in step.strokes if x.id == s.id)
            assert (bar, place) == (known.bar, known.place)
    assert steps[-1].title == "All of it" and steps[-1].beats == total


def test_an_order_that_finds_nothing_to_order_says_why():
    score = with_limbs(count.read("tempo: 90\nhat: 8ths"))
    made = stages.plan(score, [1], "limbs")
    assert len(made) == 1
    assert stages.why_single(score, [1], "limbs", made).startswith("“Limb by limb” finds nothing")
    assert stages.why_single(score, [1], "whole", made) == ""


def test_with_and_without_come_in_turn(part):
    score, bars, strokes = part
    made = orders.without(score, bars, strokes)
    if len(made) > 1:
        assert [t.split()[0] for t, _ in made] == ["Without", "With"] * (len(made) // 2)
        for (short, less), (long, more) in zip(made[::2], made[1::2], strict=True):
            assert short.split(maxsplit=1)[1] == long.split(maxsplit=1)[1]
            assert len(less) <= len(more) == len(strokes)


def test_a_fill_turned_round_changes_the_hands_and_nothing_else(part):
    score, bars, strokes = part
    made = dict(orders.fill(score, bars, strokes))
    assert spots(made["The fill"]) == spots(strokes)
    turned = next((own for t, own in made.items() if t.startswith("Turned round")), None)
    if turned is not None:
        for a, b in zip(strokes, turned, strict=True):
            assert (a.bar, a.place, a.part) == (b.bar, b.place, b.part)
            assert (a.limb == b.limb) == (a.limb[1] == "F")
    one = made.get("On the snare alone")
    if one is not None:
        hands = [s for s in one if s.limb[1] == "H"]
        assert {s.part for s in hands} == {"snare"}
        assert len({(s.bar, s.place) for s in hands}) == len(hands)
        assert {(s.bar, s.place) for s in hands} == {
            (s.bar, s.place) for s in strokes if s.limb[1] == "H"
        }


def test_half_the_density_is_a_part_of_the_fill(part):
    score, bars, strokes = part
    made = dict(orders.fill(score, bars, strokes))
    coarse = made.get("At half its density")
    if coarse is not None:
        assert spots(coarse) < spots(strokes)


def test_the_accent_or_opening_stands_at_one_place_only(part):
    score, bars, strokes = part
    made = orders.moved(score, bars, strokes)
    first = [s for s in strokes if s.bar == bars[0]]
    is_open = any(s.part == "hat_open" for s in first)
    assert len({t for t, _ in made}) == len(made)
    for title, own in made:
        assert len(own) == len(first)
        if is_open:
            assert title.startswith("The hat open on ")
            assert sum(s.part == "hat_open" for s in own) == 1
        else:
            places = {
                s.place
                for s in own
                if s.dynamic == "accent" and s.limb[1] == "H" and KIT[s.part].role != "time"
            }
            hands = [s for s in first if s.limb[1] == "H" and KIT[s.part].role != "time"]
            assert len(places) == 1 or not hands


def test_round_a_crash_the_crash_is_always_there(part):
    score, bars, strokes = part
    made = orders.crash(score, bars, strokes)
    if any(KIT[s.part].layer == "crashes" for s in strokes):
        assert made[0][0].startswith("The crash and what comes behind it")
        assert all(any(KIT[s.part].layer == "crashes" for s in own) for _, own, *_ in made)


@pytest.mark.parametrize("order", [orders.core, orders.chance, orders.energy])
def test_the_core_comes_first_and_stays(part, order):
    score, bars, strokes = part
    made = order(score, bars, strokes)
    core = {(s.place, s.part) for s in made[0][1]}
    for _, own in made:
        assert core <= {(s.place, s.part) for s in own}
        assert spots(own) <= spots(strokes)


def test_the_core_with_all_its_options_is_the_part(part):
    score, bars, strokes = part
    made = orders.core(score, bars, strokes)
    assert spots(made[-1][1]) == spots(strokes)
    assert grows(made)


def test_lots_are_the_same_for_the_same_bars(part):
    score, bars, strokes = part
    assert orders.chance(score, bars, strokes) == orders.chance(score, bars, strokes)


def test_energy_rises_to_all_in_the_last_bar_and_falls_to_none(part):
    score, bars, strokes = part
    made = dict(orders.energy(score, bars, strokes))
    rising = next((own for t, own in made.items() if t.startswith("Rising")), None)
    if rising is None:
        return
    falling = next(own for t, own in made.items() if t.startswith("Falling"))
    core = made["What the bars have in common"]
    of = lambda own, bar: {x for x in spots(own) if x[0] == bar}  # noqa: E731
    assert of(rising, bars[-1]) == of(strokes, bars[-1])
    assert of(rising, bars[0]) == of(core, bars[0])
    assert of(falling, bars[0]) == of(strokes, bars[0])
    assert of(falling, bars[-1]) == of(core, bars[-1])


def test_every_variation_comes_once(part):
    score, bars, strokes = part
    made = orders.variations(score, bars, strokes)
    signs = [frozenset((s.place, s.part, s.dynamic) for s in own) for _, own in made]
    assert len(set(signs)) == len(signs)
    every = {frozenset((s.place, s.part, s.dynamic) for s in strokes if s.bar == b) for b in bars}
    assert set(signs) == every - {frozenset()}


def test_hands_over_feet_are_patterns_that_exist(part):
    score, bars, strokes = part
    made = orders.transform(score, bars, strokes)
    assert 1 <= len(made) <= 6
    for kind in "HF":
        known = [
            {(s.place, s.part) for s in strokes if s.bar == b and s.limb[1] == kind} for b in bars
        ]
        for _, own in made:
            assert len({s.bar for s in own}) == 1
            assert {(s.place, s.part) for s in own if s.limb[1] == kind} in known


def test_what_comes_back_is_true_and_short(part):
    score, bars, strokes = part
    told = orders.recurring(score, bars, strokes)
    assert len(told) <= 4
    for says in told:
        if says.startswith("Bar"):
            later, earlier = (int(w) for w in says.replace(":", "").split() if w.isdigit())
            sign = lambda b: {(s.place, s.part, s.dynamic) for s in strokes if s.bar == b}  # noqa: E731
            assert earlier < later and sign(earlier) == sign(later)
