"""Spelling rhythm: places in a bar -> notes, rests, tuplets and beam groups.

What one beam joins is a beat, a dotted beat, or two to three 8ths in meters such as 7/8; it is
divided where its halves are plainer than the whole (16ths and a 32nd triplet). Spelling can't
fail: what has no idiomatic spelling (a triplet against 32nds in one beat, say) is written plainly
and exactly, each note and silence with a ratio of its own.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from itertools import pairwise
from math import lcm

from orchesis.score.meter import Meter

#: Note values in quarters: (length) -> (value as in "8" for an eighth, dots).
VALUES: dict[Fraction, tuple[int, int]] = {
    Fraction(4, value) * (Fraction(3, 2) if dots else 1): (value, dots)
    for value in (1, 2, 4, 8, 16, 32, 64, 128)
    for dots in (0, 1)
    if not (dots and value == 128)
}
_FINEST = 32  # parts of a quarter that the shortest value, a 128th, makes
#: Equal parts of a group up to which they are written as one tuplet: 48 are 16 parts of a
#: triplet 8th, the finest place that can be given.
_MOST_PARTS = 48
_PLAIN = sorted((q for q, (_, dots) in VALUES.items() if not dots), reverse=True)


@dataclass(frozen=True, slots=True)
class Event:
    """A written value. place: felt beats from the bar's start, None for a rest."""

    place: Fraction | None
    value: int
    dots: int = 0

    @property
    def quarters(self) -> Fraction:
        return Fraction(4, self.value) * (Fraction(3, 2) if self.dots else 1)


@dataclass(frozen=True, slots=True)
class Group:
    """Events of one tuplet (actual, normal), or of none. start: felt beats. beam: where what one
    beam joins begins, felt beats."""

    start: Fraction
    events: tuple[Event, ...]
    tuplet: tuple[int, int] | None = None
    beam: Fraction = Fraction(0)

    @property
    def ratio(self) -> Fraction:
        """Sounding length of what is written in the group, as a share of its written length."""
        return Fraction(self.tuplet[1], self.tuplet[0]) if self.tuplet else Fraction(1)


def beam_groups(meter: Meter) -> list[tuple[Fraction, Fraction]]:
    """(start, length) in felt beats of every beam group of a bar."""
    if meter.unit == 8 and not meter.is_compound:
        sizes, left = [], meter.count
        while left > 0:
            sizes.append(left if left <= 3 else 2)
            left -= sizes[-1]
        starts = [sum(sizes[:i]) for i in range(len(sizes))]
        return [(Fraction(a), Fraction(n)) for a, n in zip(starts, sizes, strict=True)]
    return [(Fraction(b), Fraction(1)) for b in range(meter.beats)]


def spell(places: Collection[Fraction], meter: Meter) -> list[Group]:
    """One voice of a bar as groups; the places (felt beats) are where notes begin.

    The groups fill the bar exactly, and every note stands exactly at its place.

    >>> [(g.tuplet, [e.value for e in g.events]) for g in spell({Fraction(0)}, Meter(1, 8))]
    [(None, [8])]
    """
    return list(_spelled(frozenset(places), meter))


@lru_cache(maxsize=2000)  # most bars of a song are spelled as an earlier one
def _spelled(places: frozenset[Fraction], meter: Meter) -> tuple[Group, ...]:
    ordered = sorted(places)
    groups: list[Group] = []
    for start, length in beam_groups(meter):
        inside = [p for p in ordered if start <= p < start + length]
        groups += [replace(g, beam=start) for g in _plainest(start, length, inside, meter)]
    return tuple(groups)


def _plainest(
    start: Fraction, length: Fraction, inside: list[Fraction], meter: Meter, depth: int = 2
) -> list[Group]:
    """The groups of a stretch, or of its halves (a dotted beat's thirds) where they read easier."""
    whole = _groups(start, length, inside, meter)
    if depth == 0 or len(inside) < 2 or _cost(whole) <= len(inside) + _TUPLET:
        return whole
    parts = 3 if meter.is_compound and length == 1 else 2
    each = length / parts
    divided: list[Group] = []
    for k in range(parts):
        first = start + k * each
        inner = [p for p in inside if first <= p < first + each]
        divided += _plainest(first, each, inner, meter, depth - 1)
    return divided if _cost(divided) < _cost(whole) else whole


