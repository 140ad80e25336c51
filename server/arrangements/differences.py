"""Which bars two scores of one song have otherwise."""

from __future__ import annotations

from typing import Any

from orchesis.score import Score


def differing(a: Score, b: Score) -> list[int]:
    """Bars whose strokes two scores of a song have otherwise."""

    def shape(score: Score, bar: int) -> set[tuple[Any, ...]]:
        return {
            (s.place, s.part, s.dynamic, s.ornament, s.choked, s.doubt == "left_out")
            for s in score.strokes_of(bar)
        }

    bars = range(1, min(a.bar_count, b.bar_count) + 1)
    return [bar for bar in bars if shape(a, bar) != shape(b, bar)]
