"""Swing and placement of the whole song; sections and pictures move in later."""

from __future__ import annotations

import numpy as np

from orchesis.score import Score


def layback_ms(score: Score) -> dict[str, float]:
    """Median lateness (ms) of kick, snare and hat strokes against the pulse.

    Only parts with at least 12 measured strokes on beats are told.
    """
    late: dict[str, list[float]] = {}
    for s in score.strokes.values():
        if s.time is not None and s.place.denominator == 1:
            part = "hat" if s.part.startswith("hat") else s.part
            late.setdefault(part, []).append(s.time - score.seconds(s.bar, s.place))
    return {
        part: round(float(np.median(v)) * 1000, 1)
        for part, v in sorted(late.items())
        if len(v) >= 12 and part in ("kick", "snare", "hat")
    }
