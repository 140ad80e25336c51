"""A sound of the song: strokes that sound alike, under one name that a person may give."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.kit import part
from orchesis.score.stroke import MOST_SOUNDS
from orchesis.score.untrusted import shown

#: What a person said of a sound: nothing yet, that it is its part, that it is no drum.
ANSWERS = ("", "named", "no_drum")
_LONGEST_PICTURE = 1000


@dataclass(frozen=True, slots=True)
class KitSound:
    """One drum or cymbal as it sounds through the song; its strokes bear its number.

    picture: how it sounds, rows of digits from low to high (orchesis/hearing/sounds.py). halves:
    the pictures of the two sounds that it may be, empty where it is surely one.
    """

    number: int
    part: str
    answer: str = ""
    picture: str = ""
    halves: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        part(self.part)
        pictures = (self.picture, *self.halves)
        if not (
            1 <= self.number <= MOST_SOUNDS
            and self.answer in ANSWERS
            and len(self.halves) in (0, 2)
            and all(not p or (p.isdigit() and len(p) <= _LONGEST_PICTURE) for p in pictures)
        ):
            raise BadScore(f"This is no sound of a song: {shown(self.number)}.")

    def to_json(self) -> dict[str, Any]:
        return {
            "number": self.number,
            "part": self.part,
            "answer": self.answer,
            "picture": self.picture,
            "halves": list(self.halves),
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> KitSound:
        """Raises BadScore where JSON describes none."""
        try:
            fields = (data["number"], data["part"], data["answer"], data["picture"])
            return cls(*fields, tuple(data["halves"]))
        except (KeyError, TypeError, ValueError, AttributeError):
            raise BadScore(f"This is no sound of a song: {shown(data)}.") from None
