"""What a groove is: its core, what may be added, and the bars it is read from."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from orchesis.score.difference import Difference
from orchesis.score.fill import Cell
from orchesis.score.limb_rule import LimbRule
from orchesis.score.stroke import Stroke


@dataclass(frozen=True)
class Spot:
    """A stroke as one names it: its part, its place in the bar, whether it is a ghost."""

    part: str
    place: Fraction
    ghost: bool = False


@dataclass(frozen=True)
class Option:
    """A stroke that comes in some bars: where in the unit (bar from 1), how often, in which bars.

    of: bars in which it could have come. dynamic: its usual class. pattern: how its bars lie in
    the stretch, of PATTERNS. beside: what it comes with; instead: what it comes instead of. sure:
    mean confidence of its strokes; heard: of an unsure one, bars of those it could come in where
    the onset model heard something of its kind.
    """

    bar: int
    place: Fraction
    part: str
    limb: str
    dynamic: str
    bars: tuple[int, ...]
    of: int
    pattern: str = "scattered"
    beside: tuple[Spot, ...] = ()
    instead: tuple[Spot, ...] = ()
    sure: float = 1.0
    heard: int = 0

    @property
    def share(self) -> float:
        return len(self.bars) / max(1, self.of)

    @property
    def spot(self) -> Spot:
        return Spot(self.part, self.place, self.dynamic == "ghost")

    def to_json(self) -> dict[str, Any]:
        return {
            "bar": self.bar,
            "place": str(self.place),
            "part": self.part,
            "limb": self.limb,
            "dynamic": self.dynamic,
            "share": round(self.share, 3),
            "bars": list(self.bars),
            "of": self.of,
            "sure": round(self.sure, 3),
            "heard": self.heard,
        }


#: How the bars of an option lie: one bar only; every fourth, fourths, seconds or firsts of a pair;
#: in one half of the stretch; a few named ones; here and there.
PATTERNS = (
    "only",
    "every_fourth",
    "fourth",
    "second",
    "first",
    "second_half",
    "first_half",
    "few",
    "scattered",
)


@dataclass(frozen=True)
class Phrase:
    """One of a vocabulary's interchangeable phrases: the first bar that plays it, all its bars,
    its share of the section's bars, and what it goes with.

    followed_by: the number of the phrase that mostly comes behind it. of_four: the bar of the
    four (1 to 4) in which it mostly stands. tone: the pitch class (0 = C) that the band is on.
    louder: dB by which its bars are off the others' level. None where nothing stands out.
    """

    bar: int
    bars: tuple[int, ...]
    share: float
    followed_by: int | None = None
    of_four: int | None = None
    tone: int | None = None
    louder: float | None = None

    def to_json(self) -> dict[str, Any]:
        return {"bar": self.bar, "bars": list(self.bars), "share": round(self.share, 3)}


@dataclass(frozen=True)
class Relation:
    """How a groove is related to an earlier one.

    how: same, stripped (of strokes), moved (by so many beats, + is later), surface (as there, on
    another surface or in another subdivision), or like (as there, but for the differences).
    surface, fineness: (before, now), None where it is the same. of: the section's name of the
    earlier one, "" for the same section; bar: its first bar. rest: what else differs, by the bar
    of the unit; unit: bars of it.
    """

    how: str
    moved: Fraction = Fraction(0)
    surface: tuple[str, str] | None = None
    fineness: tuple[str, str] | None = None
    of: str = ""
    bar: int = 0
    rest: tuple[tuple[int, tuple[Difference, ...]], ...] = ()
    unit: int = 1


#: Kinds of a section, from the strictest to the freest.
KINDS = (
    "silent",
    "stops",
    "fixed",
    "options",
    "thinned",
    "skeleton",
    "vocabulary",
    "through",
)


@dataclass(frozen=True)
class Groove:
    """What some bars of a section have in common.

    length: bars of the unit. core: strokes in nearly all its bars, each with ``bar`` counted
    from 1 within the unit. once: strokes that come in one bar only, by bar. kind: of KINDS.
    fills: bars left aside. unexplained: bars that the groove does not tell. typical, fullest:
    first bars of units that really occur, 0 if none. thinned: share of the bars that are the
    fullest one with strokes left out. differences: of each later bar of the unit from the first.
    feet_are_free: the feet choose for themselves among ``feet``. over: the surface on which the
    time goes on beside a vocabulary's phrases, "" where none does. relation: to the earlier groove
    ``to`` (its number, None). figures: names of the common figures in it. name: what a person calls
    it. cells: figures that run across its bars. rules: between the limbs, what explains most
    first. unsure: strokes that the model was too unsure of to be options. note: what goes with
    what, in a person's words. said: what of all this a person said: name,
    length, kind, figures, core.
    """

    section: str
    first_bar: int
    bars: int
    length: int
    threshold: float
    core: tuple[Stroke, ...]
    options: tuple[Option, ...]
    kind: str
    once: tuple[tuple[int, tuple[Spot, ...]], ...] = ()
    fills: tuple[int, ...] = ()
    unexplained: tuple[int, ...] = ()
    typical: int = 0
    fullest: int = 0
    thinned: float = 0.0
    differences: tuple[tuple[Difference, ...], ...] = ()
    phrases: tuple[Phrase, ...] = ()
    feet: tuple[Phrase, ...] = ()
    feet_are_free: bool = False
    over: str = ""
    never: tuple[str, ...] = ()
    relation: Relation | None = None
    to: int | None = None
    figures: tuple[str, ...] = field(default=())
    name: str = ""
    cells: tuple[Cell, ...] = ()
    rules: tuple[LimbRule, ...] = ()
    unsure: tuple[Option, ...] = ()
    note: str = ""
    said: tuple[str, ...] = ()

    @property
    def last_bar(self) -> int:
        return self.first_bar + self.bars - 1

    def to_json(self) -> dict[str, Any]:
        plain = (
            "section",
            "first_bar",
            "bars",
            "length",
            "threshold",
            "kind",
            "typical",
            "fullest",
            "to",
            "name",
            "note",
        )
        lists = ("fills", "unexplained", "never", "figures", "said")
        return {
            **{k: getattr(self, k) for k in plain},
            **{k: list(getattr(self, k)) for k in lists},
            "thinned": round(self.thinned, 3),
            "core": [s.to_json() for s in self.core],
            "options": [o.to_json() for o in self.options],
            "unsure": [o.to_json() for o in self.unsure],
            "phrases": [p.to_json() for p in self.phrases],
            "feet": [p.to_json() for p in self.feet],
            "cells": [c.to_json() for c in self.cells],
        }
