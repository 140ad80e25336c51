"""Fills in words."""

from __future__ import annotations

from typing import Any

from orchesis.explanations.common import label
from orchesis.score import Meter, Score
from orchesis.score.counting import place_text
from orchesis.score.fill import Fill


def fill_entry(f: Fill, meter: Meter) -> str:
    """Where a fill begins."""
    if f.entry is None:
        return ""
    if f.entry.place == 0:
        return "with the bar"
    at = f"on {place_text(f.entry.place, meter)}"
    if f.entry.after is None:
        return at
    return f"{at}, after the backbeat on {place_text(f.entry.after, meter)}"


def fill_resolution(f: Fill, meter: Meter) -> str:
    """What stands on the first place behind a fill. meter: of that bar."""
    r = f.resolution
    where = place_text(r.place, meter)
    match r.kind:
        case "silence":
            return "into silence"
        case "open":
            return f"open: nothing on {where}"
        case "crash":
            return f"{label(r.part)}{' and kick' if r.kick else ''} on {where}"
        case "time":
            return f"back to the {label(r.part)} on {where}, no crash"
    return f"{label(r.part)} on {where}, no crash"


def told_fill(f: Fill, score: Score) -> dict[str, Any]:
    """A fill with its words."""
    meters = score.meters
    behind = f.span.last_bar + (f.resolution.place < f.span.end)  # the bar that it leads into
    return {
        **f.to_json(),
        "starts": fill_entry(f, meters[f.span.bar - 1]),
        "resolves": fill_resolution(f, meters[min(behind, len(meters)) - 1]),
    }
