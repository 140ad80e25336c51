"""Rules between the limbs in words."""

from __future__ import annotations

from orchesis.explanations.common import label
from orchesis.hands.alternatives import Alternative
from orchesis.hands.arranging import Proposal
from orchesis.hands.moments import Unplayable
from orchesis.hands.recorded import Saying
from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.limb_rule import LimbRule

_LIMB = {"RH": "right hand", "LH": "left hand", "RF": "kick", "LF": "left foot"}
_LEFT_HANDED = {"LF": "kick", "RF": "right foot"}


_WHY = {
    "third hand": "a third hand would have to play it",
    "grace": "the other hand strikes elsewhere and can't play its grace",
    "too fast": "no hand or foot is there in time",
    "foot": "one foot would have to be on two pedals",
    "held": "the other foot holds the hat shut",
    "lacks": "it is not on your kit",
}
_SCHOOL = {
    "natural": "natural",
    "alternating": "alternating",
    "lead": "lead hand",
    "fewest": "fewest moves",
    "open": "open-handed",
}
#: What accents ask for (orchesis/hands/accents.py).
_BY_ACCENTS = {
    "turns": "hand to hand",
    "cells": "accents in one hand",
    "six": "six-stroke roll",
    "paradiddle": "paradiddles",
}


def school(name: str) -> str:
    """A school or what accents ask for, as it is called; a rudiment's name as it is."""
    return (_SCHOOL | _BY_ACCENTS).get(name, name)


def saying(said: Saying) -> str:
    """What the recording says of a row of strokes."""
    softer = f"every second stroke is {said.softer:.0f} dB softer"
    match said.kind:
        case "doubles":
            return f"{softer} and comes sooner: doubles"
        case "low":
            return f"{softer}, but evenly spaced: hands take turns, one of them low"
    return f"even in loudness (within {said.spread:.1f} dB) and spacing: hands take turns"


def alternative(a: Alternative, *, left_handed: bool = False) -> list[str]:
    """What a sticking keeps even, soft or short of way."""
    lead, other = ("left", "right") if left_handed else ("right", "left")
    f = a.facts
    alone = len(set(a.limbs.values())) == 1
    turns = "one hand plays all" if alone else "each hand has its own"
    turns = "hands take turns" if f.fast > 1 and not alone else turns
    says = [f"{f.doubles} fast double{'s' * (f.doubles > 1)}" if f.doubles else turns]
    if f.way:
        says.append(f"the hands go {f.way:.1f} reaches")
    if f.crossings:
        says.append(f"hands cross {f.crossings} time{'s' * (f.crossings > 1)}")
    if sum(f.accents) and 0 in f.accents:
        says.append(f"every accent with the {lead if f.accents[0] else other}")
    if f.low:
        says.append(f"the {lead if f.ghosts[0] else other} stays low for the ghosts")
    if a.heard:
        says.append("what the recording speaks for")
    elif a.heard is False:
        says.append("against what the recording speaks for")
    return says


_CAUSE = {
    "speed": "speed of one limb",
    "independence": "independence",
    "moves": "moves over the kit",
    "dynamics": "soft beside loud",
    "changes": "changes of subdivision",
}


def cause(name: str) -> str:
    """A cause of difficulty, as it is called in a sentence."""
    return _CAUSE[name]


_WAY = {
    "one_part": "Out of two parts one: accents stay, the rest is thinned",
    "toms": "Toms that you lack on the nearest drum you have",
    "cymbals": "Cymbals that you lack on others",
    "auxiliary": "Auxiliary sounds on the hat or snare, or left out",
    "single_pedal": "Kicks for one foot",
    "two_handed_hat": "16ths on the hat with both hands",
    "one_handed_hat": "The hat with one hand, in 8ths",
    "thin_time": "The time half as dense",
    "thin_fill": "The fill half as dense",
    "plain_groove": "The plain groove instead",
    "no_ghosts": "Without ghosts",
    "no_ornaments": "Without ornaments",
    "no_openings": "The hat stays shut",
    "cross_stick_to_snare": "Snare instead of the cross-stick",
    "snare_to_cross_stick": "Cross-stick instead of the snare",
    "foot_on_2_and_4": "Left foot on 2 and 4",
    "foot_on_offbeats": "Left foot on the off-beats",
    "foot_rests": "Left foot rests",
}


def way(name: str) -> str:
    """A way of arranging, as a title."""
    return _WAY[name]


def proposal(p: Proposal) -> str:
    """A proposal in one sentence."""
    where = f"in {len(p.bars)} bar{'s' * (len(p.bars) > 1)}"
    what = f"{way(p.way)}, {where}: {p.changed} stroke{'s' * (p.changed > 1)} change"
    what += "s" if p.changed == 1 else ""
    if p.must:
        return f"{what}; then it can be played."
    return f"{what}; the hardest bar gets {p.gain:.1f} easier." if p.gain > 0 else f"{what}."


def unplayable(u: Unplayable, score: Score) -> str:
    """What can't be played, and why."""
    s = score.strokes[u.stroke]
    at = place_text(u.place, score.meters[u.bar - 1])
    foot = _is_foot(s)
    beside = [
        x
        for x in score.strokes_of(u.bar)
        if x.place == u.place and x.id != s.id and _is_foot(x) == foot
    ]
    with_ = f", with {' and '.join(label(x.part) for x in beside)}" if beside else ""
    why = _WHY[u.reason]
    has_crash = any(KIT[x.part].is_crash for x in beside)
    if u.reason == "third hand" and KIT[s.part].role == "time" and has_crash:
        why = "the crash takes its place"
    return f"{label(s.part).capitalize()} on {at} in bar {u.bar}{with_}: {why}."


def _is_foot(s: Stroke) -> bool:
    return KIT[s.part].role.endswith("_foot")


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
