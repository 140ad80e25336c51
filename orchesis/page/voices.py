"""A voice of a bar: its strokes as events with heads, marks and signs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.page.model import (
    Bar,
    Beam,
    Event,
    Group,
    Head,
    Voice,
)
from orchesis.page.rhythm import spell
from orchesis.score import KIT, Meter, Stroke
from orchesis.score.kit import loc_in
from orchesis.score.signs import SIGNS

FEET = ("RF", "LF")
GRACES = {"flam": 1, "drag": 2, "ruff": 3}
STROKED = ("buzz", "diddle")


@dataclass(frozen=True, slots=True)
class Drawn:
    """How heads are drawn. layout: "": all on one line, at ``line``; higher:
    by id, half spaces above it."""

    layout: str
    ghosts: str
    line: int = 0
    higher: tuple[tuple[str, int], ...] = ()

    def loc(self, s: Stroke) -> int:
        if self.layout:
            return loc_in(self.layout, s.part)
        return self.line + dict(self.higher).get(s.id, 0)


#: Half spaces: of a rhythm over slashes, and from its lowest to its highest note.
ABOVE, _CONTOUR = 5, 6


def contour(pitches: Sequence[int]) -> tuple[tuple[str, int], ...]:
    """By how many half spaces each head lies higher than the lowest."""
    if not pitches:
        return ()
    low, high = min(pitches), max(pitches)
    scale = _CONTOUR / max(_CONTOUR, high - low)
    return tuple((f"r{n}", round((p - low) * scale)) for n, p in enumerate(pitches))


BEATS = {2: 2, 4: 4, 8: 8, 16: 16}  # the value of a beat, by the unit of the meter


def limb_voice(strokes: Sequence[Stroke], meter: Meter, drawn: Drawn) -> tuple[Voice, ...]:
    return (voice_of(strokes, meter, "up", "rest", drawn),) if strokes else ()


def voice_of(
    strokes: Sequence[Stroke], meter: Meter, stem: str, silence: str, drawn: Drawn
) -> Voice:
    by_place: dict[Fraction, list[Stroke]] = defaultdict(list)
    for s in strokes:
        by_place[s.place].append(s)
    beams: list[Beam] = []
    groups: list[Group] = []
    start: Fraction | None = None

    def close() -> None:
        if groups:
            sounding = [e for g in groups for e in g.events if e.heads]
            joined = len(sounding) > 1 and all(e.value >= 8 for e in sounding)
            beams.append(Beam(tuple(groups), joined))

    for g in spell(by_place, meter):
        if g.beam != start:
            close()
            groups, start = [], g.beam
        at, events = g.start, []
        for e in g.events:
            events.append(
                _event(
                    at,
                    e.value,
                    e.dots,
                    by_place.get(e.place, ()) if e.place is not None else (),
                    silence,
                    drawn,
                )
            )
            at += e.quarters * g.ratio / meter.beat_quarters
        groups.append(Group(tuple(events), g.tuplet))
    close()
    return Voice(stem, tuple(beams))


def _event(
    place: Fraction,
    value: int,
    dots: int,
    strokes: Sequence[Stroke],
    silence: str,
    drawn: Drawn,
) -> Event:
    sorted_strokes = sorted(
        strokes, key=lambda s: (loc_in(drawn.layout or "common", s.part), s.loudness)
    )
    marks = tuple(m for m in SIGNS if any(m in marks_of(s) for s in sorted_strokes))
    graces = tuple(
        (drawn.loc(s), GRACES[s.ornament]) for s in sorted_strokes if s.ornament in GRACES
    )
    stroked = next((s.ornament for s in sorted_strokes if s.ornament in STROKED), "") or ""
    return Event(
        place,
        value,
        dots,
        tuple(_head(s, drawn) for s in sorted_strokes),
        silence,
        marks,
        graces,
        stroked,
    )


def _head(s: Stroke, drawn: Drawn) -> Head:
    ghost = drawn.ghosts if s.dynamic == "ghost" else ""
    return Head(s.id, s.part, drawn.loc(s), KIT[s.part].head, ghost, s.doubt == "layer")


def marks_of(s: Stroke) -> list[str]:
    """Signs over or under a head."""
    marks = []
    if s.dynamic == "accent" or s.ornament == "drop":
        marks.append("accent")
    if s.choked:
        marks.append("choked")
    if s.part in ("hat_open", "hat_splash"):
        marks.append("open")
    elif s.part == "hat_half":
        marks.append("half")
    return marks


_GHOST_SIGNS = {"brackets": "ghost", "small": "small_ghost"}
_PART_SIGNS = {
    "hat_foot": "foot",
    "hat_splash": "splash",
    "cross_stick": "cross_stick",
    "rimshot": "rimshot",
    "ride_bell": "bell",
}


def signs_of(bar: Bar) -> set[str]:
    if bar.is_repeat:
        return {"repeat"}
    signs: set[str] = set()
    for staff in bar.staves:
        for e in (e for v in staff.voices for b in v.beams for e in b.events):
            signs |= set(e.marks)
            signs |= {name for _, count in e.graces for name, n in GRACES.items() if n == count}
            signs |= {e.stroked} - {""}
            for h in e.heads:
                signs |= {_GHOST_SIGNS[h.ghost]} if h.ghost else set()
                signs |= {"layer"} if h.small else set()
                signs |= {_PART_SIGNS[h.part]} if h.part in _PART_SIGNS else set()
    return signs
