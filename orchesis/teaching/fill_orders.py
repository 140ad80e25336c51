"""The order in which a fill is learned."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import pairwise

from orchesis.score import Score, Stroke
from orchesis.teaching.steps import NAMES, Titled, by_limb, when

_MIN_SHARE_OF_A_CELL = 0.7  # share of a fill that its cell makes up


def fill(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """A fill: its cell, at half its density, the feet first, one hand and then the other, on one
    drum, whole, turned round, over another division."""
    grid = max(s.place.denominator for s in strokes)
    coarse = [s for s in strokes if (s.place * grid).numerator % 2 == 0] if grid > 1 else []
    feet = [s for s in strokes if s.limb[1] == "F"]
    hands_only = [s for s in strokes if s.limb[1] == "H"]
    steps: list[Titled] = []
    if figure := _cell(hands_only or strokes):
        count = len({when(s) for s in figure})
        steps.append((f"The cell alone: {count} strokes", figure))
    if coarse:
        steps.append(("At half its density", coarse))
    if feet and hands_only:
        steps += [("The feet alone", feet), ("The hands alone", hands_only)]
    strokes_of_limb = by_limb(hands_only)
    if len(strokes_of_limb) == 2:
        steps += [(f"The {NAMES[limb]} of it alone", x) for limb, x in strokes_of_limb.items()]
    if len({s.part for s in hands_only}) > 1:
        steps.append(("On the snare alone", _on_one_drum(strokes)))
    steps.append(("The fill", list(strokes)))
    if len(strokes_of_limb) == 2:
        first = NAMES[_OTHER_HAND[min(hands_only, key=when).limb]]
        steps.append((f"Turned round: the {first} first", [_turned(s) for s in strokes]))
    if other := _over_another_grid(score, hands_only):
        steps.append(other)
    return steps


def _cell(row: Sequence[Stroke]) -> list[Stroke]:
    """The first turn of the shortest figure, of parts and distances, that turns round from the
    row's start on; none where nothing does."""
    by_place: dict[tuple[int, Fraction], list[Stroke]] = {}
    for s in sorted(row, key=when):
        by_place.setdefault(when(s), []).append(s)
    at = list(by_place)
    parts = ["+".join(sorted(s.part for s in by_place[w])) for w in at]
    gaps = [b[1] - a[1] if a[0] == b[0] else None for a, b in pairwise(at)]
    for n in range(2, len(at) // 2 + 1):
        if len(set(parts[:n])) == 1 and len(set(gaps[:n])) == 1:
            continue  # one drum at one distance is no figure
        turns = 1
        while (
            parts[turns * n : (turns + 1) * n] == parts[:n]
            and all(gaps[turns * n + k] in (gaps[k], None) for k in range(n - 1))
            and gaps[turns * n - 1] in (gaps[n - 1], None)
        ):
            turns += 1
        if turns > 1 and turns * n >= _MIN_SHARE_OF_A_CELL * len(at):
            return [s for w in at[:n] for s in by_place[w]]
    return []


def _on_one_drum(strokes: Sequence[Stroke]) -> list[Stroke]:
    """The hands' strokes all on the snare, one a place; the feet as they are."""
    by_place: dict[tuple[object, ...], Stroke] = {}
    for s in strokes:
        if s.limb[1] == "H":
            by_place.setdefault((*when(s), "hand"), s.changed(part="snare"))
        else:
            by_place[(*when(s), s.part)] = s
    return sorted(by_place.values(), key=when)


_OTHER_HAND = {"RH": "LH", "LH": "RH"}


def _turned(s: Stroke) -> Stroke:
    """The same stroke by the other hand; feet stay."""
    return s.changed(limb=_OTHER_HAND.get(s.limb, s.limb))


def _over_another_grid(score: Score, row: Sequence[Stroke]) -> Titled | None:
    """The same strokes, one behind the other, over another division of the beat: 16ths as triplets,
    triplets as 16ths; what no longer fits the bar is left away. Only of a row without rests."""
    at = sorted({when(s) for s in row})
    beats = [score.beat_of(*w) for w in at]
    gaps = {b - a for a, b in pairwise(beats)}
    if len(gaps) != 1 or (gap := gaps.pop()) not in _OTHER_GRID or len(at) < MIN_FIGURE:
        return None
    name, step = _OTHER_GRID[gap]
    new = {w: at[0][1] + k * step for k, w in enumerate(at)}
    bar = at[0][0]
    end = score.meters[bar - 1].beats
    moved = [s.changed(bar=bar, place=new[when(s)]) for s in row if new[when(s)] < end]
    return f"The same strokes as {name}", moved


_OTHER_GRID = {
    Fraction(1, 4): ("triplets", Fraction(1, 3)),
    Fraction(1, 3): ("16ths", Fraction(1, 4)),
}
MIN_FIGURE = 3  # strokes of a beat that is worth a word
