"""Other bars laid over the same strokes: what every correction of the pulse ends with.

Each stroke and each border keeps its moment. What has no place on the new bars is set aside;
strokes of confirmed bars stay on their places of the bar; notes and cues keep their moments.
"""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np

from orchesis.beats import bars as bar_arithmetic
from orchesis.errors import BadEdit
from orchesis.placing.requantise import requantise
from orchesis.score import (
    Cue,
    Meter,
    PulseMap,
    Score,
    Section,
    Stroke,
    UnplacedStroke,
    UnplacedWords,
)

#: What speaks for a beat being the 1 where it is struck: kicks and crashes do, backbeats don't.
_ON_ONE = {"kick": 1.0, "crash": 2.5, "crash_2": 2.5, "china": 1.5, "snare": -1.2, "clap": -1.2}
_NEAR_BEATS = 0.12  # of a beat
_MOVED_BEATS = 0.125  # beats between a stroke's measured and its written place that a person made
_HALF_WAY = 0.05  # seconds by which two bars may be equally near
_CUE_GRID = 24  # parts of a beat: 16ths, triplets and their halves


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
        """Raises BadEdit where a bar is locked."""
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
    one = bar_arithmetic.ones_at(times, score.ones)
    crashes = [s.time for s in score.strokes.values() if s.part.startswith("crash")]
    at = np.array([t for t in crashes if t is not None])
    starts = bar_arithmetic.in_fours(bar_arithmetic.bars_of(one), times, one, at)
    beats, sizes = bar_arithmetic.whole_bars(times, starts, *sounds)
    bpm = 60 / float(np.median(np.diff(times)))
    written = bar_arithmetic.signatures(sizes, bpm, usual_meter(score).is_compound)
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
        if abs(place - k) < _NEAR_BEATS:
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
    starts = [(s, score.seconds(s.first_bar)) for s in score.sections]
    new = replace(
        score,
        meters=tuple(meters),
        pulse=PulseMap.of(times),
        strokes={},
        sections=(),
        aside=(),
        confirmed=frozenset(),
    )
    held, confirmed, lost = _confirmed(score, new)
    waiting = {**score.strokes, **{a.stroke.id: a.stroke for a in score.aside}}
    moments = {s.id: _moment(score, s) for s in score.strokes.values()}
    moments |= {a.stroke.id: a.moment for a in score.aside}
    aside = [UnplacedStroke(s, moments[s.id]) for s in lost]
    for stroke in (*held, *lost):
        waiting.pop(stroke.id)
        moments.pop(stroke.id)
    waiting |= {s.id: s for s in held}
    placed = requantise(replace(new, strokes=waiting), moments, confirmed)
    return replace(
        placed,
        sections=_resectioned(placed, starts),
        confirmed=confirmed,
        aside=(*placed.aside, *aside),
        **_words_laid(placed, score),
    )


def _moment(score: Score, s: Stroke) -> float:
    """When a stroke sounds: as it was measured, or as it is written where it was not, or where a
    person moved it away from there."""
    written = score.seconds(s.bar, s.place)
    if s.time is None:
        return written
    is_moved = abs(score.pulse.beat(s.time) - float(score.beat_of(s.bar, s.place))) > _MOVED_BEATS
    return written if is_moved and s.placed_by == "person" else s.time


def _words_laid(new: Score, old: Score) -> dict[str, Any]:
    """Notes and cues on the bars that sound at their moments now.

    The rhythm of a cue keeps its moments; of words that would share a bar the earlier ones
    stay, the others are set aside, and find their bar again when there is one.
    """
    firsts = np.array([new.seconds(b) for b in range(1, new.bar_count + 1)])

    def bar_at(moment: float) -> int:
        """The bar that begins nearest; half-way between two, the earlier one."""
        far = np.abs(firsts - moment)
        return int(np.argmax(far <= far.min() + _HALF_WAY)) + 1

    waiting = [UnplacedWords(old.seconds(b), "note", text) for b, text in old.notes.items()]
    waiting += [
        UnplacedWords(old.seconds(b), "cue", c.words) for b, c in old.cues.items() if c.words
    ]
    kept: dict[str, dict[int, str]] = {"note": {}, "cue": {}}
    aside: list[UnplacedWords] = []
    for words in sorted((*waiting, *old.aside_words), key=lambda w: w.moment):
        bar = bar_at(words.moment)
        if bar in kept[words.kind]:
            aside.append(words)
        else:
            kept[words.kind][bar] = words.text
    places = _cue_places(new, old)
    cues = {
        bar: _cue(places.get(bar, {}), kept["cue"].get(bar, ""))
        for bar in sorted({*places, *kept["cue"]})
    }
    return {"notes": kept["note"], "cues": cues, "aside_words": tuple(aside)}


def _cue(places: dict[Fraction, int | None], words: str) -> Cue:
    """A cue of some places; its pitches, where all of them are known."""
    pitches = [pitch for _, pitch in sorted(places.items()) if pitch is not None]
    return Cue(tuple(sorted(places)), words, tuple(pitches) if len(pitches) == len(places) else ())


def _cue_places(new: Score, old: Score) -> dict[int, dict[Fraction, int | None]]:
    """Places of the cues' rhythm by bar, with their pitches: exactly where beats are only halved,
    doubled or moved, else on the nearest 24th of a beat."""
    places: dict[int, dict[Fraction, int | None]] = {}
    starts = new.bar_beats()
    for bar, cue in old.cues.items():
        pitches = cue.pitches or (None,) * len(cue.places)
        for place, pitch in zip(cue.places, pitches, strict=True):
            beat = Fraction(round(new.pulse.beat(old.seconds(bar, place)) * _CUE_GRID), _CUE_GRID)
            if not 0 <= beat < starts[-1]:
                continue
            now = bisect_right(starts, int(beat))
            places.setdefault(now, {}).setdefault(beat - starts[now - 1], pitch)
    return places


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
