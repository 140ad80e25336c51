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
from itertools import pairwise

import numpy as np

from orchesis.errors import BadScore
from orchesis.score import KIT, Score, Stroke
from orchesis.score.stroke import NOBODYS

LONGEST = 1200.0  # seconds of a recording that are heard
_MIN_STROKES = 8
#: Seconds of a window and between windows; of a bin of places; a stroke this near is the one.
_WINDOW, _HOP, _BIN, _NEAR_S = 10.0, 4.0, 0.02, 0.06
#: By how much faster or slower than written it may have been played.
_FACTORS = np.arange(0.88, 1.1201, 0.004)
_VOTES = 24  # of a window that are followed
_MIN_SUPPORT = (
    0.42  # share of a window's strokes that fit, below which it is no playing of the part
)
_JUMP, _LEAVE = 0.6, 0.25  # support that a leap to another place, or a pause, costs
_TOGETHER_S = 0.08  # seconds by which two windows may disagree and still be one playing
_KNOTS_S = 9.0  # seconds between the points at which the tempo may change
_GAP_S = 2.5  # seconds without a stroke of the part that end a stretch
#: How much a stroke of a kind says of the place.
_WEIGHTS = {"kick": 1.0, "snare": 1.0, "tom": 0.8, "cymbal": 0.5}


@dataclass(frozen=True)
class Heard:
    """One stroke that a recording may hold: seconds of its own clock, confidence 0..1."""

    time: float
    part: str
    confidence: float


@dataclass(frozen=True)
class Stretch:
    """A stretch in which the part was played. times, places: from the recording's clock to the
    part's (seconds; it goes on counting from loop to loop), linear between them. first, last:
    places."""

    times: np.ndarray
    places: np.ndarray
    first: float
    last: float

    def place(self, time: np.ndarray) -> np.ndarray:
        """Places of moments of the recording."""
        return _line(time, self.times, self.places)

    def time(self, place: np.ndarray) -> np.ndarray:
        """Moments of the recording at places."""
        return _line(place, self.places, self.times)


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


def kind_of(part: str) -> str:
    """What a part is heard as where kits differ: a ride may sound like a hat, a clap like a snare.

    >>> [kind_of(p) for p in ("kick", "rimshot", "tom_low", "hat_foot", "china", "cowbell")]
    ['kick', 'snare', 'tom', 'cymbal', 'cymbal', 'cowbell']
    """
    if part in ("kick",):
        return "kick"
    if part in ("snare", "cross_stick", "rimshot", "clap"):
        return "snare"
    if KIT[part].layer == "toms":
        return "tom"
    return "cymbal" if KIT[part].family in ("hat", "cymbal") else part


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
    sure = [h for h in hits if h.confidence >= _SURE]
    if len(sure) < _MIN_STROKES or not expected:
        raise BadScore("Too little of this part was heard in the recording.")
    length = length_of(score)
    windows = _windows(sure, by_kind, length)
    chains = _chains(windows, length)
    stretches = []
    for chain in chains:
        stretches += _stretches(chain, sure, by_kind, length)
    if not stretches:
        raise BadScore(
            "This recording does not go with the step: is it the right one, at its tempo?"
        )
    return _told(_apart(stretches, sure, by_kind, length))


_SURE = 0.35  # confidence of strokes by which the place is found


# -- votes


@dataclass(frozen=True)
class _Vote:
    """At the window's middle the part stands at this place (within a loop), so fast."""

    place: float
    factor: float
    support: float


@dataclass(frozen=True)
class _Window:
    middle: float
    votes: tuple[_Vote, ...]


def _windows(hits: Sequence[Heard], by_kind: dict[str, np.ndarray], length: float) -> list[_Window]:
    times = np.array([h.time for h in hits])
    factors = _FACTORS
    end = float(times[-1])
    middles = np.arange(float(times[0]) + min(_WINDOW, end - times[0]) / 2, end, _HOP)
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
    lo, hi = np.searchsorted(times, [middle - _WINDOW / 2, middle + _WINDOW / 2])
    hits_here = hits[lo:hi]
    if len(hits_here) < _MIN_STROKES // 2:
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
    candidates: list[_Vote] = []
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
            candidates.append(_Vote(float(place), float(factor), min(float(smooth[k]), 1.2)))
    candidates.sort(key=lambda v: -v.support + 0.3 * abs(v.factor - 1))
    kept: list[_Vote] = []
    for vote in candidates:
        if all(_apart_by(vote.place, k.place, length) > _NEAR_S for k in kept):
            kept.append(vote)
        if len(kept) == _VOTES:
            break
    return _Window(middle, tuple(kept))


