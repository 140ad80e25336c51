"""How a groove is related to an earlier one: the same, added, removed, moved along the
bar, on another surface, in another subdivision, stripped down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from math import lcm

from orchesis.grooves.compare import compare
from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.difference import Difference
from orchesis.score.groove import Groove, Relation

_MIN_SHARE_IN_COMMON = 0.5  # share of strokes in common below which a groove is one of its own
_MIN_LIKENESS_MOVED, _MAX_LIKENESS_UNMOVED = 0.85, 0.5  # likeness after and before a displacement
_TICKS = 240  # of a beat, to move figures by
_STRIPPED = 0.75  # a groove with at most so much of another, and nothing else, is it stripped down

_Row = list[Stroke]


def related(
    groove: Groove, earlier: Sequence[Groove], score: Score, memo: Known | None = None
) -> Groove:
    """The groove with its relation to the earlier one that is likest. known: what was reckoned of
    the earlier ones before."""
    memo = {} if memo is None else memo
    if not groove.core:
        return groove
    meter = score.meters[groove.first_bar - 1]
    best: tuple[float, int] | None = None
    for n, other in enumerate(earlier):
        if not other.core or score.meters[other.first_bar - 1] != meter:
            continue
        like = likeness(other.core, groove.core, meter, (other.length, groove.length), memo)
        if best is None or like > best[0]:
            best = (like, n)
    if best is None or best[0] < _MIN_SHARE_IN_COMMON:
        return groove
    other = earlier[best[1]]
    names = {s.id: s.name for s in score.sections}
    described = replace(
        relation(other.core, groove.core, meter, (other.length, groove.length)),
        of="" if other.section == groove.section else names.get(other.section, ""),
        bar=other.first_bar,
    )
    return replace(groove, relation=described, to=best[1])


def _unrolled(core: Sequence[Stroke], length: int, to: int) -> _Row:
    return [replace(s, bar=s.bar + turn * length) for turn in range(to // length) for s in core]


def _keeps_time(s: Stroke) -> bool:
    return KIT[s.part].role == "time"


_Spots = set[tuple[int, str, bool]]
#: Spots of cores, by which core (and the core), its length, of what unit, with its time.
Known = dict[tuple[int, int, int, bool], tuple[_Spots, Sequence[Stroke]]]


def _spots(
    core: Sequence[Stroke], meter: Meter, length: int, to: int, with_time: bool = True
) -> _Spots:
    """(tick of the unrolled unit, part, whether it is soft) of every stroke."""
    bar = meter.beats * _TICKS
    spots = [
        (
            (s.bar - 1) * bar + s.place.numerator * _TICKS // s.place.denominator,
            s.part,
            s.dynamic == "ghost",
        )
        for s in core
        if with_time or not _keeps_time(s)
    ]
    return {
        (at + turn * length * bar, part, soft)
        for turn in range(to // length)
        for at, part, soft in spots
    }


def _shared(x: _Spots, y: _Spots) -> float:
    return len(x & y) / len(x | y) if x or y else 0.0


def likeness(
    a: Sequence[Stroke],
    b: Sequence[Stroke],
    meter: Meter,
    lengths: tuple[int, int],
    memo: Known | None = None,
) -> float:
    """How near groove b is to groove a, 0..1; one that was moved along the bar, or plays the
    same on another surface, is near too."""
    size = lcm(*lengths)
    memo = {} if memo is None else memo

    def spots(core: Sequence[Stroke], length: int, with_time: bool) -> _Spots:
        asked = (id(core), length, size, with_time)
        spots_there = memo.get(asked)
        if spots_there is None:  # the core is kept with them: its id is nobody else's meanwhile
            spots_there = memo[asked] = (_spots(core, meter, length, size, with_time), core)
        return spots_there[0]

    plain = _shared(spots(a, lengths[0], True), spots(b, lengths[1], True))
    rest_a, rest_b = (
        spots(core, length, False) for core, length in zip((a, b), lengths, strict=True)
    )
    rest = _shared(rest_a, rest_b)
    if rest < _MAX_LIKENESS_UNMOVED and _moved(rest_a, rest_b, meter, size):
        return max(plain, 0.75)
    return max(plain, 0.9 * rest)


def relation(
    a: Sequence[Stroke], b: Sequence[Stroke], meter: Meter, lengths: tuple[int, int]
) -> Relation:
    """How groove b is related to groove a, which it does not name."""
    size = lcm(*lengths)
    x, y = (_spots(core, meter, length, size) for core, length in zip((a, b), lengths, strict=True))
    if x == y:
        return Relation("same", unit=size)
    left, right = _unrolled(a, lengths[0], size), _unrolled(b, lengths[1], size)
    time_a, time_b = ([s for s in row if _keeps_time(s)] for row in (left, right))
    rest_a, rest_b = ([s for s in row if not _keeps_time(s)] for row in (left, right))
    if y < x and len(y) <= _STRIPPED * len(x):
        return Relation("stripped", rest=_rest(left, right, size), unit=size)
    rest_x, rest_y = (_spots(row, meter, size, size) for row in (rest_a, rest_b))
    moved = (
        _moved(rest_x, rest_y, meter, size)
        if _shared(rest_x, rest_y) < _MAX_LIKENESS_UNMOVED
        else None
    )
    if moved:
        return Relation("moved", moved=moved, unit=size)
    surface, fineness = _surface(time_a, time_b)
    if surface or fineness:
        rest = _rest(rest_a, rest_b, size)
        return Relation("surface", surface=surface, fineness=fineness, rest=rest, unit=size)
    return Relation("like", rest=_rest(left, right, size), unit=size)


_Change = tuple[str, str] | None


def _surface(a: Sequence[Stroke], b: Sequence[Stroke]) -> tuple[_Change, _Change]:
    """(another surface, another subdivision), each (before, now); None where the time hand plays
    on."""
    if not a or not b:
        return None, None
    one, two = ({(s.bar, s.place) for s in row} for row in (a, b))
    was, now = (_most(row) for row in (a, b))
    on = None if was == now else (was, now)
    if one == two:
        return on, None
    fine_a, fine_b = _fineness(a), _fineness(b)
    if fine_a != fine_b and fine_a and fine_b:
        return on, (fine_a, fine_b)
    common = len(one & two) / len(one | two)
    return (on if common >= 0.7 else None), None


def _most(row: Sequence[Stroke]) -> str:
    parts = [s.part for s in row]
    return KIT[max(set(parts), key=parts.count)].label.lower().removesuffix(" closed")


def _fineness(row: Sequence[Stroke]) -> str:
    """quarters, 8ths, 16ths or triplets, by the strokes a beat has."""
    inside = {s.place % 1 for s in row}
    if inside == {Fraction(0)}:
        return "quarters"
    if inside == {Fraction(0), Fraction(1, 2)}:
        return "8ths"
    if inside == {Fraction(k, 4) for k in range(4)}:
        return "16ths"
    if inside <= {Fraction(k, 3) for k in range(3)} and len(inside) > 1:
        return "triplets"
    return "off-beats" if inside == {Fraction(1, 2)} else ""


def _rest(
    a: Sequence[Stroke], b: Sequence[Stroke], size: int
) -> tuple[tuple[int, tuple[Difference, ...]], ...]:
    """What differs, by the bars of the unit in which something does."""
    rows = (
        (bar, compare([s for s in a if s.bar == bar], [s for s in b if s.bar == bar]))
        for bar in range(1, size + 1)
    )
    return tuple((bar, tuple(row)) for bar, row in rows if any(d.kind != "same" for d in row))


def _moved(before: _Spots, after: _Spots, meter: Meter, size: int) -> Fraction | None:
    """By how many beats a figure was displaced (+ is later); None if it was not."""
    if len(after) < 2:
        return None
    third = any(at % _TICKS in (_TICKS // 3, 2 * _TICKS // 3) for at, *_ in before | after)
    step = _TICKS // 3 if third else _TICKS // 4
    total = meter.beats * size * _TICKS
    best = (0.0, 0)
    for by in range(step, total, step):
        like = _shared({((at + by) % total, part, soft) for at, part, soft in before}, after)
        if like > best[0]:
            best = (like, by)
    if best[0] < _MIN_LIKENESS_MOVED:
        return None
    by = best[1] if best[1] <= total // 2 else best[1] - total
    return Fraction(by, _TICKS)
