"""Other bars laid over the same strokes: what every correction of the pulse ends with.

Each stroke and each border keeps its moment. What has no place on the new bars is set aside;
strokes of confirmed bars stay on their places of the bar; notes go with their bars.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from orchesis.errors import BadEdit
from orchesis.hearing import pulse
from orchesis.reading.read import reread
from orchesis.score import Cue, Meter, PulseMap, Score, Section, Stroke

#: What speaks for a beat being the 1 where it is struck: kicks and crashes do, backbeats don't.
_ON_ONE = {"kick": 1.0, "crash": 2.5, "crash_2": 2.5, "china": 1.5, "snare": -1.2, "clap": -1.2}
_NEAR = 0.12  # of a beat


@dataclass
class Grid:
    """Bars while they are changed: beats (seconds, with the closing one) and their meters."""

    times: list[float]
    meters: list[Meter]
    locked: tuple[tuple[float, float], ...] = ()

    @classmethod
    def of(cls, score: Score) -> Grid:
        return cls(list(score.pulse.times), list(score.meters), score.locked)

    def starts(self) -> list[int]:
        out = [0]
        for m in self.meters:
            out.append(out[-1] + m.beats)
        return out

    def is_locked(self, bar: int) -> bool:
        starts = self.starts()
        a, b = self.times[starts[bar - 1]], self.times[starts[bar]]
        return any(a < end - 0.02 and b > start + 0.02 for start, end in self.locked)

    def run(self, bar: int, *, same: bool = True) -> tuple[int, int]:
        """First and last bar round one that are not locked (and, if same, of its meter)."""

        def fits(b: int) -> bool:
            is_like = self.meters[b - 1] == self.meters[bar - 1]
            return not self.is_locked(b) and (is_like or not same)

        first = last = bar
        while first > 1 and fits(first - 1):
            first -= 1
        while last < len(self.meters) and fits(last + 1):
            last += 1
        return first, last

    def refuse_locked(self, bar: int) -> None:
        if self.is_locked(bar):
            raise BadEdit(f"Bar {bar} is locked; unlock it first.")


def usual_meter(score: Score) -> Meter:
    """The meter most bars have."""
    return Counter(score.meters).most_common(1)[0][0]


def sized(meter: Meter, beats: int) -> Meter:
    """A meter of so many felt beats, written like another."""
    return Meter(3 * beats if meter.is_compound else beats, meter.unit)


def span(score: Score) -> tuple[float, float] | None:
    """Seconds from the first sound to the last; None of a score without moments."""
    moments = [s.time for s in score.strokes.values() if s.time is not None]
    moments += score.sounding or ()
    return (min(moments), max(moments)) if moments else None


def trim_front(grid: Grid, score: Score) -> None:
    """Bars before the first sound go."""
    sounds = span(score)
    if sounds is None:
        return
    while len(grid.meters) > 2:
        size = grid.meters[0].beats
        if grid.times[size] > sounds[0] + 0.12 * (grid.times[1] - grid.times[0]):
            break
        grid.times, grid.meters = grid.times[size:], grid.meters[1:]


def relaid(score: Score, times: list[float], meter: Meter, *, one: float | None = None) -> Score:
    """The score on new beats. Their bars are sought as hearing seeks them, where it told the
    moments at which a 1 may fall; else they have one meter, and ``one`` (the moment of a beat
    that is a 1) or the strokes tell where it falls."""
    sounds = span(score)
    if score.ones and sounds:
        return laid(score, _barred(score, np.array(times), sounds))
    at = likeliest_one(score, times, meter.beats)
    if one is not None:
        at = int(np.argmin(np.abs(np.array(times) - one))) % meter.beats
    lead = (meter.beats - at) % meter.beats
    opening = times[1] - times[0]
    times = [times[0] - opening * k for k in range(lead, 0, -1)] + times
    bars = max(1, -(-(len(times) - 1) // meter.beats))
    grid = Grid(times, [meter] * bars, score.locked)
    trim_front(grid, score)
    return laid(score, grid)


def _barred(score: Score, times: np.ndarray, sounds: tuple[float, float]) -> Grid:
    """Bars over new beats, by what hearing felt of the 1s."""
    one = pulse.ones_at(times, score.ones)
    crashes = [s.time for s in score.strokes.values() if s.part.startswith("crash")]
    at = np.array([t for t in crashes if t is not None])
    starts = pulse.in_fours(pulse.bars_of(one), times, one, at)
    beats, sizes = pulse.whole_bars(times, starts, *sounds)
    bpm = 60 / float(np.median(np.diff(times)))
    written = pulse.signatures(sizes, bpm, usual_meter(score).is_compound)
    return Grid(beats, [Meter(*m) for m in written], score.locked)


def likeliest_one(score: Score, times: list[float], beats: int) -> int:
    """Which of the first beats is a 1, by what is struck on it through the song."""
    grid = np.array(times)
    weight = np.zeros(len(grid))
    for s in score.strokes.values():
        if s.time is None or s.part not in _ON_ONE or s.dynamic == "ghost":
            continue
        place = float(np.interp(s.time, grid, np.arange(len(grid))))
        k = round(place)
        if abs(place - k) < _NEAR:
            weight[k] += _ON_ONE[s.part]
    sums = [float(weight[p::beats].mean()) for p in range(beats)]
    # Beats that lie evenly round a backbeat can't be told apart by it: the first is kept.
    return int(np.argmax(np.array(sums) - 0.05 * (np.arange(beats) > 0)))


def laid(score: Score, grid: Grid) -> Score:
    """The score on other bars: every stroke and border keeps its moment."""
    times, meters = list(grid.times), list(grid.meters)
    closing = times[-1] - times[-2]
    needed = sum(m.beats for m in meters) + 1
    while len(times) < needed:
        times.append(times[-1] + closing)
    while len(times) > needed:  # more beats than bars: the last bar's meter goes on
        meters.append(meters[-1])
        needed += meters[-1].beats
        while len(times) < needed:
            times.append(times[-1] + closing)
    sounds = span(score)
    while sounds is not None and len(meters) > 1:  # bars behind the end that this edit made
        size = meters[-1].beats
        end = score.pulse.times[-1] - 0.5 * closing
        if times[-1 - size] <= (sounds[1] if score.sounding else max(sounds[1], end)):
            break
        times, meters = times[:-size], meters[:-1]
    moments = {
        s.id: s if s.time is not None else s.changed(time=score.seconds(s.bar, s.place))
        for s in score.strokes.values()
    }
    starts = [(s, score.seconds(s.first_bar)) for s in score.sections]
    noted = [(score.seconds(bar), text) for bar, text in sorted(score.notes.items())]
    new = replace(
        score, meters=tuple(meters), pulse=PulseMap.of(times), strokes={}, sections=(),
        aside=(), confirmed=frozenset(),
    )  # fmt: skip
    held, confirmed, lost = _confirmed(score, new)
    waiting = {**moments, **{s.id: s for s in score.aside if s.time is not None}}
    for stroke in (*held, *lost):
        waiting.pop(stroke.id, None)
    waiting |= {s.id: s for s in held}
    kept = frozenset(s.id for s in held)
    made = reread(replace(new, strokes=waiting), kept, confirmed)
    untimed = tuple(s for s in score.aside if s.time is None)
    return replace(
        made,
        sections=_resectioned(made, starts),
        confirmed=confirmed,
        notes=_renoted(made, noted),
        cues=_recued(made, score),
        aside=(*untimed, *made.aside, *lost),
    )


def _renoted(score: Score, noted: list[tuple[float, str]]) -> dict[int, str]:
    """Words on bars by the bars that sound at their moments now; two on one bar are joined."""
    starts = np.array([score.seconds(b) for b in range(1, score.bar_count + 1)])
    made: dict[int, str] = {}
    for moment, text in noted:
        bar = int(np.argmin(np.abs(starts - moment))) + 1
        made[bar] = f"{made[bar]}; {text}" if bar in made else text
    return made


def _recued(new: Score, old: Score) -> dict[int, Cue]:
    """Cues on the bars that sound at their moments now; their rhythm keeps its places."""
    starts = np.array([new.seconds(b) for b in range(1, new.bar_count + 1)])
    made: dict[int, Cue] = {}
    for bar, cue in sorted(old.cues.items()):
        now = int(np.argmin(np.abs(starts - old.seconds(bar)))) + 1
        beats = new.meters[now - 1].beats
        made[now] = replace(cue, places=tuple(p for p in cue.places if p < beats))
    return made


def _confirmed(old: Score, new: Score) -> tuple[list[Stroke], frozenset[int], list[Stroke]]:
    """Strokes of confirmed bars on the new bars that lie most over theirs; those bars; and
    the strokes that have no place there."""
    starts = [new.seconds(b) for b in range(1, new.bar_count + 2)]
    held: list[Stroke] = []
    lost: list[Stroke] = []
    bars: set[int] = set()
    by_bar = old.by_bar()
    for bar in sorted(old.confirmed):
        a, b = old.seconds(bar), old.seconds(bar + 1)
        shared = [min(b, q) - max(a, p) for p, q in pairwise(starts)]
        best = int(np.argmax(shared))
        if shared[best] <= 0 or best + 1 in bars:
            lost += by_bar.get(bar, [])
            continue
        bars.add(best + 1)
        for stroke in by_bar.get(bar, []):
            fits = stroke.place < new.meters[best].beats
            (held if fits else lost).append(stroke.changed(bar=best + 1) if fits else stroke)
    return held, frozenset(bars), lost


def _resectioned(score: Score, starts: list[tuple[Section, float]]) -> tuple[Section, ...]:
    bar_times = np.array([score.seconds(b) for b in range(1, score.bar_count + 1)])
    firsts: dict[int, Section] = {}
    for section, moment in starts:
        nearest = int(np.argmin(np.abs(bar_times - moment))) + 1
        firsts.setdefault(nearest if firsts else 1, section)
    order = sorted(firsts)
    return tuple(
        replace(firsts[first], first_bar=first, bars=following - first)
        for first, following in pairwise([*order, score.bar_count + 1])
    )
