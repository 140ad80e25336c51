"""Beats of a song that was played to a click: one period, held through every pause.

For a period the likelihood of a beat is folded in windows of two seconds; the best path over the
windows keeps its phase, and pays to move it (a cut, or a beat too many) or to take another period
(a change of tempo). What a pause holds costs nothing: there the grid goes on.
"""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from scipy.ndimage import maximum_filter1d, median_filter

from orchesis.beats.bars import regular

_WINDOW = 200  # frames
_NOISE = 1.0  # log odds of a beat that is none
_FLOOR = 0.03  # likelihood of a beat that says nothing
#: What another phase costs, in log odds: thirty clear beats. A record is seldom cut, and music
#: that plays round the beat for a while returns to it.
_COST_OF_A_JUMP = 100.0
_OTHER = 100.0  # what another period costs
_LEFT_OUT, _STRETCH = 0.5, 8  # share met, over so many windows, that asks for another period
_TRIED = 8  # periods that are followed through the whole song
_MAX_SHARE_OFF, _FINE_STEP = (
    0.04,
    2e-4,
)  # how far from the felt period a click is sought, and in what steps


class Span(NamedTuple):
    """Frames (10 ms) in which one grid holds: beats at phase + k * period."""

    start: float
    end: float
    period: float
    phase: float


class Click(NamedTuple):
    """The spans of a click, and how much evidence (log odds) its beats meet."""

    spans: tuple[Span, ...]
    evidence: float


def odds(beat: np.ndarray) -> np.ndarray:
    """What each frame says for a beat: log odds over a likelihood that says nothing."""
    return np.log(beat + _FLOOR) - np.log(_FLOOR)


def find(beat: np.ndarray, one: np.ndarray, centre: float) -> Click:
    """The best click of about a period (frames).

    beat, one: (frames,) how likely a beat, and a one, falls at each.
    """
    seen = maximum_filter1d(odds(beat), 3).astype(np.float32)
    step = max(_FINE_STEP, 0.1 * centre / len(beat))
    click, period = _best(seen, _likely(seen, centre, step))
    for finer in (step / 2, step / 4, step / 8):
        tried = [period * (1 - finer), period * (1 + finer), _bridged(click)]
        near, other = _best(seen, tried)
        if near.evidence > click.evidence:
            click, period = near, other
    return _on_beat(seen, maximum_filter1d(one, 5), _refined(seen, click, period, step))


def _bridged(click: Click) -> float:
    """The period that needs no cuts: a little too long or short a one drifts, and is moved back."""
    first, last = click.spans[0], click.spans[-1]
    apart = (last.start + last.end - first.start - first.end) / 2
    jumps = sum(
        (b.phase - a.phase + a.period / 2) % a.period - a.period / 2
        for a, b in pairwise(click.spans)
    )
    return first.period * (1 + jumps / apart) if apart > 0 else first.period


#: Parts of a beat by which a grid may lie beside the beat.
_BESIDE = (0.5, 1 / 3, 2 / 3, 0.25, 0.75)


def _on_beat(seen: np.ndarray, one: np.ndarray, click: Click) -> Click:
    """The grid, or the one beside it whose beats and bars together say more: a band that plays
    round the beat makes beats of its off-beats, but no bars. The evidence stays that of the path
    found first: it tells whether there is a click, not where."""

    def moved(share: float) -> Click:
        spans = tuple(s._replace(phase=s.phase + share * s.period) for s in click.spans)
        at = np.clip(np.round(path_of(Click(spans, 0.0))[0]).astype(int), 0, len(seen) - 1)
        return Click(spans, float(seen[at].sum()) + regular(one[at]))

    here = moved(0.0)
    best = max((here, *map(moved, _BESIDE)), key=lambda c: c.evidence)
    return Click(best.spans, click.evidence)


def _best(seen: np.ndarray, periods: list[float]) -> tuple[Click, float]:
    return max(((_path(seen, [p]), p) for p in periods), key=lambda t: t[0].evidence)


