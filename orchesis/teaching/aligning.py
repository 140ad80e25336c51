"""A recording of one's practice laid beside the part: which stretches of the part were played when,
and how fast.

The recording may begin anywhere, be a little faster or slower than written and drift, stop, begin
again, skip bars, and hold talk and tuning. Short windows of it vote for tempo and place by the
distances between what was heard and what is written (a Hough transform); the likeliest chain of
votes (Viterbi 1967) makes stretches; each stretch gets a smooth map from its clock to the part's.
How late all limbs are together can't be told of a recording: nothing tells where the click was.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.errors import BadScore
from orchesis.score import Score, Stroke
from orchesis.score.stroke import NOBODYS
from orchesis.teaching.stretches import (
    HOP,
    KNOTS_S,
    MIN_STROKES,
    NEAR_S,
    WINDOW,
    Heard,
    Stretch,
    Vote,
    kept_apart,
    kind_of,
    stretches_of,
)

MAX_SECONDS = 1200.0  # seconds of a recording that are heard
#: By how much faster or slower than written it may have been played.
_BIN = 0.02  # seconds of a place in a vote
_FACTORS = np.arange(0.88, 1.1201, 0.004)
_VOTES = 24  # of a window that are followed
_MIN_SUPPORT = (
    0.42  # share of a window's strokes that fit, below which it is no playing of the part
)
_JUMP, _LEAVE = 0.6, 0.25  # support that a leap to another place, or a pause, costs
_TOGETHER_S = 0.08  # seconds by which two windows may disagree and still be one playing
#: How much a stroke of a kind says of the place.
_WEIGHTS = {"kick": 1.0, "snare": 1.0, "tom": 0.8, "cymbal": 0.5}


@dataclass(frozen=True)
class Alignment:
    """percent: by which it was played faster than written; drift: by how many percent it became
    faster from beginning to end."""

    stretches: tuple[Stretch, ...]
    percent: float
    drift: float

    def says(self) -> str:
        """The tempo in one sentence."""
        way = "faster" if self.percent > 0 else "slower"
        size = abs(self.percent)
        sentence = f"{size:.1f} % {way} than written" if size >= _NAMED else "At the written tempo"
        if abs(self.drift) < _STEADY:
            return f"{sentence}, steady."
        more = "faster" if self.drift > 0 else "slower"
        return f"{sentence}, getting {more} by {abs(self.drift):.1f} %."


_NAMED, _STEADY = 0.15, 0.5  # percent


def expected_of(score: Score) -> list[tuple[float, Stroke]]:
    """What is to be played once round: seconds from the first 1, and the stroke."""
    start = score.pulse.times[0]
    strokes = [s for s in score.played().ordered() if s.doubt not in NOBODYS]
    return [(score.played_at(s) - start, s) for s in strokes]


def length_of(score: Score) -> float:
    """Seconds of once round."""
    return float(score.pulse.times[-1] - score.pulse.times[0])


def align(heard: Sequence[Heard], score: Score) -> Alignment:
    """Where in a recording the part was played. Raises BadScore where it is not to be found."""
    expected = expected_of(score)
    by_kind: dict[str, np.ndarray] = {}
    for kind in {kind_of(s.part) for _, s in expected}:
        by_kind[kind] = np.array(sorted({at for at, s in expected if kind_of(s.part) == kind}))
    hits = sorted((h for h in heard if kind_of(h.part) in by_kind), key=lambda h: h.time)
    sure = [h for h in hits if h.confidence >= _MIN_CONFIDENCE]
    if len(sure) < MIN_STROKES or not expected:
        raise BadScore("Too little of this part was heard in the recording.")
    length = length_of(score)
    windows = _windows(sure, by_kind, length)
    chains = _chains(windows, length)
    stretches = []
    for chain in chains:
        stretches += stretches_of(chain, sure, by_kind, length)
    if not stretches:
        raise BadScore(
            "This recording does not go with the step: is it the right one, at its tempo?"
        )
    return _told(kept_apart(stretches, sure, by_kind, length))


_MIN_CONFIDENCE = 0.35  # confidence of strokes by which the place is found


@dataclass(frozen=True)
class _Window:
    middle: float
    votes: tuple[Vote, ...]


def _windows(hits: Sequence[Heard], by_kind: dict[str, np.ndarray], length: float) -> list[_Window]:
    times = np.array([h.time for h in hits])
    factors = _FACTORS
    end = float(times[-1])
    middles = np.arange(float(times[0]) + min(WINDOW, end - times[0]) / 2, end, HOP)
    middles = middles if len(middles) else np.array([(times[0] + end) / 2])
    first = [_window(m, hits, times, by_kind, length, factors) for m in middles]
    best = [w.votes[0] for w in first if w.votes and w.votes[0].support > _MIN_SUPPORT]
    if len(best) < _FEW_WINDOWS:
        return first
    # Who plays fast in one place does so in others: the usual factor narrows the search.
    usual = float(np.median([v.factor for v in best]))
    factors = factors[np.abs(factors - usual) < _USUAL]
    return [_window(m, hits, times, by_kind, length, factors) for m in middles]


_FEW_WINDOWS, _USUAL = 4, 0.035


def _window(
    middle: float,
    hits: Sequence[Heard],
    times: np.ndarray,
    by_kind: dict[str, np.ndarray],
    length: float,
    factors: np.ndarray,
) -> _Window:
    lo, hi = np.searchsorted(times, [middle - WINDOW / 2, middle + WINDOW / 2])
    hits_here = hits[lo:hi]
    if len(hits_here) < MIN_STROKES // 2:
        return _Window(middle, ())
    bins = max(8, int(np.ceil(length / _BIN)))
    width = length / bins
    total = sum(_WEIGHTS.get(kind_of(h.part), 0.5) * h.confidence for h in hits_here)
    kinds = {
        kind: (
            np.array([h.time - middle for h in hits_here if kind_of(h.part) == kind]),
            np.array([h.confidence for h in hits_here if kind_of(h.part) == kind]),
        )
        for kind in by_kind
    }
    candidates: list[Vote] = []
    for factor in factors:
        votes = np.zeros(bins)
        for kind, (since, weight) in kinds.items():
            if not len(since):
                continue
            places = (by_kind[kind][None, :] - factor * since[:, None]) % length
            each = np.repeat(weight * _WEIGHTS.get(kind, 0.5), len(by_kind[kind]))
            index = (places.ravel() / width).astype(int) % bins
            votes += np.bincount(index, each, bins)
        smooth = votes + 0.75 * (np.roll(votes, 1) + np.roll(votes, -1))
        smooth /= max(total, 1e-9)
        crest = (smooth >= np.roll(smooth, 1)) & (smooth > np.roll(smooth, -1))
        top = np.flatnonzero(crest & (smooth > _MIN_SUPPORT))
        for k in top[np.argsort(-smooth[top])[:_VOTES]]:
            left, right = votes[k - 1], votes[(k + 1) % bins]
            shift = (right - left) / max(votes[k] + left + right, 1e-9)
            place = ((k + 0.5 + shift) * width) % length
            candidates.append(Vote(float(place), float(factor), min(float(smooth[k]), 1.2)))
    candidates.sort(key=lambda v: -v.support + 0.3 * abs(v.factor - 1))
    kept: list[Vote] = []
    for vote in candidates:
        if all(_apart_by(vote.place, k.place, length) > NEAR_S for k in kept):
            kept.append(vote)
        if len(kept) == _VOTES:
            break
    return _Window(middle, tuple(kept))


def _apart_by(a: float, b: float, length: float) -> float:
    return abs((a - b + length / 2) % length - length / 2)


def _chains(windows: Sequence[_Window], length: float) -> list[list[tuple[float, Vote]]]:
    """Runs of windows that go on from one another, by Viterbi's algorithm; a window may be no
    playing of the part."""
    best: list[list[float]] = []
    back: list[list[int]] = []
    for n, window in enumerate(windows):
        votes = [*window.votes, None]
        scores, from_ = [], []
        for vote in votes:
            support = _MIN_SUPPORT if vote is None else vote.support
            if n == 0:
                scores.append(support)
                from_.append(-1)
                continue
            options = [
                best[n - 1][k] - _cost(before, vote, window.middle - windows[n - 1].middle, length)
                for k, before in enumerate([*windows[n - 1].votes, None])
            ]
            k = int(np.argmax(options))
            scores.append(support + options[k])
            from_.append(k)
        best.append(scores)
        back.append(from_)
    at = int(np.argmax(best[-1]))
    path: list[Vote | None] = []
    for n in range(len(windows) - 1, -1, -1):
        path.append([*windows[n].votes, None][at])
        at = back[n][at]
    path.reverse()
    chains: list[list[tuple[float, Vote]]] = []
    for n, vote in enumerate(path):
        if vote is None:
            continue
        goes_on = (
            n > 0
            and path[n - 1] is not None
            and not _cost(path[n - 1], vote, windows[n].middle - windows[n - 1].middle, length)
        )
        if goes_on:
            chains[-1].append((windows[n].middle, vote))
        else:
            chains.append([(windows[n].middle, vote)])
    return chains


def _cost(before: Vote | None, vote: Vote | None, step: float, length: float) -> float:
    if before is None and vote is None:
        return 0.0
    if before is None or vote is None:
        return _LEAVE
    factor = (before.factor + vote.factor) / 2
    off = _apart_by(before.place + factor * step, vote.place, length)
    return 0.0 if off < _TOGETHER_S and abs(before.factor - vote.factor) < _USUAL else _JUMP


def _told(stretches: list[Stretch]) -> Alignment:
    """The tempo of all stretches together: its mean, and its change over the recording."""
    if not stretches:
        raise BadScore(
            "This recording does not go with the step: is it the right one, at its tempo?"
        )
    t, f, w = [], [], []
    for s in stretches:
        ends = s.time(np.array([s.first, s.last]))
        inner = s.times[(s.times > ends[0]) & (s.times < ends[1])]
        marks = np.concatenate([[ends[0]], inner, [ends[1]]])
        places = s.place(marks)
        for k in range(len(marks) - 1):
            if (step := marks[k + 1] - marks[k]) > 0.5:
                t.append((marks[k] + marks[k + 1]) / 2)
                f.append((places[k + 1] - places[k]) / step)
                w.append(step)
    times, factors, weights = np.array(t), np.array(f), np.array(w)
    mean = float(np.average(factors, weights=weights))
    drift = 0.0
    if len(times) > 2 and np.ptp(times) > KNOTS_S:
        slope = np.polyfit(times, factors, 1, w=np.sqrt(weights))[0]
        drift = float(100 * slope * np.ptp(times))
    return Alignment(tuple(stretches), 100 * (mean - 1), drift)
