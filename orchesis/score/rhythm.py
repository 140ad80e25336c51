"""Spelling rhythm: places in a bar -> notes, rests, tuplets and beam groups.

Shared by the engraver and by MusicXML. One group is what one beam joins: a beat, a
dotted beat, or two to three 8ths in meters such as 7/8.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from fractions import Fraction
from math import lcm

from orchesis.score.meter import Meter

#: Note values in quarters: (length) -> (value as in "8" for an eighth, dots).
VALUES: dict[Fraction, tuple[int, int]] = {
    Fraction(4, value) * (Fraction(3, 2) if dots else 1): (value, dots)
    for value in (1, 2, 4, 8, 16, 32)
    for dots in (0, 1)
}
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
    """Events under one beam. tuplet: (actual, normal) or None. start: felt beats."""

    start: Fraction
    events: tuple[Event, ...]
    tuplet: tuple[int, int] | None = None

    @property
    def sounds(self) -> bool:
        return any(e.place is not None for e in self.events)


def beam_groups(meter: Meter) -> list[tuple[Fraction, Fraction]]:
    """(start, length) in felt beats of every beam group of a bar."""
    if meter.unit == 8 and not meter.is_compound:
        sizes, left = [], meter.count
        while left:
            sizes.append(left if left in (2, 3) else 2)
            left -= sizes[-1]
        starts = [sum(sizes[:i]) for i in range(len(sizes))]
        return [(Fraction(a), Fraction(n)) for a, n in zip(starts, sizes, strict=True)]
    return [(Fraction(b), Fraction(1)) for b in range(meter.beats)]


def spell(places: Collection[Fraction], meter: Meter) -> list[Group]:
    """One voice of a bar as groups; the places (felt beats) are where notes begin."""
    ordered = sorted(set(places))
    groups = []
    for start, length in beam_groups(meter):
        inside = [p for p in ordered if start <= p < start + length]
        groups.append(_group(start, length, inside, meter))
    return groups


def _group(start: Fraction, length: Fraction, inside: list[Fraction], meter: Meter) -> Group:
    scale = meter.beat_quarters
    offsets = [(p - start) * scale for p in inside]
    span = length * scale
    if all(_is_binary(o) for o in offsets):
        return Group(start, tuple(_values(offsets, inside, span)))
    parts = lcm(*((p - start).denominator for p in inside))
    normal = 1 << (parts.bit_length() - 1)
    if scale == Fraction(3, 2):
        normal = max(3, normal)
    unit = span / normal  # written length of one part, in quarters
    written = [(p - start) * parts * unit for p in inside]
    return Group(start, tuple(_values(written, inside, parts * unit)), (parts, normal))


def _is_binary(offset: Fraction) -> bool:
    return offset.denominator in (1, 2, 4, 8)


def _values(offsets: list[Fraction], places: list[Fraction], span: Fraction) -> list[Event]:
    events: list[Event] = []
    if not offsets:
        return [Event(None, *VALUES[q]) for q in _rests(span)]
    if offsets[0] > 0:
        events += [Event(None, *VALUES[q]) for q in _rests(offsets[0])]
    for i, offset in enumerate(offsets):
        gap = (offsets[i + 1] if i + 1 < len(offsets) else span) - offset
        own = max(q for q in VALUES if q <= gap)
        events.append(Event(places[i], *VALUES[own]))
        if own < gap:
            events += [Event(None, *VALUES[q]) for q in reversed(_rests(gap - own))]
    return events


def _rests(gap: Fraction) -> list[Fraction]:
    """A silence as plain values, the longest first (a whole dotted beat as one)."""
    if gap == Fraction(3, 2):
        return [gap]
    made = []
    for q in _PLAIN:
        while q <= gap:
            made.append(q)
            gap -= q
    return made
