"""The pitch of one voice over time, by pYIN (Mauch and Dixon, "pYIN: a fundamental frequency
estimator using probabilistic threshold distributions", 2014).

Each frame gives candidates with their probabilities, over a prior on YIN's threshold; a hidden
Markov model of steady pitches and silence chooses among them. The numbers are the paper's.
"""

from __future__ import annotations

import numpy as np
from scipy.stats import beta

_BINS = 4  # a semitone
_THRESHOLDS = np.linspace(0, 1, 101)[1:]
_PRIOR = np.diff(beta.cdf(np.linspace(0, 1, 101), 2, 18))
_FIRST_TROUGH = 2.0  # how much likelier each trough is than the next one, as an exponent
_NO_TROUGH = 0.01  # probability that the deepest one counts though it is under no threshold
_RATE_OF_CHANGE = 35.92  # octaves a second at the most
_SWITCH = 0.01  # probability that a voice begins or ends in a frame
_SMALLEST = np.finfo(float).tiny


def track(
    sound: np.ndarray, rate: float, low: float, high: float, window: int, hop: int
) -> np.ndarray:
    """Hz in each frame, NaN where no pitch sounds: (frames,).

    sound: (samples,) at ``rate`` Hz. low, high: Hz. window, hop: samples of a frame, which is
    centred, and between two.
    """
    padded = np.pad(np.asarray(sound, float), window // 2)
    frames = np.lib.stride_tricks.sliding_window_view(padded, window)[::hop]
    shortest = int(np.floor(rate / high))
    longest = min(int(np.ceil(rate / low)), window - 1)
    steady = _normalised(frames, shortest, longest)
    shifts = _parabolic(steady)
    bins = int(np.floor(12 * _BINS * np.log2(high / low))) + 1
    seen = np.zeros((len(frames), bins))
    for n, (row, shift) in enumerate(zip(steady, shifts, strict=True)):
        troughs, likely = _candidates(row)
        hz = rate / (shortest + troughs + shift[troughs])
        at = np.clip(np.round(12 * _BINS * np.log2(hz / low)), 0, bins - 1).astype(int)
        np.add.at(seen[n], at, likely)
    reach = round(_RATE_OF_CHANGE * 12 * hop / rate) * _BINS
    path = _likeliest(seen, reach)
    return np.where(path < bins, low * 2.0 ** (path / (12 * _BINS)), np.nan)


def _normalised(frames: np.ndarray, shortest: int, longest: int) -> np.ndarray:
    """YIN's cumulative mean normalised difference: (frames, lags from ``shortest`` on). The stretch
    that is compared with itself is what is left of the frame at each lag."""
    spectrum = np.fft.rfft(frames, frames.shape[1] * 2, axis=1)
    alike = np.fft.irfft(np.abs(spectrum) ** 2, axis=1)[:, : longest + 1]
    before = np.cumsum(frames[:, :longest] ** 2, axis=1)
    differs = 2 * (alike[:, :1] - alike[:, 1:]) - before
    mean = np.cumsum(differs, axis=1) / np.arange(1, longest + 1)
    return differs[:, shortest - 1 :] / (mean[:, shortest - 1 :] + _SMALLEST)


def _parabolic(rows: np.ndarray) -> np.ndarray:
    """How far the bottom of a parabola through each value and its neighbours lies beside it."""
    shifts = np.zeros_like(rows)
    a = rows[:, 2:] + rows[:, :-2] - 2 * rows[:, 1:-1]
    b = (rows[:, 2:] - rows[:, :-2]) / 2
    with np.errstate(divide="ignore", invalid="ignore"):
        shifts[:, 1:-1] = np.where(np.abs(b) < np.abs(a), -b / a, 0)
    return shifts


def _candidates(row: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(lags of the troughs of a frame, how probable each is its period)."""
    falls = np.r_[True, row[1:] < row[:-1]]
    rises = np.r_[row[:-1] <= row[1:], True]
    falls[0], rises[-1] = row[0] < row[1], False
    troughs = np.flatnonzero(np.r_[row[0] < row[1], falls[1:] & rises[1:]])
    if not len(troughs):
        return troughs, np.zeros(0)
    heights = row[troughs]
    under = heights[:, None] < _THRESHOLDS
    rank = np.cumsum(under, axis=0) - 1
    count = under.sum(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (1 - np.exp(-_FIRST_TROUGH)) * np.exp(-_FIRST_TROUGH * rank)
        share = share / (1 - np.exp(-_FIRST_TROUGH * count))
    likely = np.where(under, share, 0.0) @ _PRIOR
    deepest = int(np.argmin(heights))
    likely[deepest] += _NO_TROUGH * _PRIOR[: np.count_nonzero(~under[deepest])].sum()
    return troughs, likely


def _likeliest(seen: np.ndarray, reach: int) -> np.ndarray:
    """The likeliest path (Viterbi, 1967): a bin in each frame, ``bins`` and more where none sounds.

    seen: probability of each bin (frames, bins). reach: bins that a pitch moves in a frame.
    """
    frames, bins = seen.shape
    voiced = np.clip(seen.sum(axis=1, keepdims=True), 0, 1)
    quiet = np.broadcast_to((1 - voiced) / bins, seen.shape)
    likely = np.log(np.concatenate([seen, quiet], axis=1) + _SMALLEST).reshape(frames, 2, bins)
    half = reach // 2
    moves = np.log(1 - np.abs(np.arange(-half, half + 1)) / (half + 1))
    # What a step to each bin weighs: the triangle round it, cut off at the ends of the range.
    near = np.arange(bins)[:, None] + np.arange(-half, half + 1)
    inside = (near >= 0) & (near < bins)
    whole = np.log((np.exp(moves) * inside).sum(axis=1))
    stay, switch = np.log(1 - _SWITCH), np.log(_SWITCH)
    value = np.full((2, bins), np.log(_SMALLEST))
    value[1] = -np.log(bins)
    value = value + likely[0]
    came = np.zeros((frames, 2, bins), int)
    rows = np.arange(bins)
    for n in range(1, frames):
        spread = np.pad(value - whole, ((0, 0), (half, half)), constant_values=-np.inf)
        around = np.lib.stride_tricks.sliding_window_view(spread, 2 * half + 1, axis=1) + moves
        best = around.argmax(axis=2)
        top = np.take_along_axis(around, best[:, :, None], axis=2)[:, :, 0]
        origin = rows + best - half
        ways = np.stack([top + stay, top[::-1] + switch])
        other = ways[1] > ways[0]
        value = np.where(other, ways[1], ways[0]) + likely[n]
        kinds = np.where(other, [[1], [0]], [[0], [1]])
        came[n] = kinds * bins + np.where(other, origin[::-1], origin)
    path = np.empty(frames, int)
    path[-1] = value.argmax()
    for n in range(frames - 1, 0, -1):
        path[n - 1] = came[n].reshape(-1)[path[n]]
    return path
