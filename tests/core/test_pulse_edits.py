"""Corrections of the pulse: what moves, what stays, and that nothing a person wrote is lost."""

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from orchesis.errors import BadEdit
from orchesis.formats import count
from orchesis.score import Cue, Meter, PulseMap, Score, UnplacedStroke
from orchesis.score.patches import patched
from tests.core.test_edits import text_of
from tests.edits import apply, timed
from tests.songs import ROCK

HEARD = Score.from_json(timed(count.read(ROCK)).to_json())
FOUR = Meter(4, 4)


def edit(score, operation, **args):
    return apply(score, operation, args)[0]


def sizes(score):
    return [m.beats for m in score.meters]


def test_this_is_one_shifts_the_whole_run_and_keeps_the_moments():
    shifted = edit(HEARD, "set_one", bar=5, beat=3)
    moments = {s.time for s in HEARD.strokes.values()}
    assert {s.time for s in shifted.strokes.values()} == moments
    assert shifted.seconds(2) == pytest.approx(HEARD.seconds(1, 2))
    assert set(sizes(shifted)) == {4}
    back = edit(shifted, "set_one", bar=5, beat=3)
    assert back.seconds(1) == pytest.approx(HEARD.seconds(1))
    assert text_of(back, 1, "snare") == ["1", "3"]


def felt(score):
    """The score with the 1s that hearing would have felt in it."""
    ones = tuple((round(score.seconds(b), 2), 0.9) for b in range(1, score.bar_count + 1))
    last = max(s.time for s in score.strokes.values())
    return replace(score, ones=ones, sounding=(0.0, last))


def test_a_song_heard_at_half_its_tempo_finds_its_bars_again():
    truth = felt(HEARD)
    wrong = replace(edit(HEARD, "halve_tempo"), ones=truth.ones, sounding=truth.sounding)
    right = edit(wrong, "double_tempo")
    assert set(sizes(right)) == {4}
    assert right.pulse.times == pytest.approx(truth.pulse.times)
    assert {(s.bar, s.place) for s in right.strokes.values()} == {
        (s.bar, s.place) for s in truth.strokes.values()
    }


def test_undo_keeps_what_hearing_felt():
    truth = felt(HEARD)
    wrong, _, back = apply(truth, "halve_tempo", {})
    again = patched(wrong, back)
    assert (again.ones, again.sounding) == (truth.ones, truth.sounding)
    assert again.pulse.times == pytest.approx(truth.pulse.times, abs=1e-5)
    assert type(truth).from_json(truth.to_json()).ones == truth.ones


def test_halving_keeps_the_beats_on_which_ones_fall():
    truth = felt(HEARD)
    times = truth.pulse.times
    between = [t for a, b in pairwise(times) for t in (a, (a + b) / 2)]
    lead = [times[0] - (times[1] - times[0]) / 2]
    wrong = replace(
        truth,
        pulse=PulseMap.of([*lead, *between]),
        meters=(FOUR,) * (2 * truth.bar_count),
        strokes={},
    )
    right = edit(wrong, "halve_tempo")
    assert right.seconds(3) == pytest.approx(truth.seconds(3))
    assert set(sizes(right)) == {4}


def test_bars_before_the_drums_stay_where_the_music_sounds():
    late = felt(HEARD)
    late = late.with_strokes(s for s in late.strokes.values() if s.bar > 3)
    assert edit(late, "shift_one", beats=4).bar_count == HEARD.bar_count
    assert edit(late, "shift_one", beats=1).seconds(1) <= 0.0


def test_this_is_one_between_other_meters_leaves_the_rest_of_a_bar():
    mixed = edit(HEARD, "set_meter", meter="3/4", bar=5, last=8)
    assert sizes(mixed)[:5] == [4, 4, 4, 4, 3]
    shifted = edit(mixed, "set_one", bar=6, beat=2)
    assert sizes(shifted)[:4] == [4] * 4 and 1 in sizes(shifted)
    assert sum(sizes(shifted)) >= sum(sizes(mixed))
    assert shifted.seconds(5) == pytest.approx(mixed.seconds(5))


