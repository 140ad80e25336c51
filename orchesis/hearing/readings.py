"""Rival readings of a song's tempo, and the beats that each lays.

The network (training/pulse.py) tells how fast the pulse is felt at every moment and how likely a
beat and a one fall there. Each rival tempo is followed through the song, its beats are laid (to a
click, if the song keeps to one; otherwise on the path over the likeliest beats), and the reading
that says most wins.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from orchesis.beats import click
from orchesis.beats.bars import bars_of
from orchesis.beats.tracking import held, track
from orchesis.hearing import network
from orchesis.hearing.hits import Hit
from orchesis.hearing.pulsegrid import BAND, CHORD, STEP, band_rows, stroke_rows
from orchesis.hearing.spectrum import Spectrum
from orchesis.hearing.tempo_bins import BINS, FASTEST, SLOWEST, bpm_of

_TURN = 0.9  # what a change of tempo by one bin (2 %) within a second costs
_REACH_OCTAVES = 0.4  # octaves
#: Share of what the freest path meets of beats that a click has to meet.
_CLICK = 0.82
_MIN_SHARE_OF_ONE_TEMPO = 0.95  # share of one tempo from which on no other is tried
#: What speaks for a reading (see Reading), weighed by a logistic choice on made-up songs of
#: other seeds, as strokes without sound.
_SAYS = np.array([0.28, 2.17, -1.27, 1.82, -0.93, 1.0])
#: Weight of the whole song's tempo in every second of it.
_WHOLE = 2.0
#: Pulses are felt round this tempo (Parncutt, "A perceptual model of pulse salience", 1994);
#: what the square of an octave away from it costs.
_COMFORTABLE, _AWAY = 105.0, 1.0


@dataclass(frozen=True)
class TempoActivation:
    """The network's reading: beat and one (frames of 10 ms), tempo (BINS, frames of 20 ms)."""

    beat: np.ndarray
    one: np.ndarray
    tempo: np.ndarray


def feel(grid: np.ndarray) -> TempoActivation:
    out = network.read_pulse(grid)
    moments = np.arange(2 * grid.shape[1]) / 2
    beat, one = (np.interp(moments, np.arange(grid.shape[1]), row) for row in out[:2])
    return TempoActivation(beat, one, out[3:])


def grid_of(spectrum: Spectrum, activity: network.Activity, hits: list[Hit]) -> np.ndarray:
    """What the pulse is read from, (ROWS, frames of 20 ms): strokes, and the band without them."""
    rest = activity.mask.astype(np.float32)  # worked on in place: it is as long as the song
    np.sqrt(np.subtract(1, rest, out=rest), out=rest)
    rest *= spectrum.bands
    frames = (spectrum.frames + 1) // 2
    grid = stroke_rows(((h.time, h.part, h.loudness, h.confidence) for h in hits), frames)
    grid[BAND : CHORD + 1] = band_rows(rest, spectrum.bands, spectrum.chroma)[:, :frames]
    return grid


def rivals(felt: TempoActivation) -> list[tuple[float, float]]:
    """Rival tempi (beats a minute) with their chance over the whole song, the best first."""
    chance = gaussian_filter1d(felt.tempo.mean(axis=1), 1.0)
    tops = np.flatnonzero((chance == maximum_filter1d(chance, 9)) & (chance > 0.002))
    candidates = [
        (float(bpm_of(float(k))), float(chance[max(0, k - 3) : k + 4].sum())) for k in tops
    ]
    return sorted(candidates, key=lambda r: -r[1])


def tempo_path(felt: TempoActivation) -> np.ndarray:
    """Beats a minute at every frame of 20 ms: the reading of the song that says most."""
    paths = _paths(felt)
    if len(paths) == 1:
        return paths[0][1]
    paths_read = [reading(felt, *path) for path in paths]
    return max(paths_read, key=lambda r: float(r.evidence @ _SAYS)).bpm


class BeatGrid(NamedTuple):
    """Beats of a song: their frames, the indices of those before which the grid was cut, and
    whether they
    keep to a click."""

    frames: np.ndarray
    breaks: np.ndarray
    to_click: bool


class Reading(NamedTuple):
    """One way to feel a song's tempo: beats a minute at every frame of 20 ms, and what speaks
    for it: how likely the tempo is; how well the beats it leads to meet what was felt of
    beats, how much of that they leave out; the same of the ones."""

    bpm: np.ndarray
    evidence: np.ndarray


