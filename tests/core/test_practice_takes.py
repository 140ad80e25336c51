"""A recording of one's practice, scored: what players did is measured back from the sound alone."""

from __future__ import annotations

import json

import numpy as np
import pytest
import soundfile as sf

from orchesis.cli import main
from orchesis.errors import BadScore
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.practice_take import judge_recording
from orchesis.sounding.render import RATE, render
from orchesis.teaching.aligning import align, expected_of, length_of
from orchesis.teaching.stretches import Heard
from tests import songs

TEXT = """tempo: 73.84
== A
hat: 8ths | 8ths 4&.o
snare: 2.> (2a) 4.> | 2.> (3e) 4.>
kick: 1 2& 3 | 1 1& 3 3&
"""
PART = with_limbs(count.read(TEXT))


def played(seconds, *, late=None, missed=None, factor=1.0, first=0.0, seed=3):
    """Strokes from a place of the part on, for so long: (seconds, part, loudness)."""
    rng = np.random.default_rng(seed)
    length = length_of(PART)
    made = []
    for k in range(int((first + seconds) / length) + 1):
        for at, s in expected_of(PART):
            u = at + k * length
            if not first - 1e-6 <= u < first + seconds or rng.random() < (missed or {}).get(
                s.limb, 0
            ):
                continue
            off = (late or {}).get(s.limb, 0.0) / 1000 + rng.normal(0, 0.003)
            made.append(((u - first) / factor + off, s.part, s.loudness))
    return made


def recorded(path, strokes, lead=1.3, extra=None, gain=None):
    """gain: dB of the drums of some parts."""
    moved = [(t + lead, part, loud) for t, part, loud in strokes]
    seconds = max(t for t, *_ in moved) + 2
    sound = render(moved, seconds)
    for part, db in (gain or {}).items():
        own = render([m for m in moved if m[1] == part], seconds)
        sound += (10 ** (db / 20) - 1) * own
    if extra is not None:
        sound[: len(extra)] += extra[: len(sound)]
    sf.write(path, 0.7 * sound / np.abs(sound).max(), RATE)
    return path


def test_our_own_part_has_nothing_missed_and_nothing_extra(tmp_path):
    take = judge_recording(recorded(tmp_path / "a.wav", played(40)), PART)
    assert take.judged.advice.startswith("That was it") and take.judged.judgement == "relaxed"
    for limb in take.judged.limbs.values():
        assert (limb.missed, limb.extra) == (0, 0)
        assert abs(limb.offset_ms) < 3 and abs(limb.level_db) < 1.5


def test_a_tempo_a_little_off_is_told_and_blames_no_limb(tmp_path):
    """170 s at 74.1 against 73.84 were refused; .2 % was told as 11 ms early."""
    path = recorded(tmp_path / "a.wav", played(170, factor=74.1 / 73.84))
    take = judge_recording(path, PART)
    assert take.alignment.percent == pytest.approx(0.352, abs=0.03)
    assert take.judged.tempo in {f"0.{n} % faster than written, steady." for n in (3, 4)}
    assert all(abs(x.offset_ms) < 3 for x in take.judged.limbs.values())
    assert take.judged.advice.startswith("That was it")


@pytest.mark.parametrize(
    ("habit", "names"),
    [
        ({"late": {"RF": 25}}, "The right foot comes 2"),
        ({"late": {"RH": -20}}, "The right hand comes"),
        ({"missed": {"RF": 0.25}}, "The right foot misses"),
    ],
)
def test_the_planted_fault_is_the_advice(tmp_path, habit, names):
    take = judge_recording(recorded(tmp_path / "a.wav", played(60, factor=1.015, **habit)), PART)
    assert take.judged.advice.startswith(names)
    for limb, ms in habit.get("late", {}).items():
        assert take.judged.limbs[limb].offset_ms == pytest.approx(ms, abs=3)


def test_a_hand_that_is_too_soft_is_measured_and_told(tmp_path):
    """4 dB were measured as .3."""
    path = recorded(tmp_path / "a.wav", played(60, factor=0.99), gain={"snare": -4})
    take = judge_recording(path, PART)
    assert take.judged.limbs["LH"].level_db == pytest.approx(-4, abs=1)
    assert take.judged.advice.startswith("The left hand is 4 dB too soft against the others")


def test_with_a_band_the_foot_is_still_late(tmp_path):
    music = 0.15 * songs.band(50)
    path = recorded(tmp_path / "a.wav", played(40, late={"RF": 25}), extra=music)
    take = judge_recording(path, PART)
    assert take.judged.limbs["RF"].offset_ms == pytest.approx(25, abs=4)


def test_talk_a_restart_and_skipped_bars_are_left_out(tmp_path):
    length = length_of(PART)
    half = length / 2
    a = played(5.3 * half)
    b = [(t + 5.3 * half + 6.0, *x) for t, *x in played(4 * half)]  # from the beginning again
    c = [(t + 9.3 * half + 6.0, *x) for t, *x in played(6 * half, first=half)]  # a bar is skipped
    rng = np.random.default_rng(1)
    talk = np.zeros(int((5.3 * half + 8) * RATE))
    at = int((1.3 + 5.3 * half + 1.0) * RATE)
    talk[at : at + 2 * RATE] = 0.1 * np.convolve(
        rng.normal(0, 1, 2 * RATE), np.hanning(80) / 40, "same"
    )
    for k, t in enumerate((1.5, 1.9, 2.6)):
        drum = render([(0, ("tom_floor", "snare", "tom_floor")[k], 0.7)], 1.0)
        start = at + int(t * RATE)
        talk[start : start + len(drum)] += drum[: len(talk) - start]
    take = judge_recording(recorded(tmp_path / "a.wav", a + b + c, extra=talk), PART)
    strokes = sum(x.strokes for x in take.judged.limbs.values())
    assert strokes == pytest.approx(len(a + b + c), rel=0.04)
    assert take.judged.advice.startswith("That was it"), take.judged


def test_something_else_is_told(tmp_path):
    with pytest.raises(BadScore, match="Too little"):
        align([Heard(0.1, "kick", 0.9)], PART)
    rng = np.random.default_rng(2)
    noise = [
        Heard(float(t), str(rng.choice(["hat_closed", "snare", "kick"])), 0.9)
        for t in np.sort(rng.uniform(0, 40, 90))
    ]
    with pytest.raises(BadScore, match="does not go"):
        align(noise, PART)


def test_the_shell_takes_a_recording(tmp_path, capsys):
    (tmp_path / "a.count").write_text(TEXT)
    recorded(tmp_path / "a.wav", played(30, late={"RF": 24}))
    arguments = [
        "judge",
        str(tmp_path / "a.count"),
        str(tmp_path / "a.wav"),
        "--json",
        str(tmp_path / "j"),
    ]
    assert main(arguments) == 0
    told = json.loads((tmp_path / "j").read_text())
    assert told["limbs"]["RF"]["offset_ms"] == pytest.approx(24, abs=3)
    assert "right foot" in told["advice"] and told["tempo"] == "At the written tempo, steady."
    (tmp_path / "b.wav").write_bytes(b"RIFF, but no sound")
    assert main([*arguments[:2], str(tmp_path / "b.wav"), *arguments[3:]]) == 2
    assert capsys.readouterr().err.strip().splitlines()[-1].startswith("orchesis: ")
