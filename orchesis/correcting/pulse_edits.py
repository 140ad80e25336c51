"""Corrections of the pulse: tempo, the 1, meters, single beats, taps; locked bars stay.

The strokes keep their moments and are read anew on the new grid; what a person wrote keeps
its moment too, so that nothing is lost by finding the right pulse. What has no place on the
new grid is set aside and listed (``Score.aside``). Strokes of confirmed bars stay on their
places of the bar.
"""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import AfterValidator, Field

from orchesis.beats.bars import ones_at
from orchesis.correcting.bar_grid import Grid, laid, relaid, sized, trim_front, usual_meter
from orchesis.correcting.tapped_pulse import followed, snapped
from orchesis.errors import BadEdit, BadScore
from orchesis.score import Meter, Score
from orchesis.score.edit import Bar, Beat, Edit, Seconds, must_have_bar

_FASTEST, _SLOWEST = 320.0, 25.0
_FEWEST_TAPS, _MOST_TAPS = 8, 5000
_OUTSIDE_SONG_S = 10.0  # seconds before and behind the song in which a tap may still fall
_MIN_BEAT_S = 0.12  # seconds of a beat
_MAX_DRAG_S = 5.0  # seconds that a beat may be dragged
_NEIGHBOURS = 3  # beats on either side that follow a dragged one
_MAX_PERIOD_CHANGE = (
    0.12  # share by which tapped and heard periods may differ and still be the same
)
_RATIOS = {"3/2": 1.5, "2/3": 2 / 3, "2": 2.0, "1/2": 0.5, "4/3": 4 / 3, "3/4": 0.75}


def _signature(text: str) -> str:
    try:
        return str(Meter.parse(text))
    except BadScore as problem:
        raise ValueError(str(problem)) from None


Signature = Annotated[str, Field(max_length=12), AfterValidator(_signature)]


class _OfBeat(Edit):
    """An edit at one beat of a bar."""

    bar: Bar
    beat: Beat

    def _grid(self, score: Score) -> tuple[Grid, int]:
        """The grid, and where in it the beat stands. Raises BadEdit where there is no such beat, or
        its bar is locked."""
        must_have_bar(score, self.bar)
        beats = score.meters[self.bar - 1].beats
        if self.beat > beats:
            raise BadEdit(f"Bar {self.bar} has beats 1 to {beats}, no beat {self.beat}.")
        grid = Grid.of(score)
        grid.refuse_locked(self.bar)
        return grid, grid.starts()[self.bar - 1] + self.beat - 1


def _nothing_locked(score: Score, what: str) -> None:
    if score.locked:
        raise BadEdit(f"{what} would change locked bars; unlock them first.")


def _rest_to_lock(grid: Grid, score: Score, bar: int, more: int) -> Grid:
    """The last bar before locked ones takes up a beat that was added or taken."""
    until = Grid.of(score).run(bar, same=False)[1]
    if until < len(grid.meters):
        beats = grid.meters[until - 1].beats + more
        kept = [sized(grid.meters[until - 1], beats)] if beats else []
        grid.meters = grid.meters[: until - 1] + kept + grid.meters[until:]
    return grid


def _time_locked(grid: Grid, time: float) -> bool:
    return any(start - 0.01 <= time <= end + 0.01 for start, end in grid.locked)


def _of_other_beats(score: Score) -> Score:
    """What was said of the swing was said of other beats."""
    return replace(score, swing_is_said=False)


class HalveTempo(Edit):
    """Every second beat goes: 180 becomes 90."""

    words: ClassVar[str] = "tempo halved"
    operation: Literal["halve_tempo"] = "halve_tempo"

    def apply(self, score: Score) -> Score:
        _nothing_locked(score, "Halving the tempo")
        beats = np.array(score.pulse.times)
        felt = ones_at(beats, score.ones)
        times = beats[int(felt[1::2].sum() > felt[::2].sum()) :: 2].tolist()
        if len(times) < 3 or score.pulse.tempo()[0] / 2 < _SLOWEST:
            raise BadEdit("The tempo can't be halved any further.")
        return relaid(_of_other_beats(score), times, usual_meter(score))


class DoubleTempo(Edit):
    """A beat more between any two: 90 becomes 180."""

    words: ClassVar[str] = "tempo doubled"
    operation: Literal["double_tempo"] = "double_tempo"

    def apply(self, score: Score) -> Score:
        _nothing_locked(score, "Doubling the tempo")
        if score.pulse.tempo()[0] * 2 > _FASTEST:
            raise BadEdit("The tempo can't be doubled any further.")
        times = [t for a, b in pairwise(score.pulse.times) for t in (a, (a + b) / 2)]
        return relaid(_of_other_beats(score), [*times, score.pulse.times[-1]], usual_meter(score))


