"""The same strokes written in other values: 8ths as 16ths, 12/8 with triplets, swing in full.

How fast a song is felt and how it is best read are two questions: a song felt at 140 with a
backbeat on 3 reads easily in short values, a shuffle in 12/8 or in 4/4 with triplets; a swing reads
easily as straight values with a mark, and some readers want to see its triplets. These are views:
exact, and no stroke is read anew.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from orchesis.errors import BadScore
from orchesis.score.cue import Cue
from orchesis.score.meter import Meter
from orchesis.score.pulse import PulseMap
from orchesis.score.song import Score
from orchesis.score.untrusted import shown


@dataclass(frozen=True)
class _Way:
    """why_not: one sentence where a score can't be written so, else "". write: writes it."""

    why_not: Callable[[Score], str]
    write: Callable[[Score], Score]


#: Swing by the level of its pairs, in shorter values and in longer ones.
_SHORTER, _LONGER = {"none": "none", "eighth": "sixteenth"}, {"none": "none", "sixteenth": "eighth"}


def _unmarked(score: Score, memo: dict[str, str], values: str) -> str:
    if score.swing[0] in memo:
        return ""
    return f"{values} can't be marked as swung; write the swing in full instead."


def _why_not_short(score: Score) -> str:
    if any(m.beats % 2 or m.is_compound for m in score.meters):
        return "Short values need bars of an even number of undivided beats."
    return _unmarked(score, _SHORTER, "32nds")


