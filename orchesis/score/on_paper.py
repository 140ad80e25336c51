"""What a person says of a thing that stands on a sheet: that it is left out, or some words on it.

Things are known by their item: ``section <id>`` on the full chart; on the sheet of variations
``groove <id of its first section>``, ``option <that id> <part> <bar of the unit> <place>`` and
``fill <moment>``, for a fill stays where it is in the recording when bars are counted anew.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.untrusted import shown

ITEM = re.compile(r"(section|groove|option|fill) [^\x00-\x1f]{1,100}")
_SAME = 0.5  # seconds between which a fill is the same one


@dataclass(frozen=True, slots=True)
class OnPaper:
    """shown: it stands on the sheet. words: a line beside it, of the transcriber's."""

    shown: bool = True
    words: str = ""

    def to_json(self) -> dict[str, Any]:
        return {"shown": self.shown, "words": self.words}


USUAL = OnPaper()


def read_items(data: dict[str, Any]) -> dict[str, OnPaper]:
    """Raises BadScore where an item is none."""
    made = {}
    for item, said in data.items():
        is_shown, words = said.get("shown"), said.get("words")
        if not ITEM.fullmatch(item) or not isinstance(is_shown, bool):
            raise BadScore(f"“{shown(item)}” is nothing that stands on a sheet.")
        made[item] = OnPaper(is_shown, str(words))
    return made


def section_item(section: str) -> str:
    return f"section {section}"


def groove_item(section: str) -> str:
    return f"groove {section}"


def option_item(section: str, part: str, bar: int, place: Fraction) -> str:
    return f"option {section} {part} {bar} {place}"


def fill_item(moment: float, known: Mapping[str, OnPaper]) -> str:
    """The item of a fill at a moment (seconds): one that is known where it lies there."""
    fills = (item for item in known if item.startswith("fill "))
    near = (item for item in fills if abs(_moment(item) - moment) < _SAME)
    return min(near, key=lambda i: abs(_moment(i) - moment), default=f"fill {moment:.2f}")


def _moment(item: str) -> float:
    try:
        return float(item.removeprefix("fill "))
    except ValueError:
        return float("inf")
