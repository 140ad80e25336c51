"""The second pass: repetition raises what recurs, lowers what is lonely, invents nothing."""

import numpy as np
import pytest

from orchesis.hearing import repetition
from orchesis.hearing.hits import written
from orchesis.hearing.network import CLASSES, heard_class
from orchesis.hearing.repetition import Bars, by_repetition, evidence
from orchesis.hearing.types import Beat, Hit

BARS, PERIOD = 12, 0.5
BEATS = tuple(Beat(PERIOD * k, k // 4 + 1, k % 4 + 1) for k in range(4 * BARS + 1))


def at(bar, beat, part="snare", sure=0.95):
    return Hit(round(2.0 * bar + PERIOD * beat, 3), part, 0.8, sure)


def groove(bars=range(BARS)):
    made = []
    for b in bars:
        made += [at(b, 0, "kick"), at(b, 2, "kick"), at(b, 1), at(b, 3)]
        made += [at(b, k / 2, "hat_closed") for k in range(8)]
    return made


def heard(hits, faint=()):
    """What the ears heard: each hit as strongly as it is sure, and what is no candidate."""
    strength = np.full((int(100 * PERIOD * 4 * BARS) + 100, len(CLASSES)), 0.01)
    for h in (*hits, *faint):
        strength[round(100 * h.time), CLASSES.index(heard_class(h.part))] = h.confidence
    return strength


def now(hits, like, faint=()):
    found = by_repetition(hits, BEATS, heard(hits, faint))
    return next(h for h in found if (h.time, h.part) == (like.time, like.part))


def test_a_weak_ghost_that_recurs_is_raised():
    weak = at(5, 1.75, sure=0.35)
    others = [at(b, 1.75, sure=0.9) for b in range(BARS) if b != 5]
    raised = now([*groove(), *others, weak], weak)
    assert raised.confidence > weak.confidence + 0.03 and written([raised], again=True)


def test_what_is_too_faint_in_every_bar_to_be_a_stroke_speaks_for_a_weak_one():
    weak = at(5, 1.75, sure=0.3)
    faint = [at(b, 1.75, sure=0.25) for b in range(BARS) if b != 5]
    alone = now([*groove(), weak], weak)
    assert now([*groove(), weak], weak, faint).confidence > alone.confidence + 0.05


def test_a_lonely_weak_stroke_is_lowered():
    lonely = at(5, 2.25, sure=0.5)
    assert now([*groove(), lonely], lonely).confidence < 0.45


def test_a_sure_lonely_stroke_stays_written():
    lonely = at(5, 2.25, sure=0.97)
    assert written([now([*groove(), lonely], lonely)], again=True)


def test_what_moved_by_a_tenth_is_marked(monkeypatch):
    weights = {"again": [0.0, 0.0, 0.0, 1.0, 0.0, 0.0]}  # only what was heard in like bars
    monkeypatch.setattr(repetition, "tuned", lambda: dict.fromkeys(CLASSES, weights))
    hits = groove()
    weak, sure = at(5, 1.75, sure=0.9), hits[0]
    found = {(h.time, h.part): h for h in by_repetition([*hits, weak], BEATS, heard([*hits, weak]))}
    assert found[weak.time, "snare"].recalled and found[weak.time, "snare"].confidence < 0.1
    assert not found[sure.time, "kick"].recalled


def test_nothing_is_added_and_nothing_moves():
    given = [h for h in groove() if h != at(5, 3)]
    found = by_repetition(given, BEATS, heard(given))
    assert [(h.time, h.part, h.loudness) for h in found] == [
        (h.time, h.part, h.loudness) for h in given
    ]


def test_bars_of_another_length_say_nothing():
    beats = [Beat(PERIOD * k, k // 4 + 1, k % 4 + 1) for k in range(20)]
    beats += [Beat(10 + PERIOD * k, 6 + k // 3, k % 3 + 1) for k in range(4)]
    weak = Hit(10 + 0.875, "snare", 0.5, 0.4)
    given = [*groove(range(5)), *[at(b, 1.75, sure=0.9) for b in range(5)], weak]
    assert by_repetition(given, tuple(beats), heard(given))[-1] == weak


@pytest.mark.parametrize("bars", [0, 1, 3])
def test_a_few_bars_are_no_repetition(bars):
    given = [*groove(range(bars)), at(0, 1.75, sure=0.3)]
    beats = BEATS[: 4 * bars + 1]
    assert by_repetition(given, beats, heard(given)) == given
    assert by_repetition([], BEATS, heard([])) == []


def test_the_same_place_is_meant_in_milliseconds_not_in_cells():
    weak = at(5, 1.75, sure=0.35)
    off = [at(b, 1.75 + 0.2, sure=0.9) for b in range(BARS) if b != 5]
    rows = evidence([*groove(), *off, weak], BEATS, heard([*groove(), *off, weak]))
    assert rows[-1, 3] < -4  # in like bars nothing was heard at that place


def test_evidence_counts_its_own_bar_once_and_like_bars_only():
    weak = at(5, 1.75, sure=0.35)
    faint = [at(b, 1.75, sure=0.25) for b in range(BARS) if b != 5]
    given = [*groove(), weak]
    one, sure, own, mean, low, _ = evidence(given, BEATS, heard(given, faint))[-1]
    assert one == 1
    assert sure == own == pytest.approx(np.log(0.35 / 0.65))
    assert [mean, low] == pytest.approx([np.log(0.25 / 0.75)] * 2)


def test_a_place_is_found_again_where_the_tempo_drifts():
    times = np.cumsum([0.0, *np.linspace(0.5, 0.7, 32)])
    bars = Bars(tuple(Beat(float(t), k // 4 + 1, k % 4 + 1) for k, t in enumerate(times)))
    moment = np.array([times[9] + 0.25 * (times[10] - times[9])])
    bar, beat, part = bars.places(moment)
    assert (bar[0], beat[0]) == (2, 1) and part[0] == pytest.approx(0.25)
    there = bars.moments(np.array([0, 2, 7]), 1, 0.25)
    assert there[1] == pytest.approx(moment[0])
    assert there[2] == pytest.approx(times[29] + 0.25 * (times[30] - times[29]))


def test_a_stroke_just_before_the_one_belongs_to_the_bar_it_leans_on():
    bars = Bars(BEATS)
    bar, beat, part = bars.places(np.array([3.985, 3.9]))
    assert bar.tolist() == [2, 1]
    assert beat.tolist() == [0, 3]
    assert part[0] == pytest.approx(-0.03) and part[1] == pytest.approx(0.8)
