"""Rhythm words: a figure spoken before it is played, a syllable a stroke.

A rule of the trade: what can be said in rhythm can be played in rhythm. A stressed syllable falls
on a beat or on an accent, an unstressed one elsewhere; the same figure is always the same word. A
text is written like “KET-tle a-WAKE”: syllables between hyphens and spaces, capitals stressed.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import cache
from pathlib import Path

from orchesis.errors import BadScore
from orchesis.score import Meter, Stroke
from orchesis.score.counting import place_text
from orchesis.score.rhythm_text import figure, spoken

_FILE = Path(__file__).parent / "words.txt"
_MAX_SYLLABLES = 6  # syllables of a word


@cache
def word_list() -> tuple[str, ...]:
    """The words that ship with us."""
    lines = _FILE.read_text(encoding="utf-8").splitlines()
    return tuple(line.strip() for line in lines if line.strip() and not line.startswith("#"))


def propose(strokes: Sequence[Stroke], ones_own: Sequence[str] = ()) -> str:
    """A text for the figure of a bar. own: a teacher's words, which go before ours."""
    row = figure(strokes)
    if not row:
        raise BadScore("There is nothing to speak in this bar.")
    words = [w for w in (*ones_own, *word_list()) if w]
    proposed: list[str] = []
    word_of: dict[tuple[object, ...], str] = {}
    for group in _groups(row):
        shape = (tuple(p - int(group[0][0]) for p, _ in group), tuple(s for _, s in group))
        if shape not in word_of:
            word_of[shape] = _fitting([s for _, s in group], words, set(word_of.values()))
        proposed.append(word_of[shape])
    return " ".join(proposed)


def _groups(row: Sequence[tuple[Fraction, bool]]) -> list[list[tuple[Fraction, bool]]]:
    """Strokes that one word says: those of a beat; a single stroke just before a beat leads in."""
    groups: list[list[tuple[Fraction, bool]]] = []
    for place, strong in row:
        last = groups[-1] if groups else []
        is_near = last and place - last[-1][0] <= Fraction(1, 2)
        leads_in = is_near and len(last) == 1 and last[0][0].denominator > 1
        same_beat = last and int(last[0][0]) == int(place)
        if last and len(last) < _MAX_SYLLABLES and (same_beat or leads_in):
            last.append((place, strong))
        else:
            groups.append([(place, strong)])
    return groups


def _fitting(stresses: list[bool], words: Sequence[str], taken: set[str]) -> str:
    """The first word of as many syllables whose stresses lie nearest; words that say another figure
    already come later."""

    def cost(word: str) -> tuple[int, bool]:
        stresses_of_word = [s.isupper() for s in word.split("-")]
        return (sum(a != b for a, b in zip(stresses_of_word, stresses, strict=True)), word in taken)

    candidates = [w for w in words if len(w.split("-")) == len(stresses)]
    if candidates:
        return min(candidates, key=cost)
    half = len(stresses) // 2
    return f"{_fitting(stresses[:half], words, taken)} {_fitting(stresses[half:], words, taken)}"


def against(text: str, strokes: Sequence[Stroke], meter: Meter) -> list[str]:
    """Where the stresses of a text and of the figure differ, a sentence each; none is a fault."""
    sentences = []
    for s, (place, strong) in zip(spoken(text, strokes, meter), figure(strokes), strict=True):
        where = place_text(place, meter)
        if s.is_stressed and not strong and place.denominator > 2:
            sentences.append(f"“{s.text}” on {where} is stressed, its stroke is not.")
        elif strong and not s.is_stressed:
            sentences.append(f"The stroke on {where} is strong, “{s.text}” is not.")
    return sentences
