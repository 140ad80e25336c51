"""The test songs of the bench: composed here, rendered to var/bench, never trained or tuned on.

Drums sound with two kits that no network and no threshold has met: our own kit
(fluid-soundfont-gm) and ForzeeStereo of hydrogen-drumkits. The band is fluid-soundfont-gm.
"""

from __future__ import annotations

import json
import subprocess
from dataclasses import dataclass, field, replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import soundfile as sf

from demo import band, kit
from demo.make import Player, played, sounded, truth
from materials.kits import FLUID
from materials.kits import kit as pieces
from orchesis.formats import count
from orchesis.score import PulseMap
from orchesis.sounding import render

OUT = Path(__file__).resolve().parent.parent / "var" / "bench"
RATE = 44100
Part = tuple[str, int, dict[str, str], dict[str, str]]


@dataclass(frozen=True)
class Song:
    """parts: (name, bars, lanes of one or two bars, lanes of the last bar). kit: of
    materials/kits.py, our own if it has no name."""

    name: str
    parts: tuple[Part, ...]
    tempo: float = 100
    meter: str = "4/4"
    swing: str = ""
    band_db: float = 0.0
    drums_only: bool = False
    kit: str = ""
    drift: float = 0.0
    accelerando: float = 0.0
    mp3: bool = False
    late_ms: float = 4.0
    odd: dict[str, str] = field(default_factory=dict)


def text_of(song: Song) -> str:
    lines = [f"title: {song.name}", f"tempo: {song.tempo}"]
    if song.swing:
        lines.append(f"swing: {song.swing}")
    for name, bars, lanes, last in song.parts:
        lines += [f"meter: {song.odd.get(name, song.meter)}", f"== {name}"]
        for lane in dict.fromkeys([*lanes, *last]):
            cells = lanes.get(lane, "-").split("|")
            row = [cells[i % len(cells)].strip() for i in range(bars)]
            if last:
                row[-1] = last.get(lane, "-")
            lines.append(f"{lane}: " + " | ".join(row))
        lines.append("")
    return "\n".join(lines)


