"""What a person says of a thing that stands on a sheet: that it is left out, or some words on it.

Things are known by their item: ``section <id>`` on the chart; on the sheet of variations
``groove <moment>``, ``option <moment of its groove> <part> <bar of the unit> <place>`` and
``fill <moment>``, for they stay where they are in the recording when bars are counted anew.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.untrusted import shown

ITEM = re.compile(r"(section|groove|option|fill) [^\x00-\x1f]{1,100}")
_SAME_THING_S = 0.5  # seconds between which a thing is the same one


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
    items = {}
    for item, fields in data.items():
        is_shown, words = fields.get("shown"), fields.get("words")
        if not ITEM.fullmatch(item) or not isinstance(is_shown, bool):
            raise BadScore(f"“{shown(item)}” is nothing that stands on a sheet.")
        items[item] = OnPaper(is_shown, str(words))
    return items


def by_moments(items: Mapping[str, OnPaper], begins: Mapping[str, float]) -> dict[str, OnPaper]:
    """The same where grooves and options, as before 2026-11-27, are known by the section in which
    they begin. begins: section id -> seconds."""
    by_moment = {}
    for item, item_on_paper in items.items():
        kind, place, *rest = item.split(" ", 2)
        is_old = kind in ("groove", "option") and place in begins
        by_moment[" ".join([kind, f"{begins[place]:.2f}", *rest]) if is_old else item] = (
            item_on_paper
        )
    return by_moment


def section_item(section: str) -> str:
    return f"section {section}"


def item_at(kind: str, moment: float, items: Mapping[str, OnPaper], rest: str = "") -> str:
    """The item of a thing at a moment (seconds): one that is known where it lies there. rest: what
    tells things of one moment apart."""
    for item in items:
        at = _AT.fullmatch(item)
        if (
            at
            and (at[1], at[3] or "") == (kind, rest)
            and abs(float(at[2]) - moment) < _SAME_THING_S
        ):
            return item
    return f"{kind} {moment:.2f}" + (f" {rest}" if rest else "")


_AT = re.compile(r"([a-z]+) (-?[0-9]+\.[0-9]+)(?: (.*))?")
