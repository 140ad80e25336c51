"""A limb for every stroke, by the plain rules of a right-handed kit.

Feet by the kit table; the right hand keeps time and the left plays the backbeat; where
nothing keeps time (a fill) the hands alternate, the lead hand on the numbers and the
"ands"; two hand strokes at one place take one hand each.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from fractions import Fraction

from orchesis.score import KIT, Stroke

_FEET = ("right_foot", "left_foot")
_LEAD, _OTHER = "RH", "LH"
#: Who reaches first for the lead hand when two hands play together.
_PRECEDENCE = {"time": 0, "hand": 1, "backbeat": 2}


def assign(strokes: Iterable[Stroke]) -> list[Stroke]:
    """The same strokes with limbs set, in bar order. Strokes of one bar may come unsorted."""
    moments: dict[tuple[int, Fraction], list[Stroke]] = defaultdict(list)
    kept_time: set[tuple[int, int]] = set()
    given = list(strokes)
    for s in given:
        moments[s.bar, s.place].append(s)
        if KIT[s.part].role == "time":
            kept_time.add((s.bar, int(s.place)))
    made: list[Stroke] = []
    previous: tuple[Fraction, str] = (Fraction(-1), _OTHER)
    for (bar, place), group in sorted(moments.items()):
        hands = [s for s in group if KIT[s.part].role not in _FEET]
        made += [s.changed(limb=KIT[s.part].limb) for s in group if s not in hands]
        hands.sort(key=lambda s: _PRECEDENCE[KIT[s.part].role])
        if len(hands) == 1:
            limb = _single(hands[0], (bar, int(place)) in kept_time, previous)
            previous = (place, limb)
            made.append(hands[0].changed(limb=limb))
        else:
            for s, limb in zip(hands, (_LEAD, _OTHER, _LEAD, _OTHER), strict=False):
                made.append(s.changed(limb=limb))
    return made


def _single(stroke: Stroke, keeps_time: bool, previous: tuple[Fraction, str]) -> str:
    role = KIT[stroke.part].role
    if role == "time":
        return _LEAD
    if keeps_time:
        return _OTHER if role == "backbeat" else _LEAD
    if stroke.place % Fraction(1, 2) == 0 or stroke.place.denominator not in (4, 8):
        on_lead = stroke.place.denominator in (1, 2) or previous[1] == _OTHER
        if role == "backbeat" and stroke.place.denominator == 1 and _is_alone(stroke, previous):
            return _OTHER
        return _LEAD if on_lead else _OTHER
    eighth_parity = (stroke.place * stroke.place.denominator).numerator % 2
    return _OTHER if eighth_parity else _LEAD


def _is_alone(stroke: Stroke, previous: tuple[Fraction, str]) -> bool:
    """A backbeat far from any other hand stroke stays with the backbeat hand."""
    return not 0 < stroke.place - previous[0] <= Fraction(1, 2)
