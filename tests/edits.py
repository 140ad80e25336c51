"""Edits as tests write them: a name and its fields."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from orchesis import editing
from orchesis.score import Measured, Score


def apply(
    score: Score, operation: str, fields: Mapping[str, Any]
) -> tuple[Score, dict[str, Any], dict[str, Any]]:
    """As the page would send it: read, validated, applied."""
    return editing.apply(score, editing.edit_of({"operation": operation, **fields}))


def timed(score: Score) -> Score:
    """As if heard: every stroke measured where it is written."""
    return score.with_strokes(
        s.changed(measured=Measured(score.seconds(s.bar, s.place)), placed_by="heard")
        for s in score.strokes.values()
    )