def test_a_meter_holds_from_a_bar_on_to_the_end():
    score = edit(HEARD, "set_meter", meter="3/4", bar=9)
    assert sizes(score)[:9] == [4] * 8 + [3]
    assert set(sizes(score)[8:]) == {3}
    assert score.seconds(9) == pytest.approx(HEARD.seconds(9))


def test_a_meter_for_some_bars_leaves_those_behind_on_their_moments():
    score = edit(HEARD, "set_meter", meter="2/4", bar=4, last=4)
    assert sizes(score)[3:5] == [2, 2]
    assert score.seconds(6) == pytest.approx(HEARD.seconds(5))


def test_six_eight_counts_its_beats_in_twos():
    score = edit(HEARD, "set_meter", meter="6/8")
    assert set(sizes(score)) == {2} and str(score.meters[0]) == "6/8"


def test_a_beat_more_shifts_every_one_behind_it():
    score = edit(HEARD, "insert_beat", bar=3, beat=2)
    assert score.seconds(3) == pytest.approx(HEARD.seconds(3))
    assert score.seconds(4) == pytest.approx(HEARD.seconds(3, 3))
    back = edit(score, "remove_beat", bar=3, beat=3)
    assert back.seconds(4) == pytest.approx(HEARD.seconds(4))


def test_a_dragged_beat_takes_its_neighbours_along_but_not_the_far_ones():
    target = HEARD.seconds(4, 1) + 0.08
    score = edit(HEARD, "drag_beat", bar=4, beat=2, seconds=target)
    moved = np.array(score.pulse.times) - np.array(HEARD.pulse.times)
    at = 13
    assert moved[at] == pytest.approx(0.08)
    assert 0.03 < moved[at + 1] < 0.08 and 0.03 < moved[at - 1] < 0.08
    assert np.abs(moved[at + 4 :]).max() < 1e-9 and np.abs(moved[: at - 3]).max() < 1e-9


def test_a_beat_is_not_drawn_past_its_neighbour():
    with pytest.raises(BadEdit, match="past its neighbours"):
        edit(HEARD, "drag_beat", bar=4, beat=2, seconds=HEARD.seconds(5, 3))


def test_half_a_beat_and_back():
    later = edit(HEARD, "shift_half", later=True)
    assert later.seconds(1) == pytest.approx(HEARD.seconds(1) + 0.3)
    back = edit(later, "shift_half", later=False)
    assert back.seconds(3) == pytest.approx(HEARD.seconds(3), abs=0.01)


@pytest.mark.parametrize(("factor", "bpm"), [("3/2", 150), ("2/3", 66.7), ("2", 200)])
def test_three_against_two_is_another_tempo(factor, bpm):
    assert edit(HEARD, "retime", factor=factor).pulse.tempo()[0] == pytest.approx(bpm, rel=0.01)


def test_taps_along_with_the_song_keep_what_was_right():
    beats = [HEARD.seconds(5, k) + 0.03 for k in range(12)]  # a hand that is 30 ms late
    score = edit(HEARD, "tap", taps=beats)
    assert np.abs(np.array(score.pulse.times) - np.array(HEARD.pulse.times)).max() < 0.02
    assert sizes(score) == sizes(HEARD)
    assert text_of(score, 7, "snare") == ["1", "3"]


def test_taps_at_another_tempo_are_followed_through_the_song():
    wrong = edit(HEARD, "double_tempo")
    taps = [HEARD.seconds(5, 2 * k) + 0.01 for k in range(10)]  # half notes: 50 a minute
    score = edit(wrong, "tap", taps=taps)
    assert score.pulse.tempo()[0] == pytest.approx(50, rel=0.03)
    assert score.bar_count <= 10


