"""Who plays the part: the hand that leads, a school of sticking, the pedals, the kit."""

from __future__ import annotations

from dataclasses import asdict, dataclass, replace
from functools import cached_property
from typing import Any

from orchesis.errors import BadScore
from orchesis.score import counting as counts
from orchesis.score.kit import KIT, PIECE
from orchesis.score.pitch import NOTE_NAMES
from orchesis.score.untrusted import shown

HANDS = ("right", "left")
#: natural: the hand that would have played that 16th. alternating: hand to hand. lead: accents and
#: time with the lead hand. fewest: as little way as can be. open: the hat by the hand on its side.
SCHOOLS = ("natural", "alternating", "lead", "fewest", "open")
#: What they read: notes on a staff, a line for each limb, the spine with its counts.
READS = ("staff", "limbs", "spine")

#: Pieces that a kit may lack.
MAY_LACK = (
    "ride",
    "crash",
    "crash_2",
    "splash",
    "china",
    "tom_high",
    "tom_mid",
    "tom_low",
    "tom_floor",
    "clap",
    "shaker",
    "tambourine",
    "cowbell",
    "block",
)
_FARTHEST = 3.0  # reaches from the player at which a piece may stand


@dataclass(frozen=True)
class Player:
    """hand: that leads. school: of SCHOOLS. pedals: of the kick, 1 or 2. lacks: pieces (of
    MAY_LACK) that the kit has not. plan: pieces that stand elsewhere than on the usual plan
    (orchesis/hands/plan.py): (piece, x, y). counting, reads, note_names: a school of
    counting, of READS, of NOTE_NAMES for this song; "": as whoever looks at it likes it."""

    hand: str = "right"
    school: str = "natural"
    pedals: int = 1
    lacks: tuple[str, ...] = ()
    plan: tuple[tuple[str, float, float], ...] = ()
    counting: str = ""
    reads: str = ""
    note_names: str = ""

    def __post_init__(self) -> None:
        if (
            self.hand not in HANDS
            or self.school not in SCHOOLS
            or self.pedals not in (1, 2)
            or self.reads not in ("", *READS)
            or self.note_names not in ("", *NOTE_NAMES)
            or not set(self.lacks) <= set(MAY_LACK)
            or not all(
                piece in KIT and abs(x) <= _FARTHEST and abs(y) <= _FARTHEST
                for piece, x, y in self.plan
            )
        ):
            raise BadScore(f"Nobody plays so: {shown(asdict(self))}.")
        if self.counting:
            counts.said_in(self.counting)

    @cached_property
    def lacking(self) -> frozenset[str]:
        """Every part that can't be played on this kit."""
        return frozenset(name for name, piece in PIECE.items() if piece in self.lacks)

    @property
    def plain(self) -> Player:
        """The same player and kit, with no word on what is read in this song."""
        return replace(self, counting="", reads="", note_names="")

    def to_json(self) -> dict[str, Any]:
        habits = {"counting": self.counting, "reads": self.reads, "note_names": self.note_names}
        return {
            "hand": self.hand,
            "school": self.school,
            "pedals": self.pedals,
            "lacks": list(self.lacks),
            "plan": [list(p) for p in self.plan],
            **{name: value for name, value in habits.items() if value},
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Player:
        """Raises BadScore where JSON describes none."""
        try:
            return cls(
                data.get("hand", "right"),
                data.get("school", "natural"),
                data.get("pedals", 1),
                tuple(data.get("lacks", ())),
                tuple((str(p), float(x), float(y)) for p, x, y in data.get("plan", ())),
                data.get("counting", ""),
                data.get("reads", ""),
                data.get("note_names", ""),
            )
        except (TypeError, ValueError, AttributeError) as problem:
            raise BadScore(f"Nobody plays so: {shown(data)} ({problem}).") from None


RIGHT_HANDED = Player()
