"""Sections of a song, and what has no place on its bars since the pulse was corrected."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.player import SCHOOLS
from orchesis.score.stroke import Stroke
from orchesis.score.untrusted import is_moment, shown

#: What can be noted of the sound of a song or a section.
SOUND_KEYS = ("implement", "wires", "damping", "tuning", "room", "borrowed")


@dataclass(frozen=True, slots=True)
class Section:
    """A named run of bars; equal labels mean the same music.

    note: words for whoever reads it. sound: what sounds otherwise here, by SOUND_KEYS. school: of
    sticking, where it is another than the player's.
    """

    id: str
    name: str
    label: str
    first_bar: int
    bars: int
    note: str = ""
    sound: dict[str, str] = field(default_factory=dict)
    school: str = ""

    @property
    def last_bar(self) -> int:
        return self.first_bar + self.bars - 1

    def to_json(self) -> dict[str, Any]:
        return {k: getattr(self, k) for k in self.__slots__}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Section:
        """The section that JSON describes; BadScore where it describes none."""
        try:
            needed = {k: data[k] for k in ("id", "name", "label", "first_bar", "bars")}
            school = data.get("school", "")
            if school and school not in SCHOOLS:
                raise BadScore(f"There is no school “{shown(school)}”.")
            return cls(
                **needed,
                note=data.get("note", ""),
                sound=dict(data.get("sound", {})),
                school=school,
            )
        except (KeyError, TypeError) as problem:
            raise BadScore(f"This is not a section: {data!r} ({problem}).") from None


@dataclass(frozen=True, slots=True)
class UnplacedStroke:
    """A stroke that has no place on the bars now, and the moment (seconds) it belongs to; its
    bar and place are the last ones it had."""

    stroke: Stroke
    moment: float

    def to_json(self) -> dict[str, Any]:
        return {**self.stroke.to_json(), "moment": round(self.moment, 5)}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> UnplacedStroke:
        """Raises BadScore where it is no stroke, or its moment no moment of a recording."""
        if not is_moment(data.get("moment")):
            raise BadScore(f"What is set aside has a moment, not “{shown(data.get('moment'))}”.")
        return cls(Stroke.from_json(data), data["moment"])


@dataclass(frozen=True, slots=True)
class UnplacedWords:
    """Words of a bar (a note, or what was said in its cue) that share their bar with others now:
    the moment (seconds) at which their own bar began."""

    moment: float
    kind: str  # "note" or "cue"
    text: str

    @property
    def id(self) -> str:
        return f"{self.kind}-{self.moment:.3f}"

    def to_json(self) -> dict[str, Any]:
        moment = round(self.moment, 5)
        return {"id": self.id, "moment": moment, "kind": self.kind, "text": self.text}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> UnplacedWords:
        """Raises BadScore where its moment is no moment of a recording."""
        if not is_moment(data.get("moment")) or data.get("kind") not in ("note", "cue"):
            raise BadScore(f"These are no words set aside: {shown(data)}.")
        return cls(data["moment"], data["kind"], str(data["text"]))
