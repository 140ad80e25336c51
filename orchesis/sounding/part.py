"""The written part as sound: on the grid, with the song's feel, or as it was measured."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterator
from dataclasses import replace
from fractions import Fraction
from functools import cache
from io import BytesIO
from pathlib import Path
from typing import NamedTuple

import numpy as np
import soundfile as sf

from orchesis.errors import BadScore
from orchesis.score import LAYERS, PulseMap, Score, Stroke
from orchesis.score.counting import GRIDS, SCHOOLS, words
from orchesis.score.stroke import GRACES, LIMBS, NOBODYS
from orchesis.score.swing import swung
from orchesis.sounding import level
from orchesis.sounding.render import RATE, render
from orchesis.sounding.speech import say

FEELS = ("grid", "song", "measured")
#: Clicks a beat by their name.
CLICKS = {"quarters": 1, "8ths": 2, "16ths": 4, "triplets": 3}
#: One click: Hz on the beat and between, seconds of length and decay, amplitude.
CLICK = {"strong": 1760.0, "weak": 1175.0, "length": 0.035, "decay": 0.006, "gain": 0.5}
#: What a cue is sounded with (part, loudness), and the word that mutes it.
CUE, CUES = ("block", 0.6), "cue"
#: The counting voice that ships with us.
VOICE = Path(__file__).parent / "voice"
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
    strokes = [
        s if s.time is None else s.changed(time=_LEAD + (s.time - first) * factor)
        for s in score.strokes.values()
    ]
    return replace(score, pulse=pulse).with_strokes(strokes)


def moment(score: Score, stroke: Stroke, feel: str = "grid", shift: Shift = _still) -> float:
    """Seconds at which a stroke sounds. shift: by how much the song's feel moves it."""
    if feel == "measured" and stroke.time is not None:
        return stroke.time
    beat = score.bar_beats()[stroke.bar - 1] + swung(stroke.place, score.swing)
    return score.pulse.seconds(beat) + (0.0 if feel == "grid" else shift(stroke))


def moments(score: Score, feel: str, shift: Shift = _still) -> Callable[[Stroke], float] | None:
    """When each stroke sounds (seconds), for whoever writes it; None: where it is written."""
    return None if feel == "grid" else lambda s: moment(score, s, feel, shift)


class Event(NamedTuple):
    """Something that sounds: seconds, part, loudness 0..1; choked: a hand stops it at once. bar: in
    which it is written, also where it sounds a little before it."""

    time: float
    part: str
    loudness: float
    choked: bool = False
    bar: int = 0


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
    sounds = []
    for s in score.played().ordered():
        if s.limb in mute or s.layer in mute:
            continue
        time = moment(score, s, feel, shift)
        sounds.append(Event(time, s.part, s.loudness, s.choked, s.bar))
        if s.ornament and "ornaments" not in mute:
            sounds += _graces(score, s, time)
    if CUES not in mute:
        for bar, cue in score.cues.items():
            first = score.start_of(bar)
            sounds += [
                Event(score.pulse.seconds(first + swung(p, score.swing)), *CUE, bar=bar)
                for p in cue.places
            ]
    return [e for e in sorted(sounds) if e.time >= 0]


def _graces(score: Score, s: Stroke, time: float) -> Iterator[Event]:
    """What an ornament adds to a stroke that sounds at a moment (seconds)."""
    meter, beat = score.meters[s.bar - 1], score.pulse.beat(time)
    # A dotted beat is longer by half: a 32nd is a smaller part of it.
    longer = 2 / 3 if meter.is_compound else 1.0
    for grace in GRACES[s.ornament or ""]:
        after = score.pulse.seconds(beat + grace.beats * longer) - score.pulse.seconds(beat)
        yield Event(time + grace.seconds + after, s.part, s.loudness * grace.share, bar=s.bar)


def song_gain(score: Score) -> float:
    """The one gain of a song: it brings its full part, at its own tempo, to the loudness of EBU R
    128's practice (level.TARGET_LUFS). Steps, slow tempi and muted limbs keep it."""
    sounds = events(score)
    return level.gain_to(level.TARGET_LUFS, render(sounds, score.pulse.times[-1] + _TAIL))


def sound(
    score: Score,
    feel: str = "grid",
    shift: Shift = _still,
    mute: Collection[str] = (),
    click: str = "",
    counted: str = "",
    gain: float | None = None,
) -> np.ndarray:
    """The part as mono sound, shape (samples,), its true peak within level.PEAK_DB; with clicks if
    wished, and counted aloud in a school (score/counting.py). gain: of the song; None: of this
    score."""
    seconds = score.pulse.times[-1] + _TAIL
    gain_of_song = song_gain(score) if gain is None else gain
    mix = np.float32(gain_of_song) * render(events(score, feel, shift, mute), seconds)
    if click:
        for time, is_strong in clicks(score, click):
            lay(mix, tick(is_strong), time)
    if counted:
        for time, word in spoken(score, counted):
            lay(mix, voice(word), time)
    peak = level.true_peak(mix)
    return mix * np.float32(min(1.0, level.factor(level.PEAK_DB) / max(1e-6, peak)))


def clicks(score: Score, click: str) -> Iterator[tuple[float, bool]]:
    """The clicks of a score: seconds, and whether one is a beat's."""
    parts = CLICKS[click]
    for beat in range(score.bar_beats()[-1]):
        for k in range(parts):
            yield score.pulse.seconds(beat + k / parts), k == 0


def spoken(score: Score, school: str = SCHOOLS[0]) -> Iterator[tuple[float, str]]:
    """The count of every bar aloud: seconds and word; each beat by the finest division that is
    played there, beats alone where nothing is."""
    for bar in range(1, score.bar_count + 1):
        meter = score.meters[bar - 1]
        places = [s.place for s in score.strokes_of(bar) if s.doubt not in NOBODYS]
        for beat in range(meter.beats):
            divisions = [(p % 1).denominator for p in places if int(p) == beat]
            grid = min((g for g in GRIDS if g >= max(divisions, default=1)), default=GRIDS[-1])
            for k, word in enumerate(words(grid, meter.is_compound, school)):
                if k == 0 or word:
                    at = score.start_of(bar) + swung(beat + Fraction(k, grid), score.swing)
                    yield score.pulse.seconds(at), word or str(beat + 1)


@cache
def voice(word: str) -> np.ndarray:
    """A word of the count row as sound: of our counting voice (demo/voice.py), or spoken,
    where it is a person's own. Raises BadScore where nothing can say it."""
    table = json.loads((VOICE / "voice.json").read_text())
    source = VOICE / table[word] if word in table else BytesIO(say(word))
    samples, rate = sf.read(source, dtype="float32")
    at = np.arange(0, len(samples) - 1, rate / RATE)
    return np.interp(at, np.arange(len(samples)), samples).astype(np.float32) * np.float32(0.8)


def lay(mix: np.ndarray, sound: np.ndarray, time: float) -> None:
    """Adds a sound to a mix at a moment (seconds); what lies outside is left out."""
    at = round(time * RATE)
    end = min(at + len(sound), len(mix))
    if 0 <= at < end:
        mix[at:end] += sound[: end - at]


def tick(is_strong: bool) -> np.ndarray:
    t = np.arange(int(CLICK["length"] * RATE)) / RATE
    hertz, gain = CLICK["strong" if is_strong else "weak"], CLICK["gain"]
    wave = gain * np.sin(2 * np.pi * hertz * t) * np.exp(-t / CLICK["decay"])
    return wave.astype(np.float32)
