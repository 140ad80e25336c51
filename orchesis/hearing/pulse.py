"""Tempo, beats, meter and bars of a song, from its strokes and what the band does.

A network that learned from made-up drum parts (training/pulse.py) tells for every moment how
likely a beat and a one fall there and how fast the pulse is felt. From these the most
probable path is sought: first the tempo over the song, then the beats and the bars with their
meters (orchesis/beats).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from scipy.ndimage import maximum_filter1d

from orchesis.beats.bars import (
    bars_of,
    in_eighths,
    in_fours,
    is_compound,
    settled,
    signatures,
    whole_bars,
)
from orchesis.beats.smoothing import smooth
from orchesis.errors import BadSound
from orchesis.hearing import loops, network
from orchesis.hearing.hits import FRAME
from orchesis.hearing.readings import (
    BeatGrid,
    TempoActivation,
    feel,
    grid_of,
    lay,
    rivals,
    tempo_path,
)
from orchesis.hearing.spectrum import Spectrum
from orchesis.hearing.types import Beat, HeardMeter, Hit, Tempo

_DYING = 0.4  # seconds of a last sound that ask for no bar of their own
_MIN_CONFIDENCE = 0.5  # confidence from which on a stroke tells where the beat beside it lies
_ON_THE_BEAT_S, _ON_A_FELT_BEAT_S = (
    0.045,
    0.05,
)  # seconds within which a stroke, or a felt beat, tells of a beat
_FELT, _FELT_SPREAD = 0.3, 3.0  # likelihood of a beat that tells, and how much less exactly
_MIN_BEATS = 6  # beats of a pulse
_CUT_ON_ONE = 0.95  # how likely the first beat of a few bars alone is a 1
_STEADY = 0.006  # share by which a steady tempo may leave its middle
_LEAST_ONE = 0.03  # least likelihood of a 1 that is told


class Pulse(NamedTuple):
    """What ``find`` finds; ones and sounding as in ``Hearing``. cuts: seconds at which a click's
    grid breaks off and another one begins."""

    tempo: Tempo
    meters: tuple[HeardMeter, ...]
    beats: tuple[Beat, ...]
    ones: tuple[tuple[float, float], ...]
    sounding: tuple[float, float]
    cuts: tuple[float, ...] = ()


def observed(
    felt: TempoActivation, laid: BeatGrid, strokes: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Where each laid beat was observed (seconds, NaN where it was not), and how inexactly.

    strokes: seconds of sure strokes, rising.
    """
    guess = laid.frames * FRAME
    seen, spread = np.full(len(guess), np.nan), np.ones(len(guess))
    last = len(felt.beat) - 1
    reach = round(_ON_A_FELT_BEAT_S / FRAME)
    for k, frame in enumerate(np.round(laid.frames).astype(int)):
        lo, hi = np.clip([frame - reach, frame + reach + 1], 0, last + 1)
        crest = lo + int(np.argmax(felt.beat[lo:hi])) if hi > lo else 0
        if hi > lo and felt.beat[crest] > _FELT:
            seen[k], spread[k] = crest * FRAME, _FELT_SPREAD
    if len(strokes):
        at = np.where(np.isnan(seen), guess, seen)
        index = (
            np.clip(np.searchsorted(strokes, at), 1, len(strokes) - 1)
            if len(strokes) > 1
            else np.zeros(len(at), int)
        )
        left, right = strokes[index - 1], strokes[index]
        nearest = np.where(np.abs(left - at) < np.abs(right - at), left, right)
        close = np.abs(nearest - at) < _ON_THE_BEAT_S
        seen, spread = np.where(close, nearest, seen), np.where(close, 1.0, spread)
    return seen, spread


def _tempo(times: np.ndarray, cuts: np.ndarray, others: list[tuple[float, float]]) -> Tempo:
    """cuts: seconds at which the grid was cut; what lies across one is no tempo."""
    span = min(4, len(times) - 1)
    whole = np.searchsorted(cuts, times[span:]) == np.searchsorted(cuts, times[:-span])
    local = (60 * span / (times[span:] - times[:-span]))[whole if whole.any() else slice(None)]
    bpm = float(np.median(local))
    low, high = np.percentile(local, [5, 95])
    steady = bool(max(high / bpm - 1, 1 - low / bpm) < _STEADY)
    near = [c for b, c in others if abs(b / bpm - 1) < 0.08]
    distinct: list[float] = []
    for a in [*(b for b, c in others if c > 0.04), bpm / 2, bpm * 2]:
        if abs(a / bpm - 1) > 0.08 and all(abs(a / d - 1) > 0.08 for d in distinct):
            distinct.append(round(a, 1))
    return Tempo(
        bpm=round(bpm, 2),
        low=round(float(low), 2),
        high=round(float(high), 2),
        steady=steady,
        confidence=round(float(np.clip(sum(near), 0.05, 0.98)), 2),
        alternatives=tuple(distinct[:4]),
    )


