"""The bass line is heard out of a mix, and told against the kick."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from orchesis import explanations
from orchesis.formats import count
from orchesis.grooves import kick_and_bass
from orchesis.hearing import bass

F = Fraction
RATE = 44100


def line(notes: list[tuple[float, float, int]], seconds: float) -> np.ndarray:
    """Plucked tones of three harmonics: (start, end, MIDI key)."""
    sound = np.zeros(int(seconds * RATE))
    for start, end, key in notes:
        t = np.arange(int((end - start) * RATE)) / RATE
        hz = 440 * 2 ** ((key - 69) / 12)
        tone = sum(np.sin(2 * np.pi * k * hz * t) / k for k in (1, 2, 3))
        at = int(start * RATE)
        sound[at : at + len(t)] += 0.3 * tone * np.exp(-1.5 * t) * np.minimum(1, t / 0.004)
    return sound


def test_notes_begin_where_a_pitch_sets_in_steps_or_is_struck_again():
    want = [(0.5, 1.0, 40), (1.0, 1.5, 40), (1.5, 2.0, 45), (2.3, 2.9, 33)]
    whole = line(want, 3.5)
    found = bass.notes(whole, np.zeros_like(whole))
    assert [n.pitch for n in found] == [40, 40, 45, 33]
    assert np.allclose([n.start for n in found], [w[0] for w in want], atol=0.06)
    assert all(n.end > n.start for n in found)


def test_silence_drums_alone_and_a_short_stretch_have_no_bass():
    noise = np.random.default_rng(1).normal(0, 0.1, RATE)
    for whole, drums in (
        (np.zeros(RATE), np.zeros(RATE)),
        (noise, noise),
        (noise[:100], noise[:100]),
    ):
        assert bass.notes(whole, drums) == []


def test_the_kick_is_told_against_the_bass():
    score = count.read("tempo: 120\n== A\nkick: 1 2& 3 | 1 2& 3\nhat: 8ths | 8ths\n")
    heard = [
        (score.seconds(bar, place) + 0.02, 33) for bar in (1, 2) for place in (F(0), F(3, 2), F(3))
    ]
    told = kick_and_bass.read(score, 1, 2, heard)
    assert (told.together, told.of_bass, told.of_kick) == (4, 6, 6)
    assert told.bass_alone == ((F(3), 2),) and told.kick_alone == ((F(2), 2),)
    assert explanations.kick_and_bass(told, score.meters[0]) == [
        "The kick is on 4 of 6 notes of the bass that are heard; 4 of its 6 strokes are with it.",
        "The bass alone: on 4 (2×).",
        "The kick alone: on 3 (2×).",
    ]
    assert explanations.kick_and_bass(kick_and_bass.read(score, 1, 2, []), score.meters[0]) == [
        "No bass is heard here."
    ]
