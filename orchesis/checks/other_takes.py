"""What the song's other takes have where this one has a stroke, and has none."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np

from orchesis.checks.review import Doubt
from orchesis.placing import quantise
from orchesis.score import Measured, Score, Stroke
from orchesis.score.kit import MAIN_WAY

_WITHIN = 0.06  # seconds within which another take plays the same stroke
_MIN_BARS = 4  # bars that a sum is told from
_BEFORE = 0.12  # beats by which a stroke may be early and still be of the bar
_APART = 0.3  # share by which two takes must differ to be told


@dataclass(frozen=True)
class Other:
    """Another take on the song's timeline: its name, the seconds it covers, its strokes as
    (seconds, part, loudness)."""

    name: str
    start: float
    end: float
    hits: tuple[tuple[float, str, float], ...]


@dataclass(frozen=True)
class Tally:
    """A stroke of one music: bars that have it here, and in every other take that covers them."""

    name: str
    label: str
    part: str
    place: Fraction
    ghost: bool
    bars: tuple[int, ...]
    here: int
    of: int
    there: tuple[tuple[str, int, int], ...]

    @property
    def apart(self) -> float:
        """The greatest difference of shares between here and another take."""
        share = self.here / max(1, self.of)
        return max((abs(share - n / of) for _, n, of in self.there if of), default=0.0)

    def to_json(self) -> dict[str, Any]:
        return {
            "section": self.name,
            "part": self.part,
            "place": str(self.place),
            "ghost": self.ghost,
            "bars": list(self.bars),
            "here": self.here,
            "of": self.of,
            "there": [{"take": t, "count": n, "of": of} for t, n, of in self.there],
        }


def tallies(score: Score, others: Sequence[Other]) -> list[Tally]:
    """Every stroke of every music, here against the other takes; the most different first."""
    if not others:
        return []
    labels = {b: s.label for s in score.sections for b in range(s.first_bar, s.last_bar + 1)}
    names: dict[str, str] = {}
    for s in score.sections:
        names.setdefault(s.label, s.name)
    counted: dict[tuple[str, str, Fraction], list[Stroke]] = defaultdict(list)
    for stroke in score.played().ordered():
        counted[labels.get(stroke.bar, ""), MAIN_WAY[stroke.part], stroke.place].append(stroke)
    sounding = {o.name: _times(o.hits) for o in others}
    counts = []
    for (label, part, place), strokes in counted.items():
        bars = [b for b, x in labels.items() if x == label and place < score.meters[b - 1].beats]
        if len(bars) < _MIN_BARS:
            continue
        late = float(
            np.median(
                [s.time - score.seconds(s.bar, place) for s in strokes if s.time is not None]
                or [0.0]
            )
        )
        there = []
        for o in others:
            moments = [score.seconds(b, place) + late for b in bars]
            covered = [t for t in moments if o.start <= t <= o.end]
            times = sounding[o.name].get(part, np.zeros(0))
            there.append((o.name, sum(_near(times, t) for t in covered), len(covered)))
        if any(of for _, _, of in there):
            counts.append(
                Tally(
                    names.get(label, ""),
                    label,
                    strokes[0].part,
                    place,
                    sum(s.dynamic == "ghost" for s in strokes) * 2 > len(strokes),
                    tuple(dict.fromkeys(s.bar for s in strokes)),
                    len({s.bar for s in strokes}),
                    len(bars),
                    tuple(there),
                )
            )
    return sorted((t for t in counts if t.apart >= _APART), key=lambda t: -t.apart)


def _times(hits: Iterable[tuple[float, str, float]]) -> dict[str, np.ndarray]:
    by_part: dict[str, list[float]] = defaultdict(list)
    for time, part, _ in hits:
        by_part[MAIN_WAY[part]].append(time)
    return {part: np.array(sorted(v)) for part, v in by_part.items()}


def _near(times: np.ndarray, at: float) -> bool:
    k = int(np.searchsorted(times, at))
    near = times[max(0, k - 1) : k + 1]
    return len(near) > 0 and float(np.abs(near - at).min()) <= _WITHIN


def told(doubts: Iterable[Doubt], score: Score, others: Sequence[Other]) -> list[Doubt]:
    """Doubts with what the other takes have at the same places."""
    sounding: Mapping[str, Mapping[str, np.ndarray]] = {o.name: _times(o.hits) for o in others}
    sentences = []
    for d in doubts:
        takes = []
        for o in others:
            moments = [score.seconds(b, d.place) for b in d.bars]
            covered = [t for t in moments if o.start <= t <= o.end]
            if covered and d.kind != "echo":
                times = sounding[o.name].get(MAIN_WAY[d.part], np.zeros(0))
                count = sum(_near(times, t) for t in covered)
                takes.append((o.name, count, len(covered)))
        sentences.append(replace(d, takes=tuple(takes)))
    return sentences


def strokes_of(other: Other, score: Score, bar: int) -> list[Stroke]:
    """What another take plays in a bar of the song, written by the reader of what is heard."""
    start, beats = score.start_of(bar), score.meters[bar - 1].beats
    hits = [(score.pulse.beat(time), time, part, loud) for time, part, loud in other.hits]
    hits = [h for h in hits if start - _BEFORE <= h[0] < start + beats - _BEFORE]
    period = (score.seconds(bar + 1) - score.seconds(bar)) / beats
    written = quantise.places(
        [h[0] for h in hits], [period] * len(hits), [bar] * len(hits), score.swing
    )
    strokes: dict[tuple[str, Fraction], Stroke] = {}
    for n, ((_, time, part, loud), beat) in enumerate(zip(hits, written, strict=True)):
        place = max(beat - start, Fraction(0))
        if place < beats:
            stroke = Stroke(
                f"t{n}",
                bar,
                place,
                part,
                loudness=loud,
                measured=Measured(time),
                placed_by="heard",
            )
            strokes.setdefault((part, place), stroke)
    return list(strokes.values())