def _apart_by(a: float, b: float, length: float) -> float:
    return abs((a - b + length / 2) % length - length / 2)


# -- the likeliest chain


def _chains(windows: Sequence[_Window], length: float) -> list[list[tuple[float, _Vote]]]:
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
    path: list[_Vote | None] = []
    for n in range(len(windows) - 1, -1, -1):
        path.append([*windows[n].votes, None][at])
        at = back[n][at]
    path.reverse()
    chains: list[list[tuple[float, _Vote]]] = []
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


def _cost(before: _Vote | None, vote: _Vote | None, step: float, length: float) -> float:
    if before is None and vote is None:
        return 0.0
    if before is None or vote is None:
        return _LEAVE
    factor = (before.factor + vote.factor) / 2
    off = _apart_by(before.place + factor * step, vote.place, length)
    return 0.0 if off < _TOGETHER_S and abs(before.factor - vote.factor) < _USUAL else _JUMP


# -- stretches


def _line(x: np.ndarray, xs: np.ndarray, ys: np.ndarray) -> np.ndarray:
    """Linear between points, and on beyond the outer ones."""
    k = np.clip(np.searchsorted(xs, x) - 1, 0, len(xs) - 2)
    slope = (ys[k + 1] - ys[k]) / (xs[k + 1] - xs[k])
    return ys[k] + slope * (x - xs[k])


def _off(
    places: np.ndarray, kinds: Sequence[str], by_kind: dict[str, np.ndarray], length: float
) -> np.ndarray:
    """By how much each stroke is later than the nearest expected one of its kind, seconds."""
    distances = np.full(len(places), np.inf)
    for kind, row in by_kind.items():
        of_kind = np.flatnonzero(np.array([k == kind for k in kinds], bool))
        if not len(of_kind):
            continue
        at = places[of_kind] % length
        ring = np.concatenate([[row[-1] - length], row, [row[0] + length]])
        k = np.clip(np.searchsorted(ring, at), 1, len(ring) - 1)
        left, right = at - ring[k - 1], at - ring[k]
        distances[of_kind] = np.where(np.abs(left) < np.abs(right), left, right)
    return distances


def _stretches(
    chain: list[tuple[float, _Vote]],
    hits: Sequence[Heard],
    by_kind: dict[str, np.ndarray],
    length: float,
) -> list[Stretch]:
    """The playing that a run of windows stands for, cut where nothing of the part sounds."""
    xs = [chain[0][0]]
    ys = [chain[0][1].place]
    for (t0, a), (t1, b) in pairwise(chain):
        guess = ys[-1] + (a.factor + b.factor) / 2 * (t1 - t0)
        off = (b.place - guess + length / 2) % length - length / 2
        xs.append(t1)
        ys.append(guess + off)
    if len(xs) == 1:
        xs.append(xs[0] + 1.0)
        ys.append(ys[0] + chain[0][1].factor)
    reach = _WINDOW / 2 + _HOP
    hits_here = [h for h in hits if chain[0][0] - reach <= h.time <= chain[-1][0] + reach]
    times = np.array([h.time for h in hits_here])
    kinds = [kind_of(h.part) for h in hits_here]
    knots = np.linspace(
        times[0], times[-1] + 1e-6, max(2, round((times[-1] - times[0]) / _KNOTS_S) + 1)
    )
    places = _line(knots, np.array(xs), np.array(ys))
    for near in (0.1, 0.08, _NEAR_S, _NEAR_S, _NEAR_S):
        places = places - _fitted(knots, places, times, kinds, by_kind, length, near)
    at = _line(times, knots, places)
    fits = np.abs(_off(at, kinds, by_kind, length)) < _NEAR_S
    return [Stretch(knots, places, float(at[a]), float(at[b])) for a, b in _runs(times, fits)]


