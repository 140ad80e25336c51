"""Beats by the path over their likelihood, and how such a path holds its tempo through a pause.

Dynamic programming after Ellis, "Beat tracking by dynamic programming", 2007.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

_COST_OF_UNSTEADINESS = 60.0  # what a step unlike the local tempo costs: this times its log squared


def track(
    beat: np.ndarray, period: np.ndarray, *, report: Callable[[str, float], None] | None = None
) -> np.ndarray:
    """Frames of the beats: the path over the likeliest beats at nearly the local period.

    beat: how likely a beat is at each frame, 0..1; period: frames from beat to beat there.
    """
    n = len(beat)
    seen = np.log(beat + 0.03) - np.log(0.03)
    best = seen.copy()
    back = np.full(n, -1)
    for t in range(n):
        if report is not None and t % 4000 == 0:
            report("pulse", t / n)
        p = period[t]
        lo, hi = max(0, t - int(p * 1.35) - 1), t - int(p * 0.72)
        if hi <= lo or t < p * 0.72:
            continue
        score = best[lo:hi] - _COST_OF_UNSTEADINESS * np.log((t - np.arange(lo, hi)) / p) ** 2
        k = int(np.argmax(score))
        if score[k] > 0:
            best[t] += score[k]
            back[t] = lo + k
    last = max(1, int(period[-1] * 1.2))
    beats = [int(np.argmax(best[-last:])) + n - last]
    while back[beats[-1]] >= 0:
        beats.append(int(back[beats[-1]]))
    return np.array(beats[::-1])


_MIN_LOG_ODDS_OF_CLEAR, _ROUND = (
    1.3,
    4,
)  # log odds, the mean over so many beats on either side, of clear beats


def held(beats: np.ndarray, seen: np.ndarray) -> np.ndarray:
    """A path of beats (frames) that holds its tempo where nothing was felt.

    Between two stretches of clear beats as many beats are laid evenly as their tempi ask for;
    before the first and behind the last the tempo goes on. seen: (frames,) log odds of a beat.
    """
    clearness = np.convolve(
        np.pad(seen[beats], _ROUND, mode="reflect"), np.ones(2 * _ROUND + 1), "valid"
    )
    clear = clearness / (2 * _ROUND + 1) > _MIN_LOG_ODDS_OF_CLEAR
    if len(beats) < 3 * _ROUND or clear.all() or not clear.any():
        return beats
    edges = np.flatnonzero(np.diff(np.concatenate([[0], clear.astype(int), [0]])))

    def trimmed(edge: np.ndarray) -> tuple[int, int]:
        """A clear stretch begins and ends with a beat that is clear itself."""
        clear = edge[0] + np.flatnonzero(seen[beats[edge[0] : edge[1]]] > _MIN_LOG_ODDS_OF_CLEAR)
        return (int(clear[0]), int(clear[-1]) + 1) if len(clear) else (0, 0)

    runs = [(a, b) for a, b in map(trimmed, edges.reshape(-1, 2)) if b - a >= _ROUND]
    if not runs:
        return beats
    times = beats.astype(float)

    def pace(a: int, b: int) -> float:
        return float(np.median(np.diff(times[a:b])))

    first, last = runs[0], runs[-1]
    opening = pace(first[0], min(first[1], first[0] + 12))
    closing = pace(max(last[0], last[1] - 12), last[1])
    before = np.arange(times[first[0]] - opening, 0, -opening)[::-1]
    kept_beats = [*before]
    for k, (a, b) in enumerate(runs):
        kept_beats += [*times[a:b]]
        if k + 1 < len(runs):
            c, d = runs[k + 1]
            one, two = pace(max(a, b - 12), b), pace(c, min(d, c + 12))
            gap = times[c] - times[b - 1]
            count = max(1, round(2 * gap / (one + two)))
            steps = np.linspace(one, two, count)
            kept_beats += [*(times[b - 1] + np.cumsum(steps * gap / steps.sum())[:-1])]
    kept_beats += [*np.arange(times[last[1] - 1] + closing, len(seen), closing)]
    return np.array(kept_beats)
