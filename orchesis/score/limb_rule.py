"""A rule between the limbs: an exact statement over some bars."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

#: Kinds: what the first limb does always or never with the second; what both do; all; one; bars.
RULE_KINDS = ("always", "never", "unison", "linear", "alone", "hands", "feet")


@dataclass(frozen=True)
class LimbRule:
    """kind: of RULE_KINDS. limbs: whom it speaks of, the one that obeys first. bars: how many it
    holds over; exceptions: bars in which it does not. places: of a limb that sounds alone. bits:
    what it explains, a bar."""

    kind: str
    limbs: tuple[str, ...]
    bars: int
    exceptions: tuple[int, ...] = ()
    places: tuple[Fraction, ...] = ()
    bits: float = 0.0
