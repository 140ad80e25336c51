"""Echo check: soft strokes that are a delay effect's and not the drummer's.

A delay repeats what it was given: its repeats come after a constant time, at a constant step
below, and they are late or early, loud or soft, whenever their source was. A ghost follows the
grid and the hand: it has a timing and a loudness of its own. So for every delay that would
explain soft strokes it is asked whether they move with their sources (correlation of lateness
and of level), or stand constantly off every place of the grid; and whether nearly every loud
stroke has its repeat.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from math import atanh

import numpy as np

from orchesis.feel import db_of, lateness
from orchesis.score import KIT, Score, Stroke
from orchesis.score.kit import MAIN_WAY

_MIN_DELAY_S, _MAX_DELAY_S = 0.09, 0.9  # seconds of a delay
_MIN_DB_BELOW = 6.0  # dB below the full strokes of its drum, to be a repeat
_REPEAT_WINDOW_S = 0.012  # seconds round a delay within which a stroke may be its repeat
_MIN_REPEATS = 8  # repeats
_MIN_SHARE_REPEATED = 0.7  # least share of the loud strokes that have theirs
_DELAY_SPREAD_S = 0.0045  # seconds of spread that a delay has when measured
_LEVELS = 2.6  # dB of spread
_MIN_STANDARD_ERRORS = 2.7  # how many standard errors the correlations must be above none
_HALF_SURE = 1.2
_OFF_GRID = 0.014  # seconds off every place, by which a delay gives itself away
_MASKED_S = 0.045  # seconds round a full stroke in which its drum's repeat is not heard


@dataclass(frozen=True)
class Echo:
    """One delay: seconds and their spread, dB below its sources, the ids of all repeats, (source,
    first repeat) pairs, and how many loud strokes could have had one."""

    part: str
    delay: float
    below: float
    strokes: tuple[str, ...]
    pairs: tuple[tuple[str, str], ...]
    could: int
    spread: float

    @property
    def covers(self) -> float:
        """The share of loud strokes that have a repeat."""
        return round(len(self.pairs) / self.could, 3)


def echoes(score: Score) -> list[Echo]:
    """The delays that are heard in a score, one at most for each drum."""
    score = score.played()
    drums: dict[str, list[Stroke]] = defaultdict(list)
    for s in score.ordered():
        if s.time is not None and KIT[s.part].family == "drum" and s.part != "kick":
            drums[MAIN_WAY[s.part] if KIT[s.part].layer != "toms" else s.part].append(s)
    repeats = []
    for part, strokes in drums.items():
        echo = _of(score, part, sorted(strokes, key=lambda s: s.time or 0.0))
        if echo is not None:
            repeats.append(echo)
    return repeats


def _of(score: Score, part: str, strokes: Sequence[Stroke]) -> Echo | None:
    level = np.array([db_of(s.loudness) for s in strokes])
    if len(strokes) < 2 * _MIN_REPEATS:
        return None
    full = float(np.percentile(level, 90))
    loud = [i for i in range(len(strokes)) if level[i] > full - _MIN_DB_BELOW]
    soft = [i for i in range(len(strokes)) if level[i] <= full - _MIN_DB_BELOW]
    if len(soft) < _MIN_REPEATS or len(loud) < _MIN_REPEATS:
        return None
    times = np.array([s.time for s in strokes])
    lags = (times[soft][None, :] - times[loud][:, None]).ravel()
    lags = lags[(lags > _MIN_DELAY_S) & (lags < _MAX_DELAY_S)]
    for delay in _likely(lags):
        echo = _judged(score, part, strokes, times, level, loud, soft, delay)
        if echo is not None:
            return echo
    return None


def _likely(lags: np.ndarray) -> list[float]:
    """Delays (seconds) at which most soft strokes follow a loud one, the likeliest first."""
    if len(lags) < _MIN_REPEATS:
        return []
    grid = np.arange(_MIN_DELAY_S, _MAX_DELAY_S, 0.001)
    heap = np.exp(-0.5 * ((grid[:, None] - lags[None]) / 0.003) ** 2).sum(axis=1)
    delays: list[float] = []
    for _ in range(4):
        k = int(np.argmax(heap))
        if heap[k] < 0.5 * _MIN_REPEATS:
            break
        delays.append(float(grid[k]))
        heap[max(0, k - 25) : k + 26] = 0
    return delays


def _judged(
    score: Score,
    part: str,
    strokes: Sequence[Stroke],
    times: np.ndarray,
    level: np.ndarray,
    loud: Sequence[int],
    soft: Sequence[int],
    delay: float,
) -> Echo | None:
    pairs: list[tuple[int, int]] = []
    could = 0
    loud_times, soft_times = times[list(loud)], times[list(soft)]
    for i in loud:
        at = times[i] + delay
        if at > times[-1] or np.abs(loud_times - at).min() < _MASKED_S:
            continue
        could += 1
        k = int(np.abs(soft_times - at).argmin())
        if abs(soft_times[k] - at) < _REPEAT_WINDOW_S:
            pairs.append((i, soft[k]))
    if len(pairs) < _MIN_REPEATS or len(pairs) < _MIN_SHARE_REPEATED * could:
        return None
    a, b = (np.array([p[k] for p in pairs]) for k in (0, 1))
    lag, below = times[b] - times[a], level[a] - level[b]
    if (
        _spread(lag) > _DELAY_SPREAD_S
        or _spread(below) > _LEVELS
        or np.median(below) < _MIN_DB_BELOW
    ):
        return None
    source_late, repeat_late, off_grid = _lateness(score, strokes, pairs)
    sure = _moves_with(source_late, repeat_late) + _moves_with(level[a], level[b])
    sure *= max(len(pairs) - 3, 1) ** 0.5 / 2**0.5
    odd = off_grid > _OFF_GRID or _drifts(score, strokes, pairs)
    if not (sure >= _MIN_STANDARD_ERRORS or (odd and sure >= _HALF_SURE)):
        return None
    again = _again(times, level, [k for _, k in pairs], soft, delay)
    ids = tuple(strokes[k].id for k in dict.fromkeys([*(k for _, k in pairs), *again]))
    return Echo(
        part,
        round(float(np.median(lag)), 4),
        round(float(np.median(below)), 1),
        ids,
        tuple((strokes[i].id, strokes[k].id) for i, k in pairs),
        could,
        round(_spread(lag), 5),
    )


def _spread(values: np.ndarray) -> float:
    return float(1.4826 * np.median(np.abs(values - np.median(values))))


def _lateness(
    score: Score, strokes: Sequence[Stroke], pairs: Sequence[tuple[int, int]]
) -> tuple[np.ndarray, np.ndarray, float]:
    """(lateness of the sources, of the repeats, how far these lie off the nearest place).

    A repeat's lateness is taken from its source's place and their usual distance in beats: a
    ghost keeps that distance by the grid, whatever its source did.
    """
    source = np.array([lateness(score, strokes[i], score.swing) for i, _ in pairs])
    starts = score.bar_beats()
    places = [starts[strokes[i].bar - 1] + float(strokes[i].place) for i, _ in pairs]
    beats = [score.pulse.beat(strokes[k].time or 0.0) for _, k in pairs]
    gap = float(np.median(np.array(beats) - np.array(places)))
    repeat = np.array(
        [
            (strokes[k].time or 0.0) - score.pulse.seconds(place + gap)
            for (_, k), place in zip(pairs, places, strict=True)
        ]
    )
    usual = float(np.median(source)) * score.pulse.tempo()[0] / 60
    clear = gap - usual  # beats from place to place, were the repeat as late as its source
    off = min(abs(clear - round(clear * g) / g) for g in (4, 6))
    return source, repeat, off * 60 / score.pulse.tempo()[0]


def _moves_with(a: np.ndarray, b: np.ndarray) -> float:
    """Fisher's z of the correlation of two rows, 0 where one of them does not move at all."""
    a, b = (
        np.clip(x - np.median(x), -4 * _spread(x) - 1e-9, 4 * _spread(x) + 1e-9) for x in (a, b)
    )
    if a.std() < 1e-6 or b.std() < 1e-6:
        return 0.0
    return atanh(float(np.clip(np.corrcoef(a, b)[0, 1], -0.99, 0.99)))


def _drifts(score: Score, strokes: Sequence[Stroke], pairs: Sequence[tuple[int, int]]) -> bool:
    """Whether the repeats lie at other places of the beat as the tempo moves."""
    beats = np.array(
        [
            score.pulse.beat(strokes[k].time or 0.0) - score.pulse.beat(strokes[i].time or 0.0)
            for i, k in pairs
        ]
    )
    seconds = np.array([(strokes[k].time or 0.0) - (strokes[i].time or 0.0) for i, k in pairs])
    wander = _spread(beats / max(float(np.median(beats)), 1e-3))
    steady = _spread(seconds / max(float(np.median(seconds)), 1e-3))
    return wander > 0.012 and steady < 0.5 * wander


def _again(
    times: np.ndarray, level: np.ndarray, repeats: Sequence[int], soft: Sequence[int], delay: float
) -> list[int]:
    """Repeats of the repeats: softer still, after the same delay."""
    echoed: list[int] = []
    for k in repeats:
        for m in soft:
            if abs(times[m] - times[k] - delay) < _REPEAT_WINDOW_S and level[m] < level[k] - 2:
                echoed.append(m)
    return echoed
