"""What a fill is: its span, its figure, where it comes from and where it leads."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any


@dataclass(frozen=True)
class Cell:
    """A figure of ``strokes`` moments that repeats, whatever the beat does.

    bar, place: where it starts. steps: its length on ``grid`` (a subdivision's name; 0 where it
    goes on over a change of subdivision). beat_steps: how many of these a beat has. by: what
    repeats, "parts", "accents", "hands and feet", "limbs" or "rhythm". figure: one word a
    moment. of: whose figure it is, "all", "hands" or "feet". starts: (bar, place) of every turn,
    the broken-off last one included; turns: how often it comes, whole ones counted.
    """

    bar: int
    place: Fraction
    strokes: int
    steps: int
    grid: str
    beat_steps: int
    by: str
    figure: tuple[str, ...]
    starts: tuple[tuple[int, Fraction], ...]
    turns: int
    of: str = "all"

    @property
    def crosses(self) -> bool:
        """Whether its turns fall elsewhere in the beat each time."""
        if self.steps == 0:
            return True
        return self.beat_steps % self.steps != 0 and self.steps % self.beat_steps != 0

    def to_json(self) -> dict[str, Any]:
        return {
            "bar": self.bar,
            "place": str(self.place),
            "strokes": self.strokes,
            "steps": self.steps,
            "grid": self.grid,
            "beat_steps": self.beat_steps,
            "by": self.by,
            "figure": list(self.figure),
            "crosses": self.crosses,
            "turns": self.turns,
            "of": self.of,
            "starts": [{"bar": b, "place": str(p)} for b, p in self.starts],
        }


@dataclass(frozen=True)
class Span:
    """From a place of a bar up to a place of a bar; ``end`` may be the bar's last beat + 1."""

    bar: int
    place: Fraction
    last_bar: int
    end: Fraction


@dataclass(frozen=True)
class Entry:
    """Where a fill begins: its place in the bar, and the place of the backbeat before it in that
    bar, None where there is none."""

    place: Fraction
    after: Fraction | None = None


@dataclass(frozen=True)
class Resolution:
    """What stands on the first place behind a fill.

    kind: silence (nothing in the bar), open (nothing there), crash, time (the time hand goes on)
    or plain. place: in its bar. part: what is struck there. kick: whether the kick goes with it.
    """

    kind: str
    place: Fraction
    part: str = ""
    kick: bool = False


@dataclass(frozen=True)
class Fill:
    """One fill, told (orchesis/fills/spans.py, cells.py and fill_facts.py).

    strokes: their ids in order. subdivisions: names, in the order in which they come. path:
    (instrument, number of strokes) as the hands travel; two struck together joined by “+”.
    difficulty: 0..10; hard_by: its first cause (orchesis/hands/difficulty.py). like: other
    fills of the song that are it, or nearly, or its rhythm: (number in the list, "same", "near" or
    "rhythm"). is_marked: a person marked it.
    """

    span: Span
    strokes: tuple[str, ...]
    beats: Fraction
    subdivisions: tuple[str, ...]
    cells: tuple[Cell, ...]
    path: tuple[tuple[str, int], ...]
    is_linear: bool
    accents: int
    ornaments: tuple[str, ...]
    rudiments: tuple[str, ...]
    entry: Entry | None
    resolution: Resolution
    difficulty: float
    like: tuple[tuple[int, str], ...] = field(default=())
    is_marked: bool = False
    hard_by: str = ""

    def to_json(self) -> dict[str, Any]:
        return {
            "bar": self.span.bar,
            "place": str(self.span.place),
            "last_bar": self.span.last_bar,
            "end_place": str(self.span.end),
            "strokes": list(self.strokes),
            "beats": float(self.beats),
            "subdivisions": list(self.subdivisions),
            "cells": [c.to_json() for c in self.cells],
            "path": [{"part": p, "strokes": n} for p, n in self.path],
            "linear": self.is_linear,
            "accents": self.accents,
            "ornaments": list(self.ornaments),
            "rudiments": list(self.rudiments),
            "difficulty": self.difficulty,
            "hard_by": self.hard_by,
            "like": [{"fill": n, "how": how} for n, how in self.like],
            "marked": self.is_marked,
        }
