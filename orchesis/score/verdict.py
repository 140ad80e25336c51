"""What a person says of a finding. It holds whatever the program finds, also after other edits.

A fill is kept by its moments and a groove by its music (the label of its sections), so that both
last through corrections of the pulse and of the form.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.errors import BadScore
from orchesis.score.fill import Span
from orchesis.score.on_bars import OnBars
from orchesis.score.untrusted import is_moment, read_place, shown

_GRID = 24  # parts of a beat to which the borders of a fill are rounded


@dataclass(frozen=True, slots=True)
class FillVerdict:
    """Between two moments (seconds) there is a fill, or there is none."""

    start: float
    end: float
    is_fill: bool

    def to_json(self) -> dict[str, Any]:
        return {"start": round(self.start, 5), "end": round(self.end, 5), "is_fill": self.is_fill}

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> FillVerdict:
        """Raises BadScore where it names no stretch of a recording."""
        start, end = data.get("start"), data.get("end")
        if not (is_moment(start) and is_moment(end) and start < end):
            raise BadScore(f"This is no stretch of a recording: {shown(data)}.")
        return cls(start, end, bool(data["is_fill"]))

    def span(self, score: OnBars) -> Span | None:
        """Where it lies on the bars of a score now; None outside of them."""
        starts = score.bar_beats()
        first, last = (
            min(
                max(Fraction(round(score.pulse.beat(t) * _GRID), _GRID), Fraction(0)),
                Fraction(starts[-1]),
            )
            for t in (self.start, self.end)
        )
        if first >= last:
            return None
        bar = bisect_right(starts, first)
        end_bar = bisect_right(starts, last - Fraction(1, _GRID))
        return Span(bar, first - starts[bar - 1], end_bar, last - starts[end_bar - 1])


#: A stroke of a groove's unit: bar of it (from 1; 0: each), place, part, whether it is a ghost.
CoreSpot = tuple[int, Fraction, str, bool]


@dataclass(frozen=True, slots=True)
class GrooveVerdict:
    """What a person says of the groove of a music. label: of its sections.

    name: what they call it, "" as it is. note: what goes with what, in their words. length: bars
    of the unit, 0 as found. kind: of orchesis.score.groove.KINDS, "" as found. figures: names of
    its figures, None as found. core: what must (True) or must not (False) be core.
    """

    label: str
    name: str = ""
    length: int = 0
    kind: str = ""
    figures: tuple[str, ...] | None = None
    core: tuple[tuple[CoreSpot, bool], ...] = ()
    note: str = ""

    @property
    def told(self) -> tuple[str, ...]:
        """What was said: names of fields."""
        is_said = {
            "name": self.name,
            "length": self.length,
            "kind": self.kind,
            "figures": self.figures is not None,
            "core": self.core,
            "note": self.note,
        }
        return tuple(name for name, value in is_said.items() if value)

    def to_json(self) -> dict[str, Any]:
        return {
            "label": self.label,
            "name": self.name,
            "note": self.note,
            "length": self.length,
            "kind": self.kind,
            "figures": None if self.figures is None else list(self.figures),
            "core": [
                {"bar": bar, "place": str(place), "part": part, "ghost": ghost, "is_core": is_core}
                for (bar, place, part, ghost), is_core in self.core
            ],
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> GrooveVerdict:
        figures = data.get("figures")
        return cls(
            str(data["label"]),
            data.get("name", ""),
            int(data.get("length", 0)),
            data.get("kind", ""),
            None if figures is None else tuple(map(str, figures)),
            tuple(
                (
                    (int(c["bar"]), read_place(c["place"]), str(c["part"]), bool(c["ghost"])),
                    bool(c["is_core"]),
                )
                for c in data.get("core", ())
            ),
            str(data.get("note", "")),
        )


def of_music(verdicts: Iterable[GrooveVerdict], label: str) -> GrooveVerdict:
    """What was said of a music; an empty verdict where nothing was."""
    return next((v for v in verdicts if v.label == label), GrooveVerdict(label))
