"""Tempo, beats, meter and bars of a song, from its strokes and what the band does.

A network that learned from made-up drum parts (training/pulse.py) tells for every moment how
likely a beat and a one fall there and how fast the pulse is felt. From these the most
probable path is sought: first the tempo over the song, then the beats (dynamic programming
after Ellis, "Beat tracking by dynamic programming", 2007), then the bars with their meters
(Viterbi over the places of the bar).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from scipy.ndimage import gaussian_filter1d, maximum_filter1d

from orchesis.errors import BadSound
from orchesis.hearing import network
from orchesis.hearing.hits import FRAME
from orchesis.hearing.pulsegrid import BAND, CHORD, STEP, band_rows, stroke_rows
from orchesis.hearing.spectrum import Spectrum
from orchesis.hearing.tempi import BINS, FASTEST, SLOWEST, bpm_of
from orchesis.hearing.types import Beat, HeardMeter, Hit, Report, Tempo, silent

_MIDDLE = 0.58  # middle triplets for each last one from which on a meter is compound
_DYING = 0.4  # seconds of a last sound that ask for no bar of their own
_STIFF = 60.0  # what a step unlike the local tempo costs: this times its log squared
_TURN = 0.9  # what a change of tempo by one bin (2 %) within a second costs
_REACH = 0.4  # octaves
_CLEAR = 0.95  # share of one tempo from which on no other is tried
#: What speaks for a reading (see Reading), weighed by a logistic choice on made-up songs of
#: other seeds, as strokes without sound.
_SAYS = np.array([0.28, 2.17, -1.27, 1.82, -0.93, 1.0])
#: Weight of the whole song's tempo in every second of it.
_WHOLE = 2.0
#: Pulses are felt round this tempo (Parncutt, "A perceptual model of pulse salience", 1994);
#: what the square of an octave away from it costs.
_COMFORTABLE, _AWAY = 105.0, 1.0
#: Beats of a bar, and how much evidence (log odds) each needs more than four: for the song,
#: and again for each bar.
_METERS = {4: 0.0, 3: 0.6, 2: 3.0, 5: 1.2, 6: 2.0, 7: 1.2}
_EACH_BAR = {4: 0.0, 3: 0.0, 2: 0.9, 5: 0.1, 6: 0.2, 7: 0.2}
#: What another meter from a bar on costs.
_CHANGE = 4.5
#: From so many bars of two on, and from this tempo on, they are counted in four.
_TWOS, _IN_FOUR = 4, 84.0
_LEAST_ONE, _ONE_NEAR = 0.03, 0.07  # least likelihood of a 1 that is told; seconds round it
#: How alike the halves of an odd bar's kick and snare must be (F) to be two bars, and how near (in
#: beats) two strokes then lie.
_TWO_HALVES, _SAME_PLACE = 0.6, 0.12
_EIGHTH_BEATS = 172.0  # beats of bars of five and seven this fast are written as eighths


class Pulse(NamedTuple):
    """What ``find`` finds; ones and sounding as in ``Hearing``."""

    tempo: Tempo
    meters: tuple[HeardMeter, ...]
    beats: tuple[Beat, ...]
    ones: tuple[tuple[float, float], ...]
    sounding: tuple[float, float]


@dataclass(frozen=True)
class Felt:
    """The network's reading: beat and one (frames of 10 ms), tempo (BINS, frames of 20 ms)."""

    beat: np.ndarray
    one: np.ndarray
    tempo: np.ndarray


def feel(grid: np.ndarray) -> Felt:
    out = network.read_pulse(grid)
    moments = np.arange(2 * grid.shape[1]) / 2
    beat, one = (np.interp(moments, np.arange(grid.shape[1]), row) for row in out[:2])
    return Felt(beat, one, out[3:])


def grid_of(spectrum: Spectrum, activity: network.Activity, hits: list[Hit]) -> np.ndarray:
    """What the pulse is read from, (ROWS, frames of 20 ms): strokes, and the band without them."""
    rest = activity.mask.astype(np.float32)  # worked on in place: it is as long as the song
    np.sqrt(np.subtract(1, rest, out=rest), out=rest)
    rest *= spectrum.bands
    frames = (spectrum.frames + 1) // 2
    grid = stroke_rows(((h.time, h.part, h.loudness, h.confidence) for h in hits), frames)
    grid[BAND : CHORD + 1] = band_rows(rest, spectrum.bands, spectrum.chroma)[:, :frames]
    return grid