def _short(score: Score) -> Score:
    """8ths become 16ths: a bar of 4/4 becomes one of 2/4, and the tempo half."""
    meters = tuple(Meter(m.count // 2, m.unit) for m in score.meters)
    strokes = (s.changed(place=s.place / 2) for s in score.strokes.values())
    cues = {b: replace(c, places=tuple(p / 2 for p in c.places)) for b, c in score.cues.items()}
    pulse = PulseMap(score.pulse.times[::2])
    level, ratio = score.swing
    swing = (_SHORTER[level], ratio)
    return replace(score, meters=meters, pulse=pulse, cues=cues, swing=swing).with_strokes(strokes)


def _why_not_long(score: Score) -> str:
    if any(m.is_compound for m in score.meters):
        return "Long values need beats that divide in two."
    return _unmarked(score, _LONGER, "Quarters")


def _long(score: Score) -> Score:
    """16ths become 8ths: 2/4 becomes 4/4, a bar of 4/4 two bars; and the tempo double."""
    times = [t for a, b in pairwise(score.pulse.times) for t in (a, (a + b) / 2)]
    meters: list[Meter] = []
    firsts: list[int] = []  # the first new bar (from 1) of each old one
    for m in score.meters:
        firsts.append(len(meters) + 1)
        meters += [Meter(2 * m.count, m.unit)] if m.count <= 3 else [m, m]
    firsts.append(len(meters) + 1)
    strokes = []
    for s in score.strokes.values():
        bar, place = firsts[s.bar - 1], s.place * 2
        if place >= meters[bar - 1].beats:
            bar, place = bar + 1, place - meters[bar - 1].beats
        strokes.append(s.changed(bar=bar, place=place))
    sections = tuple(
        replace(
            s, first_bar=firsts[s.first_bar - 1], bars=firsts[s.last_bar] - firsts[s.first_bar - 1]
        )
        for s in score.sections
    )
    confirmed = frozenset(b for old in score.confirmed for b in range(firsts[old - 1], firsts[old]))
    return replace(
        score,
        meters=tuple(meters),
        pulse=PulseMap((*times, score.pulse.times[-1])),
        sections=sections,
        confirmed=confirmed,
        notes={firsts[b - 1]: n for b, n in score.notes.items()},
        cues=_longer(score, firsts, meters),
        swing=(_LONGER[score.swing[0]], score.swing[1]),
    ).with_strokes(strokes)


def _longer(score: Score, firsts: list[int], meters: list[Meter]) -> dict[int, Cue]:
    cues: dict[int, Cue] = {}
    for old, cue in score.cues.items():
        bar = firsts[old - 1]
        beats = meters[bar - 1].beats
        twice = [p * 2 for p in cue.places]
        here = sum(p < beats for p in twice)
        cues[bar] = replace(cue, places=tuple(twice[:here]), pitches=cue.pitches[:here])
        if rest := tuple(p - beats for p in twice[here:]):
            cues[bar + 1] = Cue(rest, pitches=cue.pitches[here:])
    return cues


def _why_not_triplets(score: Score) -> str:
    if any(m.is_compound for m in score.meters):
        return ""
    return "Only bars like 12/8 can be written with triplets instead."


def _triplets(score: Score) -> Score:
    """12/8 becomes 4/4 with triplets."""
    meters = tuple(Meter(m.beats, 4) if m.is_compound else m for m in score.meters)
    return replace(score, meters=meters)


def _why_not_compound(score: Score) -> str:
    if any(m.is_compound for m in score.meters):
        return "These bars are counted in threes already."
    parts = Counter(s.place.denominator for s in score.strokes.values())
    if parts[3] <= parts[2]:
        return "These beats divide in two; in 12/8 nearly every stroke would be a duplet."
    return ""


def _compound(score: Score) -> Score:
    """4/4 with triplets becomes 12/8."""
    meters = tuple(Meter(3 * m.beats, 8) for m in score.meters)
    return replace(score, meters=meters, swing=("none", 0.5))


_HALF = Fraction(1, 2)


def _in_full(score: Score, long: Fraction) -> Callable[[int, Fraction], Fraction]:
    """Where a place of a bar lies once swung pairs are written as they sound. long: share of the
    first of a pair."""
    if score.swing[0] == "sixteenth":
        moved = {_HALF / 2: long / 2, _HALF + _HALF / 2: _HALF + long / 2}
    else:
        moved = {_HALF / 2: long / 2, _HALF: long, _HALF + _HALF / 2: (1 + long) / 2}

    def place(bar: int, at: Fraction) -> Fraction:
        if score.meters[bar - 1].is_compound:
            return at
        return int(at) + moved.get(at % 1, at % 1)

    return place


def _unswung(score: Score, long: Fraction) -> Score:
    place = _in_full(score, long)
    strokes = [s.changed(place=place(s.bar, s.place)) for s in score.strokes.values()]
    cues = {
        b: replace(c, places=tuple(place(b, p) for p in c.places)) for b, c in score.cues.items()
    }
    return replace(score, swing=("none", 0.5), cues=cues).with_strokes(strokes)


def _meets_straight(score: Score, long: Fraction, nearest: str) -> str:
    place = _in_full(score, long)
    places = {(s.bar, place(s.bar, s.place), s.part) for s in score.strokes.values()}
    if len(places) == len(score.strokes):
        return ""
    return f"Straight strokes lie where swung ones would be written as {nearest}."


def _why_not_swung_triplets(score: Score) -> str:
    if score.swing[0] == "none":
        return "Nothing swings here that could be written as triplets."
    return _meets_straight(score, _TRIPLET, "triplets")


def _why_not_swung_dotted(score: Score) -> str:
    level, ratio = score.swing
    if level == "none" or ratio < (_TRIPLET + _DOTTED) / 2:
        return "Only a hard swing is nearer to dotted values than to triplets."
    return _meets_straight(score, _DOTTED, "dotted values")


#: Share of the long part of a swung pair, as a triplet and as a dotted value.
_TRIPLET, _DOTTED = Fraction(2, 3), Fraction(3, 4)

#: Ways of writing beside the counted one.
NOTATIONS: dict[str, _Way] = {
    "short": _Way(_why_not_short, _short),
    "long": _Way(_why_not_long, _long),
    "triplets": _Way(_why_not_triplets, _triplets),
    "compound": _Way(_why_not_compound, _compound),
    "swung_triplets": _Way(_why_not_swung_triplets, lambda score: _unswung(score, _TRIPLET)),
    "swung_dotted": _Way(_why_not_swung_dotted, lambda score: _unswung(score, _DOTTED)),
}


def in_notation(score: Score, notation: str) -> Score:
    """The score as it is written; BadScore in one sentence where that can't be."""
    if notation in ("", "counted"):
        return score
    if notation not in NOTATIONS:
        raise BadScore(
            f"“{shown(notation)}” is no way of writing; there are {', '.join(NOTATIONS)}."
        )
    if why_not := NOTATIONS[notation].why_not(score):
        raise BadScore(why_not)
    return NOTATIONS[notation].write(score)


def possible(score: Score) -> list[str]:
    """The ways of writing that this score allows, the counted one first."""
    return ["counted", *(name for name, way in NOTATIONS.items() if not way.why_not(score))]


def as_written(score: Score) -> Score:
    """The score in the way of writing chosen for it, without what was left out; as counted
    where that way is no longer possible (its bars may have changed since)."""
    score = score.played()
    try:
        return in_notation(score, score.notation)
    except BadScore:
        return score