def _beats(felt: TempoActivation, hits: list[Hit]) -> tuple[np.ndarray, np.ndarray]:
    """Seconds of the beats, and those at which the grid was cut."""
    bpm = tempo_path(felt)
    period = 60 / np.interp(np.arange(len(felt.beat)) / 2, np.arange(len(bpm)), bpm) / FRAME
    if len(felt.beat) < 4 * period[0]:
        raise BadSound("No pulse was found in this recording; tap it in, or choose another take.")
    laid = lay(felt.beat, felt.one, period)
    if len(laid.frames) < _MIN_BEATS:
        raise BadSound("No pulse was found in this recording; tap it in, or choose another take.")
    sure = np.array(sorted(h.time for h in hits if h.confidence > _MIN_CONFIDENCE))
    times = smooth(laid.frames * FRAME, *observed(felt, laid, sure), laid.breaks).times
    return times, (times[laid.breaks - 1] + times[laid.breaks]) / 2


def _bars(
    felt: TempoActivation, times: np.ndarray, hits: list[Hit]
) -> tuple[list[int], np.ndarray]:
    """Indices of the beats on which bars begin, and the beats (seconds; eighths, where bars of
    five or
    seven are counted in those)."""
    frames_of = np.clip((times / FRAME).round().astype(int), 0, len(felt.one) - 1)
    one = maximum_filter1d(felt.one, 7)[frames_of]
    if times[-1] - times[0] < loops.MAX_LOOP_S and hits:
        # Who cuts a few bars out of a song cuts before a 1, more or less.
        begins = np.flatnonzero(times > min(h.time for h in hits) - 0.1)[:1]
        one[begins] = np.maximum(one[begins], _CUT_ON_ONE)
    crashes = np.array([h.time for h in hits if h.part.startswith("crash")])
    struck = [h.time for h in hits if h.part in ("kick", "snare", "cross_stick")]
    return in_eighths(settled(in_fours(bars_of(one), times, one, crashes), one), times, struck)


def find(spectrum: Spectrum, activity: network.Activity, hits: list[Hit]) -> Pulse:
    """Tempo, meters and beats of one song, bar 1 first.

    Bars reach from the bar of the first sound to the bar of the last; one closing beat
    follows. Raises BadSound where no pulse is found.
    """
    sound = sounding(spectrum)
    first = min([h.time for h in hits] + [sound[0]])
    last = max([h.time for h in hits] + [sound[1] - _DYING])
    grid = grid_of(spectrum, activity, hits)
    loop = loops.found(grid, hits, spectrum.duration, sound)
    if loop is not None:
        felt, times, cuts = loop.felt, loop.times, np.zeros(0)
        starts = list(range(0, len(times), loop.size))
        first, last = 0.0, float(times[-1]) - _DYING
    else:
        felt = feel(grid)
        times, cuts = _beats(felt, hits)
        starts, times = _bars(felt, times, hits)
    tempo = _tempo(times, cuts, rivals(felt))
    whole, lengths = whole_bars(times, starts, first, last)
    written = signatures(lengths, tempo.bpm, is_compound(whole, [h.time for h in hits]))
    meters = tuple(
        HeardMeter(bar + 1, *written[bar])
        for bar in range(len(written))
        if bar == 0 or written[bar] != written[bar - 1]
    )
    numbered = [(bar + 1, k + 1) for bar, size in enumerate(lengths) for k in range(size)]
    numbered.append((len(lengths) + 1, 1))
    bars = tuple(
        Beat(round(float(t), 4), bar, beat) for t, (bar, beat) in zip(whole, numbered, strict=True)
    )
    inside = tuple(round(float(t), 2) for t in cuts if first < t < last)
    return Pulse(tempo, meters, bars, _ones(felt), (round(first, 3), round(last, 3)), inside)


def _ones(felt: TempoActivation) -> tuple[tuple[float, float], ...]:
    crests = (felt.one == maximum_filter1d(felt.one, 15)) & (felt.one > _LEAST_ONE)
    return tuple(
        (round(float(k) * FRAME, 2), round(float(felt.one[k]), 3)) for k in np.flatnonzero(crests)
    )


def sounding(spectrum: Spectrum) -> tuple[float, float]:
    """Seconds between which there is music: from a twentieth of its usual level, lasting
    80 ms, to a tenth (below that a last chord dies away)."""
    level = spectrum.bands.mean(axis=1)
    usual = np.percentile(level, 90)
    lasting = np.convolve(level > 0.05 * usual, np.ones(8), "valid") == 8
    begins = float(np.argmax(lasting)) * FRAME if lasting.any() else 0.0
    ends = float(np.flatnonzero(level > 0.1 * usual)[-1]) * FRAME
    return begins, ends