def rivals(felt: Felt) -> list[tuple[float, float]]:
    """Rival tempi (beats a minute) with their chance over the whole song, the best first."""
    chance = gaussian_filter1d(felt.tempo.mean(axis=1), 1.0)
    tops = np.flatnonzero((chance == maximum_filter1d(chance, 9)) & (chance > 0.002))
    found = [(float(bpm_of(float(k))), float(chance[max(0, k - 3) : k + 4].sum())) for k in tops]
    return sorted(found, key=lambda r: -r[1])


def tempo_path(felt: Felt) -> np.ndarray:
    """Beats a minute at every frame of 20 ms: the reading of the song that says most."""
    paths = _paths(felt)
    if len(paths) == 1:
        return paths[0][1]
    made = [reading(felt, *path) for path in paths]
    return max(made, key=lambda r: float(r.evidence @ _SAYS)).bpm


class Reading(NamedTuple):
    """One way to feel a song's tempo: beats a minute at every frame of 20 ms, and what speaks
    for it: how likely the tempo is; how well the beats it leads to meet what was felt of
    beats, how much of that they leave out; the same of the ones."""

    bpm: np.ndarray
    evidence: np.ndarray


def reading(felt: Felt, score: float, bpm: np.ndarray) -> Reading:
    """What speaks for one tempo path of that score."""
    beats = track(felt.beat[::2], 60 / bpm / STEP)
    one = maximum_filter1d(felt.one[::2], 5)
    starts = bars_of(one[beats])
    met, left = _met(felt.beat[::2], beats)
    met_ones, left_ones = _met(felt.one[::2], beats[starts])
    between = np.delete(one[beats], starts)
    told = float(between.mean()) if len(between) else 0.0
    return Reading(bpm, np.array([score, met, left, met_ones, left_ones, told]))


def _met(curve: np.ndarray, at: np.ndarray) -> tuple[float, float]:
    """Mean of a curve's crests at some frames, and the share of its crests that lie elsewhere."""
    near = maximum_filter1d(curve, 5)
    crests = (curve == near) & (curve > 0.05)
    covered = np.zeros(len(curve), dtype=bool)
    for j in range(-3, 4):
        covered[np.clip(at + j, 0, len(curve) - 1)] = True
    whole = float(curve[crests].sum()) + 1e-6
    return float(near[at].mean()) if len(at) else 0.0, float(curve[crests & ~covered].sum()) / whole


