"""Grooves in words."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Any

from orchesis.explanations.bars import differences
from orchesis.explanations.common import bars_text, spot_text
from orchesis.explanations.limbs import limb_rule
from orchesis.score import Meter
from orchesis.score.fill import Cell
from orchesis.score.groove import Groove, Option, Phrase, Relation

_PATTERNS: dict[str, Callable[[Option], str]] = {
    "only": lambda o: f"only in bar {o.bars[0]}",
    "every_fourth": lambda o: "in every fourth bar",
    "fourth": lambda o: "in fourth bars",
    "second": lambda o: "in second bars",
    "first": lambda o: "in first bars",
    "second_half": lambda o: "in the second half",
    "first_half": lambda o: "in the first half",
    "few": lambda o: f"in bars {', '.join(map(str, o.bars))}",
    "scattered": lambda o: "here and there",
}


def option_name(o: Option, meter: Meter) -> str:
    """What an option adds."""
    return spot_text(o.spot, meter)


def option_bars(o: Option) -> str:
    """In which bars it comes."""
    return bars_text(o.bars)


def option_pattern(o: Option) -> str:
    """Where in the stretch an option's bars lie."""
    return _PATTERNS[o.pattern](o)


def unsure_says(o: Option) -> str:
    """How sure the onset model was of a stroke that may be an option."""
    more = o.heard - len(o.bars)
    rest = f"; something is heard there in {more} more" if more > 0 else ""
    return f"{round(100 * o.sure)} % sure{rest}"


def option_company(o: Option, meter: Meter) -> str:
    """What an option comes with or instead of; "" where it goes alone."""
    words = [f"with {spot_text(s, meter)}" for s in o.beside]
    return ", ".join([*words, *(f"instead of {spot_text(s, meter)}" for s in o.instead)])


_TONES = ("C", "C sharp", "D", "E flat", "E", "F", "F sharp", "G", "A flat", "A", "B flat", "B")


def phrase(p: Phrase) -> str:
    """What a phrase of a vocabulary goes with."""
    words = []
    if p.followed_by is not None:
        words.append(f"mostly followed by phrase {chr(65 + p.followed_by)}")
    if p.of_four is not None:
        words.append(f"in bar {p.of_four} of the four")
    if p.tone is not None:
        words.append(f"where the band is on {_TONES[p.tone]}")
    if p.louder is not None:
        word = "louder" if p.louder > 0 else "softer"
        words.append(f"where the song is {word} ({p.louder:+.0f} dB)")
    return "; ".join(words)


def groove(g: Groove) -> str:
    """What kind a groove is."""
    unit = {1: "one bar", 2: "two bars", 4: "four bars"}.get(g.length, f"{g.length} bars")
    match g.kind:
        case "silent":
            return "The drums are silent."
        case "stops":
            return "Stops: hits, and bars of silence between them."
        case "fixed":
            return f"Fixed: {unit}, the same all through."
        case "options":
            if not g.options:
                return f"A core of {unit}, with single departures."
            return f"A core of {unit} with {len(g.options)} option{'s' * (len(g.options) != 1)}."
        case "thinned":
            of = f"bar {g.fullest}" if g.fullest else "one bar"
            return f"One fullest bar: the others are {of}, thinned."
        case "vocabulary":
            free = f" The feet choose for themselves among {len(g.feet)} patterns."
            what = f"The {g.over} goes on" if g.over else "No core"
            many = f"{len(g.phrases)} phrases" if g.phrases else "phrases"
            return f"{what}: {many} are woven.{free if g.feet_are_free else ''}"
        case "skeleton":
            return f"Ad lib round a skeleton of {len(g.core)} strokes."
    return "Through-composed: hardly a bar comes back."


def groove_differences(g: Groove, meter: Meter) -> list[str]:
    """How each later bar of the unit differs from its first."""
    sentences = []
    for n, row in enumerate(g.differences, 2):
        lead = "The second bar" if n == 2 else f"Bar {n}"
        words = differences(row, meter)
        sentences.append(f"{lead}: {'; '.join(words)}" if words else f"{lead} is the first again")
    return sentences


def once(g: Groove, meter: Meter) -> list[str]:
    """Strokes that come in one bar only, bar by bar."""
    return [
        f"bar {bar}: {', '.join(spot_text(s, meter) for s in spots[:4])}{' ...' * (len(spots) > 4)}"
        for bar, spots in g.once
    ]


_FAR = {
    Fraction(1, 4): "a 16th",
    Fraction(1, 2): "an 8th",
    Fraction(3, 4): "a dotted 8th",
    Fraction(1): "a beat",
    Fraction(1, 3): "a triplet 8th",
    Fraction(2): "two beats",
}


def relation(r: Relation | None) -> str:
    """How a groove is related to an earlier one; "" where it is not."""
    if r is None:
        return ""
    of = r.of or f"bar {r.bar}"
    match r.how:
        case "same":
            return f"The same as in {of}"
        case "stripped":
            return f"{of} stripped down"
        case "moved":
            far = _FAR.get(abs(r.moved), f"{abs(r.moved)} beats")
            return f"{of} moved {far} {'later' if r.moved > 0 else 'earlier'}"
        case "surface":
            sentences = (
                [f"on the {r.surface[1]} instead of the {r.surface[0]}"] if r.surface else []
            )
            sentences += [f"in {r.fineness[1]} instead of {r.fineness[0]}"] if r.fineness else []
            return f"As in {of}, but {', '.join(sentences)}{'; and' if r.rest else ''}"
    return f"As in {of}, but"


def related(r: Relation | None, meter: Meter) -> list[str]:
    """What else differs from the earlier groove."""
    if r is None:
        return []
    return [
        (f"bar {bar}: " if r.unit > 1 else "") + "; ".join(differences(row, meter))
        for bar, row in r.rest
    ]


_WHOSE = {"all": "hands and kick", "hands": "hands", "kick": "kick", "time": "time hand"}


def across(c: Cell, meter: Meter) -> str:
    """A figure that runs across the bars, and when it comes out on the 1 again."""
    period = Fraction(c.steps, c.beat_steps)
    bars = (meter.beats / period).denominator
    what = (
        f"a stroke every {c.steps} {c.grid}s"
        if c.strokes == 1
        else f"{c.strokes} strokes in {c.steps} {c.grid}s"
        if c.strokes != c.steps
        else f"a figure of {c.strokes} {c.grid}s"
    )
    return (
        f"The {_WHOSE[c.of]} run{'' if c.of in ('all', 'hands') else 's'} across the bars from bar "
        f"{c.bar} on: {what}, on the 1 again after {bars} bars."
    )


def told_groove(g: Groove, meter: Meter, *, left_handed: bool = False) -> dict[str, Any]:
    """A groove with its words. meter: of its bars; left_handed: who plays it."""
    return {
        **g.to_json(),
        "says": groove(g),
        "difference": groove_differences(g, meter),
        "once": once(g, meter),
        "relation": relation(g.relation),
        "related": related(g.relation, meter),
        "options": [
            {**o.to_json(), "where": option_pattern(o), "goes": option_company(o, meter)}
            for o in g.options
        ],
        "unsure": [
            {**o.to_json(), "where": option_pattern(o), "goes": unsure_says(o)} for o in g.unsure
        ],
        "phrases": [{**p.to_json(), "says": phrase(p)} for p in g.phrases],
        "feet": [{**p.to_json(), "says": phrase(p)} for p in g.feet],
        "rules": [limb_rule(r, meter, left_handed=left_handed) for r in g.rules],
        "across": [across(c, meter) for c in g.cells],
    }
