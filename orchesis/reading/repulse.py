"""Corrections of the pulse: tempo, the 1, meters, single beats, taps; locked bars stay.

The strokes keep their seconds and are read anew on the new grid; what a person wrote keeps
its moment too, so that nothing is lost by finding the right pulse. What has no place on the
new grid is set aside and listed (``Score.aside``). Strokes of confirmed bars stay on their
places of the bar.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np

from orchesis.errors import BadEdit, BadScore
from orchesis.hearing import pulse as tracking
from orchesis.reading.regrid import Grid, laid, relaid, sized, trim_front, usual_meter
from orchesis.score import Meter, Score
from orchesis.score.edits import Operation, given, place_of, put
from orchesis.score.untrusted import is_moment

_FASTEST, _SLOWEST = 320.0, 25.0
_FEWEST_TAPS, _MOST_TAPS = 8, 5000
_OUTSIDE = 10.0  # seconds before and behind the song in which a tap may still fall
_SHORTEST = 0.12  # seconds of a beat
_SNAP = 0.07  # seconds within which a tap is drawn to a stroke
_FURTHEST = 5.0  # seconds that a beat may be dragged
_NEIGHBOURS = 3  # beats on either side that follow a dragged one
_FRAME = 0.01  # seconds
_LIKE = 0.12  # share by which tapped and heard periods may differ and still be the same


def _bar(score: Score, args: Mapping[str, Any]) -> int:
    bar = given(args, "bar", int)
    if not 1 <= bar <= score.bar_count:
        raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
    return bar


def _beat(score: Score, args: Mapping[str, Any]) -> tuple[int, int]:
    bar, beat = _bar(score, args), given(args, "beat", int)
    if not 1 <= beat <= score.meters[bar - 1].beats:
        raise BadEdit(f"Bar {bar} has beats 1 to {score.meters[bar - 1].beats}, no beat {beat}.")
    return bar, beat


def _nothing_locked(score: Score, what: str) -> None:
    if score.locked:
        raise BadEdit(f"{what} would change locked bars; unlock them first.")


def halve_tempo(score: Score, _args: Mapping[str, Any]) -> Score:
    """Every second beat goes: 180 becomes 90."""
    _nothing_locked(score, "Halving the tempo")
    beats = np.array(score.pulse.times)
    felt = tracking.ones_at(beats, score.ones)
    times = beats[int(felt[1::2].sum() > felt[::2].sum()) :: 2].tolist()
    if len(times) < 3 or score.pulse.tempo()[0] / 2 < _SLOWEST:
        raise BadEdit("The tempo can't be halved any further.")
    return relaid(score, times, usual_meter(score))


def double_tempo(score: Score, _args: Mapping[str, Any]) -> Score:
    """A beat more between any two: 90 becomes 180."""
    _nothing_locked(score, "Doubling the tempo")
    if score.pulse.tempo()[0] * 2 > _FASTEST:
        raise BadEdit("The tempo can't be doubled any further.")
    times = [t for a, b in pairwise(score.pulse.times) for t in (a, (a + b) / 2)]
    return relaid(score, [*times, score.pulse.times[-1]], usual_meter(score))


def retime(score: Score, args: Mapping[str, Any]) -> Score:
    """factor: beats in the time of so many: "3/2" and "2/3" for three against two."""
    _nothing_locked(score, "Another tempo")
    factor = args.get("factor")
    ratio = {"3/2": 1.5, "2/3": 2 / 3, "2": 2.0, "1/2": 0.5, "4/3": 4 / 3, "3/4": 0.75}.get(
        str(factor)
    )
    if ratio is None:
        raise BadEdit(f"“{factor}” is no factor of a tempo; say 3/2, 2/3, 4/3, 3/4, 2 or 1/2.")
    if not _SLOWEST <= score.pulse.tempo()[0] * ratio <= _FASTEST:
        raise BadEdit("The tempo would leave what can be played.")
    old = np.array(score.pulse.times)
    count = int((len(old) - 1) * ratio)
    times = np.interp(np.arange(count + 1) / ratio, np.arange(len(old)), old)
    return relaid(score, times.tolist(), usual_meter(score))


def shift_one(score: Score, args: Mapping[str, Any]) -> Score:
    """beats: how many felt beats later (positive) or earlier the 1 falls, in the whole song."""
    beats = args.get("beats")
    if not isinstance(beats, int) or isinstance(beats, bool) or not 0 < abs(beats) < 16:
        raise BadEdit("Say by how many beats the 1 is to move (1 to 15, either way).")
    _nothing_locked(score, "Moving every 1")
    grid = Grid.of(score)
    first = grid.meters[0]
    beats %= first.beats
    opening = grid.times[1] - grid.times[0]
    if beats:  # the beats before the new 1 become the end of a bar that begins earlier
        before = [grid.times[0] - opening * k for k in range(first.beats - beats, 0, -1)]
        grid.times = before + grid.times
        grid.meters = [first, *grid.meters]
        trim_front(grid, score)
    return laid(score, grid)


def shift_half(score: Score, args: Mapping[str, Any]) -> Score:
    """later: every beat falls half a beat later (true) or earlier."""
    later = given(args, "later", bool)
    _nothing_locked(score, "Moving every beat")
    times = np.array(score.pulse.times)
    middles = (times[:-1] + times[1:]) / 2
    if later:
        moved = [*middles, times[-1] + (times[-1] - times[-2]) / 2]
    else:
        moved = [times[0] - (times[1] - times[0]) / 2, *middles]
    grid = Grid.of(score)
    grid.times = [float(t) for t in moved]
    return laid(score, grid)


def set_one(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, beat: this beat is a 1. All bars of the same meter round it shift with it; a rest
    of a bar stays at a change of meter or beside locked bars."""
    bar, beat = _beat(score, args)
    if beat == 1:
        raise BadEdit(f"Beat 1 of bar {bar} is the 1 already.")
    grid = Grid.of(score)
    grid.refuse_locked(bar)
    first, last = grid.run(bar)
    meter = grid.meters[bar - 1]
    phase = beat - 1
    if first == 1:
        opening = grid.times[1] - grid.times[0]
        lead = meter.beats - phase
        grid.times = [grid.times[0] - opening * k for k in range(lead, 0, -1)] + grid.times
        sizes = [meter.beats]
    else:
        sizes = [phase]
    rest = (last - first + 1) * meter.beats - phase
    sizes += [meter.beats] * (rest // meter.beats)
    left = rest % meter.beats
    if left:
        sizes.append(left if last < len(grid.meters) else meter.beats)
    made = [sized(meter, n) for n in sizes]
    grid.meters = grid.meters[: first - 1] + made + grid.meters[last:]
    trim_front(grid, score)
    return laid(score, grid)


def set_meter(score: Score, args: Mapping[str, Any]) -> Score:
    """meter: the signature, “3/4”; bar: from which bar on (1 if not given), up to the next
    locked bar or, if given, up to and with the bar ``last``."""
    try:
        meter = Meter.parse(str(args.get("meter")))
    except BadScore as problem:
        raise BadEdit(str(problem)) from None
    bar = _bar(score, args) if args.get("bar") is not None else 1
    grid = Grid.of(score)
    grid.refuse_locked(bar)
    until = grid.run(bar, same=False)[1]
    if args.get("last") is not None:
        until = min(until, max(given(args, "last", int), bar))
    starts = grid.starts()
    count = starts[until] - starts[bar - 1]
    made = [meter] * (count // meter.beats)
    left = count % meter.beats
    if left:
        made.append(meter if until == len(grid.meters) else sized(meter, left))
    grid.meters = grid.meters[: bar - 1] + made + grid.meters[until:]
    return laid(score, grid)


def insert_beat(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, beat: a beat is added half-way behind this one; the 1s behind it shift by it."""
    bar, beat = _beat(score, args)
    grid = Grid.of(score)
    grid.refuse_locked(bar)
    at = grid.starts()[bar - 1] + beat - 1
    if grid.times[at + 1] - grid.times[at] < 2 * _SHORTEST:
        raise BadEdit(f"Beat {beat} of bar {bar} is too short to hold another beat.")
    grid.times.insert(at + 1, (grid.times[at] + grid.times[at + 1]) / 2)
    return laid(score, _rest_to_lock(grid, score, bar, +1))


def remove_beat(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, beat: this beat goes; the 1s behind it shift by one."""
    bar, beat = _beat(score, args)
    grid = Grid.of(score)
    grid.refuse_locked(bar)
    if len(grid.times) <= 3:
        raise BadEdit("The last beats of a song can't be taken away.")
    del grid.times[grid.starts()[bar - 1] + beat - 1]
    return laid(score, _rest_to_lock(grid, score, bar, -1))


def _rest_to_lock(grid: Grid, score: Score, bar: int, more: int) -> Grid:
    """The last bar before locked ones takes up a beat that was added or taken."""
    until = Grid.of(score).run(bar, same=False)[1]
    if until < len(grid.meters):
        beats = grid.meters[until - 1].beats + more
        kept = [sized(grid.meters[until - 1], beats)] if beats else []
        grid.meters = grid.meters[: until - 1] + kept + grid.meters[until:]
    return grid


def drag_beat(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, beat, seconds: this beat falls there; its neighbours follow, the far ones don't."""
    bar, beat = _beat(score, args)
    seconds = args.get("seconds")
    if not is_moment(seconds):
        raise BadEdit("Say to which second the beat is to move.")
    grid = Grid.of(score)
    grid.refuse_locked(bar)
    at = grid.starts()[bar - 1] + beat - 1
    by = float(seconds) - grid.times[at]
    if abs(by) > _FURTHEST:
        raise BadEdit(f"A beat can be drawn by {_FURTHEST:.0f} seconds at the most.")
    moved = list(grid.times)
    for k in range(-_NEIGHBOURS, _NEIGHBOURS + 1):
        i = at + k
        if 0 <= i < len(moved) and not _time_locked(grid, moved[i]):
            moved[i] += by * (1 - abs(k) / (_NEIGHBOURS + 1))
    if any(b - a < _SHORTEST for a, b in pairwise(moved)):
        raise BadEdit("The beat can't be drawn past its neighbours.")
    grid.times = moved
    return laid(score, grid)


def _time_locked(grid: Grid, time: float) -> bool:
    return any(start - 0.01 <= time <= end + 0.01 for start, end in grid.locked)


def tap(score: Score, args: Mapping[str, Any]) -> Score:
    """taps: seconds of at least eight taps along with the song, each a felt beat.

    The taps are drawn to what sounds near them. Where they keep the period of the beats
    round them, those stay; else the tapped tempo is followed through the song.
    """
    taps = args.get("taps")
    if not isinstance(taps, list) or not all(is_moment(t) for t in taps):
        raise BadEdit("Taps are a list of seconds.")
    times = np.array(sorted({float(t) for t in taps}))
    if not _FEWEST_TAPS <= len(times) <= _MOST_TAPS:
        raise BadEdit(f"Tap {_FEWEST_TAPS} to {_MOST_TAPS} beats; these are {len(times)}.")
    last = max(score.pulse.times[-1], score.sounding[1] if score.sounding else 0.0)
    if times[0] < -_OUTSIDE or times[-1] > last + _OUTSIDE:
        raise BadEdit(f"A tap lies outside of the song, which ends at {last:.0f} s.")
    gaps = np.diff(times)
    if gaps.min() < 0.18 or gaps.max() > 2.5 or gaps.max() > 1.9 * gaps.min():
        raise BadEdit("The taps are too uneven to be a pulse; tap the felt beats evenly.")
    if any(start < times[-1] and end > times[0] for start, end in score.locked):
        raise BadEdit("Some of these bars are locked; unlock them first.")
    times = _snapped(times, score)
    period = float(np.median(np.diff(times)))
    old = np.array(score.pulse.times)
    near = old[(old > times[0] - 3 * period) & (old < times[-1] + 3 * period)]
    usual = float(np.median(np.diff(near))) if len(near) > 2 else float(np.median(np.diff(old)))
    if abs(period / usual - 1) < _LIKE:
        before, after = old[old < times[0] - 0.6 * period], old[old > times[-1] + 0.6 * period]
        grid = Grid.of(score)
        grid.times = np.concatenate([before, times, after]).tolist()
        if len(grid.times) != len(old):  # a beat more or less shifts what follows
            _nothing_locked(score, "A beat more or less")
        return laid(score, grid)
    _nothing_locked(score, "Another tempo")
    return relaid(score, _followed(times, score).tolist(), usual_meter(score), one=float(times[0]))


def _snapped(times: np.ndarray, score: Score) -> np.ndarray:
    """Taps moved as a whole to meet the strokes (hands are late), then each to its stroke."""
    strokes = np.array(sorted(s.time for s in score.strokes.values() if s.time is not None))
    if len(strokes) == 0:
        return times
    nearest = _nearest(strokes, times)
    off = nearest - times
    close = np.abs(off) < 0.12
    if close.sum() >= 4:
        times = times + float(np.median(off[close]))
        nearest = _nearest(strokes, times)
    return np.where(np.abs(nearest - times) < _SNAP, nearest, times)


def _nearest(rising: np.ndarray, times: np.ndarray) -> np.ndarray:
    """The nearest of some rising moments to each time; (times,)."""
    after = np.clip(np.searchsorted(rising, times), 1, max(len(rising) - 1, 1))
    before, after = rising[after - 1], rising[np.minimum(after, len(rising) - 1)]
    return np.where(times - before <= after - times, before, after)


def _followed(times: np.ndarray, score: Score) -> np.ndarray:
    """Beats of the tapped tempo tracked through the whole song by its strokes."""
    period = float(np.median(np.diff(times)))
    end = max(score.pulse.times[-1], times[-1]) + period
    curve = np.full(int(end / _FRAME) + 1, 0.02)
    for s in score.strokes.values():
        if s.time is not None and 0 <= s.time < end:
            k = round(s.time / _FRAME)
            value = s.confidence * s.loudness * (0.6 if s.part.startswith(("hat", "ride")) else 0.9)
            for j, w in ((-1, 0.7), (0, 1.0), (1, 0.7)):
                if 0 <= k + j < len(curve):
                    curve[k + j] = max(curve[k + j], w * value)
    lo, hi = round(times[0] / _FRAME), round(times[-1] / _FRAME) + 1
    curve[max(lo - 2, 0) : hi + 2] = 0.005
    curve[np.clip(np.round(times / _FRAME).astype(int), 0, len(curve) - 1)] = 1.0
    beats = tracking.track(curve, np.full(len(curve), period / _FRAME)) * _FRAME
    kept = beats[(beats < times[0] - 0.5 * period) | (beats > times[-1] + 0.5 * period)]
    return np.sort(np.concatenate([kept, times]))


def lock(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, last: no correction changes the beats of these bars until they are unlocked."""
    bar, last = _bar(score, args), given(args, "last", int)
    last = min(max(bar, last), score.bar_count)
    spans = sorted([*score.locked, (score.seconds(bar), score.seconds(last + 1))])
    merged: list[tuple[float, float]] = []
    for start, end in spans:
        if merged and start <= merged[-1][1] + 0.02:
            merged[-1] = (merged[-1][0], max(end, merged[-1][1]))
        else:
            merged.append((start, end))
    return replace(score, locked=tuple(merged))


def unlock(score: Score, args: Mapping[str, Any]) -> Score:
    """bar: the locked bars round this one are free again."""
    bar = _bar(score, args)
    middle = (score.seconds(bar) + score.seconds(bar + 1)) / 2
    kept = tuple(s for s in score.locked if not s[0] <= middle <= s[1])
    if kept == score.locked:
        raise BadEdit(f"Bar {bar} is not locked.")
    return replace(score, locked=kept)


def put_back(score: Score, args: Mapping[str, Any]) -> Score:
    """id, bar, place: a stroke that was set aside returns to a place."""
    found = next((s for s in score.aside if s.id == args.get("id")), None)
    if found is None:
        raise BadEdit("That stroke is not set aside.")
    bar, place = place_of(score, args)
    rest = tuple(s for s in score.aside if s.id != found.id)
    return put(replace(score, aside=rest), found.changed(bar=bar, place=place, origin="written"))


def drop_aside(score: Score, args: Mapping[str, Any]) -> Score:
    """id: a stroke that was set aside is given up."""
    rest = tuple(s for s in score.aside if s.id != args.get("id"))
    if len(rest) == len(score.aside):
        raise BadEdit("That stroke is not set aside.")
    return replace(score, aside=rest)


PULSE_OPERATIONS: dict[str, Operation] = {
    f.__name__: f
    for f in (
        halve_tempo, double_tempo, retime, shift_one, shift_half, set_one, set_meter,
        insert_beat, remove_beat, drag_beat, tap, lock, unlock, put_back, drop_aside,
    )
}  # fmt: skip
