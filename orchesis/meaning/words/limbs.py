"""Rules between the limbs in words."""

from __future__ import annotations

from orchesis.hands.solver import Unplayable
from orchesis.meaning.words.common import label
from orchesis.score import Meter, Score
from orchesis.score.counting import place_text
from orchesis.score.limb_rule import LimbRule

_LIMB = {"RH": "right hand", "LH": "left hand", "RF": "kick", "LF": "left foot"}
_LEFT_HANDED = {"LF": "kick", "RF": "right foot"}


_WHY = {
    "third hand": "a third hand would have to play it",
    "too fast": "no hand or foot is there in time",
}


def unplayable(u: Unplayable, score: Score) -> str:
    """What can't be played, and why."""
    s = score.strokes[u.stroke]
    at = place_text(u.place, score.meters[u.bar - 1])
    beside = [label(x.part) for x in score.strokes_of(u.bar) if x.place == u.place and x.id != s.id]
    with_ = f", with {' and '.join(beside)}" if beside else ""
    return f"{label(s.part).capitalize()} on {at} in bar {u.bar}{with_}: {_WHY[u.reason]}."


def limb_rule(r: LimbRule, meter: Meter, *, left_handed: bool = False) -> str:
    """One rule in one sentence."""
    names = _LIMB | _LEFT_HANDED if left_handed else _LIMB
    a, b = ([names[limb] for limb in r.limbs] + ["", ""])[:2]
    match r.kind:
        case "always":
            says = f"The {a} always lands with the {b}"
        case "never":
            says = f"The {a} never falls together with the {b}"
        case "unison":
            says = f"The {a} and the {b} always sound together"
        case "linear":
            says = "No two limbs sound together"
        case "alone":
            says = f"On {' and '.join(place_text(p, meter) for p in r.places)} only the {a} sounds"
        case "hands":
            says = "The hands play the same in both bars, only the feet differ"
        case _:
            says = "The feet play the same in both bars, only the hands differ"
    if r.exceptions:
        bars = ", ".join(map(str, r.exceptions[:4])) + (" …" if len(r.exceptions) > 4 else "")
        says += f", but in bar{'s' if len(r.exceptions) > 1 else ''} {bars}"
    return f"{says}."
