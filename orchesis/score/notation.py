"""The same strokes written in other values: 8ths as 16ths, 12/8 with triplets, swing in full.

How fast a song is felt and how it is best read are two questions: a song felt at 140 with a
backbeat on 3 reads easily in short values, a shuffle in 12/8 or in 4/4 with triplets; a swing reads
easily as straight values with a mark, and some readers want to see its triplets. These are views:
exact, and no stroke is read anew.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from orchesis.errors import BadScore
from orchesis.score.cue import Cue
from orchesis.score.meter import Meter
from orchesis.score.pulse import PulseMap
from orchesis.score.song import Score


def _swing_of(score: Score, known: dict[str, str], values: str) -> tuple[str, float]:
    """The swing in the other values. known: its level there, of each level that it may have."""
    level, ratio = score.swing
    if level == "none":
        return score.swing
    if level not in known:
        raise BadScore(f"{values} can't be marked as swung; write the swing in full instead.")
    return known[level], ratio


def _short(score: Score) -> Score:
    """8ths become 16ths: a bar of 4/4 becomes one of 2/4, and the tempo half."""
    if any(m.beats % 2 or m.is_compound for m in score.meters):
        raise BadScore("Short values need bars of an even number of undivided beats.")
    meters = tuple(Meter(m.count // 2, m.unit) for m in score.meters)
    strokes = (s.changed(place=s.place / 2) for s in score.strokes.values())
    cues = {b: replace(c, places=tuple(p / 2 for p in c.places)) for b, c in score.cues.items()}
    pulse = PulseMap(score.pulse.times[::2])
    swing = _swing_of(score, {"eighth": "sixteenth"}, "32nds")
    return replace(score, meters=meters, pulse=pulse, cues=cues, swing=swing).with_strokes(strokes)


def _long(score: Score) -> Score:
    """16ths become 8ths: 2/4 becomes 4/4, a bar of 4/4 two bars; and the tempo double."""
    if any(m.is_compound for m in score.meters):
        raise BadScore("Long values need beats that divide in two.")
    times = [t for a, b in pairwise(score.pulse.times) for t in (a, (a + b) / 2)]
    meters: list[Meter] = []
    firsts: list[int] = []  # the first new bar (from 1) of each old one
    for m in score.meters:
        firsts.append(len(meters) + 1)
        meters += [Meter(2 * m.count, m.unit)] if m.count <= 3 else [m, m]
    firsts.append(len(meters) + 1)
    made = []
    for s in score.strokes.values():
        bar, place = firsts[s.bar - 1], s.place * 2
        if place >= meters[bar - 1].beats:
            bar, place = bar + 1, place - meters[bar - 1].beats
        made.append(s.changed(bar=bar, place=place))
    sections = tuple(
        replace(
            s, first_bar=firsts[s.first_bar - 1], bars=firsts[s.last_bar] - firsts[s.first_bar - 1]
        )
        for s in score.sections
    )
    confirmed = frozenset(b for old in score.confirmed for b in range(firsts[old - 1], firsts[old]))
    return replace(
        score, meters=tuple(meters), pulse=PulseMap((*times, score.pulse.times[-1])),
        sections=sections, confirmed=confirmed,
        notes={firsts[b - 1]: n for b, n in score.notes.items()},
        cues=_longer(score, firsts, meters),
        swing=_swing_of(score, {"sixteenth": "eighth"}, "Quarters"),
    ).with_strokes(made)  # fmt: skip


def _longer(score: Score, firsts: list[int], meters: list[Meter]) -> dict[int, Cue]:
    made: dict[int, Cue] = {}
    for old, cue in score.cues.items():
        bar = firsts[old - 1]
        beats = meters[bar - 1].beats
        twice = [p * 2 for p in cue.places]
        here = sum(p < beats for p in twice)
        made[bar] = replace(cue, places=tuple(twice[:here]), pitches=cue.pitches[:here])
        if rest := tuple(p - beats for p in twice[here:]):
            made[bar + 1] = Cue(rest, pitches=cue.pitches[here:])
    return made


def _triplets(score: Score) -> Score:
    """12/8 becomes 4/4 with triplets."""
    if not any(m.is_compound for m in score.meters):
        raise BadScore("Only bars like 12/8 can be written with triplets instead.")
    meters = tuple(Meter(m.beats, 4) if m.is_compound else m for m in score.meters)
    return replace(score, meters=meters)


def _compound(score: Score) -> Score:
    """4/4 with triplets becomes 12/8."""
    if any(m.is_compound for m in score.meters):
        raise BadScore("These bars are counted in threes already.")
    halves = sum(s.place % 1 == Fraction(1, 2) for s in score.strokes.values())
    thirds = sum(s.place % 1 in (Fraction(1, 3), Fraction(2, 3)) for s in score.strokes.values())
    if thirds <= halves:
        raise BadScore("These beats divide in two; in 12/8 nearly every stroke would be a duplet.")
    return replace(
        score, meters=tuple(Meter(3 * m.beats, 8) for m in score.meters), swing=("none", 0.5)
    )


def _in_full(score: Score, long: Fraction, nearest: str) -> Score:
    """Swung pairs as the values that they sound in. long: share of the first of a pair."""
    level = score.swing[0]
    half = Fraction(1, 2)
    if level == "sixteenth":
        moved = {half / 2: long / 2, half + half / 2: half + long / 2}
    else:
        moved = {half / 2: long / 2, half: long, half + half / 2: (1 + long) / 2}

    def place(bar: int, at: Fraction) -> Fraction:
        compound = score.meters[bar - 1].is_compound
        return at if compound else int(at) + moved.get(at % 1, at % 1)

    made = [s.changed(place=place(s.bar, s.place)) for s in score.strokes.values()]
    if len({(s.bar, s.place, s.part) for s in made}) < len(made):
        raise BadScore(f"Straight strokes lie where swung ones would be written as {nearest}.")
    cues = {
        b: replace(c, places=tuple(place(b, p) for p in c.places)) for b, c in score.cues.items()
    }
    return replace(score, swing=("none", 0.5), cues=cues).with_strokes(made)


def _swung_triplets(score: Score) -> Score:
    """Swung pairs as a long and a short part of a triplet."""
    if score.swing[0] == "none":
        raise BadScore("Nothing swings here that could be written as triplets.")
    return _in_full(score, Fraction(2, 3), "triplets")


def _swung_dotted(score: Score) -> Score:
    """Swung pairs as dotted values, where they swing hard: nearer to these than to triplets."""
    level, ratio = score.swing
    if level == "none" or ratio < _DOTTED:
        raise BadScore("Only a hard swing is nearer to dotted values than to triplets.")
    return _in_full(score, Fraction(3, 4), "dotted values")


#: Share of the long part that lies half-way from a triplet's to a dotted value's.
_DOTTED = (2 / 3 + 3 / 4) / 2

#: Ways of writing beside the counted one, with what each does in a word.
NOTATIONS: dict[str, Callable[[Score], Score]] = {
    "short": _short, "long": _long, "triplets": _triplets, "compound": _compound,
    "swung_triplets": _swung_triplets, "swung_dotted": _swung_dotted,
}  # fmt: skip


def in_notation(score: Score, notation: str) -> Score:
    """The score as it is written; BadScore in one sentence where that can't be."""
    if notation in ("", "counted"):
        return score
    if notation not in NOTATIONS:
        raise BadScore(f"“{notation}” is no way of writing; there are {', '.join(NOTATIONS)}.")
    return NOTATIONS[notation](score)


def possible(score: Score) -> list[str]:
    """The ways of writing that this score allows, the counted one first."""
    made = ["counted"]
    for name in NOTATIONS:
        try:
            in_notation(score, name)
        except BadScore:
            continue
        made.append(name)
    return made


def as_written(score: Score) -> Score:
    """The score in the way of writing chosen for it, without what was left out; as counted
    where that way is no longer possible (its bars may have changed since)."""
    score = score.played()
    try:
        return in_notation(score, score.notation)
    except BadScore:
        return score
