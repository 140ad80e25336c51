"""Decisions of the transcriber on single strokes: what was decided, why, by whom and when."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.score.song import Score


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
    ghost: bool = False

    def to_json(self) -> dict[str, Any]:
        return {
            "stroke": self.stroke,
            "bars": list(self.bars),
            "place": str(self.place),
            "part": self.part,
            "doubt": self.doubt,
            "reason": self.reason,
            "who": self.who,
            "when": self.when,
        }


def decided(score: Score, by: Mapping[str, tuple[str, str]] | None = None) -> list[Decision]:
    """The decisions that stand in a score, alike ones together, in the order of the bars.

    by: (who, when) by the id of a stroke, where that is known.
    """
    groups: dict[tuple[Any, ...], list] = {}
    for s in score.ordered():
        if s.doubt and s.doubt != "layer":  # what it is, not what was decided of it
            who, when = (by or {}).get(s.id, ("", ""))
            soft = s.dynamic == "ghost"
            key = (s.place, s.part, soft, s.doubt, s.reason, who, when)
            groups.setdefault(key, []).append(s)
    decisions = []
    for (place, part, soft, doubt, reason, who, when), strokes in groups.items():
        bars = tuple(dict.fromkeys(s.bar for s in strokes))
        decisions.append(Decision(strokes[0].id, bars, place, part, doubt, reason, who, when, soft))
    return decisions
