"""The voices of a drum part, as feel is measured and patterns are searched by them."""

from __future__ import annotations

from orchesis.score import KIT, Stroke

VOICES = ("time hand", "backbeat", "kick", "ghosts", "toms", "left foot")


def voice_of(s: Stroke) -> str:
    """The voice whose feel a stroke belongs to; "" for crashes and the rest."""
    known = KIT[s.part]
    if known.role == "time":
        return "time hand"
    if known.role == "backbeat":
        return "ghosts" if s.dynamic == "ghost" else "backbeat"
    if s.part == "kick":
        return "kick"
    if known.role == "left_foot":
        return "left foot"
    return "toms" if known.layer == "toms" else ""