_FILL = {
    "snare": "2.> 3 3e 3& 3a",
    "tom_high": "4 4e",
    "tom_floor": "4& 4a",
    "kick": "1",
    "hat": "1 1& 2 2&",
}
_SHORT = {"snare": "2.> 4 4e 4& 4a", "kick": "1 3", "hat": "8ths -4 -4&"}
_ROCK = {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 3 | 1 2& 3"}
_RIDE = {"ride": "8ths", "snare": "2.> 4.>", "kick": "1 1& 3 | 1 3 3&"}


def _with(lanes: dict[str, str], **more: str) -> dict[str, str]:
    return {**lanes, **more}


def _form(
    a: dict[str, str], b: dict[str, str], fill: dict[str, str], *, bars: int = 8
) -> tuple[Part, ...]:
    start = _with(b, crash="1.> | -")
    return (
        ("Verse 1", bars, a, fill),
        ("Chorus 1", bars, start, fill),
        ("Verse 2", bars, a, fill),
        ("Chorus 2", bars, start, {}),
        ("Outro", 2, {"crash": "1.> | -", "kick": "1 | -"}, {}),
    )


SONGS = (
    Song(
        "rock-ghosts",
        _form(_with(_ROCK, snare="2.> (2a) (3e) 4.> | 2.> (1a) (2a) 4.> (4a)"), _RIDE, _FILL),
        96,
    ),
    Song(
        "rock-ghosts-forzee",
        _form(_with(_ROCK, snare="2.> (2a) (3e) 4.> | 2.> (1a) 4.> (4a)"), _RIDE, _FILL),
        108,
        kit="ForzeeStereo",
    ),
    Song(
        "broken-funk",
        _form(
            {
                "hat": "1 1e 1a 2& 3 3e 3& 4 4a | 1 1& 1a 2e 3 3a 4& 4a.o",
                "snare": "2.> (2a) (3e) 4.> | 2.> (3a) 4.>",
                "kick": "1 1a 2& 3& | 1 2a 3&",
            },
            {"hat": "16ths", "snare": "2.> (2e) (2a) (3e) 4.>", "kick": "1 1& 2a 3&"},
            _FILL,
        ),
        98,
    ),
    Song(
        "swung-16ths",
        _form(
            {"hat": "16ths", "snare": "2.> (2a) 4.>", "kick": "1 1a 3& | 1 2a 3"},
            {"ride": "8ths", "snare": "2.> (3e) 4.>", "kick": "1 1a 2& 3"},
            _SHORT,
        ),
        86,
        swing="sixteenth 0.6",
        kit="ForzeeStereo",
        late_ms=9,
    ),
    Song(
        "half-time-shuffle",
        _form(
            {"hat": "1 1l 2 2l 3 3l 4 4l", "snare": "(1t) (2t) 3.> (4t)", "kick": "1 2l | 1 1l 4l"},
            {"ride": "1 1l 2 2l 3 3l 4 4l", "snare": "(2t) 3.>", "kick": "1 2l 4l"},
            {"snare": "3.> 3t 3l 4 4t 4l", "kick": "1", "hat": "1 1l 2 2l"},
        ),
        92,
    ),
    Song(
        "three-three-two",
        _form(
            {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 2& 4 | 1 2& 4 4&"},
            {"crash": "1.> 2&.> 4.> | 1.> 2&.> 4.>", "snare": "2.> 4.>", "kick": "1 2& 4"},
            _FILL,
        ),
        122,
    ),
    Song(
        "bossa",
        _form(
            {"hat": "8ths", "cross_stick": "1 2& 4 | 2 3&", "kick": "1 2& 3 4&", "hat_foot": "2 4"},
            {
                "ride": "8ths",
                "cross_stick": "1 2& 4 | 2 3&",
                "kick": "1 2& 3 4&",
                "hat_foot": "2 4",
            },
            {},
        ),
        132,
    ),
    Song(
        "samba-forzee",
        _form(
            {
                "ride": "1 1& 1a 2 2& 2a 3 3& 3a 4 4& 4a",
                "cross_stick": "1& 2a 3& 4a",
                "kick": "1 1a 2 2a 3 3a 4 4a",
                "hat_foot": "1& 2& 3& 4&",
            },
            {
                "ride_bell": "1 1& 2a 3& 4",
                "snare": "(1e) 2 (2a) 3& 4a",
                "kick": "1 1a 2 2a 3 3a 4 4a",
            },
            {},
        ),
        100,
        kit="ForzeeStereo",
    ),
    Song(
        "one-drop",
        _form(
            {"hat": "1l 2 2l 3l 4 4l.o", "cross_stick": "3", "kick": "3"},
            {"hat": "8ths 2&.o 4&.o", "snare": "3.>", "kick": "1 3"},
            _SHORT,
        ),
        76,
    ),
    Song(
        "blues-twelve",
        _form(
            {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 3 3l | 1 2l 3"},
            {"ride": "8ths", "snare": "2.> 4.>", "kick": "1 1l 3"},
            {"snare": "2.> 4 4t 4l", "kick": "1 3", "hat": "1 1t 1l 2 2t 2l 3 3t 3l"},
        ),
        70,
        meter="12/8",
    ),
    Song(
        "waltz",
        _form(
            {"hat": "8ths", "snare": "2 3", "kick": "1 | 1 2&"},
            {"ride": "quarters", "snare": "3.>", "kick": "1 1&"},
            {"snare": "2 2e 2& 2a 3 3e 3& 3a", "kick": "1"},
        ),
        126,
        meter="3/4",
    ),
    Song(
        "five",
        _form(
            {"hat": "8ths", "snare": "2.> 4.>", "kick": "1 3 5 | 1 3& 5"},
            {"ride": "quarters", "snare": "2.> 4.> (5a)", "kick": "1 1& 3 5"},
            {"snare": "4.> 5 5e 5& 5a", "kick": "1 3", "hat": "1 2 3 4"},
        ),
        118,
        meter="5/4",
    ),
    Song(
        "seven",
        _form(
            {"hat": "8ths", "snare": "3.> 7.>", "kick": "1 5 | 1 2 5"},
            {"ride": "1 3 5 7", "snare": "3.> 7.>", "kick": "1 2 5 6"},
            {"snare": "3.> 5 6 7", "kick": "1"},
        ),
        126,
        meter="7/8",
        kit="ForzeeStereo",
    ),
    Song(
        "seven-bar-phrase",
        (
            ("Verse", 7, _ROCK, _FILL),
            ("Turn", 1, {"hat": "1 1& 2 2&", "kick": "1", "snare": "2"}, {}),
            ("Chorus", 8, _with(_RIDE, crash="1.> | -"), _SHORT),
            ("Verse 2", 7, _ROCK, _FILL),
            ("Chorus 2", 8, _with(_RIDE, crash="1.> | -"), {}),
        ),
        112,
        odd={"Turn": "2/4"},
    ),
    Song("drifting", _form(_ROCK, _RIDE, _FILL), 104, drift=0.03),
    Song("accelerando", _form(_ROCK, _RIDE, _SHORT), 90, accelerando=0.35, kit="ForzeeStereo"),
    Song(
        "slow-62",
        _form(
            {"hat": "16ths", "snare": "2.> (2a) 4.>", "kick": "1 2& 3"},
            {"ride": "8ths", "snare": "2.> 4.>", "kick": "1 1a 3 3&"},
            _FILL,
            bars=6,
        ),
        62,
    ),
    Song(
        "fast-190",
        _form(
            {"hat": "quarters", "snare": "2.> 4.>", "kick": "1 3 | 1 2& 3"},
            {"ride": "8ths", "snare": "2.> 4.>", "kick": "1 2& 3 4&"},
            _SHORT,
            bars=12,
        ),
        190,
    ),
    Song(
        "train",
        _form(
            {
                "snare": "1 (1e) (1&) 1a.> 2 (2e) 2&.> (2a) (3) (3e) 3&.> (3a) (4) 4e 4&.> (4a)",
                "kick": "quarters",
                "hat_foot": "offbeats",
            },
            {"snare": "16ths 1&.> 2&.> 3&.> 4&.>", "kick": "quarters", "crash": "1 | -"},
            {},
        ),
        110,
        kit="ForzeeStereo",
    ),
    Song(
        "linear",
        _form(
            {"hat": "1 1& 2& 3 3a 4&", "snare": "1a 2.> (2a) (3&) 4.>", "kick": "1e 2e 3e 4e"},
            {"hat": "1 1a 2& 3& 4&", "snare": "(1&) 2.> 3a 4.>", "kick": "1e 2a 3 4e"},
            {},
        ),
        94,
    ),
    Song(
        "floor-tom-time",
        _form(
            {"tom_floor": "8ths", "snare": "2.> 4.>", "kick": "1 3"},
            {"tom_floor": "1 1& 2& 3 3& 4&", "snare": "4.>", "kick": "quarters"},
            _FILL,
        ),
        116,
        kit="ForzeeStereo",
    ),
    Song(
        "dense-fills",
        _form(
            _ROCK,
            _with(_RIDE, tom_high="- | 4 4&"),
            {
                "snare": "1 1e 1& 1a 3:0/6 3:1/6 3:2/6",
                "tom_high": "2 2e 2& 2a",
                "tom_mid": "3:3/6 3:4/6 3:5/6",
                "tom_floor": "4 4e 4& 4a",
            },
            bars=4,
        )
        * 2,
        100,
    ),
    Song(
        "drums-only",
        _form(_with(_ROCK, hat="8ths 4&.o | 8ths", snare="2.> (2a) (3e) 4.>"), _RIDE, _FILL),
        102,
        drums_only=True,
    ),
    Song(
        "drums-only-forzee",
        _form(
            _with(_ROCK, hat="16ths", snare="2.> (2a) (3a) 4.>"),
            _with(_RIDE, ride_bell="- "),
            _FILL,
        ),
        88,
        drums_only=True,
        kit="ForzeeStereo",
    ),
    Song("buried", _form(_ROCK, _RIDE, _FILL), 114, band_db=6.0),
    Song(
        "buried-forzee-mp3",
        _form(_with(_ROCK, snare="2.> (2a) 4.>"), _RIDE, _SHORT),
        92,
        band_db=6.0,
        kit="ForzeeStereo",
        mp3=True,
    ),
    Song("rock-mp3", _form(_ROCK, _with(_RIDE, hat_foot="2 4"), _FILL), 128, mp3=True),
    Song(
        "seven-eight",
        _form(
            {"hat": "8ths", "snare": "3.> 6.>", "kick": "1 5 | 1 2& 5"},
            {"ride": "1 3 5 7", "snare": "3.>", "kick": "1 5 7"},
            {"snare": "3.> 5 6 7", "tom_high": "6& 7&", "kick": "1"},
            bars=16,
        ),
        108,
        meter="7/8",
    ),
    Song(
        "ornaments",
        _form(
            {"hat": "8ths", "snare": "2.>f 4.> | 2.> 3&.d 4.>f", "kick": "1 3 | 1 2& 3"},
            {"ride": "8ths", "snare": "2.> 4.>z | 2.>f 4.>", "kick": "1 1& 3"},
            {"snare": "1.f 2.f 3 3e 3& 3a 4.z", "kick": "1"},
        ),
        104,
    ),
    Song(
        "ornaments-forzee",
        _form(
            {"hat": "8ths", "snare": "2.> 4.>f | 2.>d 4.>", "kick": "1 3"},
            {"ride": "8ths", "snare": "2.> 4.>f", "kick": "1 1& 3"},
            {"snare": "1.d 2.z 3.f", "tom_high": "4.f 4&", "kick": "1"},
        ),
        92,
        kit="ForzeeStereo",
    ),
    Song("rubato", _form(_ROCK, _RIDE, _FILL), 84, drift=0.04),
    Song(
        "seven-bar-bridge",
        (
            ("Verse", 8, _ROCK, _FILL),
            ("Chorus", 8, _with(_RIDE, crash="1.> | -"), _FILL),
            ("Bridge", 7, {"tom_floor": "8ths", "snare": "4.>", "kick": "1 3"}, _FILL),
            ("Chorus 2", 8, _with(_RIDE, crash="1.> | -"), {}),
        ),
        124,
    ),
    Song(
        "late-drums-forzee",
        (
            ("Intro", 8, {"kick": "-"}, {}),
            ("Verse", 8, _ROCK, _FILL),
            ("Stop", 2, {"kick": "-"}, {}),
            ("Chorus", 8, _with(_RIDE, crash="1.> | -"), {}),
        ),
        100,
        kit="ForzeeStereo",
    ),
)


def _pulse(song: Song, pulse: PulseMap, rng: np.random.Generator) -> PulseMap:
    steps = np.diff(pulse.times)
    if song.drift:
        walk = np.convolve(rng.normal(0, 1, len(steps) + 31), np.ones(32) / 32, "valid")
        steps = steps * (1 + song.drift * walk / walk.std())
    if song.accelerando:
        steps = steps / np.linspace(1, 1 + song.accelerando, len(steps))
    return PulseMap.of(0.7 + np.concatenate([[0], np.cumsum(steps)]))


def sampled(name: str, strokes: list[tuple[float, str, float]], seconds: float) -> np.ndarray:
    """The strokes on a kit of materials/kits.py."""
    drums = pieces(name)
    names = {"tom_high": "tom3", "tom_mid": "tom2", "tom_floor": "tom1"}
    out = np.zeros(int(seconds * RATE) + 4 * RATE, np.float32)
    hats = sorted(t for t, part, _ in strokes if part.startswith("hat"))
    for time, part, loud in strokes:
        layers = drums[names.get(part, part)]
        shot = layers[min(int(loud * len(layers)), len(layers) - 1)]
        if part == "hat_open":
            stop = next((t for t in hats if t > time + 0.01), None)
            size = len(shot) if stop is None else min(len(shot), int((stop - time) * RATE))
            shot = shot[:size] * np.minimum(1, (size - np.arange(size)) / 1300)
        quiet = 0.4 if part.startswith(("hat", "ride")) else 0.8
        gain = quiet * loud**2 / max(0.2, np.abs(shot).max())
        at = round(time * RATE)
        out[at : at + len(shot)] += (gain * shot).astype(np.float32)
    return out[: int(seconds * RATE)]


def make(song: Song, seed: int) -> None:
    """Renders a song and its truth to OUT. The seed decides how it is played, not what."""
    rng = np.random.default_rng(seed)
    score = count.read(text_of(song))
    score = replace(score, pulse=_pulse(song, score.pulse, rng))
    player = Player(seed, 0.7, 0.0, song.late_ms)
    score = score.with_strokes([played(s, score, player, rng) for s in score.strokes.values()])
    seconds = score.pulse.times[-1] + 2.0
    events = [e for s in score.strokes.values() for e in sounded(s, rng)]
    drums = sampled(song.kit, events, seconds) if song.kit else render(events, seconds)
    mix = np.repeat(drums[:, None], 2, axis=1).astype(float)
    if not song.drums_only:
        band.HARMONY[score.title] = {
            s.name.split(" ")[0]: [
                band._minor(45 + 3 * (i % 4)),
                band._major(48 + 2 * i),
                band._major(50),
            ]
            for i, s in enumerate(score.sections)
        }
        rest = kit.fluidsynth(band.midi(score, score.pulse.seconds, rng))
        rest = np.pad(rest, ((0, max(0, len(mix) - len(rest))), (0, 0)))[: len(mix)]
        mix += rest * drums.std() / (rest.std() + 1e-9) * 10 ** (song.band_db / 20)
    scale = 0.85 / np.abs(mix).max()
    mix *= scale
    sf.write(OUT / f"{song.name}.drums.flac", drums * scale, RATE)
    path = OUT / f"{song.name}.flac"
    sf.write(path, mix, RATE)
    if song.mp3:
        target = path.with_suffix(".mp3")
        subprocess.run(
            ["ffmpeg", "-v", "error", "-y", "-i", str(path), "-b:a", "96k", str(target)], check=True
        )
        path.unlink()
    told = truth(score, seconds)
    changes = [{"bar": 1, "beats": score.meters[0].count, "unit": score.meters[0].unit}]
    changes += [
        {"bar": i + 2, "beats": b.count, "unit": b.unit}
        for i, (a, b) in enumerate(pairwise(score.meters))
        if a != b
    ]
    told["meter"] = changes
    (OUT / f"{song.name}.truth.json").write_text(json.dumps(told))


def made() -> list[Path]:
    """The songs' sound files, rendered if they are not there yet."""
    return files([(song, 500 + n) for n, song in enumerate(SONGS)])


def files(wanted: list[tuple[Song, int]]) -> list[Path]:
    """The sound files of songs with their seeds, rendered if they are not there yet."""
    OUT.mkdir(parents=True, exist_ok=True)
    paths = []
    for song, seed in wanted:
        path = OUT / f"{song.name}.{'mp3' if song.mp3 else 'flac'}"
        if (
            not path.exists()
            or not (OUT / f"{song.name}.drums.flac").exists()
            or not (OUT / f"{song.name}.truth.json").exists()
        ):
            kit.SOUND_BANK = FLUID
            make(song, seed)
        paths.append(path)
    return paths
