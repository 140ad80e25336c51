"""The second pass: a song's own repetition makes its unsure strokes surer, or less sure.

A drummer who doubts a ghost listens to the other bars of the same groove. So do we: what the
model heard of the same sound at the same place of like bars, also where it was too faint to be a
stroke by itself, raises a weak candidate or lowers it. How far is learned (training/tune.py
--recall). Nothing is added where the sound gave no candidate, and whatever changed is marked.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import maximum_filter1d

from orchesis.hearing.hits import FRAME, logit, tuned
from orchesis.hearing.network import CLASSES, heard_class
from orchesis.hearing.types import Beat, Hit

_SAME_PLACE_FRAMES = 3  # frames within which a sound stands at the same place
_MIN_LIKENESS = 0.6  # least likeness of bars that tell about one another
_MAX_BARS_ASKED = 24  # bars that are asked
_MIN_LIKENESS_SUM = 3.0  # likeness, summed, below which nothing is said
_CELLS = 16
MARKED = 0.1  # confidence that repetition must move to be told


class Bars:
    """The whole bars of a song: where in its bar a moment lies, and when that place comes in
    another.

    size: (bars,) beats of each. There is one bar less than there are ones.
    """

    def __init__(self, beats: tuple[Beat, ...]) -> None:
        ones = [i for i, b in enumerate(beats) if b.beat == 1]
        self.times = np.array([b.time for b in beats])
        self.first, self.size = np.array(ones[:-1], int), np.diff(ones)
        self.starts = self.times[ones]

    def places(self, times: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """(bar, beat, part of the beat) of moments in seconds."""
        bar = np.searchsorted(self.starts, times + 0.03, side="right") - 1
        bar = np.clip(bar, 0, len(self.first) - 1)
        low, high = self.first[bar], self.first[bar] + self.size[bar] - 1
        beat = np.clip(np.searchsorted(self.times, times, side="right") - 1, low, high)
        part = (times - self.times[beat]) / (self.times[beat + 1] - self.times[beat])
        return bar, beat - low, part

    def moments(
        self, bars: np.ndarray, beat: np.ndarray | int, part: np.ndarray | float
    ) -> np.ndarray:
        """Seconds of a place in other bars; in a shorter bar it falls into a later one."""
        k = np.minimum(self.first[bars] + beat, len(self.times) - 2)
        return self.times[k] + part * (self.times[k + 1] - self.times[k])


def by_repetition(
    candidates: list[Hit], beats: tuple[Beat, ...], strength: np.ndarray
) -> list[Hit]:
    """The candidates with the confidence that the song's repetition leaves them.

    strength: (frames, classes), see network.Activity. Each is marked ``recalled`` if its
    confidence moved by a tenth or more.
    """
    seen = evidence(candidates, beats, strength)
    hits = []
    for h, row in zip(candidates, seen, strict=True):
        weights = tuned()[heard_class(h.part)].get("again")
        if weights is not None and not np.isnan(row[0]):
            now = float(1 / (1 + np.exp(-(row @ weights))))
            h = replace(
                h, confidence=round(now, 3), recalled=bool(abs(now - h.confidence) >= MARKED)
            )
        hits.append(h)
    return hits


def evidence(candidates: list[Hit], beats: tuple[Beat, ...], strength: np.ndarray) -> np.ndarray:
    """(n, 6) what speaks for each candidate, in log odds: one, its confidence, what was heard
    at its moment, the mean and the lower quarter of what was heard at its place in like bars,
    and that mean by how many bars were asked. NaN where no bars are like its own."""
    out = np.full((len(candidates), 6), np.nan)
    if not candidates or sum(b.beat == 1 for b in beats) < 4:
        return out
    times = np.array([h.time for h in candidates])
    sure = np.array([h.confidence for h in candidates])
    kinds = np.array([CLASSES.index(heard_class(h.part)) for h in candidates])
    moments, weight = elsewhere(times, sure, kinds, beats)
    there, here = np.zeros(moments.shape), np.zeros(len(times))
    for c in np.unique(kinds):
        curve = logit(maximum_filter1d(strength[:, c], 2 * _SAME_PLACE_FRAMES + 1))
        is_own = kinds == c
        there[is_own], here[is_own] = (
            curve[np.clip(np.round(t / FRAME).astype(int), 0, len(curve) - 1)]
            for t in (moments[is_own], times[is_own])
        )
    enough = np.flatnonzero(weight.sum(axis=1) >= _MIN_LIKENESS_SUM)
    there, weight = there[enough], weight[enough]
    asked = (weight > 0).sum(axis=1)
    mean = (there * weight).sum(axis=1) / weight.sum(axis=1)
    ones = np.ones(len(enough))
    low = _lower_quarter(np.where(weight > 0, there, np.inf), asked)
    out[enough] = np.stack(
        [ones, logit(sure[enough]), here[enough], mean, low, mean * asked / _MAX_BARS_ASKED], 1
    )
    return out


def elsewhere(
    times: np.ndarray, sure: np.ndarray, kinds: np.ndarray, beats: tuple[Beat, ...]
) -> tuple[np.ndarray, np.ndarray]:
    """(n, asked) seconds of each candidate's place in the bars most like its own, and how like they
    are (0: not asked). sure: confidences; kinds: indices of CLASSES."""
    bars = Bars(beats)
    bar, beat, part = bars.places(times)
    like = _likeness(bar, (beat + part) / bars.size[bar], sure, kinds, bars.size)
    others = np.argsort(-like, axis=1, kind="stable")[:, :_MAX_BARS_ASKED][bar]
    weight = np.take_along_axis(like[bar], others, axis=1)
    return bars.moments(others, beat[:, None], part[:, None]), weight


def _lower_quarter(values: np.ndarray, count: np.ndarray) -> np.ndarray:
    """The 25th percentile of the first ``count`` of each row's values, the rest being infinite."""
    rising, at = np.sort(values, axis=1), 0.25 * (count - 1)
    k, rows = at.astype(int), np.arange(len(values))
    below, above = rising[rows, k], rising[rows, np.minimum(k + 1, count - 1)]
    return below + (at - k) * (above - below)


def _likeness(
    bar: np.ndarray, place: np.ndarray, sure: np.ndarray, kinds: np.ndarray, sizes: np.ndarray
) -> np.ndarray:
    """(bars, bars) likeness 0..1 of what is surely played; a bar says nothing about itself, nor
    does one of another length."""
    kinds_seen, kind = np.unique(kinds, return_inverse=True)
    rows = np.zeros((len(sizes), len(kinds_seen) * _CELLS))
    cell = np.minimum((place * _CELLS + 0.5).astype(int), _CELLS - 1)
    np.maximum.at(rows, (bar, kind * _CELLS + cell), np.where(sure > 0.4, sure, 0))
    norm = np.linalg.norm(rows, axis=1) + 1e-6
    like = rows @ rows.T / norm[:, None] / norm[None]
    like[like < _MIN_LIKENESS] = 0
    np.fill_diagonal(like, 0)
    return np.where(sizes[:, None] == sizes[None], like, 0)