def test_taps_that_keep_the_period_keep_the_meters_too():
    mixed = edit(HEARD, "set_meter", meter="2/4", bar=3, last=3)
    taps = [mixed.seconds(8, k) + 0.02 for k in range(10)]
    score = edit(mixed, "tap", taps=taps)
    assert sizes(score) == sizes(mixed)
    assert text_of(score, 9, "snare") == text_of(mixed, 9, "snare")


@pytest.mark.parametrize("phase", [1, 2, 3])
def test_a_tempo_put_right_finds_its_one_by_what_is_struck(phase):
    """Heard at half the tempo from any beat on, doubled: kicks and crashes tell the 1."""
    slow = replace(
        HEARD,
        meters=(FOUR,) * 7,
        sections=HEARD.sections[:1],
        pulse=HEARD.pulse.of([HEARD.pulse.seconds(phase + 2 * k) for k in range(29)]),
    )
    score = edit(slow, "double_tempo")
    bars = [score.seconds(b) for b in range(1, score.bar_count + 1)]
    assert min(abs(t - HEARD.seconds(9)) for t in bars) < 0.02


def test_notes_go_with_their_bars():
    noted = edit(
        edit(HEARD, "note_bar", bar=9, note="chorus lifts"), "note_bar", bar=10, note="stay low"
    )
    halved = edit(noted, "halve_tempo")
    assert halved.notes == {5: "chorus lifts"}
    assert [w.text for w in halved.aside_words] == ["stay low"]
    shifted = edit(noted, "insert_beat", bar=1, beat=1)
    assert set(shifted.notes.values()) == {"chorus lifts", "stay low"}


@pytest.mark.parametrize(
    ("taps", "says"),
    [
        ([1, 2, 3], "Tap 8 to 5000 beats; these are 3"),
        ([0, 0.5, 1.5, 2, 3.6, 4, 4.4, 6], "uneven"),
        ("soon", "can't be the “taps”"),
    ],
)
def test_taps_that_make_no_pulse_are_told(taps, says):
    with pytest.raises(BadEdit, match=says):
        edit(HEARD, "tap", taps=taps)


def test_locked_bars_keep_their_beats():
    locked = edit(HEARD, "lock", bar=9, last=12)
    for operation, args in (
        ("halve_tempo", {}),
        ("shift_one", {"beats": 1}),
        ("set_one", {"bar": 10, "beat": 2}),
        ("insert_beat", {"bar": 9, "beat": 1}),
        ("shift_half", {"later": True}),
    ):
        with pytest.raises(BadEdit, match="locked"):
            edit(locked, operation, **args)
    score = edit(locked, "insert_beat", bar=3, beat=1)
    at = [t for t in HEARD.pulse.times if HEARD.seconds(9) <= t <= HEARD.seconds(13)]
    assert set(at) <= set(score.pulse.times)
    bars = [score.seconds(b) for b in range(1, score.bar_count + 1)]
    assert min(abs(t - HEARD.seconds(9)) for t in bars) < 1e-6
    shifted = edit(locked, "set_one", bar=4, beat=3)
    assert (
        min(abs(shifted.seconds(b) - HEARD.seconds(9)) for b in range(1, shifted.bar_count)) < 1e-6
    )
    free = edit(locked, "unlock", bar=10)
    assert free.locked == () and edit(free, "halve_tempo").bar_count == 8


def test_locks_that_touch_become_one():
    score = edit(edit(HEARD, "lock", bar=3, last=4), "lock", bar=5, last=6)
    assert score.locked == ((HEARD.seconds(3), HEARD.seconds(7)),)
    with pytest.raises(BadEdit, match="not locked"):
        edit(score, "unlock", bar=9)


def test_confirmed_bars_keep_their_places_of_the_bar():
    confirmed = edit(HEARD, "confirm_bars", bar=6, last=6, confirmed=True)
    places = {s.id: s.place for s in confirmed.strokes.values() if s.bar == 6}
    dragged = edit(confirmed, "drag_beat", bar=6, beat=3, seconds=confirmed.seconds(6, 2) + 0.2)
    assert dragged.confirmed == {6}
    assert {k: dragged.strokes[k].place for k in places} == places


