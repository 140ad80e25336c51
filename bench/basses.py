"""Bass lines of our own over drums of our own: how many of their notes are found, and at which pitch.

Each line is count text (the rhythm, with the kick's beside it) and pitches in turn; the band is
sounded with the bench's sound bank, the drums with our kit (odd lines) or with ForzeeStereo, and the
recording is heard with the drums that the separator takes out. The first four lines were looked at
while the tracker was made.
"""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path

import mido
import numpy as np
import soundfile as sf

from demo import band, kit
from materials.songs import FLUID, sampled
from orchesis.formats import count
from orchesis.hearing import bass, network, separate, spectrum, take_in
from orchesis.score import Score
from orchesis.sounding import render

RATE = 44100


@dataclass(frozen=True)
class Line:
    tempo: int
    bass: str
    pitches: tuple[int, ...]
    kick: str
    chords: tuple[int, ...] = (57, 60, 64)
    program: int = 33


LINES = (
    Line(96, "1 2& 3 4& | 1 1& 3 4", (33, 33, 36, 31), "1 2& 3"),
    Line(120, "8ths | 8ths", (28,), "1 3"),
    Line(84, "1 1a 2& 3& 4a | 1 2a 3 4", (33, 36, 38, 40, 43), "1 2& 4a"),
    Line(108, "1 3 | 1 2 3 4", (31, 38, 36, 33), "quarters", (55, 59, 62), 32),
    Line(132, "1 2& 4 | 2 3& ", (29, 36, 41), "1 2& 3 4&", (53, 57, 60)),
    Line(76, "1 2l 3 4l | 1 2 2l 4", (36, 34, 33, 31), "1 3", (60, 63, 67), 35),
    Line(112, "quarters | quarters", (33, 35, 36, 38, 40, 41, 43, 45), "1 3", (57, 60, 64), 32),
    Line(100, "1 1e 1& 3 3e 3& | 1 4& ", (40, 40, 43), "1 3 | 1 2& 3", (52, 55, 59), 34),
)
BARS = 8


def score_of(line: Line) -> Score:
    rows = {"hat": "8ths", "snare": "2.> 4.>", "kick": line.kick}
    lanes = [
        f"{part}: {' | '.join((text.split('|') * BARS)[i % len(text.split('|'))].strip() for i in range(BARS))}"
        for part, text in (("hat", rows["hat"]), ("snare", rows["snare"]), ("kick", rows["kick"]))
    ]
    return count.read(f"tempo: {line.tempo}\n== A\n" + "\n".join(lanes) + "\n")


def notes_of(line: Line) -> list[tuple[float, float, int]]:
    """(start, end, pitch) of the line's notes, in seconds."""
    bars = line.bass.split("|")
    text = " | ".join(bars[i % len(bars)].strip() for i in range(BARS))
    rhythm = count.read(f"tempo: {line.tempo}\nkick: {text}\n")
    starts = sorted(0.5 + rhythm.seconds(s.bar, s.place) for s in rhythm.strokes.values())
    end = 0.5 + rhythm.pulse.times[-1]
    return [
        (a, min(b, a + 1.2), line.pitches[n % len(line.pitches)])
        for n, (a, b) in enumerate(zip(starts, [*starts[1:], end], strict=True))
    ]


def sounded(line: Line, n: int) -> tuple[np.ndarray, np.ndarray, Score]:
    """(the whole, its drums, the score of the drums) as mono at 44.1 kHz."""
    rng = np.random.default_rng(900 + n)
    score = score_of(line)
    score = score.with_strokes(
        s.changed(loudness=float(np.clip(s.loudness + rng.normal(0, 0.05), 0.1, 1)))
        for s in score.strokes.values()
    )
    events = [
        (0.5 + score.seconds(s.bar, s.place), s.part, s.loudness) for s in score.strokes.values()
    ]
    seconds = score.pulse.times[-1] + 1.5
    drums = sampled("ForzeeStereo", events, seconds) if n % 2 else render(events, seconds)
    kit.SOUND_BANK = FLUID
    rest = kit.fluidsynth(_midi(line, score)).mean(axis=1)
    rest = np.pad(rest, (0, max(0, len(drums) - len(rest))))[: len(drums)]
    rest *= drums.std() / (rest.std() + 1e-9)
    scale = 0.85 / np.abs(drums + rest).max()
    return (drums + rest) * scale, drums * scale, score


def _midi(line: Line, score: Score) -> mido.MidiFile:
    events = []
    for start, end, pitch in notes_of(line):
        events.append(
            (round(1000 * start), mido.Message("note_on", channel=0, note=pitch, velocity=95))
        )
        events.append(
            (
                max(round(1000 * start) + 60, round(1000 * end) - 20),
                mido.Message("note_off", channel=0, note=pitch),
            )
        )
    for bar in range(1, BARS + 1):
        for key in line.chords:
            at = round(1000 * (0.5 + score.seconds(bar)))
            events.append((at, mido.Message("note_on", channel=1, note=key, velocity=60)))
            events.append(
                (
                    round(1000 * (0.5 + score.seconds(bar + 1))) - 40,
                    mido.Message("note_off", channel=1, note=key),
                )
            )
    return band.song_of(events, ((0, line.program), (1, 4)))


def separated(whole: np.ndarray) -> np.ndarray:
    """The drums in a mix as the onset model takes them out."""
    with tempfile.TemporaryDirectory() as folder:
        sf.write(Path(folder) / "mix.wav", np.repeat(whole[:, None], 2, axis=1), RATE)
        intake = take_in(Path(folder) / "mix.wav", Path(folder) / "mix.flac")
        activity = network.hear(spectrum.measure(intake.path, intake.duration))
        sound, _ = sf.read(intake.path, dtype="float32", always_2d=True)
    return separate.drums_of(sound, activity.mask).mean(axis=1)


def measured(line: Line, n: int) -> tuple[float, float]:
    """(F of the notes' beginnings at 70 ms, share of those found whose pitch class is right)."""
    whole, _, _ = sounded(line, n)
    found = bass.notes(whole, separated(whole))
    want = notes_of(line)
    hits = right = i = j = 0
    while i < len(want) and j < len(found):
        if abs(want[i][0] - found[j].start) <= 0.07:
            hits, right = hits + 1, right + (want[i][2] % 12 == found[j].pitch % 12)
            i, j = i + 1, j + 1
        elif want[i][0] < found[j].start:
            i += 1
        else:
            j += 1
    return 2 * hits / max(1, len(want) + len(found)), right / max(1, hits)


def run() -> tuple[float, float]:
    """Means of the last four lines, which nothing was tuned on."""
    own = [measured(line, n) for n, line in enumerate(LINES) if n >= 4]
    return float(np.mean([f for f, _ in own])), float(np.mean([p for _, p in own]))
