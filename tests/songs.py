"""Small pieces of music for the tests: written as count text, sounded with our own kit."""

from __future__ import annotations

import subprocess
from pathlib import Path

import numpy as np
import soundfile as sf

from orchesis.formats import count
from orchesis.score import Score
from orchesis.sounding import render

RATE = 44100

ROCK = """
title: Plain Rock
tempo: 100
== Verse
crash: 1 | -
hat:   8ths -1 | 8ths | = | 8ths 4&.o | 8ths | = | = | 8ths
snare: 2.> 4.> | = | = | = | = | = | = | 2.> 4 4e 4& 4a
kick:  1 3 | 1 2& 3 | 1 3 | 1 2& 3 | 1 3 | 1 2& 3 | 1 3 | 1 2& 3
== Chorus
crash: 1.> | - | - | - | 1.> | -
ride:  8ths -1 | 8ths | = | = | 8ths -1 | 8ths | = | 8ths
snare: 2.> 4.> | = | = | = | = | = | = | =
kick:  1 1& 3 3& | = | = | = | = | = | = | =
"""


def played(score: Score, lead_in: float = 0.5) -> list[tuple[float, str, float]]:
    return [(lead_in + score.seconds(s.bar, s.place), s.part, s.loudness) for s in score.ordered()]


def drums(text: str = ROCK, lead_in: float = 0.5) -> np.ndarray:
    """The drums alone, mono, shape (samples,), peak 0.8."""
    score = count.read(text)
    sound = render(played(score, lead_in), lead_in + score.pulse.times[-1] + 1.0)
    return sound * (0.8 / np.abs(sound).max())


def band(seconds: float, level: float = 0.25) -> np.ndarray:
    """A bass and a chord that change every 2.4 s from 0.5 s on: drums are heard through it."""
    t = np.arange(int(seconds * RATE)) / RATE
    out = np.zeros_like(t)
    for k, root in enumerate([55.0, 65.4, 49.0, 55.0] * int(seconds / 9.6 + 1)):
        here = (t >= 0.5 + k * 2.4) & (t < 0.5 + (k + 1) * 2.4)
        for ratio, share in ((1, 1.0), (2, 0.5), (4, 0.3), (5, 0.3), (6, 0.3)):
            out[here] += share * np.sin(2 * np.pi * root * ratio * t[here])
    return level * out / np.abs(out).max()


def write(path: Path, sound: np.ndarray) -> Path:
    sf.write(path, sound, RATE)
    return path


def converted(source: Path, target: Path, *options: str) -> Path:
    subprocess.run(
        ["ffmpeg", "-v", "error", "-y", "-i", str(source), *options, str(target)], check=True
    )
    return target


def impulse(path: Path, at: float, seconds: float) -> Path:
    """A rock beat with one loud click alone in a silence, at a known moment."""
    sound = drums(lead_in=0.5)
    sound = np.pad(sound, (0, max(0, int(seconds * RATE) - len(sound))))[: int(seconds * RATE)]
    start = round(at * RATE)
    sound[start - RATE // 2 : start + RATE // 2] = 0
    sound[start : start + 3] = (1.0, -1.0, 0.7)
    return write(path, sound)
