"""Bars over beats: where they begin, their meters, and the beats of whole bars.

Arithmetic on times and likelihoods alone; hearing uses it on what it felt, corrections on what
is kept of that, and neither needs the other for it. Bars are sought by the most probable path
over the places of the bar (Viterbi).
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby, pairwise

import numpy as np

_MIDDLE = 0.58  # middle triplets for each last one from which on a meter is compound
#: Beats of a bar, and how much evidence (log odds) each needs more than four: for the song,
#: and again for each bar.
_METERS = {4: 0.0, 3: 0.6, 2: 3.0, 5: 1.2, 6: 2.0, 7: 1.2}
_EACH_BAR = {4: 0.0, 3: 0.0, 2: 0.9, 5: 0.1, 6: 0.2, 7: 0.2}
#: What another meter from a bar on costs.
_CHANGE = 4.0
#: What speaks (log odds) for a 1 where the most regular bars of the whole song have theirs: a bar
#: beside them needs more evidence than that, and so does every bar until the 1 is back. Chosen on
#: songs without sound of other seeds, a sixth of which change their meter, and on records to tune
#: by, which don't.
_REGULAR, _FEWEST = 1.3, 8
#: How likely the 1s of a stretch of other bars must be on the whole, and how much more than the
#: usual ones.
_OWN, _BESIDE = 0.65, 0.2
_AT_END = 4  # bars of such a stretch behind which nothing comes
#: From so many bars of two on, and from this tempo on, they are counted in four.
_TWOS, _IN_FOUR = 4, 84.0
_TWO_OVER = 2.0  # summed likelihood of 1s that a two at both ends of such a run asks for
_ONE_NEAR = 0.07  # seconds round a moment at which a 1 may fall
#: How alike the halves of an odd bar's kick and snare must be (F) to be two bars, and how near (in
#: beats) two strokes then lie.
_TWO_HALVES, _SAME_PLACE = 0.6, 0.12
_EIGHTH_BEATS = 172.0  # beats of bars of five and seven this fast are written as eighths


def bars_of(one: np.ndarray) -> list[int]:
    """Indices of the beats on which bars begin; before the first lies a part of a bar.

    one: (beats,) how likely each beat is a one, 0..1.
    """
    states = [(m, p) for m in _METERS for p in range(m)]
    place = {s: i for i, s in enumerate(states)}
    p = np.clip(one, 0.02, 0.98)
    hit, miss = np.log(p), np.log(1 - p)
    if len(p) >= _FEWEST:
        size, at = _most_regular(hit - miss)
        hit = hit.copy()
        hit[at::size] += _REGULAR
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


def _evenly(gain: np.ndarray, size: int, at: int) -> float:
    """What speaks for bars of one size whose 1s lie on every beat from ``at`` on. gain: (beats,)
    log odds of a 1."""
    return float(gain[at::size].sum()) - _METERS[size] - _EACH_BAR[size] * len(gain) / size


def _most_regular(gain: np.ndarray) -> tuple[int, int]:
    """The size and the first 1 of the bars that explain a song best if none is of another size."""
    return max(((m, k) for m in _METERS for k in range(m)), key=lambda t: _evenly(gain, *t))


def divided(one: np.ndarray) -> int:
    """The size of the bars that divide some beats evenly from the first on; 0 where none does.

    one: (beats,) how likely each beat is a one, 0..1.
    """
    p = np.clip(one, 0.02, 0.98)
    gain = np.log(p) - np.log(1 - p)
    sizes = [m for m in _METERS if len(one) % m == 0 and len(one) >= 2 * m]
    return max(sizes, key=lambda size: _evenly(gain, size, 0), default=0)


def regular(one: np.ndarray) -> float:
    """How much speaks (log likelihood) for bars of three or four beats all through, wherever
    their 1s lie.

    one: (beats,) how likely each beat is a one, 0..1.
    """
    p = np.clip(one, 0.02, 0.98)
    hit, miss = np.log(p), np.log(1 - p)
    if len(p) < 8:
        return 0.0
    return float(miss.sum() + max((hit - miss)[k::m].sum() for m in (3, 4) for k in range(m)))


def in_fours(
    starts: list[int], times: np.ndarray, one: np.ndarray, crashes: np.ndarray
) -> list[int]:
    """Bars of two beats that follow one another at a usual pace, counted in four.

    Where kick and snare alternate, a 1 may fall on every second beat as well; drummers count
    that in four, and in two only where it is slow. starts: indices of the beats on which bars
    begin; times: seconds of the beats; one: how likely each is a 1; crashes: seconds.
    """
    starts_in_four: list[int] = []
    sizes = [b - a for a, b in pairwise(starts)]
    at = 0
    while at < len(sizes):
        run = at
        while run < len(sizes) and sizes[run] == 2:
            run += 1
        run_of_starts = starts[at : run + 1]
        pace = (
            60 / float(np.median(np.diff(times[run_of_starts[0] : run_of_starts[-1] + 1])))
            if run > at
            else 0.0
        )
        if run - at >= _TWOS and pace >= _IN_FOUR:
            lengths = [
                float(one[run_of_starts[p::2]].sum())
                + sum(float((np.abs(crashes - times[k]) < 0.08).any()) for k in run_of_starts[p::2])
                for p in (0, 1)
            ]
            # Between other bars an even run leaves nothing over, or a two at both of its ends.
            between = at > 0 and run < len(sizes) and (run - at) % 2 == 0
            least = _TWO_OVER + 0.1 * (run - at) if between else 0.5
            second = lengths[1] > lengths[0] + least
            starts_in_four += ([run_of_starts[0]] if second else []) + run_of_starts[
                int(second) : -1 : 2
            ]
            at = run
        else:
            starts_in_four.append(starts[at])
            at += 1
    return starts_in_four + starts[-1:]


def settled(starts: list[int], one: np.ndarray) -> list[int]:
    """Bars (indices of the beats on which they begin) without strays: a stretch whose 1s lie
    beside those of the most regular bars stands only where its own 1s are clear and theirs are not.

    Nothing is settled where no bars of one size and phase are most of the song. one: see
    ``bars_of``.
    """
    bars = list(pairwise(starts))
    keys = [(b - a, a % (b - a)) for a, b in bars]
    if not keys:
        return starts
    size, at = max(set(keys), key=keys.count)
    if 2 * keys.count((size, at)) < len(keys):
        return starts
    phases: list[int] = []
    for is_usual, group in groupby(zip(bars, keys, strict=True), lambda bar: bar[1] == (size, at)):
        run = [bar for bar, _ in group]
        begin, end = run[0][0], run[-1][1]
        usual = [k for k in range(begin, end) if k % size == at]
        phase = float(np.mean([one[a] for a, _ in run]))
        other = float(np.mean(one[usual])) if usual else 0.0
        stands = is_usual or (phase >= _OWN and phase - other >= _BESIDE)
        stands &= is_usual or end < starts[-1] or len(run) >= _AT_END
        phases += [a for a, _ in run] if stands else usual
    last_stands = stands or starts[-1] % size == at
    return [*phases, starts[-1]] if last_stands else phases


def in_eighths(
    starts: list[int], times: np.ndarray, struck: Sequence[float]
) -> tuple[list[int], np.ndarray]:
    """Bars of five or seven beats whose halves are alike, counted as two bars of eighths.

    A 7/8 of which every second beat is felt looks like a 7/4; but there the second half would
    lie between the beats of the first. starts, times: see in_fours; both are given anew.
    struck: seconds of kicks and snares.
    """
    odd = [(a, b) for a, b in pairwise(starts) if b - a in (5, 7)]
    if not odd or 2 * len(odd) <= len(starts) - 1:
        return starts, times
    place = np.interp(struck, times, np.arange(len(times)), left=-1, right=-1)
    alike = [_halves_alike(place[(place > a - 0.2) & (place < b - 0.2)] - a, b - a) for a, b in odd]
    if float(np.mean(alike)) < _TWO_HALVES:
        return starts, times
    doubled = np.interp(np.arange(2 * len(times) - 1) / 2, np.arange(len(times)), times)
    twice = [2 * starts[0]]
    for a, b in pairwise(starts):
        twice += [a + b, 2 * b] if b - a in (5, 7) else [2 * b]
    return twice, doubled


def _halves_alike(place: np.ndarray, beats: int) -> float:
    """F of the strokes (in beats of their bar) of a bar's first half against its second."""
    split = beats / 2 - 0.2
    first, second = place[place < split], place[place >= split] - beats / 2
    if len(first) == 0 or len(second) == 0:
        return 0.0
    near = np.abs(first[:, None] - second[None]) < _SAME_PLACE
    return float(near.any(axis=1).sum() + near.any(axis=0).sum()) / len(place)


def ones_at(times: np.ndarray, ones: tuple[tuple[float, float], ...]) -> np.ndarray:
    """How likely each beat (seconds) is a 1, by the moments at which one may fall."""
    strength = np.zeros(len(times))
    if len(times) > 1:
        near = np.minimum(0.2 * np.gradient(times), _ONE_NEAR)
        for moment, share in ones:
            k = int(np.abs(times - moment).argmin())
            if abs(times[k] - moment) <= near[k]:
                strength[k] = max(strength[k], share)
    return strength


def is_compound(times: Sequence[float], strokes: Sequence[float]) -> bool:
    """Whether the beats divide in three, the middle triplet being struck too: a 12/8, where a
    shuffle leaves it out. times, strokes: seconds."""
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
