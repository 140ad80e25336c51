"""What the words of all findings share."""

from __future__ import annotations

from collections.abc import Sequence

from orchesis.score import KIT, Meter
from orchesis.score.counting import place_text
from orchesis.score.groove import Spot

MOST_NAMED = 8  # bars, after which there are only dots


def label(part: str) -> str:
    return KIT[part].label.lower()


def called(part: str, ghost: bool) -> str:
    return f"ghost {label(part)}" if ghost else label(part)


def spot_text(s: Spot, meter: Meter) -> str:
    return f"{called(s.part, s.ghost)} on {place_text(s.place, meter)}"


def bars_text(bars: Sequence[int]) -> str:
    """“bar 5”, “3 bars”."""
    return f"bar {bars[0]}" if len(bars) == 1 else f"{len(bars)} bars"
