"""Decisions of the transcriber on single strokes: what was decided, why, by whom and when."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.score.counting import place_text
from orchesis.score.kit import KIT
from orchesis.score.song import Score

_SAYS = {"assumed": "assumed", "doubtful": "doubtful", "left_out": "heard, but left out"}


@dataclass(frozen=True)
class Decision:
    """stroke: the first stroke's id. bars: where the same was decided. when: an ISO date."""

    stroke: str
    bars: tuple[int, ...]
    place: Fraction
    part: str
    doubt: str
    reason: str
    who: str
    when: str
    says: str

    def to_json(self) -> dict[str, Any]:
        return {
            "stroke": self.stroke, "bars": list(self.bars), "place": str(self.place),
            "part": self.part, "doubt": self.doubt, "reason": self.reason, "who": self.who,
            "when": self.when, "says": self.says,
        }  # fmt: skip


def decided(score: Score, by: Mapping[str, tuple[str, str]] | None = None) -> list[Decision]:
    """The decisions that stand in a score, alike ones together, in the order of the bars.

    by: (who, when) by the id of a stroke, where that is known.
    """
    groups: dict[tuple[Any, ...], list] = {}
    for s in score.ordered():
        if s.doubt:
            who, when = (by or {}).get(s.id, ("", ""))
            soft = s.dynamic == "ghost"
            key = (s.place, s.part, soft, s.doubt, s.reason, who, when)
            groups.setdefault(key, []).append(s)
    made = []
    for (place, part, soft, doubt, reason, who, when), strokes in groups.items():
        bars = tuple(dict.fromkeys(s.bar for s in strokes))
        name = f"ghost {KIT[part].label.lower()}" if soft else KIT[part].label.lower()
        where = f"bar {bars[0]}" if len(bars) == 1 else f"bars {', '.join(map(str, bars[:8]))}"
        if len(bars) > 8:
            where += " ..."
        says = f"{where}, {name} on {place_text(place, score.meters[bars[0] - 1])}: {_SAYS[doubt]}"
        says += f" ({reason})" if reason else ""
        says += f". {who}, {when}" if who else ""
        made.append(Decision(strokes[0].id, bars, place, part, doubt, reason, who, when,
                             says[0].upper() + says[1:]))  # fmt: skip
    return made
