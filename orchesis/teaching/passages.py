"""The passages that tell a song: a ranked cover of its bars by few passages.

Often the best lesson is a handful of passages with their times instead of every bar. Passages of
one, two and four bars, counted from their section's start, are candidates; one covers every run of
bars that plays as it does. They are taken greedily by what they cover that no other has, against
the bars that they themselves have to be learned by (the greedy cover of Nemhauser, Wolsey and
Fisher, 1978).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from orchesis.form import pattern
from orchesis.score import KIT, Score

LENGTHS = (1, 2, 4)
MAX_PASSAGES = 8
_MIN_LIKENESS = 0.75  # likeness from which on a bar is told by another
_WEIGHT_OF_TIME = 1 / 3  # weight of a stroke of the time hand
_COST_OF_A_PASSAGE = 1.5  # bars that a passage more costs, beside its own


@dataclass(frozen=True)
class Passage:
    """Some bars that stand for others. bars: of the passage; covers: the bars of the song that it
    tells and no passage before it does; share: of all bars that are played; sections: names of
    those it comes in."""

    bar: int
    bars: int
    covers: tuple[int, ...]
    share: float
    sections: tuple[str, ...]


def of_song(score: Score, most: int = MAX_PASSAGES) -> list[Passage]:
    """The passages that tell a song as it is played, the one that tells most first."""
    played = score.played()
    numbers = range(1, played.bar_count + 1)
    likeness = _likeness(played)
    sounding = np.array([bool(played.strokes_of(b)) for b in numbers])
    if not sounding.any():
        return []
    runs = {n: _runs(played, n) for n in LENGTHS}
    # What each run of n bars covers: the starts of runs that are alike bar by bar.
    covers: dict[tuple[int, int], np.ndarray] = {}
    for n, starts in runs.items():
        at = np.array(starts, dtype=int) - 1
        if not len(at):
            continue
        alike = np.ones((len(at), len(at)), dtype=bool)
        for k in range(n):
            alike &= likeness[np.ix_(at + k, at + k)] >= _MIN_LIKENESS
        for row, start in enumerate(starts):
            is_covered = np.zeros(len(sounding), dtype=bool)
            for k in range(n):
                is_covered[at[alike[row]] + k] = True
            covers[start, n] = is_covered & sounding
    left = sounding.copy()
    passages: list[Passage] = []
    while left.any() and len(passages) < most:
        start, n = max(covers, key=lambda run: _worth(run, covers[run] & left))
        is_covered = covers[start, n]
        fresh = is_covered & left
        if fresh.sum() < n or (passages and fresh.sum() < 2 and n == 1):
            break
        bars = tuple(int(b) + 1 for b in np.flatnonzero(fresh))
        names = dict.fromkeys(s.name for b in bars if (s := played.section_at(b)) is not None)
        share = float(fresh.sum() / sounding.sum())
        passages.append(Passage(start, n, bars, share, tuple(names)))
        left &= ~is_covered
    return sorted(passages, key=lambda p: -p.share)


def _worth(run: tuple[int, int], is_covered: np.ndarray) -> tuple[float, int, int]:
    """What a run tells for what it costs; of those that tell as much the shorter, the earlier."""
    start, n = run
    return float(is_covered.sum()) / (n + _COST_OF_A_PASSAGE), -n, -start


def _runs(score: Score, n: int) -> list[int]:
    """First bars of the runs of n bars, counted from each section's start."""
    return [
        b
        for s in score.sections
        for b in range(s.first_bar, min(s.last_bar, score.bar_count) - n + 2, n)
        if all(score.strokes_of(b + k) for k in range(n))
    ]


def _likeness(score: Score) -> np.ndarray:
    """(bars, bars) of likeness 0..1: strokes two bars share of all they have, by part and place.
    Crashes that mark a beginning and ghosts are not what tells a passage; the many strokes of the
    time hand weigh less than those of kick and drums."""
    vectors = [
        {x for x in pattern(score.strokes_of(b)) if not KIT[x[0]].is_crash}
        for b in range(1, score.bar_count + 1)
    ]
    columns = {x: n for n, x in enumerate(sorted(set().union(*vectors)))}
    rows = np.zeros((len(vectors), max(1, len(columns))), dtype=np.float32)
    for row, bar in zip(rows, vectors, strict=True):
        for x in bar:
            row[columns[x]] = _WEIGHT_OF_TIME**0.5 if KIT[x[0]].role == "time" else 1.0
    shared = rows @ rows.T
    size = (rows**2).sum(axis=1)
    either = size[:, None] + size[None, :] - shared
    likeness: np.ndarray = np.where(either > 0, shared / np.maximum(either, 1.0), 1.0)
    meters = np.array([hash(m) for m in score.meters])
    likeness[meters[:, None] != meters[None, :]] = 0.0
    return likeness


def spans(bars: Sequence[int]) -> list[tuple[int, int]]:
    """Bars as runs: (first, last)."""
    if not bars:
        return []
    cuts = [0, *(i for i, (a, b) in enumerate(pairwise(bars), 1) if b != a + 1), len(bars)]
    return [(bars[a], bars[b - 1]) for a, b in pairwise(cuts)]
