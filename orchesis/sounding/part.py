"""The written part as sound: on the grid, with the song's feel, or as it was measured."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from orchesis.errors import BadScore
from orchesis.score import LAYERS, PulseMap, Score, Stroke
from orchesis.score.stroke import GRACES, LIMBS
from orchesis.score.swing import swung
from orchesis.sounding.render import RATE, render

FEELS = ("grid", "song", "measured")
#: Clicks a beat by their name.
CLICKS = {"quarters": 1, "8ths": 2, "16ths": 4, "triplets": 3}
#: One click: Hz on the beat and between, seconds of length and decay, amplitude.
CLICK = {"strong": 1760.0, "weak": 1175.0, "length": 0.035, "decay": 0.006, "gain": 0.5}
#: What a cue is sounded with (part, loudness), and the word that mutes it.
CUE, CUES = ("block", 0.6), "cue"
_TAIL = 2.0  # seconds that ring out behind the last bar
_LEAD = 0.1
_SLOWEST, _FASTEST = 20.0, 400.0

Shift = Callable[[Stroke], float]


def _still(_stroke: Stroke) -> float:
    return 0.0


def at_tempo(score: Score, bpm: float) -> Score:
    """The score with its pulse brought to a median tempo; strokes keep their lateness in beats.

    Raises BadScore for a tempo that nobody plays.
    """
    if not _SLOWEST <= bpm <= _FASTEST:
        raise BadScore(f"A tempo lies between {_SLOWEST:.0f} and {_FASTEST:.0f}, not at {bpm:g}.")
    factor = score.pulse.tempo()[0] / bpm
    first = score.pulse.times[0]
    pulse = PulseMap.of([_LEAD + (t - first) * factor for t in score.pulse.times])
    made = [
        s if s.time is None else s.changed(time=_LEAD + (s.time - first) * factor)
        for s in score.strokes.values()
    ]
    return replace(score, pulse=pulse).with_strokes(made)


def moment(score: Score, stroke: Stroke, feel: str = "grid", shift: Shift = _still) -> float:
    """Seconds at which a stroke sounds. shift: by how much the song's feel moves it."""
    if feel == "measured" and stroke.time is not None:
        return stroke.time
    beat = score.bar_beats()[stroke.bar - 1] + swung(stroke.place, score.swing)
    return score.pulse.seconds(beat) + (0.0 if feel == "grid" else shift(stroke))


class Event(NamedTuple):
    """Something that sounds: seconds, part, loudness 0..1; choked: a hand stops it at once."""

    time: float
    part: str
    loudness: float
    choked: bool = False


def events(
    score: Score, feel: str = "grid", shift: Shift = _still, mute: Collection[str] = ()
) -> list[Event]:
    """Everything that sounds, in the order of time: strokes, the graces of their ornaments, cues.

    mute: limbs and layers that are silent, and “cue”; without “ornaments” strokes sound plain.
    Raises BadScore for a word that is none of these.
    """
    unknown = [m for m in mute if m not in (*LIMBS, *LAYERS, CUES)]
    if unknown:
        raise BadScore(
            f"“{unknown[0]}” is neither a limb ({', '.join(LIMBS)}) nor a layer "
            f"({', '.join(LAYERS)}), nor “{CUES}”."
        )
    made = []
    for s in score.played().ordered():
        if s.limb in mute or s.layer in mute:
            continue
        time = moment(score, s, feel, shift)
        made.append(Event(time, s.part, s.loudness, s.choked))
        if s.ornament and "ornaments" not in mute:
            made += _graces(score, s, time)
    if CUES not in mute:
        for bar, cue in score.cues.items():
            first = score.start_of(bar)
            made += [
                Event(score.pulse.seconds(first + swung(p, score.swing)), *CUE) for p in cue.places
            ]
    return [e for e in sorted(made) if e.time >= 0]


def _graces(score: Score, s: Stroke, time: float) -> Iterator[Event]:
    """What an ornament adds to a stroke that sounds at a moment (seconds)."""
    meter, beat = score.meters[s.bar - 1], score.pulse.beat(time)
    # A dotted beat is longer by half: a 32nd is a smaller part of it.
    longer = 2 / 3 if meter.is_compound else 1.0
    for grace in GRACES[s.ornament or ""]:
        after = score.pulse.seconds(beat + grace.beats * longer) - score.pulse.seconds(beat)
        yield Event(time + grace.seconds + after, s.part, s.loudness * grace.share)


def sound(
    score: Score, feel: str = "grid", shift: Shift = _still, mute: Collection[str] = (),
    click: str = "",
) -> np.ndarray:  # fmt: skip
    """The part as mono sound, shape (samples,), peak below 1; with clicks if wished."""
    seconds = score.pulse.times[-1] + _TAIL
    mix = render(events(score, feel, shift, mute), seconds)
    if click:
        parts = CLICKS[click]
        for beat in range(score.bar_beats()[-1]):
            for k in range(parts):
                at = round(score.pulse.seconds(beat + k / parts) * RATE)
                tick = _tick(k == 0)
                end = min(at + len(tick), len(mix))
                if at >= 0:
                    mix[at:end] += tick[: end - at]
    return mix * np.float32(min(1.0, 0.9 / max(1e-6, float(np.abs(mix).max()))))


def _tick(is_strong: bool) -> np.ndarray:
    t = np.arange(int(CLICK["length"] * RATE)) / RATE
    hertz, gain = CLICK["strong" if is_strong else "weak"], CLICK["gain"]
    wave = gain * np.sin(2 * np.pi * hertz * t) * np.exp(-t / CLICK["decay"])
    return wave.astype(np.float32)