class Retime(Edit):
    """factor: beats in the time of so many: "3/2" and "2/3" for three against two."""

    words: ClassVar[str] = "tempo changed"
    operation: Literal["retime"] = "retime"
    factor: Literal["3/2", "2/3", "2", "1/2", "4/3", "3/4"]

    def apply(self, score: Score) -> Score:
        _nothing_locked(score, "Another tempo")
        ratio = _RATIOS[self.factor]
        if not _SLOWEST <= score.pulse.tempo()[0] * ratio <= _FASTEST:
            raise BadEdit("The tempo would leave what can be played.")
        old = np.array(score.pulse.times)
        count = int((len(old) - 1) * ratio)
        times = np.interp(np.arange(count + 1) / ratio, np.arange(len(old)), old)
        return relaid(_of_other_beats(score), times.tolist(), usual_meter(score))


class ShiftOne(Edit):
    """beats: how many felt beats later (positive) or earlier the 1 falls, in the whole song."""

    words: ClassVar[str] = "1 shifted"
    operation: Literal["shift_one"] = "shift_one"
    beats: Annotated[int, Field(ge=-15, le=15)]

    def apply(self, score: Score) -> Score:
        if self.beats == 0:
            raise BadEdit("Say by how many beats the 1 is to move (1 to 15, either way).")
        _nothing_locked(score, "Moving every 1")
        grid = Grid.of(score)
        first = grid.meters[0]
        beats = self.beats % first.beats
        opening = grid.times[1] - grid.times[0]
        if beats:  # the beats before the new 1 become the end of a bar that begins earlier
            before = [grid.times[0] - opening * k for k in range(first.beats - beats, 0, -1)]
            grid.times = before + grid.times
            grid.meters = [first, *grid.meters]
            trim_front(grid, score)
        return laid(score, grid)


class ShiftHalf(Edit):
    """later: every beat falls half a beat later (true) or earlier."""

    words: ClassVar[str] = "beats shifted"
    operation: Literal["shift_half"] = "shift_half"
    later: bool

    def apply(self, score: Score) -> Score:
        _nothing_locked(score, "Moving every beat")
        times = np.array(score.pulse.times)
        middles = (times[:-1] + times[1:]) / 2
        if self.later:
            moved = [*middles, times[-1] + (times[-1] - times[-2]) / 2]
        else:
            moved = [times[0] - (times[1] - times[0]) / 2, *middles]
        grid = Grid.of(score)
        grid.times = [float(t) for t in moved]
        return laid(score, grid)


class SetOne(_OfBeat):
    """bar, beat: this beat is a 1. All bars of the same meter round it shift with it; a rest
    of a bar stays at a change of meter or beside locked bars."""

    words: ClassVar[str] = "1 set"
    operation: Literal["set_one"] = "set_one"

    def apply(self, score: Score) -> Score:
        bar, beat = self.bar, self.beat
        grid, _ = self._grid(score)
        if beat == 1:
            raise BadEdit(f"Beat 1 of bar {bar} is the 1 already.")
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
        meters = [sized(meter, n) for n in sizes]
        grid.meters = grid.meters[: first - 1] + meters + grid.meters[last:]
        trim_front(grid, score)
        return laid(score, grid)