def _paths(felt: Felt) -> list[tuple[float, np.ndarray]]:
    """For each rival tempo the likeliest path that turns slowly: its score a second, and beats
    a minute at every frame of 20 ms."""
    per = round(1 / STEP)
    seconds = max(1, felt.tempo.shape[1] // per)
    log = np.log(felt.tempo[:, : seconds * per] + 1e-4)
    seen = log.reshape(BINS, seconds, -1).mean(axis=2) if log.shape[1] >= per else log[:, :1]
    # The song's own tempo decides where a passage could be read twice or half as fast; and of
    # two readings that are as likely, the one nearer to a comfortable pulse is felt.
    whole = np.log(gaussian_filter1d(felt.tempo.mean(axis=1), 2.0) + 1e-3)
    away = np.log2(bpm_of(np.arange(BINS)) / _COMFORTABLE)
    seen = seen + (_WHOLE * whole - _AWAY * away**2)[:, None]
    turn = _TURN * np.abs(np.arange(BINS)[:, None] - np.arange(BINS)[None])
    middles = (np.arange(seconds) + 0.5) / STEP
    made: list[tuple[float, np.ndarray]] = []
    for centre in _centres(felt):
        # A song keeps to one reading: no path leaves its tempo by more than this.
        far = np.abs(np.log2(bpm_of(np.arange(BINS)) / centre)) > _REACH
        score, path = _path(np.where(far[:, None], -1e4, seen), turn)
        smooth = gaussian_filter1d(np.array(path, float), 1.5, mode="nearest")
        bpm = bpm_of(np.interp(np.arange(felt.tempo.shape[1]), middles, smooth))
        made.append((score / seen.shape[1], bpm))
    return made


def _centres(felt: Felt) -> list[float]:
    """Tempi round which a song may be felt: those that were, and their usual mistakings."""
    found = [bpm for bpm, _ in rivals(felt)[:3]] or [_COMFORTABLE]
    first = found[0]
    if rivals(felt)[:1] and rivals(felt)[0][1] > _CLEAR:
        return [first]
    for ratio in (2, 0.5, 2 / 3, 1.5):
        bpm = first * ratio
        if SLOWEST < bpm < FASTEST and all(abs(np.log2(bpm / b)) > 0.15 for b in found):
            found.append(bpm)
    return found


def _path(seen: np.ndarray, turn: np.ndarray) -> tuple[float, list[int]]:
    """Score and bins of the best path through (BINS, seconds)."""
    best, back = seen[:, 0].copy(), np.zeros(seen.shape, int)
    for k in range(1, seen.shape[1]):
        reach = best[:, None] - turn
        back[:, k] = reach.argmax(axis=0)
        best = reach.max(axis=0) + seen[:, k]
    path = [int(best.argmax())]
    for k in range(seen.shape[1] - 1, 0, -1):
        path.append(int(back[path[-1], k]))
    return float(best.max()), path[::-1]


def track(beat: np.ndarray, period: np.ndarray, *, report: Report = silent) -> np.ndarray:
    """Frames of the beats: the path over the likeliest beats at nearly the local period.

    beat: how likely a beat is at each frame, 0..1; period: frames from beat to beat there.
    """
    n = len(beat)
    seen = np.log(beat + 0.03) - np.log(0.03)
    best = seen.copy()
    back = np.full(n, -1)
    for t in range(n):
        if t % 4000 == 0:
            report("pulse", t / n)
        p = period[t]
        lo, hi = max(0, t - int(p * 1.35) - 1), t - int(p * 0.72)
        if hi <= lo or t < p * 0.72:
            continue
        score = best[lo:hi] - _STIFF * np.log((t - np.arange(lo, hi)) / p) ** 2
        k = int(np.argmax(score))
        if score[k] > 0:
            best[t] += score[k]
            back[t] = lo + k
    last = max(1, int(period[-1] * 1.2))
    beats = [int(np.argmax(best[-last:])) + n - last]
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


def bars_of(one: np.ndarray) -> list[int]:
    """Indices of the beats on which bars begin; before the first lies a part of a bar.

    one: (beats,) how likely each beat is a one, 0..1.
    """
    states = [(m, p) for m in _METERS for p in range(m)]
    place = {s: i for i, s in enumerate(states)}
    p = np.clip(one, 0.02, 0.98)
    hit, miss = np.log(p), np.log(1 - p)
    first = np.array([s[1] == 0 for s in states])
    best = np.array([-_METERS[m] - (0.0 if q == 0 else 0.4) for m, q in states])
    best += np.where(first, hit[0], miss[0])
    backs = []
    ends = [place[m, m - 1] for m in _METERS]
    starts = [place[m, 0] for m in _METERS]
    cost = np.array(
        [
            [_EACH_BAR[b] + (0.0 if a == b else _CHANGE + 0.5 * _METERS[b]) for b in _METERS]
            for a in _METERS
        ]
    )
    for k in range(1, len(one)):
        back = np.arange(len(states)) - 1
        new = best[back]
        reach = best[ends][:, None] - cost
        new[starts] = reach.max(axis=0)
        back[starts] = np.array(ends)[reach.argmax(axis=0)]
        backs.append(back)
        best = new + np.where(first, hit[k], miss[k])
    at = int(best.argmax())
    path = [at]
    for back in reversed(backs):
        at = int(back[at])
        path.append(at)
    return [k for k, i in enumerate(reversed(path)) if states[i][1] == 0]


def in_fours(
    starts: list[int], times: np.ndarray, one: np.ndarray, crashes: np.ndarray
) -> list[int]:
    """Bars of two beats that follow one another at a usual pace, counted in four.

    Where kick and snare alternate, a 1 may fall on every second beat as well; drummers count
    that in four, and in two only where it is slow. starts: indices of the beats on which bars
    begin; times: seconds of the beats; one: how likely each is a 1; crashes: seconds.
    """
    made: list[int] = []
    sizes = [b - a for a, b in pairwise(starts)]
    at = 0
    while at < len(sizes):
        run = at
        while run < len(sizes) and sizes[run] == 2:
            run += 1
        own = starts[at : run + 1]
        pace = 60 / float(np.median(np.diff(times[own[0] : own[-1] + 1]))) if run > at else 0.0
        if run - at >= _TWOS and pace >= _IN_FOUR:
            told = [
                float(one[own[p::2]].sum())
                + sum(float((np.abs(crashes - times[k]) < 0.08).any()) for k in own[p::2])
                for p in (0, 1)
            ]
            second = told[1] > told[0] + 0.5
            made += ([own[0]] if second else []) + own[int(second) : -1 : 2]
            at = run
        else:
            made.append(starts[at])
            at += 1
    return made + starts[-1:]


def in_eighths(
    starts: list[int], times: np.ndarray, hits: list[Hit]
) -> tuple[list[int], np.ndarray]:
    """Bars of five or seven beats whose halves are alike, counted as two bars of eighths.

    A 7/8 of which every second beat is felt looks like a 7/4; but there the second half would
    lie between the beats of the first. starts, times: see in_fours; both are given anew.
    """
    odd = [(a, b) for a, b in pairwise(starts) if b - a in (5, 7)]
    if not odd or 2 * len(odd) <= len(starts) - 1:
        return starts, times
    struck = [h.time for h in hits if h.part in ("kick", "snare", "cross_stick")]
    place = np.interp(struck, times, np.arange(len(times)), left=-1, right=-1)
    alike = [_halves_alike(place[(place > a - 0.2) & (place < b - 0.2)] - a, b - a) for a, b in odd]
    if float(np.mean(alike)) < _TWO_HALVES:
        return starts, times
    doubled = np.interp(np.arange(2 * len(times) - 1) / 2, np.arange(len(times)), times)
    made = [2 * starts[0]]
    for a, b in pairwise(starts):
        made += [a + b, 2 * b] if b - a in (5, 7) else [2 * b]
    return made, doubled


def _halves_alike(place: np.ndarray, beats: int) -> float:
    """F of the strokes (in beats of their bar) of a bar's first half against its second."""
    split = beats / 2 - 0.2
    first, second = place[place < split], place[place >= split] - beats / 2
    if len(first) == 0 or len(second) == 0:
        return 0.0
    near = np.abs(first[:, None] - second[None]) < _SAME_PLACE
    return float(near.any(axis=1).sum() + near.any(axis=0).sum()) / len(place)


def _tempo(times: np.ndarray, others: list[tuple[float, float]]) -> Tempo:
    span = min(4, len(times) - 1)
    local = 60 * span / (times[span:] - times[:-span])
    bpm = float(np.median(local))
    k = np.arange(len(times))
    line = np.polyfit(k, times, 1)
    steady = bool(np.percentile(np.abs(np.polyval(line, k) - times), 95) < 0.025)
    if steady:
        bpm = float(60 / line[0])
    near = [c for b, c in others if abs(b / bpm - 1) < 0.08]
    distinct: list[float] = []
    for a in [*(b for b, c in others if c > 0.04), bpm / 2, bpm * 2]:
        if abs(a / bpm - 1) > 0.08 and all(abs(a / d - 1) > 0.08 for d in distinct):
            distinct.append(round(a, 1))
    low, high = np.percentile(local, [5, 95])
    return Tempo(
        bpm=round(bpm, 2),
        low=round(float(low), 2),
        high=round(float(high), 2),
        steady=steady,
        confidence=round(float(np.clip(sum(near), 0.05, 0.98)), 2),
        alternatives=tuple(distinct[:4]),
    )


def find(
    spectrum: Spectrum, activity: network.Activity, hits: list[Hit], *, report: Report = silent
) -> Pulse:
    """Tempo, meters and beats of one song, bar 1 first.

    Bars reach from the bar of the first sound to the bar of the last; one closing beat
    follows. Raises BadSound where no pulse is found.
    """
    felt = feel(grid_of(spectrum, activity, hits))
    bpm = tempo_path(felt)
    period = 60 / np.interp(np.arange(len(felt.beat)) / 2, np.arange(len(bpm)), bpm) / FRAME
    if len(felt.beat) < 4 * period[0]:
        raise BadSound("No pulse was found in this recording; tap it in, or choose another take.")
    beats = track(felt.beat, period, report=report)
    if len(beats) < 8:
        raise BadSound("No pulse was found in this recording; tap it in, or choose another take.")
    times = refine(beats, hits)
    times = times[np.concatenate([[True], np.diff(times) > 0.1])]
    frames_of = np.clip((times / FRAME).round().astype(int), 0, len(felt.one) - 1)
    one = maximum_filter1d(felt.one, 7)[frames_of]
    sound = sounding(spectrum)
    first = min([h.time for h in hits] + [sound[0]])
    last = max([h.time for h in hits] + [sound[1] - _DYING])
    crashes = np.array([h.time for h in hits if h.part.startswith("crash")])
    starts, times = in_eighths(in_fours(bars_of(one), times, one, crashes), times, hits)
    tempo = _tempo(times, rivals(felt))
    known, lengths = whole_bars(times, starts, first, last)
    written = signatures(lengths, tempo.bpm, is_compound(known, hits))
    meters = tuple(
        HeardMeter(bar + 1, *written[bar])
        for bar in range(len(written))
        if bar == 0 or written[bar] != written[bar - 1]
    )
    numbered = [(bar + 1, k + 1) for bar, size in enumerate(lengths) for k in range(size)]
    numbered.append((len(lengths) + 1, 1))
    made = tuple(
        Beat(round(float(t), 4), bar, beat) for t, (bar, beat) in zip(known, numbered, strict=True)
    )
    return Pulse(tempo, meters, made, _ones(felt), (round(first, 3), round(last, 3)))


def _ones(felt: Felt) -> tuple[tuple[float, float], ...]:
    crests = (felt.one == maximum_filter1d(felt.one, 15)) & (felt.one > _LEAST_ONE)
    return tuple(
        (round(float(k) * FRAME, 2), round(float(felt.one[k]), 3)) for k in np.flatnonzero(crests)
    )


def ones_at(times: np.ndarray, ones: tuple[tuple[float, float], ...]) -> np.ndarray:
    """How likely each beat (seconds) is a 1, by the moments at which one may fall."""
    made = np.zeros(len(times))
    if len(times) > 1:
        near = np.minimum(0.2 * np.gradient(times), _ONE_NEAR)
        for moment, share in ones:
            k = int(np.abs(times - moment).argmin())
            if abs(times[k] - moment) <= near[k]:
                made[k] = max(made[k], share)
    return made


def is_compound(times: list[float], hits: list[Hit]) -> bool:
    """Whether the beats divide in three, the middle triplet being struck too: a 12/8, where a
    shuffle leaves it out."""
    strokes = np.array([h.time for h in hits])
    if len(times) < 3 or len(strokes) == 0:
        return False
    place = np.interp(strokes, times, np.arange(len(times))) % 1

    def struck(*places: float) -> int:
        return sum(int((np.abs(place - p) < 0.07).sum()) for p in places)

    middle, last, even = struck(1 / 3), struck(2 / 3), struck(1 / 4, 1 / 2, 3 / 4)
    return middle > _MIDDLE * last > 0 and middle + last > 2 * even


def signatures(lengths: list[int], bpm: float, compound: bool) -> list[tuple[int, int]]:
    """The signature (count, unit) of bars of so many felt beats. Where most have five or seven
    and they come fast, all are written in eighths."""
    odd = sum(beats in (5, 7) for beats in lengths)
    unit = 8 if bpm > _EIGHTH_BEATS and 2 * odd > len(lengths) else 4
    return [(3 * beats, 8) if compound else (beats, unit) for beats in lengths]


def sounding(spectrum: Spectrum) -> tuple[float, float]:
    """Seconds between which there is music: from a twentieth of its usual level, lasting
    80 ms, to a tenth (below that a last chord dies away)."""
    level = spectrum.bands.mean(axis=1)
    usual = np.percentile(level, 90)
    lasting = np.convolve(level > 0.05 * usual, np.ones(8), "valid") == 8
    begins = float(np.argmax(lasting)) * FRAME if lasting.any() else 0.0
    ends = float(np.flatnonzero(level > 0.1 * usual)[-1]) * FRAME
    return begins, ends


def whole_bars(
    times: np.ndarray, ones: list[int], first: float, last: float
) -> tuple[list[float], list[int]]:
    """Times of the beats of whole bars, from the first sound to the last (seconds), with a
    closing beat; and the beats of each bar. ones: indices of the beats on which bars begin.

    Bars go on where drums enter late or stop early: the tempo and the meter go on there.
    """
    opening, closing = (float(np.median(np.diff(t))) for t in (times[:9], times[-9:]))
    sizes = [b - a for a, b in pairwise(ones)]
    usual = max(set(sizes), key=sizes.count) if sizes else 4

    def moment(k: int) -> float:
        if k < 0:
            return float(times[0] + opening * k)
        return float(times[k] if k < len(times) else times[-1] + closing * (k - len(times) + 1))

    marks = list(ones) or [0]
    while moment(marks[0]) > first + 0.25 * opening:
        marks.insert(0, marks[0] - usual)
    while moment(marks[-1]) <= last + 0.05:
        marks.append(marks[-1] + usual)
    while len(marks) > 2 and moment(marks[1]) <= first + 0.25 * opening:
        marks.pop(0)
    end = next(i for i, m in enumerate(marks) if i > 0 and (moment(m) > last + 0.05))
    marks = marks[: end + 1]
    return [moment(k) for k in range(marks[0], marks[-1] + 1)], [b - a for a, b in pairwise(marks)]
