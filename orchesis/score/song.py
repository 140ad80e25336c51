"""The score of one song: bars, pulse, sections, strokes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from itertools import accumulate
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.meter import Meter
from orchesis.score.pulse import PulseMap
from orchesis.score.stroke import Stroke


@dataclass(frozen=True, slots=True)
class Section:
    """A named run of bars; equal labels mean the same music."""

    id: str
    name: str
    label: str
    first_bar: int
    bars: int

    @property
    def last_bar(self) -> int:
        return self.first_bar + self.bars - 1

    def to_json(self) -> dict[str, Any]:
        return {k: getattr(self, k) for k in self.__slots__}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Section:
        try:
            return cls(**{k: data[k] for k in cls.__slots__})
        except (KeyError, TypeError) as problem:
            raise BadScore(f"This is not a section: {data!r} ({problem}).") from None


@dataclass(frozen=True)
class Score:
    """What we say was played.

    meters: one Meter a bar. pulse: as many beats as the bars hold, and the closing one.
    swing: ("none" | "eighth" | "sixteenth", long part / pair).
    """

    meters: tuple[Meter, ...]
    pulse: PulseMap
    strokes: dict[str, Stroke] = field(default_factory=dict)
    sections: tuple[Section, ...] = ()
    title: str = ""
    artist: str = ""
    swing: tuple[str, float] = ("none", 0.5)

    def __post_init__(self) -> None:
        beats = sum(m.beats for m in self.meters)
        if len(self.pulse.times) != beats + 1:
            raise BadScore(
                f"The bars hold {beats} beats, but the pulse has {len(self.pulse.times) - 1}."
            )

    @property
    def bar_count(self) -> int:
        return len(self.meters)

    def bar_beats(self) -> list[int]:
        """The first beat (counted through the song) of every bar, and the end's."""
        return [0, *accumulate(m.beats for m in self.meters)]

    def beat_of(self, bar: int, place: Fraction) -> Fraction:
        """Position in beats through the song."""
        return sum((m.beats for m in self.meters[: bar - 1]), Fraction(0)) + place

    def seconds(self, bar: int, place: Fraction = Fraction(0)) -> float:
        """The moment (seconds) of a written place."""
        return self.pulse.seconds(self.beat_of(bar, place))

    def by_bar(self) -> dict[int, list[Stroke]]:
        """Strokes of each bar, in the order of time and then of the kit table."""
        from orchesis.score.kit import KIT

        order = {name: i for i, name in enumerate(KIT)}
        bars: dict[int, list[Stroke]] = defaultdict(list)
        for s in self.strokes.values():
            bars[s.bar].append(s)
        for strokes in bars.values():
            strokes.sort(key=lambda s: (s.place, order[s.part]))
        return bars

    def ordered(self) -> Iterator[Stroke]:
        bars = self.by_bar()
        for bar in sorted(bars):
            yield from bars[bar]

    def section_at(self, bar: int) -> Section | None:
        return next((s for s in self.sections if s.first_bar <= bar <= s.last_bar), None)

    def with_strokes(self, strokes: Iterable[Stroke]) -> Score:
        return replace(self, strokes={s.id: s for s in strokes})

    def to_json(self) -> dict[str, Any]:
        return {
            "title": self.title,
            "artist": self.artist,
            "meters": [str(m) for m in self.meters],
            "pulse": [round(t, 5) for t in self.pulse.times],
            "swing": list(self.swing),
            "sections": [s.to_json() for s in self.sections],
            "strokes": [s.to_json() for s in self.ordered()],
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Score:
        try:
            return cls(
                meters=tuple(Meter.parse(m) for m in data["meters"]),
                pulse=PulseMap.of(data["pulse"]),
                strokes={s["id"]: Stroke.from_json(s) for s in data["strokes"]},
                sections=tuple(Section.from_json(s) for s in data["sections"]),
                title=data.get("title", ""),
                artist=data.get("artist", ""),
                swing=(str(data["swing"][0]), float(data["swing"][1])),
            )
        except (KeyError, TypeError, IndexError) as problem:
            raise BadScore(f"This is not a score of ours: {problem!r} is missing or odd.") from None
