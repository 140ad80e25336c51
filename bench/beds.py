"""Real beds with known drums: drumless stretches of real records with drums on their grid.

The bed goes round in whole bars; drums enter late, stop for four bars in the middle and leave early, sound
with a kit of their own side (TUNE kits to tune by, TEST kits for figures), together through a bus and a
limiter. In every second one real guitar strums, driven hard, sound on the chords of the song too: each is a
decoy for a crash.
"""

from __future__ import annotations

import json
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import soundfile as sf
import soxr
from scipy.signal import butter, sosfilt

from demo.make import Player, played, truth
from materials import songs
from materials.record_list import Bed, side
from orchesis.formats import count
from orchesis.score import PulseMap, Score
from orchesis.sounding import render

RATE = 44100
KITS = {"tune": ("Millo_MultiLayered3", "Millo-Drums_v.1"), "bench": ("ForzeeStereo", "own")}
_Lanes = dict[str, str]
#: Groove, chorus and fill of each song, in turn.
_DRUMS: dict[str, tuple[tuple[_Lanes, _Lanes, _Lanes], ...]] = {
    "tune": (
        (
            {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 2& 3 | 1 3 3&"},
            {"ride": "8ths", "snare": "2.> 4.>", "kick": "1 3 | 1 2& 3&"},
            {"snare": "3 3e 3& 3a 4", "tom_high": "4e 4&", "kick": "1", "hat": "1 1& 2 2&"},
        ),
        (
            {"hat": "16ths", "snare": "2.> 4.> (4a)", "kick": "1 1& 3 | 1 2a 3&"},
            {"hat": "quarters 4&.o", "snare": "2.> 4.>", "kick": "1 1& 3 4&"},
            {"snare": "2.> 4 4e 4& 4a", "kick": "1 3", "hat": "1 1& 2 2& 3 3&"},
        ),
        (
            {"hat": "offbeats", "snare": "2 4", "kick": "quarters"},
            {"ride": "quarters", "snare": "2.> 4.>", "kick": "1 2& 4"},
            {"tom_high": "3 3&", "tom_floor": "4 4e 4& 4a", "kick": "1 2", "snare": "2.>"},
        ),
    ),
    "bench": (
        (
            {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 3 | 1 2& 3"},
            {"ride": "8ths", "snare": "2.> 4.>", "kick": "1 1& 3 | 1 3 3&"},
            {
                "snare": "2.> 3 3e 3& 3a",
                "tom_high": "4 4e",
                "tom_floor": "4& 4a",
                "kick": "1",
                "hat": "1 1& 2 2&",
            },
        ),
        (
            {"hat": "16ths", "snare": "2.> (2a) 4.>", "kick": "1 2& 3 | 1 1a 3"},
            {"ride": "quarters", "snare": "2.> 4.>", "kick": "1 2& 3 4&"},
            {"snare": "2.> 4 4e 4& 4a", "kick": "1 3", "hat": "1 1& 2 2& 3 3&"},
        ),
        (
            {"hat": "8ths 4&.o", "snare": "3.>", "kick": "1 2&"},
            {"crash": "1.> | -", "hat": "quarters", "snare": "3.>", "kick": "1 1& 4&"},
            {
                "tom_high": "3 3e 3&",
                "tom_floor": "4 4& ",
                "kick": "1",
                "snare": "2.>",
                "hat": "1 1&",
            },
        ),
    ),
}
_NOTHING = {"kick": "-"}


def made(
    chosen: tuple[Bed, ...],
    kits: tuple[str, ...],
    records: dict[str, Path],
    effects: Path | None,
    out: Path,
) -> list[Path]:
    """The sound files of some beds on each of some kits, made if they are not there; each has its truth beside
    it. records: stem -> sound file; effects: the folder of guitar strums."""
    paths = []
    out.mkdir(parents=True, exist_ok=True)
    for n, bed in enumerate(b for b in chosen if b.stem in records):
        which = side(bed.stem)
        for k, kit in enumerate(kits):
            path = out / f"bed-{which}-{bed.stem.replace(' ', '-')}-{kit}.flac"
            if not path.exists() or not path.with_suffix(".truth.json").exists():
                _make(
                    path,
                    bed,
                    kit,
                    _DRUMS[which][(n + k) % 3],
                    records[bed.stem],
                    effects if (n + k) % 2 else None,
                    3000 + 10 * n + k,
                )
            paths.append(path)
    return paths


def _make(
    path: Path,
    bed: Bed,
    kit: str,
    lanes: tuple[_Lanes, _Lanes, _Lanes],
    record: Path,
    effects: Path | None,
    seed: int,
) -> None:
    rng = np.random.default_rng(seed)
    groove, chorus, fill = lanes
    loud = {**chorus, "crash": "1.> | - | - | -"}
    form = (
        ("Intro", 6, _NOTHING, {}),
        ("Verse", 8, groove, fill),
        ("Chorus", 8, loud, fill),
        ("Stop", 4, _NOTHING, {}),
        ("Verse 2", 8, groove, fill),
        ("Chorus 2", 8, loud, {}),
        ("Outro", 4, _NOTHING, {}),
    )
    song = songs.Song(path.stem, form, tempo=bed.bpm)
    score = count.read(songs.text_of(song))
    score = replace(score, pulse=PulseMap.of(0.02 + np.array(score.pulse.times)))
    player = Player(seed, 0.02, 0.0, 4.0)
    score = score.with_strokes([played(s, score, player, rng) for s in score.strokes.values()])
    seconds = score.pulse.times[-1] + 0.3
    events = [e for s in score.strokes.values() for e in songs.sounded(s, rng)]
    drums = render(events, seconds) if kit == "own" else songs.sampled(kit, events, seconds)
    music = _round(record, bed, seconds)
    if effects is not None:
        music += _strums(score, effects, seed % 2, seconds, rng) * 1.2 * music.std()
    struck = np.abs(drums) > 1e-4
    gain = 10 ** (bed.drums_db / 20) * music.std() / (drums[struck].std() + 1e-9)
    mix = music[: len(drums)] + gain * drums[: len(music)]
    mix = _limited(np.tanh(1.4 * mix / (4 * mix.std())))
    sf.write(path, mix, RATE)
    told = truth(score, seconds)
    told["silent"] = [
        [0.0, score.seconds(7)],
        [score.seconds(23), score.seconds(27)],
        [score.seconds(43), seconds],
    ]
    path.with_suffix(".truth.json").write_text(json.dumps(told))


def _round(record: Path, bed: Bed, seconds: float) -> np.ndarray:
    """The bed, from its first beat on, going round in whole bars with a short blend."""
    length = bed.beats * 60 / bed.bpm
    own = _decoded(record)
    start = max(0, round((bed.start - 0.02) * RATE))
    size, blend = round(length * RATE), round(0.01 * RATE)
    piece = own[start : start + size + blend].copy()
    piece[:blend] *= np.linspace(0, 1, blend)
    piece[size:] *= np.linspace(1, 0, len(piece) - size)
    out = np.zeros(round(seconds * RATE) + len(piece), np.float32)
    for k in range(int(seconds / length) + 1):
        at = round(k * length * RATE)
        out[at : at + len(piece)] += piece
    return out[: round(seconds * RATE)]


def _decoded(record: Path) -> np.ndarray:
    """The first minutes of a record, mono."""
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-t",
        "160",
        "-i",
        str(record),
        "-ac",
        "1",
        "-ar",
        str(RATE),
        "-f",
        "f32le",
        "-",
    ]
    raw = subprocess.run(command, check=True, capture_output=True).stdout
    return np.frombuffer(raw, np.float32)


def _strums(
    score: Score, effects: Path, odd: int, seconds: float, rng: np.random.Generator
) -> np.ndarray:
    """Real strums, driven, on the 1 of every bar and some off-beats; unit deviation where they sound."""
    files = sorted(effects.rglob("*.flac"))
    # The first half of the chords trains (materials/backings.py).
    files = files[len(files) // 2 :][odd::2]
    out = np.zeros(round(seconds * RATE) + 6 * RATE, np.float32)
    low = butter(4, 4500, fs=RATE, output="sos")
    chosen = [files[int(k)] for k in rng.integers(0, len(files), 4)]
    shots = []
    for file in chosen:
        sound, rate = sf.read(file, dtype="float32", always_2d=True)
        shot = soxr.resample(sound.mean(axis=1), rate, RATE)[: 3 * RATE]
        shot = shot[max(int(np.argmax(np.abs(shot) > 0.05 * np.abs(shot).max())) - 20, 0) :]
        driven = sosfilt(low, np.tanh(30 * shot / np.abs(shot).max()))
        shots.append((driven * np.linspace(1, 0, len(driven))).astype(np.float32))
    for bar in range(1, score.bar_count + 1):
        for beat in (0, 2.5) if bar % 2 else (0,):
            shot = shots[bar % len(shots)]
            length = score.seconds(bar + 1) - score.seconds(bar)
            at = round((score.seconds(bar) + beat / 4 * length) * RATE)
            size = min(len(shot), RATE)
            out[at : at + size] += shot[:size] * np.linspace(1, 0, size)
    out = out[: round(seconds * RATE)]
    return out / (out.std() + 1e-9)


def _limited(mix: np.ndarray, ceiling: float = 0.9) -> np.ndarray:
    """A limiter with 2 ms ahead: gain from the running peak, let go over 80 ms."""
    block = RATE // 500
    peaks = np.abs(mix[: len(mix) // block * block]).reshape(-1, block).max(axis=1) * 1.6
    gain = np.minimum(1, ceiling / np.maximum(peaks, 1e-6))
    for k in range(1, len(gain)):
        gain[k] = min(gain[k], gain[k - 1] + 1 / 40)
    gain = np.minimum(gain, np.append(gain[1:], 1))
    curve = np.interp(np.arange(len(mix)), (np.arange(len(gain)) + 0.5) * block, gain)
    return np.clip(mix * 1.6 * curve, -0.99, 0.99)
