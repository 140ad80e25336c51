"""Where a take goes on along the written part: smooth maps of its stretches, laid side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from orchesis.score import KIT

MIN_STROKES = 8
#: Seconds of a window and between windows; of a bin of places; a stroke this near is the one.
WINDOW, HOP, NEAR_S = 10.0, 4.0, 0.06


@dataclass(frozen=True)
class Vote:
    """At the window's middle the part stands at this place (within a loop), so fast."""

    place: float
    factor: float
    support: float


KNOTS_S = 9.0  # seconds between the points at which the tempo may change
_GAP_S = 2.5  # seconds without a stroke of the part that end a stretch


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


def stretches_of(
    chain: list[tuple[float, Vote]],
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
    reach = WINDOW / 2 + HOP
    hits_here = [h for h in hits if chain[0][0] - reach <= h.time <= chain[-1][0] + reach]
    times = np.array([h.time for h in hits_here])
    kinds = [kind_of(h.part) for h in hits_here]
    knots = np.linspace(
        times[0], times[-1] + 1e-6, max(2, round((times[-1] - times[0]) / KNOTS_S) + 1)
    )
    places = _line(knots, np.array(xs), np.array(ys))
    for near in (0.1, 0.08, NEAR_S, NEAR_S, NEAR_S):
        places = places - _fitted(knots, places, times, kinds, by_kind, length, near)
    at = _line(times, knots, places)
    fits = np.abs(_off(at, kinds, by_kind, length)) < NEAR_S
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
    if use.sum() < MIN_STROKES // 2:
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
        a = hat.T @ (hat * weight[:, None]) + _STIFFNESS * bend.T @ bend + 1e-6 * np.eye(len(knots))
        curve = np.linalg.solve(a, hat.T @ (weight * o))
        left = np.abs(o - hat @ curve)
        weight = 1 / np.maximum(1.0, left / _HUBER_S)
    return curve + base


_STIFFNESS, _HUBER_S = 20.0, 0.01


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
    if len(good) < MIN_STROKES // 2:
        return []
    runs: list[list[int]] = [[int(good[0])]]
    for a, b in pairwise(good):
        others = b - a - 1  # strokes between them that do not fit
        if times[b] - times[a] > _GAP_S or others > _STRANGE_STROKES:
            runs.append([])
        runs[-1].append(int(b))
    return [(r[0], r[-1]) for r in runs if len(r) >= MIN_STROKES // 2]


_STRANGE_STROKES = (
    7  # strokes in a row that belong to nothing written: something else is being played
)


def kept_apart(
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
    in_a = np.abs(_off(a.place(times), kinds, by_kind, length)) < NEAR_S
    in_b = np.abs(_off(b.place(times), kinds, by_kind, length)) < NEAR_S
    before = np.concatenate([[0], np.cumsum(in_a)])
    behind = in_b.sum() - np.concatenate([[0], np.cumsum(in_b)])
    k = int(np.argmax(before + behind))
    return float(times[k]) if k < len(times) else end + 0.05


def _until(s: Stretch, time: float) -> Stretch:
    return Stretch(s.times, s.places, s.first, min(s.last, float(s.place(np.array([time]))[0])))


def _since(s: Stretch, time: float) -> Stretch:
    return Stretch(s.times, s.places, max(s.first, float(s.place(np.array([time]))[0])), s.last)
