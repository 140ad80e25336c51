"""How sure a stroke is by its song: company, sameness and rivals speak; a lonely sound does not."""

from types import SimpleNamespace

import numpy as np
import pytest

from orchesis.hearing import judging, stroke_features
from orchesis.hearing.spectrum import BANDS
from orchesis.hearing.types import Beat, Hit

FRAMES = 6000


def hit(time, part="snare", confidence=0.6):
    return Hit(time, part, 0.7, confidence, level=-6.0)


BEATS = tuple(Beat(0.5 * k, k // 4 + 1, k % 4 + 1) for k in range(113))


def groove(until=40.0, confidence=0.9):
    """Kick, snare and hats from 2 s on."""
    made = []
    for k in range(8, int(until * 4)):
        t = 0.25 * k
        made.append(hit(t, "hat_closed", confidence))
        if k % 4 == 0:
            made.append(hit(t, ("kick", "snare")[k // 4 % 2], confidence))
    return made


def sound(drums_until=40.0):
    """A spectrum in which drums and band are as loud as each other until the drums stop."""
    bands = np.full((FRAMES, BANDS), 0.5, np.float32)
    mask = np.full((FRAMES, BANDS), 0.5, np.float16)
    mask[round(drums_until * 100) :] = 0.02
    return SimpleNamespace(bands=bands, frames=FRAMES), SimpleNamespace(mask=mask)


def judged(hits):
    spectrum, activity = sound()
    return judging.judged(hits, [h.confidence for h in hits], spectrum, activity, BEATS)


def test_strokes_of_a_groove_stay_written_and_a_lonely_sound_is_none():
    lonely = [hit(48.13, "crash", 0.45), hit(52.7, "snare", 0.45)]
    found = judged(groove() + lonely)
    assert np.mean([h.confidence >= judging.WRITTEN for h in found[:-2]]) > 0.98
    assert all(h.confidence < judging.WRITTEN for h in found[-2:])


def test_a_faint_stroke_at_the_place_of_clear_ones_is_surer_than_one_beside_them():
    there, beside = hit(21.0, "snare", 0.4), hit(20.13, "snare", 0.4)
    kept = [h for h in groove() if not (h.part == "snare" and abs(h.time - 21) < 0.1)]
    first, second = (judged([*kept, h])[-1].confidence for h in (there, beside))
    assert first > second + 0.1


def test_nothing_to_judge_is_no_fault():
    assert judged([]) == []
    assert len(judged([hit(1.0)])) == 1


def test_the_surest_within_reach_is_found_for_each_moment():
    times, sure = np.array([1.0, 1.02, 3.0]), np.array([0.4, 0.8, 0.6])
    moments = np.array([[1.01, 2.0], [2.97, 3.05]])
    assert stroke_features._surest(times, sure, moments).tolist() == [[0.8, 0.0], [0.6, 0.0]]


def test_company_is_another_part_at_the_same_moment():
    kinds = np.array([0, 1, 1])
    clear = np.array([2.0, -1.0, 3.0])
    found = stroke_features._company(kinds, np.array([1.0, 1.01, 5.0]), clear)
    assert found.tolist() == pytest.approx([-1.0, 2.0, -4.0])


def test_every_family_has_weights_for_every_column():
    spectrum, activity = sound()
    hits = groove(6.0)
    first = judging.first_look(hits, np.full(len(hits), 0.5), spectrum, activity, BEATS)
    second = judging.second_look(hits, np.full(len(hits), 0.5), BEATS)
    for look, rows in (("first", first), ("second", second)):
        known = judging.weights()[look]
        assert set(known) == {*stroke_features.FAMILIES.values(), stroke_features.OTHER}
        assert {len(w) for w in known.values()} == {rows.shape[1]}
        assert np.isfinite(rows).all()


KINDS = judging.kinds_of([hit(1, "kick"), hit(1, "tom_high"), hit(1, "crash")])


def test_the_songs_word_is_drawn_half_way_to_what_is_heard():
    kick, *_ = judging.weighed(np.array([0.9] * 3), np.array([0.1] * 3), KINDS)
    assert kick == pytest.approx(0.5)
    sure, *_ = judging.weighed(np.array([0.9] * 3), np.array([0.7] * 3), KINDS)
    assert 0.7 < sure < 0.9


@pytest.mark.parametrize(("trust", "expected"), [(0.0, 0.2), (1.0, 0.8)])
def test_other_weights_can_be_tried(trust, expected):
    kick, *_ = judging.weighed(np.array([0.8] * 3), np.array([0.2] * 3), KINDS, trust)
    assert kick == pytest.approx(expected)


def test_toms_and_crashes_are_rather_written():
    kick, tom, crash = judging.weighed(np.array([0.35] * 3), np.array([0.35] * 3), KINDS)
    assert kick < judging.WRITTEN < crash < tom


@pytest.mark.parametrize(("heard", "is_written"), [(0.03, False), (0.09, False), (0.11, True)])
def test_the_song_alone_makes_no_stroke_of_what_is_hardly_heard(heard, is_written):
    tom = judging.weighed(np.array([0.97] * 3), np.array([heard] * 3), KINDS)[1]
    assert (tom >= judging.WRITTEN) == is_written
    assert tom > judging.KEPT  # it stays among what is perhaps there


def test_what_is_hardly_heard_is_no_surer_than_its_song_says():
    kick, *_ = judging.weighed(np.array([0.05] * 3), np.array([0.05] * 3), KINDS)
    assert kick == pytest.approx(0.05)
