"""Swing, placement, dynamics, looseness and tempo from strokes whose truth is known."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from materials import made_up_songs
from orchesis import explanations, feel
from orchesis.feel import voices
from orchesis.formats import count
from orchesis.score import Measured, Score
from orchesis.score.feel import Feel
from orchesis.score.swing import swung


def played(
    text: str, late: dict[str, float] | None = None, jitter: float = 0.0, seed: int = 5
) -> Score:
    """Count text played with the written swing, voices so many ms late."""
    rng = np.random.default_rng(seed)
    score = count.read(text)
    made = []
    for s in score.ordered():
        beat = score.bar_beats()[s.bar - 1] + swung(s.place, score.swing)
        off = (late or {}).get(voices.voice_of(s), 0.0) + rng.normal(0, jitter or 1e-9)
        made.append(s.changed(measured=Measured(0.5 + score.pulse.seconds(beat) + off / 1000)))
    from dataclasses import replace

    from orchesis.score import PulseMap

    pulse = PulseMap.of([t + 0.5 for t in score.pulse.times])
    return replace(score, pulse=pulse).with_strokes(made)


BEAT = "hat: {hat}" + " | =" * 7 + "\nsnare: 2.> (2a) 4.>" + " | =" * 7 + "\nkick: 1 3" + " | =" * 7


def whole(score: Score) -> Feel:
    return feel.read(score)[0]


@pytest.mark.parametrize("ratio", [0.56, 0.6, 0.67])
@pytest.mark.parametrize(("level", "hat"), [("sixteenth", "16ths"), ("eighth", "8ths")])
def test_the_ratio_of_a_swing_is_measured(level, hat, ratio):
    score = played(f"tempo: 92\nswing: {level} {ratio}\n" + BEAT.format(hat=hat), jitter=3)
    claimed = [s for s in whole(score).swing if s.claimed and s.who == "all"]
    assert [s.level for s in claimed] == [level]
    assert abs(claimed[0].ratio - ratio) < 0.01


@pytest.mark.parametrize("hat", ["8ths", "16ths"])
@pytest.mark.parametrize("late", [0.0, 12.0])
def test_straight_is_straight_even_when_a_limb_drags(hat, late):
    score = played("tempo: 92\n" + BEAT.format(hat=hat), {"backbeat": late, "ghosts": late}, 5)
    assert not any(s.claimed for s in whole(score).swing)
    assert any("straight" in s for s in explanations.feel(whole(score)))


def test_a_shuffle_written_in_triplets_is_told_as_one():
    text = "tempo: 100\nhat: 1 1l 2 2l 3 3l 4 4l" + " | =" * 7 + "\nsnare: 2 4" + " | =" * 7
    [claimed] = [s for s in whole(played(text, jitter=2)).swing if s.claimed and s.who == "all"]
    assert claimed.level == "eighth" and abs(claimed.ratio - 2 / 3) < 0.01


def test_few_pairs_claim_nothing():
    score = played("tempo: 92\nswing: eighth 0.62\nhat: 8ths\nkick: 1 3")
    assert not any(s.claimed for s in whole(score).swing)


def test_a_laid_back_backbeat_is_told_against_the_pulse_and_the_hand():
    found = whole(played("tempo: 90\n" + BEAT.format(hat="8ths"), {"backbeat": 11}, 3))
    own = {p.voice: p for p in found.placement}
    assert abs(own["backbeat"].ms - 11) < 2 and own["backbeat"].is_sure
    assert abs(own["kick"].ms) < 2
    [pair] = [t for t in found.together if (t.a, t.b) == ("backbeat", "time hand")]
    assert abs(pair.ms - 11) < 3
    assert any(
        s.startswith("Backbeat") and s.endswith("laid back.") for s in explanations.feel(found)
    )


def test_a_pushing_kick_is_told():
    found = whole(played("tempo: 90\n" + BEAT.format(hat="8ths"), {"kick": -9}, 2))
    assert any(s.startswith("Kick") and "pushes" in s for s in explanations.feel(found))


def test_placement_is_told_by_place_and_as_a_share_of_a_16th():
    found = whole(played("tempo: 100\n" + BEAT.format(hat="8ths"), {"backbeat": 15}))
    own = next(p for p in found.placement if p.voice == "backbeat")
    assert [p.place for p in own.places] == ["1", "3"]
    assert own.share == pytest.approx(15 / 150, abs=0.01)


def test_looseness_is_the_spread_of_a_limb():
    found = whole(played("tempo: 100\n" + BEAT.format(hat="16ths"), jitter=6))
    assert found.loose["RH"] == pytest.approx(6, rel=0.35)


def test_ghosts_and_the_hands_accents_are_told_in_decibels():
    score = played("tempo: 100\n" + BEAT.format(hat="8ths"))
    louder = [
        s.changed(loudness=0.8 if s.place % 1 == 0 else 0.6) if s.part == "hat_closed" else s
        for s in score.strokes.values()
    ]
    found = whole(score.with_strokes(louder))
    assert found.gaps["ghost"] == pytest.approx(40 * np.log10(0.3 / 0.95), abs=0.2)
    beats = [p.db for p in found.hand if Fraction(p.place).denominator == 1]
    ands = [p.db for p in found.hand if Fraction(p.place).denominator == 2]
    assert np.mean(beats) - np.mean(ands) == pytest.approx(40 * np.log10(0.8 / 0.6), abs=0.1)
    assert any("beats are" in s for s in explanations.feel(found))


def test_levels_are_taken_from_what_was_heard_where_it_is_known():
    score = played("tempo: 100\n" + BEAT.format(hat="8ths"))
    heard = {"kick": -30.0, "snare": -10.0}
    found = feel.read(
        score.with_strokes(
            s.changed(measured=Measured(s.time, heard.get(s.part, -20.0)))
            for s in score.strokes.values()
        )
    )[0]
    assert {x.layer: x.db for x in found.levels}["kick"] == -20.0
    assert any("feathered" in s for s in explanations.feel(found))


def test_a_fill_that_rushes_is_told():
    text = (
        "tempo: 100\nhat: "
        + " | ".join((["8ths"] * 3 + ["1 1& 2 2&"]) * 2)
        + "\nsnare: "
        + " | ".join((["2.> 4.>"] * 3 + ["2.> 3 3e 3& 3a 4 4e 4& 4a"]) * 2)
        + "\nkick: 1 3"
        + " | =" * 7
    )
    score = played(text)
    times = np.array(score.pulse.times)
    for bar in (4, 8):  # the last two beats of these bars are played five per cent faster
        start = score.bar_beats()[bar - 1] + 2
        gain = 0.05 / 1.05 * 0.6
        times[start + 1] -= gain
        times[start + 2 :] -= 2 * gain
    from dataclasses import replace

    from orchesis.score import PulseMap

    found = whole(replace(score, pulse=PulseMap.of(times.tolist())))
    assert [r.bar for r in found.rush] == [4, 8]
    assert all(r.percent == pytest.approx(5, abs=0.6) for r in found.rush)
    assert any("Fills rush" in s for s in explanations.feel(found))


def test_sections_have_feels_of_their_own():
    text = "tempo: 90\n== A\n" + BEAT.format(hat="8ths") + "\n== B\n" + BEAT.format(hat="8ths")
    score = played(text)
    late = [
        s.changed(measured=Measured(s.time + 0.012)) if s.bar > 8 and s.part == "snare" else s
        for s in score.strokes.values()
    ]
    _, a, b = feel.read(score.with_strokes(late))
    placed = [next(p.ms for p in f.placement if p.voice == "backbeat") for f in (a, b)]
    assert abs(placed[0]) < 1 and abs(placed[1] - 12) < 1
    assert len(a.points) == len([s for s in score.strokes.values() if s.bar <= 8])


def test_strokes_that_were_only_written_have_no_feel():
    found = whole(count.read("tempo: 90\n" + BEAT.format(hat="8ths")))
    assert found.placement == () and found.swing == () and found.points == ()


def test_the_feel_moves_each_stroke_by_its_voice_and_place():
    score = played("tempo: 90\n" + BEAT.format(hat="8ths"), {"backbeat": 10, "kick": -4})
    shift = feel.shifts(score)
    own = {s.part: shift(s) for s in score.strokes.values() if s.dynamic != "ghost"}
    assert own["snare"] == pytest.approx(0.010, abs=0.001)
    assert own["kick"] == pytest.approx(-0.004, abs=0.001)


@pytest.mark.parametrize("seed", [5, 11, 23])
def test_made_up_songs_are_measured_within_their_bounds(seed):
    made = made_up_songs.made_up(seed)
    found = whole(made.score)
    claimed = [s for s in found.swing if s.claimed and s.who == "all"]
    if made.swing[0] == "none":
        assert not claimed
    else:
        assert abs(claimed[0].ratio - made.swing[1]) < 0.02
    placed = next(p.ms for p in found.placement if p.voice == "backbeat")
    assert abs(placed - made.late) < 3
