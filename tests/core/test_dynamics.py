"""Ghost, normal, accent: what a drummer would write of strokes of measured loudness."""

from fractions import Fraction

import numpy as np
import pytest

from orchesis.placing import dynamics
from orchesis.score import Stroke

BARS = 8
QUARTERS = [Fraction(k) for k in range(4)]
EIGHTHS = [Fraction(k, 2) for k in range(8)]


def stroke(part, bar, place, loudness):
    return Stroke(f"{part}-{bar}-{place}", bar, Fraction(place), part, loudness=loudness)


def row(part, loudness, places=EIGHTHS, bars=BARS):
    """A stroke at each place of each bar; loudness: of a bar and a place."""
    return [stroke(part, b, p, loudness(b, p)) for b in range(1, bars + 1) for p in places]


def classes(strokes, wanted):
    """(bar, place) of the strokes that are of a class."""
    return {(s.bar, s.place) for s in dynamics.classed(strokes) if s.dynamic == wanted}


def on_beat(place):
    return place.denominator == 1


def test_the_pulse_of_a_hand_is_no_accent():
    hats = row("hat_closed", lambda _, p: 0.74 if on_beat(p) else 0.6)
    assert classes(hats, "accent") == set()


def test_what_comes_back_every_bar_is_one_accent_after_another():
    hats = row("hat_closed", lambda _, p: 0.92 if p in (0, 2) else 0.55)
    assert classes(hats, "accent") == {(b, p) for b in range(1, BARS + 1) for p in (0, 2)}


def test_an_accent_of_the_pattern_is_written_also_where_it_came_out_softer():
    hats = row("hat_closed", lambda b, p: (0.68 if b == 4 else 0.9) if p == 3 else 0.55)
    assert (4, 3) in classes(hats, "accent")


@pytest.mark.parametrize("part", ["hat_closed", "ride", "kick", "tom_floor"])
def test_one_stroke_a_little_louder_than_its_like_is_chance(part):
    strokes = row(part, lambda b, p: 0.8 if (b, p) == (3, 1) else 0.6)
    assert classes(strokes, "accent") == set()


@pytest.mark.parametrize("part", ["hat_closed", "ride", "kick", "tom_floor"])
def test_one_stroke_far_louder_than_its_like_is_meant(part):
    strokes = row(part, lambda b, p: 0.95 if (b, p) == (3, 1) else 0.6)
    assert classes(strokes, "accent") == {(3, 1)}


def test_a_snare_louder_than_the_backbeat_of_a_short_take_is_an_accent():
    snares = row("snare", lambda b, p: 1.0 if (b, p) == (2, 3) else 0.78, [1, 3], bars=2)
    assert classes(snares, "accent") == {(2, 3)}


def test_in_a_fill_there_is_no_bar_to_bear_a_tom_out():
    toms = [*row("tom_high", lambda *_: 0.6), stroke("tom_high", 9, "9/4", 0.83)]
    assert classes(toms, "accent") == set()


def test_bars_far_away_bear_nothing_out():
    far = 30
    hats = row("hat_closed", lambda *_: 0.6) + [
        stroke("hat_closed", far + b, p, 0.83 if p == 1 else 0.6)
        for b in range(BARS)
        for p in EIGHTHS
    ]
    accents = classes(hats, "accent")
    assert {b for b, _ in accents} == set(range(far, far + BARS))


def test_a_hat_under_a_snare_is_no_accent_for_the_snares_noise():
    hats = row("hat_closed", lambda _, p: 0.95 if p in (1, 3) else 0.6)
    snares = row("snare", lambda *_: 0.8, [1, 3])
    assert classes([*hats, *snares], "accent") == set()


def test_what_a_snare_hides_bears_nothing_out_either():
    loud = {1, 2, 3, 4, 5}
    hats = row("hat_closed", lambda b, p: 0.95 if p == 1 and b in loud else 0.6)
    hats = [s for s in hats if (s.bar, s.place) != (6, 1)] + [stroke("hat_closed", 6, 1, 0.84)]
    snares = [stroke("snare", b, 1, 0.8) for b in loud]
    assert (6, 1) not in classes([*hats, *snares], "accent")


@pytest.mark.parametrize("part", ["snare", "tom_high"])
def test_soft_strokes_of_a_drum_are_ghosts(part):
    strokes = row(part, lambda _, p: 0.8 if on_beat(p) else 0.3)
    assert classes(strokes, "ghost") == {
        (b, p) for b in range(1, 9) for p in EIGHTHS if not on_beat(p)
    }


@pytest.mark.parametrize("part", ["hat_closed", "kick", "ride", "crash"])
def test_other_parts_have_no_ghosts(part):
    assert classes(row(part, lambda _, p: 0.8 if on_beat(p) else 0.3), "ghost") == set()


def test_the_chance_of_a_hand_writes_next_to_nothing():
    rng = np.random.default_rng(4)
    hats = row("hat_closed", lambda *_: float(np.clip(rng.normal(0.66, 0.08), 0, 1)), bars=64)
    assert len(classes(hats, "accent")) <= 1