def _fitted(
    knots: np.ndarray,
    places: np.ndarray,
    times: np.ndarray,
    kinds: Sequence[str],
    by_kind: dict[str, np.ndarray],
    length: float,
    near: float,
) -> np.ndarray:
    """By how much the map is late at each knot: a smooth curve through the offsets, each kind's own
    lateness apart, by iterated weights (Huber)."""
    off = _off(_line(times, knots, places), kinds, by_kind, length)
    use = np.abs(off) < near
    if use.sum() < _MIN_STROKES // 2:
        return np.zeros(len(knots))
    t, o = times[use], off[use]
    names = np.array(kinds)[use]
    for kind in set(names):  # what one limb does is not the tempo
        o[names == kind] -= np.median(o[names == kind])
    middles = {kind: np.median(off[use][names == kind]) for kind in set(names)}
    counts = {kind: int((names == kind).sum()) for kind in middles}
    base = _weighted_median(middles, counts)
    hat = np.zeros((len(t), len(knots)))
    k = np.clip(np.searchsorted(knots, t) - 1, 0, len(knots) - 2)
    share = (t - knots[k]) / (knots[k + 1] - knots[k])
    hat[np.arange(len(t)), k] = 1 - share
    hat[np.arange(len(t)), k + 1] = share
    bend = np.zeros((max(0, len(knots) - 2), len(knots)))
    for n in range(len(bend)):
        bend[n, n : n + 3] = (1, -2, 1)
    weight = np.ones(len(t))
    curve = np.zeros(len(knots))
    for _ in range(4):
        a = hat.T @ (hat * weight[:, None]) + _STIFF * bend.T @ bend + 1e-6 * np.eye(len(knots))
        curve = np.linalg.solve(a, hat.T @ (weight * o))
        left = np.abs(o - hat @ curve)
        weight = 1 / np.maximum(1.0, left / _HUBER_S)
    return curve + base


_STIFF, _HUBER_S = 20.0, 0.01


def _weighted_median(values: dict[str, float], weights: dict[str, int]) -> float:
    ordered = sorted(values, key=lambda k: values[k])
    half, total = sum(weights.values()) / 2, 0.0
    for k in ordered:
        total += weights[k]
        if total >= half:
            return float(values[k])
    return 0.0


def _runs(times: np.ndarray, fits: np.ndarray) -> list[tuple[int, int]]:
    """First and last stroke of each run of strokes that mostly fit, without long gaps."""
    good = np.flatnonzero(fits)
    if len(good) < _MIN_STROKES // 2:
        return []
    runs: list[list[int]] = [[int(good[0])]]
    for a, b in pairwise(good):
        others = b - a - 1  # strokes between them that do not fit
        if times[b] - times[a] > _GAP_S or others > _STRANGE:
            runs.append([])
        runs[-1].append(int(b))
    return [(r[0], r[-1]) for r in runs if len(r) >= _MIN_STROKES // 2]


_STRANGE = 7  # strokes in a row that belong to nothing written: something else is being played


def _apart(
    stretches: list[Stretch], hits: Sequence[Heard], by_kind: dict[str, np.ndarray], length: float
) -> list[Stretch]:
    """Stretches in the order of the recording, each moment in one: where two claim the same
    moments the border lies where most strokes fit."""
    stretches = sorted(stretches, key=lambda s: float(s.time(np.array([s.first]))[0]))
    out: list[Stretch] = []
    for stretch in stretches:
        start = float(stretch.time(np.array([stretch.first]))[0])
        if out:
            end = float(out[-1].time(np.array([out[-1].last]))[0])
            if start < end:
                cut = _border(out[-1], stretch, start, end, hits, by_kind, length)
                out[-1] = _until(out[-1], cut - 0.03)
                stretch = _since(stretch, cut - 0.03)
        if stretch.last - stretch.first > 0.5:
            out.append(stretch)
        if len(out) > 1 and out[-2].last - out[-2].first <= 0.5:
            out.pop(-2)
    return out


def _border(
    a: Stretch,
    b: Stretch,
    start: float,
    end: float,
    hits: Sequence[Heard],
    by_kind: dict[str, np.ndarray],
    length: float,
) -> float:
    hits_here = [h for h in hits if start - 0.05 <= h.time <= end + 0.05]
    times = np.array([h.time for h in hits_here])
    kinds = [kind_of(h.part) for h in hits_here]
    in_a = np.abs(_off(a.place(times), kinds, by_kind, length)) < _NEAR_S
    in_b = np.abs(_off(b.place(times), kinds, by_kind, length)) < _NEAR_S
    before = np.concatenate([[0], np.cumsum(in_a)])
    behind = in_b.sum() - np.concatenate([[0], np.cumsum(in_b)])
    k = int(np.argmax(before + behind))
    return float(times[k]) if k < len(times) else end + 0.05


def _until(s: Stretch, time: float) -> Stretch:
    return Stretch(s.times, s.places, s.first, min(s.last, float(s.place(np.array([time]))[0])))


def _since(s: Stretch, time: float) -> Stretch:
    return Stretch(s.times, s.places, max(s.first, float(s.place(np.array([time]))[0])), s.last)


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
    if len(times) > 2 and np.ptp(times) > _KNOTS_S:
        slope = np.polyfit(times, factors, 1, w=np.sqrt(weights))[0]
        drift = float(100 * slope * np.ptp(times))
    return Alignment(tuple(stretches), 100 * (mean - 1), drift)
