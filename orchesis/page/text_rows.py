"""The rows of words round a bar: counts, words to say, sticking."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from fractions import Fraction

from orchesis.errors import BadScore
from orchesis.page.look import Look
from orchesis.page.model import (
    Bracket,
    Word,
)
from orchesis.page.voices import FEET
from orchesis.score import Meter, Stroke
from orchesis.score.counting import words
from orchesis.score.rhythm_text import spoken as spoken_on

_HARD = 4  # parts of a beat from which on a bar is hard to count


def counts_of(strokes: Sequence[Stroke], meter: Meter, look: Look) -> list[Word]:
    """The count row of a bar: what sounds is spoken, the beats always stand there."""
    if look.counts == "none" or not strokes:
        return []
    grids = [s.place.denominator for s in strokes]
    if look.counts == "hard" and max(grids) < _HARD:
        return []
    struck = {s.place for s in strokes}
    places = struck | {Fraction(b) for b in range(meter.beats)}
    counts = []
    for place in sorted(places):
        text = count_word(place, struck, meter, look.counting)
        if text:
            counts.append(Word(place, text, "count" if place in struck else "uncounted"))
    return counts


def spoken_row(text: str, strokes: Sequence[Stroke], meter: Meter) -> list[Word]:
    """Rhythm words under the notes; none where the bar was changed so that they fit no more."""
    try:
        syllables = spoken_on(text, strokes, meter) if text else []
    except BadScore:
        return []
    return [Word(s.place, s.text.upper() if s.is_stressed else s.text, "spoken") for s in syllables]


def count_word(
    place: Fraction, struck: set[Fraction], meter: Meter, school: str = "letters"
) -> str:
    """What is said at a place of a bar; "" where nobody says anything there."""
    beat, inside = int(place), place % 1
    if inside == 0:
        return str(beat + 1)
    grid = max((p % 1).denominator for p in struck if int(p) == beat)
    at = inside * grid
    if at.denominator != 1:  # two divisions in one beat
        grid, at = inside.denominator, Fraction(inside.numerator)
    return words(grid, meter.is_compound, school)[int(at)]


def sticking_of(strokes: Sequence[Stroke], brackets: Sequence[Bracket], look: Look) -> list[Word]:
    """The hands' letters under them; both at once: B, or both letters of another language."""
    if look.sticking == "none":
        return []
    letters_by_place: dict[Fraction, set[str]] = defaultdict(set)
    for s in strokes:
        inside = any(b.start <= s.place < b.end for b in brackets)
        if s.limb not in FEET and s.doubt != "layer" and (look.sticking == "all" or inside):
            letters_by_place[s.place].add(s.limb[0])
    both = "B" if look.letters == "RL" else look.letters
    letter_of = {"R": look.letters[0], "L": look.letters[1]}
    return [
        Word(place, letter_of.get("".join(hands), both), "stick")
        for place, hands in sorted(letters_by_place.items())
    ]
