"""Beats as a state-space model: position and period, smoothed over the whole song.

t(k+1) = t(k) + p(k), p(k+1) = p(k) + a step of the song's own freedom; what was observed of a
beat is its position with an error. A Rauch-Tung-Striebel smoother gives the likeliest beats and,
where nothing was observed, lets the tempo hold. How free the tempo is and how exact the
observations are is chosen by likelihood (Kalman 1960; Rauch, Tung & Striebel 1965; for beats
Cemgil et al., "On tempo tracking", 2000).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

#: Freedom of the tempo: standard deviation of the step from one period to the next, as a share
#: of the period. The first is a click.
FREEDOMS = (0.0, 3e-4, 1e-3, 3e-3, 8e-3, 2e-2)
_ERRORS = (0.004, 0.008, 0.014, 0.022)  # seconds an observed beat lies off
#: How much likelier (log) a freer tempo must be than a click, and than a stiffer one.
_FREER = 6.0
_MAX_ERRORS = 3.0  # errors beyond which an observation is doubted
_OTHER_PERIOD = 0.05  # a break may change the period by this share


class Smoothed(NamedTuple):
    """times: (beats,) seconds. freedom: of FREEDOMS. error: seconds, see the module."""

    times: np.ndarray
    freedom: float
    error: float


def smooth(
    guess: np.ndarray, seen: np.ndarray, spread: np.ndarray, breaks: np.ndarray | None = None
) -> Smoothed:
    """The likeliest beats.

    guess: (beats,) seconds, rising. seen: (beats,) where each was observed, NaN where it was
    not. spread: (beats,) how many times the error an observation may lie off. breaks: indices of
    beats before which the grid was cut or changed its tempo.
    """
    is_seen = ~np.isnan(seen)
    if is_seen.sum() < 3 or len(guess) < 4:
        return Smoothed(guess, 0.0, _ERRORS[-1])
    settings = [(q, e) for q in FREEDOMS for e in _ERRORS]
    freedom = np.array([q for q, _ in settings])
    error = np.array([e for _, e in settings])
    weight = np.ones(len(guess))
    for _ in range(3):
        smoothed, times = _run(guess, seen, spread / weight, breaks, freedom, error)
        smoothed = (
            smoothed - _FREER * (freedom > 0) - 0.5 * _FREER * np.searchsorted(FREEDOMS, freedom)
        )
        best = int(np.argmax(smoothed))
        off = np.abs(seen - times[:, best]) / (error[best] * spread)
        weight = np.where(is_seen, np.minimum(1, _MAX_ERRORS / np.maximum(off, 1e-6)), 1)
    return Smoothed(times[:, best], float(freedom[best]), float(error[best]))


def _run(
    guess: np.ndarray,
    seen: np.ndarray,
    spread: np.ndarray,
    breaks: np.ndarray | None,
    freedom: np.ndarray,
    error: np.ndarray,
) -> tuple[np.ndarray, np.ndarray]:
    """Log likelihood of the observations and smoothed times (beats, settings), for settings of
    freedom and error side by side."""
    n, m = len(guess), len(freedom)
    cut = set() if breaks is None else {int(b) for b in breaks}
    period = float(np.median(np.diff(guess)))
    step = (freedom * period) ** 2
    jitter = (0.1 * freedom * period) ** 2
    x = np.empty((n, m, 2))
    p = np.empty((n, m, 2, 2))
    ahead_x, ahead_p = np.empty_like(x), np.empty_like(p)
    now_x = np.tile([guess[0], period], (m, 1))
    now_p = np.tile(np.diag([period**2, (0.05 * period) ** 2]), (m, 1, 1))
    move = np.array([[1.0, 1.0], [0.0, 1.0]])
    values = np.zeros(m)
    for k in range(n):
        if k:
            now_x = now_x @ move.T
            now_p = move @ now_p @ move.T
            now_p[:, 1, 1] += step
            now_p[:, 0, 0] += jitter
            if k in cut:
                now_x[:, 0] = guess[k]
                now_p[:, 0, 0] += period**2
                now_p[:, 1, 1] += (_OTHER_PERIOD * period) ** 2
        ahead_x[k], ahead_p[k] = now_x, now_p
        if not np.isnan(seen[k]):
            r = (error * spread[k]) ** 2
            s = now_p[:, 0, 0] + r
            off = seen[k] - now_x[:, 0]
            gain = now_p[:, :, 0] / s[:, None]
            values -= 0.5 * (off**2 / s + np.log(s))
            now_x = now_x + gain * off[:, None]
            now_p = now_p - gain[:, :, None] * now_p[:, None, 0, :]
        x[k], p[k] = now_x, now_p
    for k in range(n - 2, -1, -1):
        back = p[k] @ move.T @ np.linalg.inv(ahead_p[k + 1] + 1e-15 * np.eye(2))
        if k + 1 in cut:  # a cut tells nothing of where the beats before it lay
            back = back * np.array([[0.0, 1.0], [0.0, 1.0]])[None]
        x[k] = x[k] + (back @ (x[k + 1] - ahead_x[k + 1])[:, :, None])[:, :, 0]
    return values, x[:, :, 0]