def test_a_confirmed_bar_takes_no_strokes_of_its_neighbours():
    confirmed = edit(HEARD, "confirm_bars", bar=6, last=6, confirmed=True)
    own = {s.id for s in confirmed.strokes.values() if s.bar == 6}
    shifted = edit(confirmed, "shift_one", beats=1)
    [bar] = shifted.confirmed
    assert {s.id for s in shifted.strokes.values() if s.bar == bar} == own
    waiting = {a.stroke.id for a in shifted.aside}
    assert waiting and {*shifted.strokes, *waiting} >= set(HEARD.strokes)
    back = edit(shifted, "shift_one", beats=-1)
    assert not back.aside and set(back.strokes) == set(HEARD.strokes)


def test_a_persons_stroke_that_loses_its_place_is_set_aside_and_can_return():
    mine = edit(HEARD, "add_stroke", id="mine", bar=7, place="1/4", part="cowbell", limb="RH")
    sure = edit(mine, "confirm_bars", bar=6, last=6, confirmed=True)
    shifted = edit(sure, "shift_one", beats=1)  # the confirmed bar lies over the place now
    assert "mine" not in shifted.strokes
    [aside] = [a for a in shifted.aside if a.stroke.id == "mine"]
    assert aside.moment == pytest.approx(HEARD.seconds(7, Fraction(1, 4)), abs=1e-3)
    back = edit(shifted, "put_back", id="mine", bar=2, place="1/4")
    assert back.strokes["mine"].placed_by == "person" and not {"mine"} & {
        a.stroke.id for a in back.aside
    }
    early = edit(HEARD, "add_stroke", id="last", bar=16, place="15/4", part="cowbell", limb="RH")
    short = edit(early, "remove_beat", bar=15, beat=2)
    everything = {*short.strokes, *(a.stroke.id for a in short.aside)}
    assert set(early.strokes) <= everything


def test_what_is_set_aside_is_put_back_or_given_up():
    stroke = next(iter(HEARD.strokes.values())).changed(id="x", part="cowbell")
    score = replace(HEARD, aside=(UnplacedStroke(stroke, 1.0),))
    back = edit(score, "put_back", id="x", bar=3, place="1/2")
    assert back.aside == () and back.strokes["x"].bar == 3
    assert edit(score, "drop_aside", id="x").aside == ()
    with pytest.raises(BadEdit, match="not set aside"):
        edit(HEARD, "drop_aside", id="x")


def test_what_was_never_measured_stays_so_whatever_the_pulse_does():
    written = count.read(ROCK)
    heard_hat = {k: s for k, s in HEARD.strokes.items() if s.part == "hat_closed"}
    mixed = replace(HEARD, strokes={**written.strokes, **heard_hat})
    for name, args in (
        ("drag_beat", {"bar": 3, "beat": 1, "seconds": mixed.seconds(3) + 0.05}),
        ("halve_tempo", {}),
        ("shift_one", {"beats": 1}),
        ("set_meter", {"meter": "3/4"}),
    ):
        new = edit(mixed, name, **args)
        measured = {k for k, s in new.strokes.items() if s.measured}
        assert measured == set(heard_hat) & set(new.strokes), name


def test_a_stroke_that_a_person_moved_keeps_its_place_and_its_measure():
    kick = next(s for s in HEARD.strokes_of(3) if s.part == "kick" and s.place == 2)
    moved = edit(HEARD, "move_stroke", id=kick.id, bar=3, place="5/2")
    there = edit(moved, "double_tempo")
    stroke = there.strokes[kick.id]
    assert there.seconds(stroke.bar, stroke.place) == pytest.approx(
        moved.seconds(3, Fraction(5, 2))
    )
    assert stroke.measured == kick.measured and stroke.placed_by == "person"


