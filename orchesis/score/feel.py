"""What a feel is: swing, placement, dynamics, looseness and tempo, as figures."""

from __future__ import annotations

from dataclasses import asdict, dataclass, field
from typing import Any


@dataclass(frozen=True)
class Swing:
    """level: eighth or sixteenth. ratio: long part / pair (median), 0.5 straight. spread: half
    of the pairs lie within it on either side. who: a voice, or "all". claimed: there are pairs
    enough, and they swing."""

    level: str
    ratio: float
    spread: float
    pairs: int
    who: str
    claimed: bool


@dataclass(frozen=True)
class Place:
    """One place of the bar: the voice's median lateness there in ms, and from how many."""

    place: str
    ms: float
    count: int


@dataclass(frozen=True)
class PlaceLevel:
    """One place of the bar: the time hand's median level there in dB against its own median, and
    from how many."""

    place: str
    db: float
    count: int


@dataclass(frozen=True)
class Placement:
    """A voice against the pulse: median lateness in ms (+ is late), as a share of a 16th, its
    spread, how far off the median may be (95 %), and by place."""

    voice: str
    ms: float
    share: float
    spread: float
    off_by: float
    count: int
    places: tuple[Place, ...] = ()

    @property
    def is_sure(self) -> bool:
        return abs(self.ms) > self.off_by


@dataclass(frozen=True)
class Together:
    """Two voices where they coincide: by how many ms ``a`` comes after ``b``; no grid asked."""

    a: str
    b: str
    ms: float
    off_by: float
    count: int


@dataclass(frozen=True)
class Level:
    """A layer's median level in dB against the backbeat, and its spread."""

    layer: str
    db: float
    spread: float
    count: int


@dataclass(frozen=True)
class Rush:
    """By how much per cent the tempo changes within a fill against the four bars before."""

    bar: int
    percent: float


@dataclass(frozen=True)
class Point:
    """One stroke of a picture: its id, its bar and place, lateness in ms, level in dB within
    its part."""

    id: str
    voice: str
    bar: int
    place: str
    ms: float
    db: float


@dataclass(frozen=True)
class Feel:
    """The feel of some bars; section "" is the whole song.

    gaps: dB from the usual backbeat to its ghosts and to its accents (None: too few).
    hand: median level of the time hand at each place, dB against its own median. evenness: its
    spread in dB within a place. loose: spread in ms by limb. bpm: median tempo; drift: its
    change from the first to the last quarter, in per cent.
    """

    section: str
    first_bar: int
    bars: int
    swing: tuple[Swing, ...]
    placement: tuple[Placement, ...]
    together: tuple[Together, ...]
    levels: tuple[Level, ...]
    gaps: dict[str, float | None]
    hand: tuple[PlaceLevel, ...]
    evenness: float | None
    loose: dict[str, float]
    bpm: float
    drift: float
    rush: tuple[Rush, ...]
    points: tuple[Point, ...] = field(default=())

    def to_json(self) -> dict[str, Any]:
        return asdict(self)
