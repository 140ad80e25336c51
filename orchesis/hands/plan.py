"""Where things stand round the player, and how far a hand has to go.

A plan in reaches of a forearm, seen from above: x to the right, y away from the player. It is
that of a usual right-handed kit; a left-handed player has its mirror image.
"""

from __future__ import annotations

from math import hypot

PLAN: dict[str, tuple[float, float]] = {
    "snare": (0.0, 0.0), "cross_stick": (0.0, 0.0), "rimshot": (0.0, 0.0),
    "hat_closed": (-0.9, 0.5), "hat_half": (-0.9, 0.5), "hat_open": (-0.9, 0.5),
    "tom_high": (-0.3, 0.8), "tom_mid": (0.4, 0.8), "tom_low": (1.0, 0.2), "tom_floor": (1.3, -0.1),
    "ride": (1.3, 0.9), "ride_bell": (1.3, 0.9),
    "crash": (-0.8, 1.3), "crash_2": (1.0, 1.4), "splash": (0.1, 1.2), "china": (1.8, 1.1),
    "clap": (-0.6, 0.2), "shaker": (0.8, 0.4), "tambourine": (-0.9, 0.8), "cowbell": (0.1, 0.8),
    "block": (0.2, 1.0),
}  # fmt: skip


def x_of(part: str) -> float:
    """How far to the right a part stands, on a right-handed kit."""
    return PLAN[part][0]


def distance(a: str, b: str) -> float:
    """Reaches between two parts."""
    (ax, ay), (bx, by) = PLAN[a], PLAN[b]
    return hypot(ax - bx, ay - by)
