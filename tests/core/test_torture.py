"""Malformed files of each format that is read: a score, or one sentence; soon, and in little memory.

ORCHESIS_TORTURE: how many of each (make torture: 500).
"""

from __future__ import annotations

import io
import json
import os
import random
import resource
import time

import mido
import numpy as np
import pytest
import soundfile as sf

from orchesis.analysis_file import analysis, score_of
from orchesis.errors import BadScore, BadSound, OrchesisError
from orchesis.formats import count, registry
from orchesis.hands import with_limbs
from orchesis.hearing.sound import take_in
from orchesis.score import Score, document
from orchesis.teaching.simulated import from_midi
from orchesis.transcribing import transcribe
from tests.odd_values import by_kind, with_odd_values
from tests.songs import ROCK

MANY = int(os.environ.get("ORCHESIS_TORTURE", "50"))
SONG = with_limbs(count.read(ROCK))
SCORES = sorted({f.endings[0] for f in registry.FORMATS if f.read is not None})
SOUNDS = {
    "wav": ("WAV", "PCM_16"),
    "flac": ("FLAC", "PCM_16"),
    "ogg": ("OGG", "VORBIS"),
    "mp3": ("MP3", "MPEG_LAYER_III"),
}
_MEMORY = 1024 * 1024  # kilobytes by which this process may grow


def broken(data: bytes, seed: int) -> bytes:
    """A valid file with a few things wrong, as disks, networks and enemies make them."""
    rng = random.Random(seed)
    made = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 5, 20))):
        at, length = rng.randrange(len(made) + 1), rng.choice((1, 2, 8, 100, 2000))
        match rng.randrange(7):
            case 0:
                made[at : at + length] = rng.randbytes(length)
            case 1:
                del made[at : at + length]
            case 2:
                made[at:at] = made[at : at + length] * rng.choice((1, 3, 50))
            case 3:
                del made[at:]
            case 4:
                made[at:at] = rng.choice(
                    (b"\x00" * 40, b"9" * 400, b"-1", b"<", b"\xff\xfe", b"{[" * 200, b"1e999")
                )
            case 5:
                other = rng.randrange(len(made) + 1)
                made[at : at + length], made[other : other + length] = (
                    made[other : other + length],
                    made[at : at + length],
                )
            case 6:
                for k in range(at, min(at + length, len(made))):
                    made[k] ^= 1 << rng.randrange(8)
        if not made:
            return b""
    return bytes(made[:2_000_000])


def told_soon(act) -> None:
    """It answers, or says one sentence; within five seconds and a gigabyte."""
    before, peak = time.process_time(), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        act()
    except OrchesisError as problem:
        said = str(problem)
        assert isinstance(problem, BadScore | BadSound)
        assert said.strip() and "\n" not in said and len(said) < 600, said
    assert time.process_time() - before < 5
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - peak < _MEMORY


@pytest.mark.parametrize("ending", SCORES)
def test_a_malformed_score_is_told(ending):
    content, _ = registry.write(f"song{ending}", SONG)
    for seed in range(MANY):
        bad = broken(content, seed)

        def read(bad=bad):
            score, _ = registry.read(f"song{ending}", bad)
            assert Score.from_json(score.to_json()).bar_count == score.bar_count  # it can be kept

        try:
            told_soon(read)
        except BaseException as problem:
            raise AssertionError(f"{ending}, seed {seed}: {problem!r}") from problem


def test_a_malformed_analysis_is_told(heard_rock):
    content = json.dumps(analysis(heard_rock, transcribe(heard_rock))).encode()
    assert score_of(json.loads(content)).bar_count > 8  # whole, it is read
    reached = 0
    for seed in range(MANY):
        bad = broken(content, seed)
        try:
            data = json.loads(bad)
        except ValueError:
            data = json.loads(content)  # what is no JSON goes no further: other words in whole JSON
            rng = random.Random(seed)
            key = rng.choice(sorted(data))
            data[key] = rng.choice((None, -1, 1e300, "x", [], {}, [[]], [{"bar": -5}]))
        reached += isinstance(data, dict)
        told_soon(lambda data=data: score_of(data, title="x"))
    assert reached > 0.8 * MANY


def kept(score: Score) -> None:
    """What was read can be stored and read again: JSON knows no NaN, UTF-8 no lone surrogate."""
    told = json.dumps(score.to_json(), allow_nan=False, ensure_ascii=False)
    told.encode()
    assert Score.from_json(json.loads(told)).bar_count == score.bar_count


@pytest.mark.parametrize("what", ["score", "analysis"])
def test_odd_values_are_told_or_can_be_kept(what, heard_rock):
    if what == "score":
        whole, read = SONG.to_json(), lambda data: document.read(data, "This score")
    else:
        whole, read = analysis(heard_rock, transcribe(heard_rock)), score_of
        whole = json.loads(json.dumps(whole))
    kinds = by_kind(whole)
    for seed in range(4 * MANY):
        bad = with_odd_values(whole, kinds, seed)
        try:
            told_soon(lambda bad=bad: kept(read(bad)))
        except BaseException as problem:
            raise AssertionError(f"{what}, seed {seed}: {problem!r}") from problem


@pytest.fixture(scope="module")
def sounds(tmp_path_factory):
    folder = tmp_path_factory.mktemp("sounds")
    t = np.arange(3 * 44100) / 44100
    clicks = np.exp(-40 * (t % 0.5)) * np.sin(2 * np.pi * 180 * t)
    for ending, (kind, subtype) in SOUNDS.items():
        sf.write(folder / f"whole.{ending}", 0.5 * clicks, 44100, format=kind, subtype=subtype)
    return folder


@pytest.mark.parametrize("ending", SOUNDS)
def test_a_malformed_recording_is_told(ending, sounds, tmp_path):
    content = (sounds / f"whole.{ending}").read_bytes()
    bad, out = tmp_path / f"bad.{ending}", tmp_path / "out.flac"
    for seed in range(MANY):
        bad.write_bytes(broken(content, seed))
        try:
            told_soon(lambda: take_in(bad, out))
        except BaseException as problem:
            raise AssertionError(f"{ending}, seed {seed}: {problem!r}") from problem


@pytest.mark.parametrize("ending", [".musicxml"])
def test_a_file_of_entities_opens_nothing(ending):
    for bomb in (
        b'<!DOCTYPE s [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><score-partwise>&b;</score-partwise>',
        b'<!DOCTYPE s [<!ENTITY x SYSTEM "file:///etc/passwd">]><score-partwise>&x;</score-partwise>',
    ):
        with pytest.raises(BadScore, match="entities"):
            registry.read(f"bomb{ending}", bomb)


def test_a_midi_file_in_no_key_is_told():
    song = mido.MidiFile()
    song.tracks.append(mido.MidiTrack([mido.MetaMessage("key_signature", key="C")]))
    out = io.BytesIO()
    song.save(file=out)
    bad = out.getvalue().replace(b"\xff\x59\x02\x00\x00", b"\xff\x59\x02\x05\x0a")
    assert bad != out.getvalue()
    for read in (lambda: registry.read("song.mid", bad), lambda: from_midi(bad)):
        with pytest.raises(BadScore, match="MIDI file we can read"):
            read()
