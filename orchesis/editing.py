"""Every edit by its name, and what it changed: the one way a score is altered."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from orchesis.errors import BadEdit, OrchesisError
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

MOST_BARS = 3000  # 20 minutes in bars of 0.4 s
MOST_STROKES = 40_000  # 20 minutes of 33 strokes a second
STROKES_A_BEAT = 64  # 32nds of four limbs at 30 beats a minute, twice

__all__ = ["EDITS", "apply", "patched"]


def apply(
    score: Score, operation: str, args: Mapping[str, Any]
) -> tuple[Score, dict[str, Any], dict[str, Any]]:
    """(new score, what changed, what would change it back); BadEdit in one sentence."""
    edit = EDITS.get(operation)
    if edit is None:
        raise BadEdit(f"There is no edit called “{operation}”.")
    new = edit(score, args)
    patch = difference(score, new)
    _must_fit(new, patch)
    try:
        loaded = patched(score, patch)  # what is kept is what will be loaded again
    except OrchesisError as problem:
        raise BadEdit(f"This would leave a song that can't be read ({problem})") from None
    return loaded, difference(score, loaded), difference(loaded, score)


def _must_fit(new: Score, patch: Mapping[str, Any]) -> None:
    """Bounds that no song needs to pass, so that no edit makes every later step slow."""
    if new.bar_count > MOST_BARS:
        raise BadEdit(f"A song has {MOST_BARS} bars at the most; this would make {new.bar_count}.")
    added = {s["bar"] for s in patch.get("strokes", {}).values() if s is not None}
    if not added:
        return
    if len(new.strokes) > MOST_STROKES:
        raise BadEdit(f"A song has {MOST_STROKES} strokes at the most.")
    for bar in added:
        most = STROKES_A_BEAT * new.meters[bar - 1].beats if bar <= new.bar_count else 0
        if len(new.strokes_of(bar)) > most:
            raise BadEdit(f"Bar {bar} would hold more than {most} strokes; that can't be played.")
