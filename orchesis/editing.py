"""Every edit by its name, and what it changed: the one way a score is altered."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from orchesis.errors import BadEdit
from orchesis.reading.alike import spread
from orchesis.reading.repulse import PULSE_OPERATIONS
from orchesis.reading.review import settle
from orchesis.reading.writing import play_in, set_cue, tap_cue, write_bars
from orchesis.score import Score
from orchesis.score.edits import OPERATIONS, Operation, difference, patched

EDITS: dict[str, Operation] = {
    **OPERATIONS, **PULSE_OPERATIONS,
    "spread": spread, "settle": settle, "write_bars": write_bars, "play_in": play_in,
    "set_cue": set_cue, "tap_cue": tap_cue,
}  # fmt: skip

__all__ = ["EDITS", "apply", "patched"]


def apply(
    score: Score, operation: str, args: Mapping[str, Any]
) -> tuple[Score, dict[str, Any], dict[str, Any]]:
    """(new score, what changed, what would change it back); BadEdit in one sentence."""
    edit = EDITS.get(operation)
    if edit is None:
        raise BadEdit(f"There is no edit called “{operation}”.")
    new = edit(score, args)
    return new, difference(score, new), difference(new, score)
