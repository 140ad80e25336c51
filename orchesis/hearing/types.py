"""What hearing hands on. Times are seconds from the file's start."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Tempo:
    """Felt tempo in beats a minute: median, honest range, whether it kept to a click."""

    bpm: float
    low: float
    high: float
    steady: bool
    confidence: float
    alternatives: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Beat:
    time: float
    bar: int
    beat: int


@dataclass(frozen=True, slots=True)
class Hit:
    """One sound of one kit part. loudness 0..1 relative to its part, confidence 0..1."""

    time: float
    part: str
    loudness: float
    confidence: float


@dataclass(frozen=True, slots=True)
class HeardSection:
    """Bars first_bar .. first_bar + bars - 1; equal labels mean the same music."""

    first_bar: int
    bars: int
    label: str


@dataclass(frozen=True)
class Hearing:
    """Everything that was heard in one recording.

    beats: the felt beats of whole bars, bar 1 first, then one closing beat of the bar
    behind the last. meter: (beats of the signature, unit) of the song.
    """

    duration: float
    sample_rate: int
    tempo: Tempo
    meter: tuple[int, int]
    beats: tuple[Beat, ...]
    hits: tuple[Hit, ...]
    sections: tuple[HeardSection, ...]
    notes: tuple[str, ...] = field(default=())


#: Called with the step's name and its share done (0..1); raises Cancelled to stop.
Report = Callable[[str, float], None]


def silent(_step: str, _share: float) -> None:
    """A report that nobody reads."""
