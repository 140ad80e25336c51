"""Where a written place is played when 8ths or 16ths swing."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

_QUARTER, _HALF, _THREE = Fraction(1, 4), Fraction(1, 2), Fraction(3, 4)


def swung(place: Fraction, swing: tuple[str, float]) -> float:
    """A written place (beats) as it is played: the second of each pair is late.

    swing: (level, long part / pair). Triplets and everything finer stay where they are.

    >>> swung(Fraction(3, 2), ("eighth", 0.6)), swung(Fraction(4, 3), ("eighth", 0.6))
    (1.6, 1.3333333333333333)
    """
    if swing[0] == "none" or place.denominator not in (2, 4):
        return place.numerator / place.denominator
    return _swung(place, swing)


@lru_cache(maxsize=4096)  # a song has few places, each thousands of times
def _swung(place: Fraction, swing: tuple[str, float]) -> float:
    level, ratio = swing
    whole, inside = int(place // 1), place % 1
    if level == "sixteenth" and inside in (_QUARTER, _THREE):
        return whole + (0.5 if inside > _HALF else 0.0) + ratio / 2
    if level == "eighth":
        moved = {_QUARTER: ratio / 2, _HALF: ratio, _THREE: (1 + ratio) / 2}.get(inside)
        if moved is not None:
            return whole + moved
    return float(place)
