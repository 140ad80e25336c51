"""Meter: how a bar is counted. All lengths are exact fractions."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

from orchesis.errors import BadScore
from orchesis.score.untrusted import shown

_SIGNATURE = re.compile(r"([0-9]{1,2})/([0-9]{1,2})")


@dataclass(frozen=True, slots=True)
class Meter:
    """A time signature with the beats a drummer feels.

    In 6/8, 9/8 and 12/8 the felt beat is the dotted quarter; elsewhere it is the unit.
    """

    count: int = 4
    unit: int = 4

    def __post_init__(self) -> None:
        if not (1 <= self.count <= 32 and self.unit in (2, 4, 8, 16)):
            raise BadScore(
                f"The meter {self.count}/{self.unit} can't be written; "
                "use 1 to 32 beats of 2, 4, 8 or 16."
            )

    @property
    def is_compound(self) -> bool:
        return self.unit == 8 and self.count % 3 == 0 and self.count > 3

    @property
    def beats(self) -> int:
        """Felt beats in a bar."""
        return self.count // 3 if self.is_compound else self.count

    @property
    def beat_quarters(self) -> Fraction:
        """Length of a felt beat in quarter notes."""
        return Fraction(3, 2) if self.is_compound else Fraction(4, self.unit)

    @property
    def quarters(self) -> Fraction:
        """Length of the bar in quarter notes."""
        return Fraction(4 * self.count, self.unit)

    def __str__(self) -> str:
        return f"{self.count}/{self.unit}"

    @classmethod
    def parse(cls, text: str) -> Meter:
        """Read “7/8”; BadScore if it is not a meter.

        >>> Meter.parse("12/8").beats, Meter.parse("7/8").beats
        (4, 7)
        """
        match = _SIGNATURE.fullmatch(text) if isinstance(text, str) else None
        if match is None:
            raise BadScore(f"“{shown(text)}” is not a meter; write it like 4/4 or 7/8.")
        return cls(int(match[1]), int(match[2]))
