"""Composes and renders the demo songs (once, by hand; the results are shipped).

    python -m demo.make [SONG ...]     needs Debian's fluidsynth and fluid-soundfont-gm (MIT)

Drums are written as count text (demo/songs), humanised here, sounded with our own kit and
mixed with a made-up band. The truth of each song is kept beside its sound as JSON in the
keys of the analysis file. Nothing of the truth is read by the application.
"""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import soundfile as sf

from demo.band import HARMONY, midi
from demo.kit import fluidsynth
from orchesis.formats import count
from orchesis.score import Measured, PulseMap, Score, Stroke
from orchesis.score.swing import swung
from orchesis.sounding import render

FOLDER = Path(__file__).parent / "songs"
RATE = 44100


@dataclass(frozen=True)
class Player:
    """How a song is played: seconds before bar 1, tempo drift (share), lateness (ms)."""

    seed: int
    lead_in: float
    drift: float
    snare_late: float
    spread: float = 4.0
    band_level: float = 0.8


PLAYERS = {
    "copper-weather": Player(seed=1, lead_in=0.6, drift=0.0, snare_late=2.0),
    "late-tram": Player(seed=2, lead_in=1.1, drift=0.006, snare_late=9.0),
    "northline": Player(seed=3, lead_in=0.4, drift=0.018, snare_late=-2.0),
    "glass-orchard": Player(seed=4, lead_in=0.5, drift=0.01, snare_late=4.0),
    "square-at-noon": Player(seed=5, lead_in=0.5, drift=0.0, snare_late=0.0),
    "lantern-steps": Player(seed=6, lead_in=0.5, drift=0.008, snare_late=0.0),
}


def wandering(pulse: PulseMap, player: Player, rng: np.random.Generator) -> PulseMap:
    steps = np.diff(pulse.times)
    walk = np.convolve(rng.normal(0, 1, len(steps) + 31), np.ones(32) / 32, "valid")
    walk *= player.drift / max(walk.std(), 1e-9) if player.drift else 0
    times = player.lead_in + np.concatenate([[0], np.cumsum(steps * (1 + walk))])
    return PulseMap.of(times)


def played(stroke: Stroke, score: Score, player: Player, rng: np.random.Generator) -> Stroke:
    beat = float(score.beat_of(stroke.bar, Fraction(0))) + swung(stroke.place, score.swing)
    late = player.snare_late if stroke.part == "snare" and stroke.dynamic != "ghost" else 0.0
    time = score.pulse.seconds(beat) + (late + rng.normal(0, player.spread)) / 1000
    loudness = stroke.loudness
    if stroke.part.startswith(("hat", "ride")):
        loudness += 0.08 if stroke.place % 1 == 0 else -0.06
    if stroke.dynamic == "normal" and stroke.part == "snare":
        loudness += 0.08
    loudness = float(np.clip(loudness + rng.normal(0, 0.035), 0.12, 1.0))
    return stroke.changed(measured=Measured(max(time, 0.0)), loudness=loudness)


def sounded(stroke: Stroke, rng: np.random.Generator) -> list[tuple[float, str, float]]:
    """A stroke with the grace strokes or bounces of its ornament."""
    time, loud = stroke.time or 0.0, stroke.loudness
    made = [(time, stroke.part, loud)]
    gap = rng.uniform(0.022, 0.034)
    if stroke.ornament == "flam":
        made.append((time - gap, stroke.part, 0.5 * loud))
    elif stroke.ornament == "drag":
        made += [(time - k * gap, stroke.part, 0.45 * loud) for k in (1, 2)]
    elif stroke.ornament == "buzz":
        made += [(time + k * gap, stroke.part, loud * 0.87**k) for k in range(1, 8)]
    return made


def truth(score: Score, duration: float) -> dict:
    bpm, low, high = score.pulse.tempo()
    bars = score.bar_beats()
    beats = [
        {"time": round(score.pulse.times[bars[b] + k], 4), "bar": b + 1, "beat": k + 1}
        for b, m in enumerate(score.meters)
        for k in range(m.beats)
    ]
    return {
        "format": "orchesis-analysis",
        "version": 1,
        "audio": {"duration": round(duration, 3), "sample_rate": RATE},
        "tempo": {"bpm": round(bpm, 2), "low": round(low, 2), "high": round(high, 2)},
        "meter": [{"bar": 1, "beats": 4, "unit": 4}],
        "beats": beats,
        "hits": [
            {
                "time": round(s.time or 0, 4),
                "part": s.part,
                "loudness": round(s.loudness, 3),
                "bar": s.bar,
                "position": str(s.place / score.meters[s.bar - 1].beats),
                "ghost": s.dynamic == "ghost",
                "accent": s.dynamic == "accent",
                "ornament": s.ornament,
            }
            for s in sorted(score.strokes.values(), key=lambda s: s.time or 0)
        ],
        "sections": [
            {
                "start": round(score.seconds(s.first_bar), 3),
                "end": round(score.seconds(s.last_bar + 1), 3),
                "first_bar": s.first_bar,
                "bars": s.bars,
                "label": s.label,
                "name": s.name,
            }
            for s in score.sections
        ],
        "feel": {"swing": {"level": score.swing[0], "ratio": score.swing[1]}},
    }


def make(name: str, player: Player) -> None:
    rng = np.random.default_rng(player.seed)
    score = count.read((FOLDER / f"{name}.count").read_text())
    score = replace(score, pulse=wandering(score.pulse, player, rng))
    score = score.with_strokes([played(s, score, player, rng) for s in score.strokes.values()])
    duration = score.pulse.times[-1] + 2.5
    drums = render([e for s in score.strokes.values() for e in sounded(s, rng)], duration)
    with_band = score.title in HARMONY  # a march and a solo are drums alone
    band = fluidsynth(midi(score, score.pulse.seconds, rng)) if with_band else np.zeros((0, 2))
    mix = np.zeros((len(drums), 2))
    mix += 0.5 * drums[:, None]
    usable = min(len(mix), len(band))
    mix[:usable] += player.band_level * band[:usable]
    mix *= 0.9 / np.abs(mix).max()
    with sf.SoundFile(
        FOLDER / f"{name}.ogg", "w", RATE, 2, format="OGG", subtype="VORBIS", compression_level=0.6
    ) as ogg:
        for block in np.array_split(mix, len(mix) // RATE):  # one long write overflows libvorbis
            ogg.write(block)
    (FOLDER / f"{name}.truth.json").write_text(json.dumps(truth(score, duration)) + "\n")
    print(name, f"{duration:.1f} s", (FOLDER / f"{name}.ogg").stat().st_size)


if __name__ == "__main__":
    for song, how in PLAYERS.items():
        if song in (sys.argv[1:] or PLAYERS):
            make(song, how)
