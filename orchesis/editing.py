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
from orchesis.score.edits import OPERATIONS, Operation
from orchesis.score.patches import difference, patched, touched

EDITS: dict[str, Operation] = {
    **OPERATIONS, **PULSE_OPERATIONS,
    "spread": spread, "settle": settle, "write_bars": write_bars, "play_in": play_in,
    "set_cue": set_cue, "tap_cue": tap_cue,
}  # fmt: skip

_FEW_BARS = 3  # that are named where an edit is told
MOST_BARS = 3000  # 20 minutes in bars of 0.4 s
MOST_STROKES = 40_000  # 20 minutes of 33 strokes a second
STROKES_A_BEAT = 64  # 32nds of four limbs at 30 beats a minute, twice

__all__ = ["EDITS", "apply", "described"]

#: What was done, as it is told where it can be taken back.
_WORDS = {
    "add_stroke": "stroke written", "remove_stroke": "stroke removed",
    "move_stroke": "stroke moved",
    "set_part": "part changed", "set_limb": "limb changed", "set_dynamic": "loudness changed",
    "set_loudness": "loudness changed", "set_ornament": "ornament changed",
    "set_choked": "choke changed", "set_doubt": "doubt answered", "many": "strokes changed",
    "rename_section": "section renamed", "move_border": "border moved",
    "split_section": "section split", "merge_section": "sections joined",
    "link_section": "section linked", "unlink_section": "section unlinked",
    "note_section": "note on a section", "note_bar": "note", "note_sound": "sound note",
    "set_notation": "way of writing", "confirm_bars": "confirmation", "halve_tempo": "tempo halved",
    "double_tempo": "tempo doubled", "retime": "tempo changed", "shift_one": "1 shifted",
    "shift_half": "beats shifted", "set_one": "1 set", "set_meter": "meter set",
    "insert_beat": "beat inserted", "remove_beat": "beat removed", "drag_beat": "beat dragged",
    "tap": "taps", "lock": "bars locked", "unlock": "bars unlocked",
    "put_back": "stroke put back", "drop_aside": "stroke given up",
    "spread": "spread to bars alike",
    "settle": "question settled", "write_bars": "bars written as text",
    "play_in": "strokes played in", "set_cue": "cue", "tap_cue": "cue tapped",
}  # fmt: skip


def described(operation: str, patch: Mapping[str, Any], inverse: Mapping[str, Any]) -> str:
    """An edit in a few words: “stroke moved, bar 5”."""
    bars = sorted(touched(patch, inverse).bars)
    words = _WORDS.get(operation, operation)
    if not bars or len(bars) > _FEW_BARS:
        return words
    return f"{words}, bar{'' if len(bars) == 1 else 's'} {', '.join(map(str, bars))}"


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
