"""The second pass: a song's own repetition makes its unsure strokes surer, or less sure.

A drummer who doubts a ghost listens to the other bars of the same groove. So do we: a weak
candidate that recurs at its place in like bars is raised, a lonely one is lowered. Nothing is
added where the sound gave no candidate, and whatever changed is marked as recalled.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from orchesis.hearing.types import Beat, Hit

#: Weights of repetition in the log odds, up and down; tuned by training/tune.py --recall.
RAISE, LOWER = 0.5, 0.3
_NEAR = 0.035  # seconds within which two strokes stand at the same place
_ALIKE = 0.6  # least likeness of bars that tell about one another
_MOST = 24  # bars that are asked
_FEWEST = 3.0  # likeness, summed, below which nothing is said
_BOUND = 2.0  # most that a stroke's log odds change
_CELLS = 16


def again(
    candidates: list[Hit], beats: tuple[Beat, ...], *, up: float = RAISE, down: float = LOWER
) -> list[Hit]:
    """The candidates with the confidence that the song's repetition leaves them.

    Each is marked ``recalled`` if its confidence moved by a tenth or more.
    """
    starts = np.array([b.time for b in beats if b.beat == 1])
    if len(starts) < 4 or not candidates:
        return candidates
    sizes = np.diff([i for i, b in enumerate(beats) if b.beat == 1])
    times = np.array([h.time for h in candidates])
    bar = np.clip(np.searchsorted(starts, times + 0.03, side="right") - 1, 0, len(starts) - 2)
    length = np.diff(starts)[bar]
    place = (times - starts[bar]) / length  # 0..1 of its bar
    sure = np.array([h.confidence for h in candidates])
    names = np.array([_family(h.part) for h in candidates])
    like = _likeness(bar, place, sure, names, sizes)
    odds = np.log(np.clip(sure, 0.01, 0.99) / (1 - np.clip(sure, 0.01, 0.99)))
    moved = odds.copy()
    for name in np.unique(names):
        own = np.flatnonzero(names == name)
        for i in own:
            near = own[(np.abs(place[own] - place[i]) * length[i] < _NEAR) & (bar[own] != bar[i])]
            others = like[bar[i]].copy()
            others[bar[i]] = 0
            asked = np.argsort(-others)[:_MOST]
            weight = others[asked].sum()
            if weight < _FEWEST:
                continue
            heard = np.zeros(len(starts) - 1)
            np.maximum.at(heard, bar[near], sure[near])
            share = float((heard[asked] * others[asked]).sum() / weight)
            pull = np.log((share + 0.03) / (1 - share + 0.03))
            moved[i] += np.clip((up if pull > 0 else down) * pull, -_BOUND, _BOUND)
    now = 1 / (1 + np.exp(-moved))
    return [
        replace(h, confidence=round(float(n), 3), recalled=bool(abs(n - h.confidence) >= 0.1))
        for h, n in zip(candidates, now, strict=True)
    ]


def _family(part: str) -> str:
    return "hat_open" if part == "hat_half" else part


def _likeness(
    bar: np.ndarray, place: np.ndarray, sure: np.ndarray, names: np.ndarray, sizes: np.ndarray
) -> np.ndarray:
    """(bars, bars) likeness 0..1 of what is surely played; bars of other length have none."""
    kinds = list(np.unique(names))
    rows = np.zeros((len(sizes), len(kinds) * _CELLS))
    cell = np.minimum((place * _CELLS + 0.5).astype(int), _CELLS - 1)
    where = np.array([kinds.index(n) for n in names]) * _CELLS + cell
    np.maximum.at(rows, (bar, where), np.where(sure > 0.4, sure, 0))
    norm = np.linalg.norm(rows, axis=1) + 1e-6
    like = rows @ rows.T / norm[:, None] / norm[None]
    like[like < _ALIKE] = 0
    return np.where(sizes[:, None] == sizes[None], like, 0)
