"""What may have been a stroke: heard too unsurely to be written, kept for a person to judge."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.kit import part
from orchesis.score.stroke import Measured, is_id
from orchesis.score.untrusted import shown

#: Confidence from which on what is perhaps a stroke is shown and asked for; what is less sure is
#: kept for the sake of its sound, which a person may name.
SHOWN = 0.15


@dataclass(frozen=True, slots=True)
class CandidateHit:
    """A sound of one part of the kit that is perhaps none: never printed, sounded or counted.

    It has a moment but no written place: that follows from the bars as they are now. loudness and
    confidence as in a stroke, 0 of what a person called none; id: the stroke's that it becomes
    when it is written.
    """

    id: str
    part: str
    measured: Measured
    loudness: float
    confidence: float

    def __post_init__(self) -> None:
        part(self.part)
        if not (0 <= self.loudness <= 1 and 0 <= self.confidence <= 1):
            raise BadScore(
                "Loudness and confidence of what is perhaps a stroke lie between 0 and 1."
            )

    @property
    def is_shown(self) -> bool:
        return self.confidence >= SHOWN

    @property
    def time(self) -> float:
        """Seconds from the file's start."""
        return self.measured.time

    def to_json(self) -> dict[str, Any]:
        return {
            "id": self.id,
            "part": self.part,
            "measured": self.measured.to_json(),
            "loudness": round(self.loudness, 4),
            "confidence": round(self.confidence, 3),
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> CandidateHit:
        """Raises BadScore where JSON describes none."""
        try:
            measured = Measured.from_json(data["measured"])
            if not is_id(data["id"]):
                raise ValueError
            return cls(
                data["id"],
                data["part"],
                measured,
                float(data["loudness"]),
                float(data["confidence"]),
            )
        except (KeyError, TypeError, ValueError, AttributeError):
            raise BadScore(f"This is not perhaps a stroke: {shown(data)}.") from None


def numbered(data: Iterable[Mapping[str, Any]]) -> list[dict[str, Any]]:
    """The JSON of what may be strokes, each with an id; songs from before had none."""
    return [{"id": f"p{k + 1}", **one} for k, one in enumerate(data)]
