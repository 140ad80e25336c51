"""The page model: systems of bars; staves of voices; beams of groups of events; their marks.

Everything that a format could decide otherwise is decided here: spelling, heads, signs, rests,
stems, repeats, and which words stand where. Places are felt beats from the bar's start.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from orchesis.score.meter import Meter

#: How a ghost is drawn: its head in brackets, or a small one.
GHOSTS = ("brackets", "small")


@dataclass(frozen=True, slots=True)
class Head:
    """One note head. loc: half spaces from the bottom line. shape: of the kit table's heads, or
    "beat": a slash for a beat of time. ghost:
    how it is drawn as one, of GHOSTS; "": it is none. small: a layer of the recording."""

    id: str
    part: str
    loc: int
    shape: str
    ghost: str = ""
    small: bool = False


@dataclass(frozen=True, slots=True)
class Event:
    """A written value: heads that sound together (by their lines; of two on one line the louder
    last), or a silence (no heads; "rest" is seen, "space" is not). value: 8 for an eighth. marks:
    of SIGNS that stand over it. graces: (loc, how many). stroked: the sign on its stem: buzz or
    diddle."""

    place: Fraction
    value: int
    dots: int = 0
    heads: tuple[Head, ...] = ()
    silence: str = "rest"
    marks: tuple[str, ...] = ()
    graces: tuple[tuple[int, int], ...] = ()
    stroked: str = ""

    @property
    def quarters(self) -> Fraction:
        return Fraction(4, self.value) * (Fraction(3, 2) if self.dots else 1)


@dataclass(frozen=True, slots=True)
class Group:
    """Events of one tuplet (actual, normal), or of none."""

    events: tuple[Event, ...]
    tuplet: tuple[int, int] | None = None
    is_numbered: bool = True  # not where the other voice tells the same


@dataclass(frozen=True, slots=True)
class Beam:
    """Groups that one beam joins, where they are short enough; is_joined: whether it is drawn."""

    groups: tuple[Group, ...]
    is_joined: bool

    @property
    def events(self) -> tuple[Event, ...]:
        return tuple(e for g in self.groups for e in g.events)


@dataclass(frozen=True, slots=True)
class Voice:
    """stem: "up", "down" or "none" (beats as slashes)."""

    stem: str
    beams: tuple[Beam, ...]


@dataclass(frozen=True, slots=True)
class Staff:
    """voices: none where the bar is silent on it."""

    voices: tuple[Voice, ...]


@dataclass(frozen=True, slots=True)
class Word:
    """Words or a letter at a place. kind: "count" (spoken), "uncounted" (not), "stick", "spoken",
    "cue", "note", "surface" or "footnote"."""

    place: Fraction
    text: str
    kind: str


@dataclass(frozen=True, slots=True)
class Bracket:
    """A stretch of a bar under a bracket, with words; goes_on: into the next bar."""

    start: Fraction
    end: Fraction
    text: str


@dataclass(frozen=True, slots=True)
class Bar:
    """number: as it is counted on the page. seconds: when it begins. shows_meter: whether the meter
    is written. is_repeat: the bar before once more, as a sign. end: "" or "end"."""

    number: int
    meter: Meter
    seconds: float
    staves: tuple[Staff, ...]
    shows_meter: bool = False
    is_repeat: bool = False
    words: tuple[Word, ...] = ()
    brackets: tuple[Bracket, ...] = ()
    end: str = ""


@dataclass(frozen=True, slots=True)
class Heading:
    """Of a section: its name, its moment (seconds; None: it has none), how many bars, and what is
    said of it. lines: what is said below, longer. first_bar: of a section."""

    name: str
    seconds: float | None
    bars: int
    note: str = ""
    lines: tuple[str, ...] = ()
    first_bar: int = 0


@dataclass(frozen=True, slots=True)
class System:
    """bars: none, where only the heading stands. share: of the width that it takes: a line of
    little music is short. begins_page: by a person's word."""

    bars: tuple[Bar, ...]
    heading: Heading | None = None
    share: float = 1.0
    begins_page: bool = False


@dataclass(frozen=True, slots=True)
class Page:
    """staves: labels of each system's staves with their lines: ("", 5) on a drum staff; four of
    one line on a limb chart. tempo: in words, its note value as "quarter", "dotted" or "eighth".
    signs: of SIGNS that occur, in order; how_to: (sign, how its writer plays it). words: set below
    the title, a paragraph each."""

    title: str
    artist: str
    beat: str
    tempo: str
    staves: tuple[tuple[str, int], ...]
    systems: tuple[System, ...]
    signs: tuple[str, ...]
    footnotes: tuple[str, ...] = ()
    how_to: tuple[tuple[str, str], ...] = ()
    words: tuple[str, ...] = ()
