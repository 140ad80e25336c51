"""What leads from one reading of a bar to another, stroke by stroke."""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.score.stroke import Stroke


@dataclass(frozen=True)
class Difference:
    """kind: same, louder, softer, part, limb, ornament, moved, added (in the second bar only)
    or removed. a, b: the strokes, None where there is none."""

    kind: str
    a: Stroke | None
    b: Stroke | None
