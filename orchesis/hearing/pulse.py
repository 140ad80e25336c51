"""Tempo, beats, meter and bars from the groups' onset strengths.

Tempo by local autocorrelation, beats by dynamic programming (Ellis, "Beat tracking by
dynamic programming", 2007), bars by what drummers do: kick and crash on 1, backbeat on 2
and 4, chords changing on 1.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from orchesis.errors import BadSound
from orchesis.hearing.hits import FRAME
from orchesis.hearing.spectrum import Spectrum
from orchesis.hearing.types import Beat, Hit, Report, Tempo, silent

_WINDOW = 1200  # frames of a local autocorrelation
_STIFF = 160.0
_DYING = 0.4  # seconds of a last sound that ask for no bar of their own
#: Weights of the network's own beats: for the tempo, for the 1, for tracking. Its training
#: music has random tempi, so it knows where beats fall better than how fast they are felt.
_FELT, _DOWN, _BEAT = 0.4, 1.0, 0.5
_SLOWEST, _FASTEST = 55.0, 215.0


def _normal(curve: np.ndarray) -> np.ndarray:
    """Compressed, so that one loud stroke does not rule the song; unit deviation."""
    loud = np.percentile(curve[curve > 0], 90) if (curve > 0).any() else 1.0
    out = np.sqrt(np.minimum(curve / (loud + 1e-9), 1.5))
    return out / (out.std() + 1e-9)


def _local_correlation(curve: np.ndarray, longest: int) -> np.ndarray:
    """Mean normalised autocorrelation over windows of 12 s, lags 0 .. longest."""
    total = np.zeros(longest + 1)
    for start in range(0, max(1, len(curve) - _WINDOW // 2), _WINDOW // 2):
        piece = curve[start : start + _WINDOW]
        piece = piece - piece.mean()
        if len(piece) < longest + 10 or piece.std() < 1e-6:
            continue
        size = 1 << (2 * len(piece) - 1).bit_length()
        power = np.abs(np.fft.rfft(piece, size)) ** 2
        acf = np.fft.irfft(power)[: longest + 1] / np.arange(
            len(piece), len(piece) - longest - 1, -1
        )
        total += acf / acf[0]
    return total / (np.abs(total).max() + 1e-9)


def periods(onset: np.ndarray, backbeat: np.ndarray, beat: np.ndarray) -> list[tuple[float, float]]:
    """Rival beat periods (frames) with their scores, the best first.

    beat: how sure the network is of a beat at each frame. It returns at the beat, not at
    half of it: that tells a tempo from its double.
    """
    longest = int(60 / _SLOWEST / FRAME * 4.2)
    whole = _local_correlation(gaussian_filter1d(onset, 1.5), longest)
    back = _local_correlation(gaussian_filter1d(backbeat, 2.0), longest)
    felt = _local_correlation(gaussian_filter1d(beat, 2.0), longest)
    rivals = []
    for bpm in np.geomspace(_SLOWEST, _FASTEST, 400):
        lag = 60 / bpm / FRAME

        def at(curve: np.ndarray, lags: float) -> float:
            return float(np.interp(lags, np.arange(len(curve)), curve))

        fit = at(whole, lag) + 0.5 * at(whole, 2 * lag) + 0.5 * at(whole, 4 * lag)
        fit += 0.8 * (at(back, 2 * lag) - at(back, lag)) + 0.3 * at(back, 4 * lag)
        fit += _FELT * (at(felt, lag) - at(felt, lag / 2))
        prior = -0.5 * (np.log2(bpm / 108) / 0.55) ** 2
        rivals.append((lag, fit + 0.6 * prior))
    scores = np.array([s for _, s in rivals])
    tops = np.flatnonzero(scores == maximum_filter1d(scores, 15))
    return sorted((rivals[i] for i in tops), key=lambda r: -r[1])


def track(onset: np.ndarray, period: np.ndarray, *, report: Report = silent) -> np.ndarray:
    """Frames of the beats: the path that meets most onset at nearly the local period."""
    n = len(onset)
    best = onset.astype(float).copy()
    back = np.full(n, -1)
    for t in range(n):
        if t % 4000 == 0:
            report("pulse", t / n)
        p = period[t]
        lo, hi = max(0, t - int(p * 1.35)), t - int(p * 0.72)
        if hi <= lo or t < p * 0.72:
            continue
        gap = t - np.arange(lo, hi)
        score = best[lo:hi] - _STIFF * np.log(gap / p) ** 2
        k = int(np.argmax(score))
        if score[k] > 0:
            best[t] += score[k]
            back[t] = lo + k
    t = int(np.argmax(best[-int(period[-1] * 1.2) :])) + n - int(period[-1] * 1.2)
    beats = [t]
    while back[beats[-1]] >= 0:
        beats.append(int(back[beats[-1]]))
    return np.array(beats[::-1])


def refine(beats: np.ndarray, hits: list[Hit]) -> np.ndarray:
    """Beat times (seconds) drawn to the strokes near them, then evened over nine beats."""
    strokes = np.array(sorted(h.time for h in hits if h.confidence > 0.4))
    times = beats * FRAME
    if len(strokes):
        index = np.clip(np.searchsorted(strokes, times), 1, len(strokes) - 1)
        left, right = strokes[index - 1], strokes[index]
        nearest = np.where(np.abs(left - times) < np.abs(right - times), left, right)
        times = np.where(np.abs(nearest - times) < 0.045, nearest, times)
    for _ in range(2):
        times = _evened(times)
    return times


def _evened(times: np.ndarray, reach: int = 4) -> np.ndarray:
    n = len(times)
    out = times.copy()
    for i in range(n):
        k = np.arange(max(0, i - reach), min(n, i + reach + 1))
        line = np.polyfit(k - i, times[k], 1)
        rest = np.abs(np.polyval(line, k - i) - times[k])
        good = rest <= max(0.012, np.median(rest) * 2)
        if good.sum() >= 3:
            line = np.polyfit(k[good] - i, times[k[good]], 1)
        out[i] = line[1]
    return out


def _meter_and_one(
    times: np.ndarray,
    down: np.ndarray,
    strength: dict[str, np.ndarray],
    spectrum: Spectrum,
    hits: list[Hit],
) -> tuple[int, int, float]:
    """Beats a bar, index of the first downbeat, and confidence 0..1."""
    frames = np.clip((times / FRAME).astype(int), 0, spectrum.frames - 1)

    def level(curve: np.ndarray) -> np.ndarray:
        near = maximum_filter1d(curve, 9)[frames]
        return np.minimum(near / (np.percentile(near, 85) + 1e-9), 1.2)

    kick, snare, one_felt = level(strength["kick"]), level(strength["drums"]), level(down)
    crash = np.zeros(len(times))
    for hit in hits:
        if hit.part == "crash":
            k = int(np.argmin(np.abs(times - hit.time)))
            crash[k] += abs(times[k] - hit.time) < 0.06
    chord = np.zeros(len(times))
    tones = [
        spectrum.chroma[frames[i] : max(frames[i + 1], frames[i] + 1)].mean(axis=0)
        for i in range(len(frames) - 1)
    ]
    for i in range(1, len(tones)):
        a, b = tones[i - 1], tones[i]
        chord[i] = 1 - float(a @ b) / (float(np.linalg.norm(a) * np.linalg.norm(b)) + 1e-9)
    chord = np.minimum(chord / (np.percentile(chord, 90) + 1e-9), 1.2)
    rivals = []
    for beats in (4, 3, 5, 7, 6):
        features = np.stack([kick, snare, 0.5 * chord, one_felt], axis=1)
        likeness = _repeat_likeness(features, beats)
        for one in range(beats):
            place = (np.arange(len(times)) - one) % beats
            first = place == 0
            score = 1.0 * kick[first].mean() + 1.4 * crash[first].mean() / (crash.mean() + 0.02) / 4
            score += 1.0 * chord[first].mean() - 0.9 * snare[first].mean()
            score += _DOWN * (one_felt[first].mean() - one_felt[~first].mean())
            if beats == 4:
                score += (
                    0.8 * snare[(place == 1) | (place == 3)].mean() - 0.4 * snare[place == 2].mean()
                )
            else:
                score += 0.8 * snare[~first].mean()
            rivals.append((score + 2.5 * likeness + (0.35 if beats == 4 else 0.0), beats, one))
    rivals.sort(reverse=True)
    margin = rivals[0][0] - next(r[0] for r in rivals[1:] if r[1:] != rivals[0][1:])
    return rivals[0][1], rivals[0][2], float(np.clip(0.5 + margin, 0.05, 0.99))


def _repeat_likeness(features: np.ndarray, beats: int) -> float:
    """How well the beats repeat after ``beats`` (and its double), against other distances."""
    centred = features - features.mean(axis=0)
    norm = (centred**2).sum() + 1e-9

    def at(lag: int) -> float:
        return float((centred[lag:] * centred[:-lag]).sum() / norm) if lag < len(centred) else 0.0

    return 0.6 * at(beats) + 0.4 * at(2 * beats)


def _tempo(times: np.ndarray, rivals: list[tuple[float, float]]) -> Tempo:
    span = min(4, len(times) - 1)
    local = 60 * span / (times[span:] - times[:-span])
    bpm = float(np.median(local))
    k = np.arange(len(times))
    line = np.polyfit(k, times, 1)
    steady = bool(np.percentile(np.abs(np.polyval(line, k) - times), 95) < 0.025)
    if steady:
        bpm = float(60 / line[0])
    others = [float(60 / (p * FRAME)) for p, _ in rivals[1:4]]
    alternatives = [bpm / 2, bpm * 2, *others]
    distinct: list[float] = []
    for a in alternatives:
        if abs(a / bpm - 1) > 0.06 and all(abs(a / d - 1) > 0.06 for d in distinct):
            distinct.append(round(a, 1))
    margin = rivals[0][1] - rivals[1][1] if len(rivals) > 1 else 1.0
    low, high = np.percentile(local, [5, 95])
    return Tempo(
        bpm=round(bpm, 2),
        low=round(float(low), 2),
        high=round(float(high), 2),
        steady=steady,
        confidence=round(float(np.clip(0.5 + margin, 0.1, 0.98)), 2),
        alternatives=tuple(distinct[:4]),
    )


def find(
    spectrum: Spectrum,
    strength: dict[str, np.ndarray],
    pulse: np.ndarray,
    hits: list[Hit],
    *,
    report: Report = silent,
) -> tuple[Tempo, tuple[int, int], tuple[Beat, ...]]:
    """Tempo, meter (beats, unit) and beats of one song, bar 1 first.

    strength: onset strengths (frames,) of "kick", "drums" and "cymbals"; pulse: (frames, 2)
    how sure the network is of a beat, a downbeat. Bars reach from the bar
    of the first sound to the bar of the last; one closing beat follows.
    """
    kick, snare, cymbals = (_normal(strength[k]) for k in ("kick", "drums", "cymbals"))
    change = np.maximum(0, np.diff(np.log1p(spectrum.bands * 100), axis=0, prepend=0)).mean(axis=1)
    onset = kick + snare + 0.6 * cymbals + 0.6 * _normal(change)
    onset = gaussian_filter1d(onset / onset.std(), 1.5)
    rivals = periods(onset, snare, pulse[:, 0])
    onset = onset + _BEAT * gaussian_filter1d(_normal(pulse[:, 0]), 1.5)
    if not rivals or len(onset) < 4 * rivals[0][0]:
        raise BadSound("No pulse was found in this recording; tap it in, or choose another take.")
    period = np.full(len(onset), rivals[0][0])
    beats = track(onset, period, report=report)
    if len(beats) > 8:  # follow a wandering tempo with the local period
        local = np.interp(
            np.arange(len(onset)), beats[1:], gaussian_filter1d(np.diff(beats).astype(float), 4)
        )
        beats = track(onset, local, report=report)
    if len(beats) < 8:
        raise BadSound("No pulse was found in this recording; tap it in, or choose another take.")
    times = refine(beats, hits)
    times = times[np.concatenate([[True], np.diff(times) > 0.1])]
    count, one, _ = _meter_and_one(times, pulse[:, 1], strength, spectrum, hits)
    tempo = _tempo(times, rivals)
    return tempo, (count, 4), _bars(times, count, one, hits, sounding(spectrum))


def sounding(spectrum: Spectrum) -> tuple[float, float]:
    """Seconds between which there is music: from a twentieth of its usual level, lasting
    80 ms, to a tenth (below that a last chord dies away)."""
    level = spectrum.bands.mean(axis=1)
    usual = np.percentile(level, 90)
    lasting = np.convolve(level > 0.05 * usual, np.ones(8), "valid") == 8
    begins = float(np.argmax(lasting)) * FRAME if lasting.any() else 0.0
    ends = float(np.flatnonzero(level > 0.1 * usual)[-1]) * FRAME
    return begins, ends


def _bars(
    times: np.ndarray, count: int, one: int, hits: list[Hit], sound: tuple[float, float]
) -> tuple[Beat, ...]:
    """Whole bars from the first sound to the last, where drums enter late or stop early too.

    The tempo goes on where no beat was tracked.
    """
    first = min([h.time for h in hits] + [sound[0]])
    last = max([h.time for h in hits] + [sound[1] - _DYING])
    opening, closing = float(times[1] - times[0]), float(times[-1] - times[-2])
    if first < times[0]:
        where = (first - times[0]) / opening
    else:
        where = float(np.interp(first, times, np.arange(len(times))))
    start = int((where + 0.25 - one) // count) * count + one  # the bar's 1 at or before it
    known = list(times[max(start, 0) :])
    known = [times[0] - opening * k for k in range(max(-start, 0), 0, -1)] + known
    while known[-1] < last + 0.05 or (len(known) - 1) % count:
        known.append(known[-1] + closing)
    bars = next(b for b in range(1, len(known)) if known[b * count] > last + 0.05)
    return tuple(
        Beat(round(float(t), 4), i // count + 1, i % count + 1)
        for i, t in enumerate(known[: bars * count + 1])
    )