def _likely(seen: np.ndarray, centre: float, step: float) -> list[float]:
    """The likeliest periods near one, each quarter of the file choosing its own phase."""
    rough = seen[: len(seen) // 2 * 2].reshape(-1, 2).max(axis=1)
    quarter = len(rough) / min(4, max(1, len(rough) // 400))
    tried = centre * (1 + np.arange(-_MAX_SHARE_OFF, _MAX_SHARE_OFF + step / 2, step))
    worth = np.zeros(len(tried))
    for i, period in enumerate(tried / 2):
        k = np.arange(int(len(rough) / period))
        at = (k * period)[:, None] + np.arange(int(np.ceil(period)))
        value = rough[np.minimum(at.astype(np.int64), len(rough) - 1)]
        marks = np.flatnonzero(np.diff((k * period // quarter).astype(int), prepend=-1))
        worth[i] = np.add.reduceat(value, marks, axis=0).max(axis=1).sum()
    periods: list[float] = []
    for i in np.argsort(-worth):
        if all(abs(tried[i] / p - 1) > 1.5 * step for p in periods):
            periods.append(float(tried[i]))
        if len(periods) == _TRIED:
            break
    return periods


def _refined(seen: np.ndarray, click: Click, period: float, step: float) -> Click:
    """With a second period where one alone leaves a long stretch without its beats."""
    met, most = _met(seen, click)
    low = median_filter((met < _LEFT_OUT * most).astype(int), 5)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], low, [0]]))).reshape(-1, 2)
    begin, end = max(edges, key=lambda e: e[1] - e[0], default=(0, 0))
    if end - begin < _STRETCH:
        return click
    window = seen[begin * _WINDOW : end * _WINDOW]
    _, other = _best(window, _likely(window, period, max(step, 0.1 * period / len(window))))
    if abs(other / period - 1) < 2 * step:
        return click
    both = _path(seen, [period, other])
    # A click has another tempo from a change on; one that came back would be a band's own.
    changes = sum(a.period != b.period for a, b in pairwise(both.spans))
    return both if changes == 1 and both.evidence > click.evidence else click


def _met(seen: np.ndarray, click: Click) -> tuple[np.ndarray, np.ndarray]:
    """(windows,) evidence that a path meets, and that the best phase of its period would."""
    folded = _folded(seen, click.spans[0].period)
    at = path_of(click)[0].astype(int)
    window = np.minimum(at // _WINDOW, len(folded) - 1)
    inside = at < len(seen)
    met = np.bincount(window[inside], seen[at[inside]], minlength=len(folded))
    return met, folded.max(axis=1)


def _path(seen: np.ndarray, periods: list[float]) -> Click:
    """The best path over the windows for these periods."""
    folded = [_folded(seen, p) for p in periods]
    count = len(folded[0])
    best = [f[0].copy() for f in folded]
    backs: list[list[np.ndarray]] = []
    for w in range(1, count):
        crest = [int(b.argmax()) for b in best]
        top = [float(b[k]) for b, k in zip(best, crest, strict=True)]
        back, new = [], []
        for i, cost in enumerate(best):
            come, value = np.arange(len(cost)), cost
            for j in range(len(best)):
                reach = top[j] - (_COST_OF_A_JUMP if i == j else _OTHER)
                code = crest[j] + 100000 * (j + 1)
                come = np.where(reach > value, code, come)
                value = np.maximum(value, reach)
            back.append(come)
            new.append(value + folded[i][w])
        backs.append(back)
        best = new
    i = max(range(len(best)), key=lambda j: float(best[j].max()))
    at = int(best[i].argmax())
    evidence = float(best[i][at])
    states = [(i, at)]
    for back in reversed(backs):
        code = int(back[i][at])
        if code >= 100000:
            i, at = code // 100000 - 1, code % 100000
        else:
            at = code
        states.append((i, at))
    states.reverse()
    return Click(tuple(_spans(seen, periods, states)), evidence)


def _folded(seen: np.ndarray, period: float) -> np.ndarray:
    """(windows, phases) evidence of the beats of each window, for phases of 0 .. period frames."""
    count = max(1, round(len(seen) / _WINDOW))
    phases = np.arange(int(np.ceil(period)))
    k = np.arange(int(len(seen) / period) + 2)
    at = np.round(phases[:, None] + k[None] * period).astype(np.int64)
    inside = at < len(seen)
    value = np.where(inside, seen[np.minimum(at, len(seen) - 1)], 0)
    window = np.minimum(at // _WINDOW, count - 1)
    flat = (window * len(phases) + phases[:, None]).ravel()
    histogram = np.bincount(flat[inside.ravel()], value[inside], minlength=count * len(phases))
    return histogram.reshape(count, len(phases))


def _spans(seen: np.ndarray, periods: list[float], states: list[tuple[int, int]]) -> list[Span]:
    spans: list[Span] = []
    begin = 0
    for w in range(1, len(states) + 1):
        if w == len(states) or states[w] != states[begin]:
            i, at = states[begin]
            end = len(seen) if w == len(states) else w * _WINDOW
            spans.append(Span(float(begin * _WINDOW), float(end), periods[i], float(at)))
            begin = w
    for k in range(len(spans) - 1):
        a, b = spans[k : k + 2]
        cut = _cut(seen, a, b)
        spans[k], spans[k + 1] = a._replace(end=cut), b._replace(start=cut)
    return spans


def _cut(seen: np.ndarray, a: Span, b: Span) -> float:
    """The frame near a border at which the second grid says more than the first."""
    low, high = max(a.start, a.end - 1.5 * _WINDOW), min(b.end, b.start + 1.5 * _WINDOW)

    def told(span: Span) -> tuple[np.ndarray, np.ndarray]:
        at = beats_of(span._replace(start=low, end=high))
        return at, seen[np.minimum(np.round(at).astype(int), len(seen) - 1)] - _NOISE

    (one, first), (two, second) = told(a), told(b)
    moments = np.sort(np.concatenate([one, two, [low, high]])) + 0.5
    worth = [float(first[one < m].sum() + second[two >= m].sum()) for m in moments]
    return float(moments[int(np.argmax(worth))])


def beats_of(span: Span) -> np.ndarray:
    """Frames of the beats of a span."""
    k = np.arange(
        np.ceil((span.start - span.phase) / span.period),
        np.ceil((span.end - span.phase) / span.period),
    )
    return span.phase + k * span.period


def path_of(click: Click) -> tuple[np.ndarray, np.ndarray]:
    """Frames of the beats of all spans, and the indices of those before which a grid ended."""
    times: list[float] = []
    breaks: list[int] = []
    for span in click.spans:
        beats = beats_of(span)
        if times and len(beats) and beats[0] - times[-1] < 0.5 * span.period:
            beats = beats[1:]  # the cut left less than half a beat
        if times and len(beats):
            breaks.append(len(times))
        times += [float(b) for b in beats]
    return np.array(times), np.array(breaks, int)
