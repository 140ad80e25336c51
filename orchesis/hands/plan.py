"""Where things stand round the player, and how far a hand has to go.

A plan in reaches of a forearm, seen from above: x to the right, y away from the player. It is
that of a usual right-handed kit; a left-handed player has its mirror image.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from math import hypot

from orchesis.score.kit import PIECE

PLAN: dict[str, tuple[float, float]] = {
    "snare": (0.0, 0.0),
    "cross_stick": (0.0, 0.0),
    "rimshot": (0.0, 0.0),
    "hat_closed": (-0.9, 0.5),
    "hat_half": (-0.9, 0.5),
    "hat_open": (-0.9, 0.5),
    "tom_high": (-0.3, 0.8),
    "tom_mid": (0.4, 0.8),
    "tom_low": (1.0, 0.2),
    "tom_floor": (1.3, -0.1),
    "ride": (1.3, 0.9),
    "ride_bell": (1.3, 0.9),
    "crash": (-0.8, 1.3),
    "crash_2": (1.0, 1.4),
    "splash": (0.1, 1.2),
    "china": (1.8, 1.1),
    "clap": (-0.6, 0.2),
    "shaker": (0.8, 0.4),
    "tambourine": (-0.9, 0.8),
    "cowbell": (0.1, 0.8),
    "block": (0.2, 1.0),
}


class Plan:
    """A plan as somebody set it up. moved: pieces that stand elsewhere: (piece, x, y)."""

    def __init__(self, moved: Iterable[tuple[str, float, float]] = ()) -> None:
        elsewhere = {piece: (x, y) for piece, x, y in moved}
        self._at = {name: elsewhere.get(PIECE[name], at) for name, at in PLAN.items()}
        self._far = {
            (a, b): hypot(ax - bx, ay - by)
            for a, (ax, ay) in self._at.items()
            for b, (bx, by) in self._at.items()
        }

    def x_of(self, part: str) -> float:
        """How far to the right a part stands, on a right-handed kit."""
        return self._at[part][0]

    def distance(self, a: str, b: str) -> float:
        """Reaches between two parts."""
        return self._far[a, b]


@lru_cache(maxsize=16)
def plan_of(moved: tuple[tuple[str, float, float], ...]) -> Plan:
    """The plan of a player; made once."""
    return Plan(moved)
