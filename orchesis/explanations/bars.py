"""Bars against each other in words."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from orchesis.checks.alike import Offer
from orchesis.explanations.common import called, label
from orchesis.score import Meter, Stroke
from orchesis.score.counting import place_text
from orchesis.score.difference import Difference


def _stroke(s: Stroke) -> str:
    return called(s.part, s.dynamic == "ghost")


def difference(d: Difference, meter: Meter) -> str:
    """One difference; "" for a stroke that is the same."""
    x, y = d.a, d.b
    if x is None or y is None:
        stroke = x or y
        assert stroke is not None
        return f"{_stroke(stroke)} on {place_text(stroke.place, meter)} is {'new' if y else 'gone'}"
    at = place_text(x.place, meter)
    match d.kind:
        case "moved":
            way = "later" if y.place > x.place else "earlier"
            return f"{_stroke(x)} moves from {at} to {place_text(y.place, meter)} ({way})"
        case "part":
            return f"on {at} {_stroke(y)} instead of {_stroke(x)}"
        case "louder" | "softer":
            to = "an accent" if y.dynamic == "accent" else y.dynamic
            now = f", now {to}" if x.dynamic != y.dynamic else ""
            return f"{label(x.part)} on {at} is {d.kind}{now}"
        case "ornament":
            return (
                f"{_stroke(x)} on {at} is now {y.ornament or ('choked' if y.choked else 'plain')}"
            )
        case "limb":
            return f"{_stroke(x)} on {at} with {y.limb} instead of {x.limb}"
    return ""


def differences(rows: Iterable[Difference], meter: Meter) -> list[str]:
    """What differs, in sentences; what happens alike at several places is said once."""
    groups: dict[tuple[str, str, str], list[Difference]] = {}
    for d in rows:
        if d.kind in ("part", "added", "removed"):
            key = (d.kind, _stroke(d.a) if d.a else "", _stroke(d.b) if d.b else "")
        else:
            key = (d.kind, difference(d, meter), "")
        if d.kind != "same":
            groups.setdefault(key, []).append(d)
    sentences = []
    for (kind, was, now), group in groups.items():
        strokes = [d.a or d.b for d in group]
        places = ", ".join(place_text(s.place, meter) for s in strokes if s is not None)
        if len(group) == 1:
            sentences.append(difference(group[0], meter))
        elif kind == "part":
            sentences.append(f"{now} instead of {was} on {places}")
        else:
            sentences.append(
                f"{was or now} on {places} {'are new' if kind == 'added' else 'are gone'}"
            )
    return sentences


def offer(o: Offer) -> str:
    """What an edit did that would fit other bars too."""
    return "; ".join(differences(o.differences, o.meter))


def told_difference(d: Difference, meter: Meter) -> dict[str, Any]:
    """A difference with its words, its strokes by their ids."""
    return {
        "kind": d.kind,
        "a": d.a.id if d.a else None,
        "b": d.b.id if d.b else None,
        "says": difference(d, meter),
    }


def told_offer(o: Offer) -> dict[str, Any]:
    """An offer with its words."""
    return {"bar": o.bar, "bars": list(o.bars), "changes": list(o.changes), "says": offer(o)}