def test_cues_and_notes_come_through_halving_and_doubling_whole():
    cues = {
        b: Cue((Fraction(0), Fraction(b % 4), Fraction(7, 2)), f"riff {b}") for b in range(1, 17)
    }
    notes = {b: f"note {b}" for b in range(1, 17)}
    cues = {b: replace(c, places=tuple(sorted(set(c.places)))) for b, c in cues.items()}
    score = replace(HEARD, cues=cues, notes=notes)
    halved = edit(score, "halve_tempo")
    rhythm = sum(len(c.places) for c in halved.cues.values())
    assert rhythm == sum(len(c.places) for c in cues.values())
    assert len(halved.notes) == 8 and len(halved.aside_words) == 16
    assert not any(";" in n for n in halved.notes.values()), "no two notes are joined unasked"
    back = edit(halved, "double_tempo")
    assert (back.cues, back.notes, back.aside_words) == (cues, notes, ())


def test_words_set_aside_are_put_back_where_a_person_wants_them():
    halved = edit(replace(HEARD, notes={1: "soft", 2: "loud"}), "halve_tempo")
    [words] = halved.aside_words
    joined = edit(halved, "put_back_words", id=words.id, bar=1)
    assert joined.notes == {1: "soft; loud"} and not joined.aside_words
    assert not edit(halved, "drop_aside_words", id=words.id).aside_words
    with pytest.raises(BadEdit, match="not set aside"):
        edit(HEARD, "drop_aside_words", id=words.id)


def test_the_beat_that_closes_locked_bars_is_not_taken_away():
    locked = edit(HEARD, "lock", bar=1, last=8)
    with pytest.raises(BadEdit, match="closes locked bars"):
        edit(locked, "remove_beat", bar=9, beat=1)


PULSE = st.one_of(
    st.tuples(
        st.just("set_one"),
        st.fixed_dictionaries({"bar": st.integers(1, 12), "beat": st.integers(1, 4)}),
    ),
    st.tuples(
        st.just("set_meter"),
        st.fixed_dictionaries(
            {
                "meter": st.sampled_from(["2/4", "3/4", "4/4", "6/8", "7/8"]),
                "bar": st.integers(1, 12),
            }
        ),
    ),
    st.tuples(
        st.sampled_from(["insert_beat", "remove_beat"]),
        st.fixed_dictionaries({"bar": st.integers(1, 12), "beat": st.integers(1, 4)}),
    ),
    st.tuples(
        st.just("lock"),
        st.fixed_dictionaries({"bar": st.integers(1, 6), "last": st.integers(1, 9)}),
    ),
    st.tuples(st.sampled_from(["halve_tempo", "double_tempo"]), st.just({})),
    st.tuples(st.just("shift_half"), st.fixed_dictionaries({"later": st.booleans()})),
    st.tuples(
        st.just("confirm_bars"),
        st.fixed_dictionaries(
            {"bar": st.integers(1, 4), "last": st.integers(4, 6), "confirmed": st.just(True)}
        ),
    ),
)


@settings(max_examples=60)
@given(st.lists(PULSE, min_size=1, max_size=5))
def test_whatever_is_done_bars_and_sections_stay_whole_and_undo_is_exact(edits):
    score = edit(HEARD, "add_stroke", id="mine", bar=5, place="3/2", part="cowbell", limb="RH")
    for operation, args in edits:
        try:
            new, there, back = apply(score, operation, args)
        except BadEdit:
            continue
        assert patched(score, there).to_json() == new.to_json()
        assert patched(new, back).to_json() == score.to_json()
        assert all(a < b for a, b in pairwise(new.pulse.times))
        assert new.sections[0].first_bar == 1
        assert all(a.last_bar + 1 == b.first_bar for a, b in pairwise(new.sections))
        assert new.sections[-1].last_bar == new.bar_count
        assert all(s.place < new.meters[s.bar - 1].beats for s in new.strokes.values())
        assert "mine" in {*new.strokes, *(a.stroke.id for a in new.aside)}
        for start, end in new.locked:
            inside = [t for t in score.pulse.times if start <= t <= end]
            if operation != "lock":
                assert set(np.round(inside, 4)) <= set(np.round(new.pulse.times, 4))
        score = new
