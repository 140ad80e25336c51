"""Hats and rides are judged once more, by what like bars have at the same place.

A hat in a dense mix is clear in one bar and covered in the next. What is heard of a stroke by
itself is weighed with what the time hand has at that place in like bars; how sure a stroke must be
to be written is then chosen for the whole song, so that the expected F of these strokes is the
greatest (Ye, Chai, Lee and Chieu, "Optimizing F-measures: a tale of two approaches", 2012).
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import maximum_filter1d

from orchesis.hearing.hits import FRAME, logit
from orchesis.hearing.network import CLASSES, heard_class
from orchesis.hearing.repetition import MARKED, elsewhere
from orchesis.hearing.types import Beat, Hit

#: What is judged so, and whose evidence at a place counts together: one hand keeps the time on hat
#: or ride, an opening recurs as an opening. Crashes are left as they are: they lie where the time
#: does, and rise with it (on the tuning beds their precision fell from .87 to .60).
_GROUP = {
    **dict.fromkeys(("hat_closed", "ride", "ride_bell"), 0),
    "hat_open": 1,
    "hat_foot": 2,
}
METAL = tuple(_GROUP)
#: Weight of a stroke's own log odds (like bars have the rest), and log odds by which it is rather
#: there: on rough made-up songs every part goes from .661 to .682, on the tuning beds from .861 to
#: .858; with half the weight beds lose more.
_OWN, _RATHER = 0.7, 0.4
_MIN_OWN = 0.10  # confidence that a stroke must have by itself to gain anything
_MIN_BARS = 3  # like bars that are asked at least
_SAME_PLACE_FRAMES = 3


def weighed(hits: list[Hit], beats: tuple[Beat, ...], written: float) -> tuple[list[Hit], float]:
    """The strokes with the confidence that like bars leave their cymbals, and the least confidence
    of a cymbal that is written: never above ``written``."""
    at = [
        i for i, h in enumerate(hits) if heard_class(h.part) in METAL and h.confidence >= _MIN_OWN
    ]
    if not at or sum(b.beat == 1 for b in beats) < _MIN_BARS + 1:
        return hits, written
    times = np.array([h.time for h in hits])
    sure = np.array([h.confidence for h in hits])
    kinds = np.array([CLASSES.index(heard_class(h.part)) for h in hits])
    moments, weight = elsewhere(times, sure, kinds, beats)
    groups = np.array([_GROUP.get(heard_class(h.part), -1) for h in hits])
    last = int(max(times.max(), moments.max()) / FRAME) + 2
    there = np.zeros((len(at), moments.shape[1]))
    for group in range(max(_GROUP.values()) + 1):
        curve = np.zeros(last)
        in_group = groups == group
        np.maximum.at(curve, np.round(times[in_group] / FRAME).astype(int), sure[in_group])
        curve = maximum_filter1d(curve, 2 * _SAME_PLACE_FRAMES + 1)
        asking = groups[at] == group
        frames = np.clip(np.round(moments[at][asking] / FRAME).astype(int), 0, last - 1)
        there[asking] = curve[frames]
    asked = weight[at] > 0
    mean = np.where(asked, there, 0).sum(axis=1) / np.maximum(asked.sum(axis=1), 1)
    beside = np.where(asked.sum(axis=1) >= _MIN_BARS, logit(mean, 0.02), 0.0)
    odds = _OWN * logit(sure[at]) + (1 - _OWN) * beside + _RATHER
    now = np.round(1 / (1 + np.exp(-odds)), 3)
    out = list(hits)
    for i, p in zip(at, now, strict=True):
        moved = abs(float(p) - hits[i].confidence) >= MARKED
        out[i] = replace(hits[i], confidence=float(p), recalled=hits[i].recalled or moved)
    return out, min(written, best_threshold(now))


def least(h: Hit, of_cymbals: float, of_others: float) -> float:
    """The confidence from which on a stroke is written."""
    return of_cymbals if heard_class(h.part) in METAL else of_others


def best_threshold(sure: np.ndarray) -> float:
    """The confidence from which on strokes are written so that their expected F is the greatest.

    sure: (n,) the chance of each that it was played.
    """
    falling = np.sort(sure)[::-1]
    right = np.cumsum(falling)
    expected = 2 * right / (np.arange(1, len(falling) + 1) + right[-1])
    return float(falling[int(np.argmax(expected))])