class SetMeter(Edit):
    """meter: the signature, “3/4”; bar: from which bar on (1 if not given), up to the next
    locked bar or, if given, up to and with the bar ``last``."""

    words: ClassVar[str] = "meter set"
    operation: Literal["set_meter"] = "set_meter"
    meter: Signature
    bar: Bar = 1
    last: Bar | None = None

    def apply(self, score: Score) -> Score:
        meter, bar = Meter.parse(self.meter), self.bar
        must_have_bar(score, bar)
        grid = Grid.of(score)
        grid.refuse_locked(bar)
        until = grid.run(bar, same=False)[1]
        if self.last is not None:
            until = min(until, max(self.last, bar))
        starts = grid.starts()
        count = starts[until] - starts[bar - 1]
        meters = [meter] * (count // meter.beats)
        left = count % meter.beats
        if left:
            meters.append(meter if until == len(grid.meters) else sized(meter, left))
        grid.meters = grid.meters[: bar - 1] + meters + grid.meters[until:]
        return laid(score, grid)


class InsertBeat(_OfBeat):
    """bar, beat: a beat is added half-way behind this one; the 1s behind it shift by it."""

    words: ClassVar[str] = "beat inserted"
    operation: Literal["insert_beat"] = "insert_beat"

    def apply(self, score: Score) -> Score:
        bar, beat = self.bar, self.beat
        grid, at = self._grid(score)
        if grid.times[at + 1] - grid.times[at] < 2 * _MIN_BEAT_S:
            raise BadEdit(f"Beat {beat} of bar {bar} is too short to hold another beat.")
        grid.times.insert(at + 1, (grid.times[at] + grid.times[at + 1]) / 2)
        return laid(score, _rest_to_lock(grid, score, bar, +1))


class RemoveBeat(_OfBeat):
    """bar, beat: this beat goes; the 1s behind it shift by one."""

    words: ClassVar[str] = "beat removed"
    operation: Literal["remove_beat"] = "remove_beat"

    def apply(self, score: Score) -> Score:
        bar, beat = self.bar, self.beat
        grid, at = self._grid(score)
        if len(grid.times) <= 3:
            raise BadEdit("The last beats of a song can't be taken away.")
        if _time_locked(grid, grid.times[at]):
            raise BadEdit(f"Beat {beat} of bar {bar} closes locked bars; unlock them first.")
        del grid.times[at]
        return laid(score, _rest_to_lock(grid, score, bar, -1))


class DragBeat(_OfBeat):
    """bar, beat, seconds: this beat falls there; its neighbours follow, the far ones don't."""

    words: ClassVar[str] = "beat dragged"
    operation: Literal["drag_beat"] = "drag_beat"
    seconds: Seconds

    def apply(self, score: Score) -> Score:
        grid, at = self._grid(score)
        by = self.seconds - grid.times[at]
        if abs(by) > _MAX_DRAG_S:
            raise BadEdit(f"A beat can be drawn by {_MAX_DRAG_S:.0f} seconds at the most.")
        moved = list(grid.times)
        for k in range(-_NEIGHBOURS, _NEIGHBOURS + 1):
            i = at + k
            if 0 <= i < len(moved) and not _time_locked(grid, moved[i]):
                moved[i] += by * (1 - abs(k) / (_NEIGHBOURS + 1))
        if any(b - a < _MIN_BEAT_S for a, b in pairwise(moved)):
            raise BadEdit("The beat can't be drawn past its neighbours.")
        grid.times = moved
        return laid(score, grid)


class Tap(Edit):
    """taps: seconds of at least eight taps along with the song, each a felt beat.

    The taps are drawn to what sounds near them. Where they keep the period of the beats
    round them, those stay; else the tapped tempo is followed through the song.
    """

    words: ClassVar[str] = "taps"
    operation: Literal["tap"] = "tap"
    taps: Annotated[list[Seconds], Field(max_length=2 * _MOST_TAPS)]

    def apply(self, score: Score) -> Score:
        times = np.array(sorted(set(self.taps)))
        if not _FEWEST_TAPS <= len(times) <= _MOST_TAPS:
            raise BadEdit(f"Tap {_FEWEST_TAPS} to {_MOST_TAPS} beats; these are {len(times)}.")
        last = max(score.pulse.times[-1], score.sounding[1] if score.sounding else 0.0)
        if times[0] < -_OUTSIDE_SONG_S or times[-1] > last + _OUTSIDE_SONG_S:
            raise BadEdit(f"A tap lies outside of the song, which ends at {last:.0f} s.")
        gaps = np.diff(times)
        if gaps.min() < 0.18 or gaps.max() > 2.5 or gaps.max() > 1.9 * gaps.min():
            raise BadEdit("The taps are too uneven to be a pulse; tap the felt beats evenly.")
        if any(start < times[-1] and end > times[0] for start, end in score.locked):
            raise BadEdit("Some of these bars are locked; unlock them first.")
        times = snapped(times, score)
        period = float(np.median(np.diff(times)))
        old = np.array(score.pulse.times)
        near = old[(old > times[0] - 3 * period) & (old < times[-1] + 3 * period)]
        usual = float(np.median(np.diff(near))) if len(near) > 2 else float(np.median(np.diff(old)))
        if abs(period / usual - 1) < _MAX_PERIOD_CHANGE:
            before, after = old[old < times[0] - 0.6 * period], old[old > times[-1] + 0.6 * period]
            grid = Grid.of(score)
            grid.times = np.concatenate([before, times, after]).tolist()
            if len(grid.times) != len(old):  # a beat more or less shifts what follows
                _nothing_locked(score, "A beat more or less")
            return laid(score, grid)
        _nothing_locked(score, "Another tempo")
        return relaid(
            score, followed(times, score).tolist(), usual_meter(score), one=float(times[0])
        )


class Lock(Edit):
    """bar, last: no correction changes the beats of these bars until they are unlocked."""

    words: ClassVar[str] = "bars locked"
    operation: Literal["lock"] = "lock"
    bar: Bar
    last: Bar

    def apply(self, score: Score) -> Score:
        must_have_bar(score, self.bar)
        bar, last = self.bar, min(max(self.bar, self.last), score.bar_count)
        spans = sorted([*score.locked, (score.seconds(bar), score.seconds(last + 1))])
        merged: list[tuple[float, float]] = []
        for start, end in spans:
            if merged and start <= merged[-1][1] + 0.02:
                merged[-1] = (merged[-1][0], max(end, merged[-1][1]))
            else:
                merged.append((start, end))
        return replace(score, locked=tuple(merged))


class Unlock(Edit):
    """bar: the locked bars round this one are free again."""

    words: ClassVar[str] = "bars unlocked"
    operation: Literal["unlock"] = "unlock"
    bar: Bar

    def apply(self, score: Score) -> Score:
        bar = self.bar
        must_have_bar(score, bar)
        middle = (score.seconds(bar) + score.seconds(bar + 1)) / 2
        kept = tuple(s for s in score.locked if not s[0] <= middle <= s[1])
        if kept == score.locked:
            raise BadEdit(f"Bar {bar} is not locked.")
        return replace(score, locked=kept)
