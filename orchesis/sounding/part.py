"""The written part as sound: on the grid, with the song's feel, or as it was measured."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace

import numpy as np

from orchesis.errors import BadScore
from orchesis.score import KIT, LAYERS, PulseMap, Score, Stroke
from orchesis.score.stroke import GRACES, LIMBS
from orchesis.score.swing import swung
from orchesis.sounding.render import RATE, render

FEELS = ("grid", "song", "measured")
#: Clicks a beat by their name.
CLICKS = {"quarters": 1, "8ths": 2, "16ths": 4, "triplets": 3}
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


def events(
    score: Score, feel: str = "grid", shift: Shift = _still, mute: Collection[str] = ()
) -> list[tuple[float, str, float]]:
    """(seconds, part, loudness) of everything that sounds, grace strokes included.

    mute: limbs and layers that are silent. Raises BadScore for a word that is neither.
    """
    unknown = [m for m in mute if m not in LIMBS and m not in LAYERS]
    if unknown:
        raise BadScore(
            f"“{unknown[0]}” is neither a limb ({', '.join(LIMBS)}) nor a layer "
            f"({', '.join(LAYERS)})."
        )
    made = []
    for s in score.played().ordered():
        if s.limb in mute or s.layer in mute or s.part not in KIT:
            continue
        time = moment(score, s, feel, shift)
        made.append((time, s.part, s.loudness))
        made += [
            (time + off, s.part, s.loudness * share)
            for off, share in GRACES.get(s.ornament or "", ())
        ]
    return [e for e in sorted(made) if e[0] >= 0]


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
                strong = k == 0
                at = round(score.pulse.seconds(beat + k / parts) * RATE)
                tick = _tick(1760.0 if strong else 1320.0, 0.35 if strong else 0.2)
                end = min(at + len(tick), len(mix))
                if at >= 0:
                    mix[at:end] += tick[: end - at]
    return mix * np.float32(min(1.0, 0.9 / max(1e-6, float(np.abs(mix).max()))))


def _tick(hertz: float, gain: float) -> np.ndarray:
    t = np.arange(int(0.03 * RATE)) / RATE
    return (gain * np.sin(2 * np.pi * hertz * t) * np.exp(-t / 0.008)).astype(np.float32)
