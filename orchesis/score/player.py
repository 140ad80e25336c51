"""Who plays the part: the hand that leads, a school of sticking, the pedals."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.untrusted import shown

HANDS = ("right", "left")
#: natural: the hand that would have played that 16th. alternating: hand to hand. lead: accents and
#: time with the lead hand. fewest: as little way as can be. open: the hat by the hand on its side.
SCHOOLS = ("natural", "alternating", "lead", "fewest", "open")


@dataclass(frozen=True, slots=True)
class Player:
    """hand: that leads. school: of SCHOOLS. pedals: of the kick, 1 or 2."""

    hand: str = "right"
    school: str = "natural"
    pedals: int = 1

    def __post_init__(self) -> None:
        if self.hand not in HANDS or self.school not in SCHOOLS or self.pedals not in (1, 2):
            raise BadScore(f"Nobody plays so: {shown(asdict(self))}.")

    def to_json(self) -> dict[str, Any]:
        return asdict(self)

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Player:
        """Raises BadScore where JSON describes none."""
        return cls(data.get("hand", "right"), data.get("school", "natural"), data.get("pedals", 1))


RIGHT_HANDED = Player()
