"""Rules between the limbs, found by the program: one sentence that carries more than the notes.

Over some bars each limb's strokes are a set of places. A rule is an exact statement over two of
these sets (always with, never with), over all of them (linear), over one place (it sounds alone) or
over the bars of a unit (the hands are the same, the feet differ). Rules are ranked by how much they
explain: by the bits that one saves who knows them, had the limbs been set down independently.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction
from itertools import combinations
from math import lcm, log2

from orchesis.score import Score
from orchesis.score.limb_rule import LimbRule
from orchesis.score.stroke import NOBODYS

_HOLDS = 0.85  # share of the strokes for which a rule with exceptions holds
_MIN_BITS_A_BAR = 0.4  # bits a bar below which a rule says nothing
_MIN_STROKES = 1  # strokes of a limb that make a rule
_EXCEPT = 0.5  # of its worth a rule keeps that has exceptions
_BARS = 0.8  # bits that each stroke of a bar is worth which need not be learned again
_UNISON = 3.0  # a limb that does what another does is not learned for itself
_HANDS = 0.2  # that the hands take turns goes without saying
_ALONE = 0.6  # of its worth what holds of one place only keeps

#: Who is said to obey, of two that strike as often.
_ORDER = ("RF", "LF", "LH", "RH")

Spot = tuple[int, Fraction]


def between(score: Score, bars: Sequence[int], unit: Sequence[int] = ()) -> list[LimbRule]:
    """The rules of some bars as played, what explains most first. unit: two bars that make one."""
    played = score.played()
    numbers = [b for b in bars if played.strokes_of(b)]
    if not numbers:
        return []
    spots_of_limb: dict[str, set[Spot]] = defaultdict(set)
    for b in numbers:
        for s in played.strokes_of(b):
            if s.doubt in NOBODYS:
                continue
            spots_of_limb[s.limb].add((b, s.place))
    # What a limb could strike: the finest even grid of the bars, its strong places more likely.
    grid = max(
        2, min(16, lcm(*(p.denominator for spots in spots_of_limb.values() for _, p in spots)))
    )
    cells = sum(
        _likely(Fraction(k, grid))
        for b in numbers
        for k in range(played.meters[b - 1].beats * grid)
    )
    rules = [
        *_pairs(spots_of_limb, cells, len(numbers)),
        *_whole(spots_of_limb, cells, len(numbers)),
    ]
    rules += _alone(spots_of_limb, cells, numbers)
    rules += _alike(spots_of_limb, unit)
    worthwhile = [r for r in rules if r.bits >= _MIN_BITS_A_BAR]
    return _without_said(sorted(worthwhile, key=lambda r: (-round(r.bits, 6), r.kind == "always")))


def _likely(place: Fraction) -> float:
    """How much likelier strokes are on the beat and on its half than between them."""
    return {1: 4.0, 2: 2.0}.get(place.denominator, 1.0)


def _chance(spots: set[Spot], cells: float) -> float:
    """How likely it is that a limb that knows nothing of these spots falls on them."""
    return min(1.0, sum(_likely(p) for _, p in spots) / cells)


def _pairs(spots_of_limb: dict[str, set[Spot]], cells: float, bars: int) -> list[LimbRule]:
    rules = []
    for a, b in combinations(sorted(spots_of_limb), 2):
        few, many = sorted((a, b), key=lambda limb: (len(spots_of_limb[limb]), _ORDER.index(limb)))
        if len(spots_of_limb[few]) < _MIN_STROKES:
            continue
        both = spots_of_limb[few] & spots_of_limb[many]
        chance = _chance(spots_of_limb[many], cells)
        if spots_of_limb[few] == spots_of_limb[many]:
            bits = -len(both) * log2(chance) * _UNISON
            rules.append(LimbRule("unison", (few, many), bars, bits=bits / bars))
            continue
        apart = spots_of_limb[few] - both
        for kind, odd, p in (("always", apart, chance), ("never", both, 1 - chance)):
            held = len(spots_of_limb[few]) - len(odd)
            if p <= 0 or p >= 1 or held < _HOLDS * len(spots_of_limb[few]):
                continue
            bits = -held * log2(p) * (_EXCEPT if odd else 1.0)
            if kind == "never" and {few, many} == {"RH", "LH"}:
                bits *= _HANDS
            bars_of = tuple(sorted({bar for bar, _ in odd}))
            # That two are never together says the same of both.
            named = (few, many) if kind == "always" else sorted((few, many), key=_ORDER.index)
            rules.append(LimbRule(kind, tuple(named), bars, bars_of, bits=bits / bars))
    return rules


def _whole(spots_of_limb: dict[str, set[Spot]], cells: float, bars: int) -> list[LimbRule]:
    """That no two limbs sound together, where three or more play."""
    playing = [spots for spots in spots_of_limb.values() if len(spots) >= _MIN_STROKES]
    if len(playing) < 3 or any(a & b for a, b in combinations(spots_of_limb.values(), 2)):
        return []
    bits = 0.0
    for a, b in combinations(sorted(playing, key=len), 2):
        bits -= len(a) * log2(max(1e-6, 1 - _chance(b, cells)))
    return [LimbRule("linear", (), bars, bits=bits / bars)]


def _alone(
    spots_of_limb: dict[str, set[Spot]], cells: float, numbers: Sequence[int]
) -> list[LimbRule]:
    """Places at which a limb sounds without any other, in each bar, where others mostly sound."""
    rules = []
    bars = len(numbers)
    busiest = max(
        spots_of_limb, key=lambda limb: len(spots_of_limb[limb])
    )  # of whom it says nothing
    for limb, spots in spots_of_limb.items():
        if limb == busiest:
            continue
        others = set[Spot]().union(*(x for k, x in spots_of_limb.items() if k != limb))
        chance = _chance(others, cells)
        if not others or chance >= 1:
            continue
        alone = {
            p for _, p in spots if all((b, p) in spots and (b, p) not in others for b in numbers)
        }
        struck = {p for _, p in spots}
        if not 1 <= len(alone) <= 2 or len(alone) == len(struck):
            continue
        bits = -_ALONE * len(alone) * log2(1 - chance)
        rules.append(LimbRule("alone", (limb,), bars, places=tuple(sorted(alone)), bits=bits))
    return rules


def _alike(spots_of_limb: dict[str, set[Spot]], unit: Sequence[int]) -> list[LimbRule]:
    """That two bars have the same hands and other feet, or the other way round."""
    if len(unit) != 2:
        return []
    one, two = unit

    def of(bar: int, limbs: str) -> set[tuple[str, Fraction]]:
        return {
            (k, p)
            for k, spots in spots_of_limb.items()
            if k[1] == limbs
            for b, p in spots
            if b == bar
        }

    hands, feet = (of(one, x) == of(two, x) for x in "HF")
    if hands == feet:
        return []
    kind, limbs = ("hands", "H") if hands else ("feet", "F")
    return [LimbRule(kind, (), 2, bits=_BARS * len(of(two, limbs)))]


def _without_said(rules: Sequence[LimbRule]) -> list[LimbRule]:
    """Rules that a better one already says are left out: that a unison is always so, and that
    limbs are never together where none ever are."""
    kept: list[LimbRule] = []
    for r in rules:
        pairs = {frozenset(x.limbs) for x in kept if x.kind in ("unison", "always", "never")}
        if frozenset(r.limbs) in pairs and r.kind in ("always", "never"):
            continue
        if r.kind in ("never", "alone") and any(x.kind == "linear" for x in kept):
            continue
        kept.append(r)
    return kept
