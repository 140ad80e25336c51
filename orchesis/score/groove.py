"""What a groove is: its core, what may be added, and the bars it is read from."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from orchesis.score.stroke import Stroke


@dataclass(frozen=True)
class Option:
    """A stroke that comes in some bars: where in the unit (bar from 1), how often, in which bars.

    of: bars in which it could have come. dynamic: its usual class. where: words on the bars.
    goes: words on what it comes with or instead of, "" where it goes alone.
    """

    bar: int
    place: Fraction
    part: str
    limb: str
    dynamic: str
    bars: tuple[int, ...]
    of: int
    where: str = ""
    goes: str = ""

    @property
    def share(self) -> float:
        return len(self.bars) / max(1, self.of)

    def to_json(self) -> dict[str, Any]:
        return {
            "bar": self.bar, "place": str(self.place), "part": self.part, "limb": self.limb,
            "dynamic": self.dynamic, "share": round(self.share, 3), "bars": list(self.bars),
            "of": self.of, "where": self.where, "goes": self.goes,
        }  # fmt: skip


@dataclass(frozen=True)
class Phrase:
    """One of a vocabulary's interchangeable phrases: the first bar that plays it, all its bars,
    its share of the section's bars, and words on its neighbours and on what it goes with."""

    bar: int
    bars: tuple[int, ...]
    share: float
    says: str

    def to_json(self) -> dict[str, Any]:
        return {"bar": self.bar, "bars": list(self.bars), "share": round(self.share, 3),
                "says": self.says}  # fmt: skip


#: Kinds of a section, from the strictest to the freest.
KINDS = ("silent", "fixed", "options", "skeleton", "vocabulary", "through")


@dataclass(frozen=True)
class Groove:
    """What some bars of a section have in common.

    length: bars of the unit. core: strokes in nearly all its bars, each with ``bar`` counted
    from 1 within the unit. once: strokes that come in one bar only, in words. kind: of KINDS.
    fills: bars left aside. unexplained: bars that the groove does not tell. typical, fullest:
    first bars of units that really occur, 0 if none. thinned: share of the bars that are the
    fullest one with strokes left out. difference: how the later bars of the unit differ from
    the first, in words. relation: to an earlier groove, in words; ``to`` is its number or None.
    figures: names of the common figures in it.
    """

    section: str
    first_bar: int
    bars: int
    length: int
    threshold: float
    core: tuple[Stroke, ...]
    options: tuple[Option, ...]
    kind: str
    says: str
    once: tuple[str, ...] = ()
    fills: tuple[int, ...] = ()
    unexplained: tuple[int, ...] = ()
    typical: int = 0
    fullest: int = 0
    thinned: float = 0.0
    difference: tuple[str, ...] = ()
    phrases: tuple[Phrase, ...] = ()
    feet: tuple[Phrase, ...] = ()
    never: tuple[str, ...] = ()
    relation: str = ""
    related: tuple[str, ...] = ()
    to: int | None = None
    figures: tuple[str, ...] = field(default=())

    @property
    def last_bar(self) -> int:
        return self.first_bar + self.bars - 1

    def to_json(self) -> dict[str, Any]:
        plain = (
            "section", "first_bar", "bars", "length", "threshold", "kind", "says", "typical",
            "fullest", "relation", "to",
        )  # fmt: skip
        lists = ("once", "fills", "unexplained", "difference", "never", "related", "figures")
        return {
            **{k: getattr(self, k) for k in plain},
            **{k: list(getattr(self, k)) for k in lists},
            "thinned": round(self.thinned, 3),
            "core": [s.to_json() for s in self.core],
            "options": [o.to_json() for o in self.options],
            "phrases": [p.to_json() for p in self.phrases],
            "feet": [p.to_json() for p in self.feet],
        }
