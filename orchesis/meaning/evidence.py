"""What speaks for and against a stroke: what two hands can play, and what other takes have."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np

from orchesis.meaning.echo import echoes
from orchesis.meaning.review import Doubt
from orchesis.placing import quantise
from orchesis.score import KIT, Measured, Score, Stroke
from orchesis.score.kit import MAIN_WAY

_WITHIN = 0.06  # seconds within which another take plays the same stroke
_FEWEST = 4  # bars that a sum is told from
_BEFORE = 0.12  # beats by which a stroke may be early and still be of the bar
_APART = 0.3  # share by which two takes must differ to be told
_GRACED = ("flam", "drag", "ruff")  # two hands on one drum


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
        own = self.here / max(1, self.of)
        return max((abs(own - n / of) for _, n, of in self.there if of), default=0.0)

    def to_json(self) -> dict[str, Any]:
        return {
            "section": self.name, "part": self.part, "place": str(self.place), "ghost": self.ghost,
            "bars": list(self.bars), "here": self.here, "of": self.of,
            "there": [{"take": t, "count": n, "of": of} for t, n, of in self.there],
        }  # fmt: skip


def third_hand(score: Score) -> list[Doubt]:
    """Hand strokes that no two hands can play together: a layered recording, or misheard.

    A flam, drag or ruff takes both hands to one drum. One doubt for each set of parts.
    """
    groups: dict[tuple[Fraction, tuple[str, ...]], list[list[Stroke]]] = defaultdict(list)
    moments: dict[tuple[int, Fraction], list[Stroke]] = defaultdict(list)
    for s in score.played().ordered():
        if not KIT[s.part].role.endswith("_foot") and s.bar not in score.confirmed:
            moments[s.bar, s.place].append(s)
    for (_, place), own in moments.items():
        hands = sum(2 if s.ornament in _GRACED else 1 for s in own)
        if hands > 2 and not all(s.doubt == "assumed" for s in own):
            groups[place, tuple(sorted(s.part for s in own))].append(own)
    made = []
    for (place, parts), found in groups.items():
        softest = [min(own, key=lambda s: (s.confidence, s.loudness)) for own in found]
        made.append(
            Doubt(
                f"h{place}|{'+'.join(parts)}", "hands", softest[0].part, place, softest[0].limb,
                tuple(s.bar for s in softest), tuple(s.id for s in softest), float(len(found)),
                parts=parts,
            )
        )  # fmt: skip
    return made


Spectra = Callable[[list[tuple[float, float]]], float | None]
_UNLIKE = 0.4  # likeness of the spectra below which a repeat is no repeat


def echo_doubts(score: Score, spectra: Spectra | None = None) -> list[Doubt]:
    """Strokes that are probably a delay's (orchesis/meaning/echo.py), one doubt for each drum.

    spectra: tells how alike the sounds at pairs of moments (seconds) are, -1 to 1, where the
    recording is at hand: a delay repeats the spectrum too.
    """
    made = []
    for e in echoes(score):
        own = [score.strokes[i] for i in e.strokes if score.strokes[i].doubt != "assumed"]
        own = [s for s in own if s.bar not in score.confirmed]
        like = None
        if own and spectra is not None:
            like = spectra([
                (score.strokes[a].time or 0.0, score.strokes[b].time or 0.0)
                for a, b in e.pairs
            ])  # fmt: skip
            if like is not None and like < _UNLIKE:
                continue
        if own:
            first = min(own, key=lambda s: (s.bar, s.place))
            made.append(
                Doubt(
                    f"e{e.part}|{round(1000 * e.delay)}", "echo", first.part, first.place,
                    first.limb, tuple(dict.fromkeys(s.bar for s in own)),
                    tuple(s.id for s in own), float(len(own)), echo=e, alike=like,
                )
            )  # fmt: skip
    return made


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
    made = []
    for (label, part, place), strokes in counted.items():
        bars = [b for b, x in labels.items() if x == label and place < score.meters[b - 1].beats]
        if len(bars) < _FEWEST:
            continue
        late = float(np.median([s.time - score.seconds(s.bar, place) for s in strokes
                                if s.time is not None] or [0.0]))  # fmt: skip
        there = []
        for o in others:
            moments = [score.seconds(b, place) + late for b in bars]
            covered = [t for t in moments if o.start <= t <= o.end]
            own = sounding[o.name].get(part, np.zeros(0))
            there.append((o.name, sum(_near(own, t) for t in covered), len(covered)))
        if any(of for _, _, of in there):
            made.append(
                Tally(
                    names.get(label, ""), label, strokes[0].part, place,
                    sum(s.dynamic == "ghost" for s in strokes) * 2 > len(strokes),
                    tuple(dict.fromkeys(s.bar for s in strokes)),
                    len({s.bar for s in strokes}), len(bars), tuple(there),
                )
            )  # fmt: skip
    return sorted((t for t in made if t.apart >= _APART), key=lambda t: -t.apart)


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
    made = []
    for d in doubts:
        takes = []
        for o in others:
            moments = [score.seconds(b, d.place) for b in d.bars]
            covered = [t for t in moments if o.start <= t <= o.end]
            if covered and d.kind != "echo":
                own = sounding[o.name].get(MAIN_WAY[d.part], np.zeros(0))
                count = sum(_near(own, t) for t in covered)
                takes.append((o.name, count, len(covered)))
        made.append(replace(d, takes=tuple(takes)))
    return made


def strokes_of(other: Other, score: Score, bar: int) -> list[Stroke]:
    """What another take plays in a bar of the song, written by the reader of what is heard."""
    start, beats = score.start_of(bar), score.meters[bar - 1].beats
    own = [(score.pulse.beat(time), time, part, loud) for time, part, loud in other.hits]
    own = [h for h in own if start - _BEFORE <= h[0] < start + beats - _BEFORE]
    period = (score.seconds(bar + 1) - score.seconds(bar)) / beats
    written = quantise.places([h[0] for h in own], [period] * len(own), [bar] * len(own),
                              score.swing)  # fmt: skip
    made: dict[tuple[str, Fraction], Stroke] = {}
    for n, ((_, time, part, loud), beat) in enumerate(zip(own, written, strict=True)):
        place = max(beat - start, Fraction(0))
        if place < beats:
            stroke = Stroke(
                f"t{n}", bar, place, part, loudness=loud, measured=Measured(time),
                placed_by="heard",
            )  # fmt: skip
            made.setdefault((part, place), stroke)
    return list(made.values())
