"""How hard a fill is, by a plain rule of ours; and the way that the hands take over the drums."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from orchesis.meaning import cells, fills
from orchesis.score import KIT, Score, Stroke
from orchesis.score.fill import Cell, Span
from orchesis.score.kit import MAIN_WAY


def way(hands: Sequence[Stroke]) -> list[str]:
    """Instruments as the hands meet them; beside a drum the time hand is left out, and two drums
    struck together are one word, joined by “+”."""
    moments: dict[tuple[int, Fraction], list[Stroke]] = {}
    for s in hands:
        moments.setdefault((s.bar, s.place), []).append(s)
    made = []
    for own in moments.values():
        drums = [s for s in own if KIT[s.part].role != "time"] or own
        made.append("+".join(dict.fromkeys(_instrument(s.part) for s in drums)))
    return made


def _instrument(part: str) -> str:
    """A tom and a cross-stick sound for themselves; other ways of playing go by the main one."""
    return part if KIT[part].layer == "toms" or part == "cross_stick" else MAIN_WAY[part]


def difficulty(
    score: Score,
    span: Span,
    strokes: Sequence[Stroke],
    found: Sequence[Cell],
    names: Sequence[str],
) -> float:
    """How hard a fill is, 0..10, by a plain rule of ours.

    The fastest beat in strokes of the hands a second counts most (four a second are easy,
    twelve are the end); feet between the hands, drums changed each second, a figure that
    crosses the beat, a change of subdivision and ornaments add to it.
    """
    if not strokes:
        return 0.0
    row = cells.moments(score, strokes)
    start, end = fills.seconds(score, span)
    hands: dict[int, int] = {}
    feet = 0
    for m in row:
        beat = int(m.at // 1)
        if any(not KIT[s.part].role.endswith("_foot") for s in m.strokes):
            hands[beat] = hands.get(beat, 0) + 1
        else:
            feet += 1
    fastest = 0.0
    for beat, n in hands.items():
        fastest = max(fastest, n / (score.pulse.seconds(beat + 1) - score.pulse.seconds(beat)))
    path = way([s for s in strokes if not KIT[s.part].role.endswith("_foot")])
    moves = sum(a != b for a, b in pairwise(path)) / max(end - start, 0.3)
    value = 0.8 * max(fastest - 2.5, 0.0)
    value += 4.0 * feet / len(row) + 0.35 * moves
    value += 1.0 * any(c.crosses for c in found) + 0.8 * (len(names) > 1)
    value += 0.4 * sum(s.ornament is not None for s in strokes)
    return round(min(10.0, value), 1)
