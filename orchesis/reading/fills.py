"""Bars that leave the groove: a first, plain rule; the fill reader moves in later."""

from __future__ import annotations

from collections import Counter
from statistics import median

from orchesis.score import KIT, Score, Stroke

_SOFT = 0.42  # ghosts louder than this may be plain strokes of a fill
_MORE = 3  # hand-drum strokes beyond the section's usual bar that make a fill


def _on_drums(stroke: Stroke) -> bool:
    known = KIT[stroke.part]
    return (
        known.family == "drum"
        and known.role in ("backbeat", "hand")
        and (stroke.dynamic != "ghost" or stroke.loudness > _SOFT)
    )


def fill_bars(score: Score) -> list[tuple[int, int]]:
    """(bar, first felt beat counted from 0) of each bar that holds a fill.

    A fill has at least three strokes on snare and toms more than its section's usual
    bar; it begins with the first beat that holds two of them.
    """
    by_bar = score.by_bar()
    drums = {
        bar: Counter(int(s.place) for s in by_bar.get(bar, []) if _on_drums(s))
        for bar in range(1, score.bar_count + 1)
    }
    found = []
    for section in score.sections:
        own = range(section.first_bar, section.last_bar + 1)
        usual = median(drums[bar].total() for bar in own)
        for bar in own:
            if drums[bar].total() >= usual + _MORE:
                start = next((b for b in sorted(drums[bar]) if drums[bar][b] >= 2), None)
                if start is not None:
                    found.append((bar, start))
    return found
