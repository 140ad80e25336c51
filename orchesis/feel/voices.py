"""The voices of a drum part, as feel is measured and patterns are searched by them."""

from __future__ import annotations

from orchesis.score import KIT, Stroke

VOICES = ("time hand", "backbeat", "kick", "ghosts", "toms", "left foot")


def voice_of(s: Stroke) -> str:
    """The voice whose feel a stroke belongs to; "" for crashes and the rest."""
    kit_part = KIT[s.part]
    if kit_part.role == "time":
        return "time hand"
    if kit_part.role == "backbeat":
        return "ghosts" if s.dynamic == "ghost" else "backbeat"
    if s.part == "kick":
        return "kick"
    if kit_part.role == "left_foot":
        return "left foot"
    return "toms" if kit_part.layer == "toms" else ""
