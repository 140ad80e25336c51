"""What another instrument does in a bar, for whoever plays along: its rhythm, or a word."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.untrusted import MOST_PARTS_READ, read_place, read_whole


@dataclass(frozen=True, slots=True)
class Cue:
    """places: felt beats from the bar's start, rising; words: what is said over the bar. pitches:
    of what one sings (MIDI numbers), one a place; none where only the rhythm is known."""

    places: tuple[Fraction, ...] = ()
    words: str = ""
    pitches: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.pitches and len(self.pitches) != len(self.places):
            raise BadScore("A cue has a pitch for each of its places, or none.")

    def to_json(self) -> dict[str, Any]:
        return {
            "places": [str(p) for p in self.places],
            "words": self.words,
            "pitches": list(self.pitches),
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Cue:
        """The cue that JSON describes; BadScore where it describes none."""
        try:
            places = tuple(read_place(p, MOST_PARTS_READ) for p in data["places"])
            pitches = tuple(read_whole(p, 0, 127, "A pitch") for p in data.get("pitches", ()))
            return cls(places, str(data["words"]), pitches)
        except (KeyError, TypeError) as problem:
            raise BadScore(f"This is not a cue: {data!r} ({problem}).") from None
