"""A simulated player: plays a part through the same input as a person would, with faults that one
can set. For the demo, for tests, and to show what the feedback means."""

from __future__ import annotations

from dataclasses import dataclass, field
from io import BytesIO

import mido
import numpy as np

from orchesis.errors import BadScore
from orchesis.formats.midi_reader import UNREADABLE
from orchesis.score import KIT, Score
from orchesis.score.kit import MIDI_PARTS
from orchesis.score.stroke import NOBODYS
from orchesis.teaching.judging import Played

_TICKS = 1000  # a beat of half a second: a tick is half a millisecond


@dataclass(frozen=True)
class Habits:
    """late, spread: ms by limb. missed, extra: shares by limb. rush: percent by which the tempo
    grows away from the click. ghosts, level: dB by which ghosts and all strokes are too loud."""

    late: dict[str, float] = field(default_factory=dict)
    spread: dict[str, float] = field(default_factory=dict)
    missed: dict[str, float] = field(default_factory=dict)
    extra: dict[str, float] = field(default_factory=dict)
    rush: float = 0.0
    ghosts: float = 0.0
    level: float = 0.0


def perform(score: Score, habits: Habits, loops: int = 4, seed: int = 0) -> list[Played]:
    """The part as this player plays it, looped; seconds from the first 1."""
    rng = np.random.default_rng(seed)
    strokes = [s for s in score.played().ordered() if s.doubt not in NOBODYS]
    start = score.pulse.times[0]
    length = score.pulse.times[-1] - start
    played = []
    for k in range(loops):
        for s in strokes:
            if rng.random() < habits.missed.get(s.limb, 0.0):
                continue
            at = score.played_at(s) - start + k * length
            at *= 1 - habits.rush / 100
            at += (
                habits.late.get(s.limb, 0.0) + rng.normal(0, habits.spread.get(s.limb, 3.0))
            ) / 1000
            gain = habits.level + (habits.ghosts if s.dynamic == "ghost" else 0.0)
            loud = float(np.clip(s.loudness * 10 ** ((gain + rng.normal(0, 0.6)) / 20), 0.02, 1.0))
            played.append(Played(max(0.0, at), s.part, loud))
            if rng.random() < habits.extra.get(s.limb, 0.0):
                played.append(Played(at + 0.2, s.part, 0.6 * loud))
    return sorted(played, key=lambda p: p.time)


def to_midi(played: list[Played]) -> bytes:
    """What was played as a MIDI file, as a kit of pads would record it."""
    song = mido.MidiFile(ticks_per_beat=_TICKS)
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=500_000)])
    now = 0
    for p in sorted(played, key=lambda p: p.time):
        at = round(p.time * 2 * _TICKS)
        velocity = max(1, min(127, round(127 * p.loudness)))
        track.append(
            mido.Message(
                "note_on", channel=9, note=KIT[p.part].midi, velocity=velocity, time=at - now
            )
        )
        now = at
    song.tracks.append(track)
    out = BytesIO()
    song.save(file=out)
    return out.getvalue()


def from_midi(data: bytes) -> list[Played]:
    """What a MIDI file holds as it was played, by its own clock."""
    try:
        song = mido.MidiFile(file=BytesIO(data))
        now, played = 0.0, []
        for m in song:
            now += m.time
            if m.type == "note_on" and m.velocity > 0 and m.note in MIDI_PARTS:
                played.append(Played(now, MIDI_PARTS[m.note], m.velocity / 127))
    except UNREADABLE as problem:
        raise BadScore(f"This is not a MIDI file we can read ({problem}).") from None
    return played
