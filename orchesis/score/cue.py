"""What another instrument does in a bar, for whoever plays along: its rhythm, or a word."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.untrusted import MOST_PARTS_READ, read_place


@dataclass(frozen=True, slots=True)
class Cue:
    """places: felt beats from the bar's start, rising; words: what is said over the bar."""

    places: tuple[Fraction, ...] = ()
    words: str = ""

    def to_json(self) -> dict[str, Any]:
        return {"places": [str(p) for p in self.places], "words": self.words}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Cue:
        """The cue that JSON describes; BadScore where it describes none."""
        try:
            places = tuple(read_place(p, MOST_PARTS_READ) for p in data["places"])
            return cls(places, str(data["words"]))
        except (KeyError, TypeError) as problem:
            raise BadScore(f"This is not a cue: {data!r} ({problem}).") from None
