"""What hearing promises to whoever calls it: the file's shape, the same result, bounds, an end."""

import json
import os
import subprocess
import sys
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
import soundfile as sf

from orchesis.analysis_file import analysis
from orchesis.errors import Cancelled
from orchesis.hearing import STEPS, listen, listen_to, take_in
from orchesis.hearing.judging import WRITTEN
from orchesis.score import KIT
from orchesis.transcribing import transcribe
from tests import songs


@pytest.fixture(scope="module")
def found(heard_rock):
    return analysis(heard_rock, transcribe(heard_rock))


def test_the_analysis_has_every_key_of_the_contract(found):
    assert found["format"] == "orchesis-analysis" and found["version"] == 1
    assert {"duration", "sample_rate"} <= set(found["audio"])
    assert {"bpm", "low", "high", "steady", "confidence", "alternatives"} <= set(found["tempo"])
    assert all({"bar", "beats", "unit"} == set(m) for m in found["meter"])
    hit = {
        "time",
        "part",
        "loudness",
        "confidence",
        "bar",
        "position",
        "ghost",
        "accent",
        "ornament",
    }
    assert all(hit <= set(h) for h in found["hits"])
    assert all({"start", "end", "first_bar", "bars", "label"} <= set(s) for s in found["sections"])
    assert all({"bar", "start", "end"} <= set(f) for f in found["fills"])
    assert {"level", "ratio"} == set(found["feel"]["swing"])
    json.dumps(found, allow_nan=False)


def test_sounds_and_evidence_stand_beside_the_hits(found):
    numbers = {s["sound"] for s in found["sounds"]}
    assert {"sound", "part", "hits", "confidence", "doubt"} <= set(found["sounds"][0])
    for s in found["sounds"]:
        assert s["hits"] == sum(h["sound"] == s["sound"] for h in found["hits"])
    assert all(h["sound"] in numbers for h in found["hits"])
    assert len(found["evidence"]) == found["beats"][-1]["bar"] - 1
    assert all(len(own["kick"]) == 48 and own["kick"].isdigit() for own in found["evidence"])
    kicks = [h for h in found["hits"] if h["part"] == "kick" and h["state"] == "written"]
    clear = [
        int(found["evidence"][h["bar"] - 1]["kick"][int(Fraction(h["position"]) * 48)])
        for h in kicks
    ]
    assert np.mean(np.array(clear) >= 7) > 0.9


def test_hits_lie_inside_the_song_on_known_parts_and_places(found):
    bars = found["beats"][-1]["bar"]
    for h in found["hits"]:
        assert 0 <= h["time"] <= found["audio"]["duration"]
        assert h["part"] in KIT and 1 <= h["bar"] < bars
        assert 0 <= Fraction(h["position"]) < 1
        assert 0 <= h["loudness"] <= 1 and 0 <= h["confidence"] <= 1
        assert -60 <= h["level"] <= 20 and 0 <= h["openness"] <= 1
        assert isinstance(h["recalled"], bool)
        assert (h["state"] == "written") == (h["confidence"] >= WRITTEN)


def test_beats_rise_and_close_the_last_bar(found):
    beats = found["beats"]
    assert all(a["time"] < b["time"] for a, b in pairwise(beats))
    assert beats[0]["bar"] == beats[0]["beat"] == beats[-1]["beat"] == 1
    assert found["meter"][0]["bar"] == 1


def test_form_material_has_a_row_for_every_bar(found):
    assert len(found["bars"]) == found["beats"][-1]["bar"] - 1
    assert max(b["level"] for b in found["bars"]) == pytest.approx(0, abs=0.11)
    assert all(len(b["chroma"]) == 12 for b in found["bars"])
    assert all(b["drums"] <= b["level"] + 0.2 for b in found["bars"])
    seconds = len(found["levels"])
    assert abs(seconds - found["audio"]["duration"]) <= 2


def test_one_and_two_threads_hear_the_same(rock_file, tmp_path):
    told = []
    for threads in ("1", "2"):
        out = tmp_path / f"{threads}.json"
        env = os.environ | {"OMP_NUM_THREADS": threads, "OPENBLAS_NUM_THREADS": threads}
        command = [
            sys.executable,
            "-m",
            "orchesis.cli",
            "listen",
            str(rock_file),
            "--json",
            str(out),
        ]
        subprocess.run(command, check=True, env=env, capture_output=True)
        told.append(json.loads(out.read_text()))
    assert told[0] == told[1]


def test_memory_does_not_grow_with_the_song_beyond_its_frames(tmp_path):
    """Five more minutes may cost at most 120 MB (22 MB are their frames). From three minutes on
    all that is worked on at a time is in hand."""
    drums = songs.drums()
    peaks = []
    for minutes in (3, 8):
        path = tmp_path / f"{minutes}.flac"
        count = int(minutes * 60 * songs.RATE / len(drums)) + 1
        sf.write(path, np.tile(drums, count)[: minutes * 60 * songs.RATE], songs.RATE)
        code = (
            "import resource; from orchesis.hearing import listen;"
            f"listen({str(path)!r}, drums={str(tmp_path / 'd.flac')!r});"
            "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)"
        )
        out = subprocess.run(
            [sys.executable, "-c", code], check=True, capture_output=True, text=True
        )
        peaks.append(int(out.stdout) / 1024)
    assert peaks[1] - peaks[0] < 120, peaks


@pytest.mark.parametrize("step", [key for key, _, _ in STEPS])
def test_hearing_can_be_stopped_in_every_step(rock_file, tmp_path, step):
    def stop(now, _share):
        if now == step:
            raise Cancelled("stop")

    with pytest.raises(Cancelled):
        listen(rock_file, drums=tmp_path / "d.flac", report=stop)


def test_without_the_second_pass_nothing_is_marked_as_recalled(rock_file, heard_rock):
    alone = listen(rock_file, repetition=False)
    assert not any(h.recalled for h in alone.hits)
    assert alone.beats == heard_rock.beats


def test_drums_alone_are_as_long_as_the_recording(rock_file, tmp_path):
    intake = take_in(rock_file, tmp_path / "s.flac")
    listen_to(intake, drums=tmp_path / "d.flac")
    whole, drums = sf.info(intake.path), sf.info(tmp_path / "d.flac")
    assert (whole.frames, whole.channels) == (drums.frames, drums.channels)