_TUPLET = 0.5  # what reading a tuplet costs, beside a note
_BIG = 7  # notes up to which a tuplet is read at a glance


def _cost(groups: list[Group]) -> float:
    """How hard some groups are to read: signs, tuplets, dots inside of tuplets."""
    total = 0.0
    for g in groups:
        total += len(g.events) + sum(0.4 for e in g.events if e.place is None)
        if g.tuplet:
            total += _TUPLET + sum(e.dots for e in g.events) + 2.0 * (g.tuplet[0] > _BIG)
    return total


def _groups(start: Fraction, length: Fraction, inside: list[Fraction], meter: Meter) -> list[Group]:
    scale = meter.beat_quarters
    offsets = [(p - start) * scale for p in inside]
    span = length * scale
    if all(_is_binary(o) for o in offsets):
        return [Group(start, tuple(_values(offsets, inside, span)))]
    shares = [(p - start) / length for p in inside]
    parts = lcm(*(share.denominator for share in shares))
    # In a dotted beat so many parts stand in the time of 3, 6, 12 ...; else of 1, 2, 4 ...
    normal = 3 if meter.is_compound else 1
    while 2 * normal <= parts:
        normal *= 2
    unit = span / normal  # written length of one part, in quarters
    if parts <= _MOST_PARTS and _is_binary(unit):
        written = [share * parts * unit for share in shares]
        return [Group(start, tuple(_values(written, inside, parts * unit)), (parts, normal))]
    return _plainly(start, length, inside, scale)


def _plainly(
    start: Fraction, length: Fraction, inside: list[Fraction], scale: Fraction
) -> list[Group]:
    """Every note, and the silence before the first, as a group of its own with its own ratio."""
    edges = [*([start] if not inside or inside[0] > start else []), *inside, start + length]
    groups = []
    for a, b in pairwise(edges):
        gap, place = (b - a) * scale, a if a in inside else None
        if _is_binary(gap):
            offsets, times = ([Fraction(0)], [a]) if place is not None else ([], [])
            groups.append(Group(a, tuple(_values(offsets, times, gap))))
            continue
        value = min((q for q in _PLAIN if q >= gap), default=_PLAIN[0])
        ratio = gap / value
        event = Event(place, *VALUES[value])
        groups.append(Group(a, (event,), (ratio.denominator, ratio.numerator)))
    return groups


def _is_binary(quarters: Fraction) -> bool:
    """Whether a length is a whole number of the shortest values."""
    return _FINEST % quarters.denominator == 0


def _values(offsets: list[Fraction], places: list[Fraction], span: Fraction) -> list[Event]:
    """Notes at their offsets (quarters from the group's start), and rests round them."""
    events: list[Event] = []
    if not offsets:
        return [Event(None, *VALUES[q]) for q in _rests(span)]
    if offsets[0] > 0:
        events += [Event(None, *VALUES[q]) for q in _rests(offsets[0])]
    for i, offset in enumerate(offsets):
        gap = (offsets[i + 1] if i + 1 < len(offsets) else span) - offset
        value = max(q for q in VALUES if q <= gap)
        events.append(Event(places[i], *VALUES[value]))
        if value < gap:
            events += [Event(None, *VALUES[q]) for q in reversed(_rests(gap - value))]
    return events


def _rests(gap: Fraction) -> list[Fraction]:
    """A silence (a whole number of 128ths) as plain values, the longest first (a whole dotted
    beat as one)."""
    if gap == Fraction(3, 2):
        return [gap]
    rests = []
    for q in _PLAIN:
        while q <= gap:
            rests.append(q)
            gap -= q
    return rests
