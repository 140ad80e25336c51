"""Two bars laid over each other: what is the same, and in words what is not."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis.score import KIT, Meter, Stroke
from orchesis.score.counting import place_text

_MOVED = Fraction(1, 2)  # beats that a stroke may have moved and still be the same one
_LOUDER = 0.12
_FULL_ORDER = {"ghost": 0, "normal": 1, "accent": 2}


@dataclass(frozen=True)
class Difference:
    """kind: same, louder, softer, part, limb, ornament, moved, added (in the second bar only)
    or removed. a, b: the strokes, None where there is none."""

    kind: str
    a: Stroke | None
    b: Stroke | None
    says: str

    def to_json(self) -> dict[str, Any]:
        return {
            "kind": self.kind,
            "a": self.a.id if self.a else None,
            "b": self.b.id if self.b else None,
            "says": self.says,
        }


def compare(a: Sequence[Stroke], b: Sequence[Stroke], meter: Meter) -> list[Difference]:
    """What leads from bar a to bar b, in the order of the places; equal strokes are told too.

    First equal parts on equal places are matched, then one way of playing with another on the
    same place, then equal parts that lie within half a beat, then what one limb plays on the
    same place.
    """
    left, right = list(a), list(b)
    found: list[tuple[Stroke, Stroke]] = []

    def match(fits: Any) -> None:
        pairs = [(abs(x.place - y.place), i, j) for i, x in enumerate(left)
                 for j, y in enumerate(right) if fits(x, y)]  # fmt: skip
        used_a: set[int] = set()
        used_b: set[int] = set()
        for _, i, j in sorted(pairs):
            if i not in used_a and j not in used_b:
                used_a.add(i)
                used_b.add(j)
                found.append((left[i], right[j]))
        left[:] = [x for i, x in enumerate(left) if i not in used_a]
        right[:] = [y for j, y in enumerate(right) if j not in used_b]

    match(lambda x, y: x.part == y.part and x.place == y.place)
    match(lambda x, y: x.place == y.place and KIT[x.part].instrument == KIT[y.part].instrument)
    match(lambda x, y: x.part == y.part and abs(x.place - y.place) <= _MOVED)
    match(lambda x, y: x.place == y.place and x.limb == y.limb)
    told = [_pair(x, y, meter) for x, y in found]
    told += [
        Difference("removed", x, None, f"{_name(x)} on {place_text(x.place, meter)} is gone")
        for x in left
    ]
    told += [
        Difference("added", None, y, f"{_name(y)} on {place_text(y.place, meter)} is new")
        for y in right
    ]
    order = list(KIT)

    def place(d: Difference) -> tuple[Fraction, int]:
        stroke = d.a or d.b
        assert stroke is not None
        return stroke.place, order.index(stroke.part)

    return sorted(told, key=place)


def words(differences: Sequence[Difference], meter: Meter) -> list[str]:
    """What differs, in sentences; what happens alike at several places is said once."""
    groups: dict[tuple[str, str, str], list[Difference]] = {}
    for d in differences:
        if d.kind in ("part", "added", "removed"):
            key = (d.kind, _name(d.a) if d.a else "", _name(d.b) if d.b else "")
        else:
            key = (d.kind, d.says, "")
        if d.kind != "same":
            groups.setdefault(key, []).append(d)
    told = []
    for (kind, was, now), found in groups.items():
        strokes = [d.a or d.b for d in found]
        places = ", ".join(place_text(s.place, meter) for s in strokes if s is not None)
        if len(found) == 1:
            told.append(found[0].says)
        elif kind == "part":
            told.append(f"{now} instead of {was} on {places}")
        else:
            told.append(f"{was or now} on {places} {'are new' if kind == 'added' else 'are gone'}")
    return told


def _name(s: Stroke) -> str:
    label = KIT[s.part].label.lower()
    return f"ghost {label}" if s.dynamic == "ghost" else label


def _pair(x: Stroke, y: Stroke, meter: Meter) -> Difference:
    at = place_text(x.place, meter)
    if x.place != y.place:
        way = "later" if y.place > x.place else "earlier"
        return Difference(
            "moved", x, y, f"{_name(x)} moves from {at} to {place_text(y.place, meter)} ({way})"
        )
    if x.part != y.part:
        return Difference("part", x, y, f"on {at} {_name(y)} instead of {_name(x)}")
    step = _FULL_ORDER[y.dynamic] - _FULL_ORDER[x.dynamic]
    if step or abs(y.loudness - x.loudness) >= _LOUDER:
        louder = step > 0 or (step == 0 and y.loudness > x.loudness)
        to = f", now {'an accent' if y.dynamic == 'accent' else y.dynamic}" if step else ""
        label = KIT[x.part].label.lower()
        return Difference(
            "louder" if louder else "softer", x, y,
            f"{label} on {at} is {'louder' if louder else 'softer'}{to}",
        )  # fmt: skip
    if (x.ornament, x.choked) != (y.ornament, y.choked):
        now = y.ornament or ("choked" if y.choked else "plain")
        return Difference("ornament", x, y, f"{_name(x)} on {at} is now {now}")
    if x.limb != y.limb:
        return Difference("limb", x, y, f"{_name(x)} on {at} with {y.limb} instead of {x.limb}")
    return Difference("same", x, y, "")