def reading(felt: TempoActivation, score: float, bpm: np.ndarray) -> Reading:
    """What speaks for one tempo path of that score."""
    laid = lay(felt.beat[::2], felt.one[::2], 60 / bpm / STEP)
    beats = np.clip(np.round(laid.frames).astype(int), 0, len(felt.beat[::2]) - 1)
    one = maximum_filter1d(felt.one[::2], 5)
    starts = bars_of(one[beats])
    met, left = _met(felt.beat[::2], beats)
    met_ones, left_ones = _met(felt.one[::2], beats[starts])
    between = np.delete(one[beats], starts)
    certainty = float(between.mean()) if len(between) else 0.0
    return Reading(bpm, np.array([score, met, left, met_ones, left_ones, certainty]))


def lay(beat: np.ndarray, one: np.ndarray, period: np.ndarray) -> BeatGrid:
    """Beats at about a period (frames, at every frame): a click's, where it meets nearly what the
    freest
    path does; otherwise that path, holding its tempo where nothing was felt.

    beat, one: how likely a beat, and a one, falls at each frame, 0..1.
    """
    free = track(beat, period)
    seen = maximum_filter1d(click.odds(beat), 3)
    grid = click.find(beat, one, float(np.median(period)))
    if grid.evidence >= _CLICK * float(seen[free].sum()):
        return BeatGrid(*click.path_of(grid), True)
    return BeatGrid(held(free, seen), np.array([], int), False)


def _met(curve: np.ndarray, at: np.ndarray) -> tuple[float, float]:
    """Mean of a curve's crests at some frames, and the share of its crests that lie elsewhere."""
    near = maximum_filter1d(curve, 5)
    crests = (curve == near) & (curve > 0.05)
    covered = np.zeros(len(curve), dtype=bool)
    for j in range(-3, 4):
        covered[np.clip(at + j, 0, len(curve) - 1)] = True
    whole = float(curve[crests].sum()) + 1e-6
    return float(near[at].mean()) if len(at) else 0.0, float(curve[crests & ~covered].sum()) / whole


def _paths(felt: TempoActivation) -> list[tuple[float, np.ndarray]]:
    """For each rival tempo the likeliest path that turns slowly: its score a second, and beats
    a minute at every frame of 20 ms."""
    per = round(1 / STEP)
    seconds = max(1, felt.tempo.shape[1] // per)
    log = np.log(felt.tempo[:, : seconds * per] + 1e-4)
    seen = log.reshape(BINS, seconds, -1).mean(axis=2) if log.shape[1] >= per else log[:, :1]
    # The song's own tempo decides where a passage could be read twice or half as fast; and of
    # two readings that are as likely, the one nearer to a comfortable pulse is felt.
    whole = np.log(gaussian_filter1d(felt.tempo.mean(axis=1), 2.0) + 1e-3)
    away = np.log2(bpm_of(np.arange(BINS)) / _COMFORTABLE)
    seen = seen + (_WHOLE * whole - _AWAY * away**2)[:, None]
    turn = _TURN * np.abs(np.arange(BINS)[:, None] - np.arange(BINS)[None])
    middles = (np.arange(seconds) + 0.5) / STEP
    paths: list[tuple[float, np.ndarray]] = []
    for centre in _centres(felt):
        # A song keeps to one reading: no path leaves its tempo by more than this.
        far = np.abs(np.log2(bpm_of(np.arange(BINS)) / centre)) > _REACH_OCTAVES
        score, path = _path(np.where(far[:, None], -1e4, seen), turn)
        smooth = gaussian_filter1d(np.array(path, float), 1.5, mode="nearest")
        bpm = bpm_of(np.interp(np.arange(felt.tempo.shape[1]), middles, smooth))
        paths.append((score / seen.shape[1], bpm))
    return paths


def _centres(felt: TempoActivation) -> list[float]:
    """Tempi round which a song may be felt: those that were, and their usual mistakings."""
    centres = [bpm for bpm, _ in rivals(felt)[:3]] or [_COMFORTABLE]
    first = centres[0]
    if rivals(felt)[:1] and rivals(felt)[0][1] > _MIN_SHARE_OF_ONE_TEMPO:
        return [first]
    for ratio in (2, 0.5, 2 / 3, 1.5):
        bpm = first * ratio
        if SLOWEST < bpm < FASTEST and all(abs(np.log2(bpm / b)) > 0.15 for b in centres):
            centres.append(bpm)
    return centres


def _path(seen: np.ndarray, turn: np.ndarray) -> tuple[float, list[int]]:
    """Score and bins of the best path through (BINS, seconds)."""
    best, back = seen[:, 0].copy(), np.zeros(seen.shape, int)
    for k in range(1, seen.shape[1]):
        reach = best[:, None] - turn
        back[:, k] = reach.argmax(axis=0)
        best = reach.max(axis=0) + seen[:, k]
    path = [int(best.argmax())]
    for k in range(seen.shape[1] - 1, 0, -1):
        path.append(int(back[path[-1], k]))
    return float(best.max()), path[::-1]
