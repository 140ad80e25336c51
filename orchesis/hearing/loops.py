"""Loops: short files that start and end on a beat are a whole number of bars.

A loop is felt going round, as it will be played: the network hears it several times in a row and
so has more than two bars to settle on. Where a whole number of the beats it then feels fills the
file, the file is a loop: its beats divide it evenly, and its bars begin where it does.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from orchesis.beats.bars import divided
from orchesis.hearing.hits import FRAME, Hit
from orchesis.hearing.pulsegrid import BAND, STEP, stroke_rows
from orchesis.hearing.readings import TempoActivation, feel, lay, tempo_path

MAX_LOOP_S = 24.0  # seconds of a loop
_MIN_SECONDS_FELT = 30.0  # seconds that it is felt for
_STARTS, _SOUNDS = 0.06, 0.12  # seconds from either end within which a loop has sounded
_WHOLE = 0.07  # of a beat, how near a whole number of beats must come
_NEAR_ITS_START_BEATS = 0.15  # of a beat, how near its own start a loop's grid lies


class Loop(NamedTuple):
    """felt: as in a song, for the file's own frames. times: beats (seconds) and the one behind
    the last; size: beats of a bar."""

    felt: TempoActivation
    times: np.ndarray
    size: int


def found(
    grid: np.ndarray, hits: list[Hit], duration: float, sounding: tuple[float, float]
) -> Loop | None:
    """The loop that a file is, or None. grid: (ROWS, frames of 20 ms), see pulsegrid; hits: its
    strokes; sounding: seconds between which it sounds."""
    starts = min([h.time for h in hits] + [sounding[0]])
    if (
        duration > MAX_LOOP_S
        or starts > _STARTS
        or sounding[1] < duration - _SOUNDS
        or len(hits) < 4
    ):
        return None
    rounds = int(np.ceil(_MIN_SECONDS_FELT / duration)) + 1
    frames = int(rounds * duration / STEP)
    bins = grid.shape[1]
    at = np.minimum(((np.arange(frames) * STEP) % duration / STEP).astype(int), bins - 1)
    going = grid[:, at]
    going[:BAND] = stroke_rows(
        (
            (h.time + k * duration, h.part, h.loudness, h.confidence)
            for k in range(rounds)
            for h in hits
        ),
        frames,
    )[:BAND]
    felt = feel(going)
    bpm = tempo_path(felt)
    period = 60 / np.interp(np.arange(len(felt.beat)) / 2, np.arange(len(bpm)), bpm) / FRAME
    laid = lay(felt.beat, felt.one, period)
    beat = float(np.median(np.diff(laid.frames))) * FRAME
    count = round(duration / beat)
    if count < 4 or abs(duration / beat - count) > max(_WHOLE, 0.004 * count):
        return None
    beat = duration / count
    turn = np.exp(2j * np.pi * laid.frames * FRAME / beat)
    off = float(np.angle(turn.mean())) / (2 * np.pi)
    if abs(off) > _NEAR_ITS_START_BEATS:
        return None
    times = np.arange(count + 1) * beat
    # What was felt in a round in the middle, where there is as much before as behind.
    first = round((rounds // 2) * duration / FRAME)
    inside = slice(first, first + 2 * bins)
    middle = TempoActivation(
        felt.beat[inside], felt.one[inside], felt.tempo[:, first // 2 : first // 2 + bins]
    )
    frames_of = np.clip(np.round(times[:-1] / FRAME).astype(int), 0, len(middle.one) - 1)
    near = np.clip(frames_of[:, None] + np.arange(-3, 4), 0, len(middle.one) - 1)
    size = divided(middle.one[near].max(axis=1))
    return Loop(middle, times, size) if size else None
