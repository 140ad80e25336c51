"""Text that is spoken in the rhythm of a bar, like “KET-tle a-WAKE”: a syllable a stroke of its
figure."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.errors import BadScore
from orchesis.score.counting import place_text
from orchesis.score.kit import KIT
from orchesis.score.meter import Meter
from orchesis.score.stroke import Stroke
from orchesis.score.untrusted import shown

_SYLLABLE = re.compile(r"[^\W\d_]['’\w]*", re.UNICODE)
MAX_SYLLABLES = 32  # syllables of a bar


@dataclass(frozen=True)
class Syllable:
    """What is said on a stroke's place (felt beats from the bar's start)."""

    place: Fraction
    text: str
    is_stressed: bool


def syllables_of(text: str) -> list[str]:
    """Syllables between hyphens and spaces, capitals stressed. Raises BadScore for what is none."""
    syllables = [s.strip(",.!?;:") for s in re.split(r"[-\s]+", text.strip()) if s]
    wrong = next((s for s in syllables if not _SYLLABLE.fullmatch(s)), None)
    if wrong is not None:
        raise BadScore(f"“{shown(wrong)}” can't be spoken as a syllable.")
    if len(syllables) > MAX_SYLLABLES:
        raise BadScore(f"A bar holds {MAX_SYLLABLES} syllables at the most.")
    return syllables


def figure(strokes: Sequence[Stroke]) -> list[tuple[Fraction, bool]]:
    """What of a bar is spoken: the places of the figure, and whether each asks for a stress. The
    figure is all but what keeps the time and the left foot; of a bar that has nothing else, the
    time."""
    strokes_of_figure = [s for s in strokes if KIT[s.part].role != "time" and s.limb != "LF"]
    stresses: dict[Fraction, bool] = {}
    for s in strokes_of_figure or strokes:
        strong = s.dynamic == "accent" or (s.place.denominator == 1 and s.dynamic != "ghost")
        stresses[s.place] = stresses.get(s.place, False) or strong
    return sorted(stresses.items())


def spoken(text: str, strokes: Sequence[Stroke], meter: Meter) -> list[Syllable]:
    """A text on the strokes of a bar. Raises BadScore where it has more or fewer syllables."""
    syllables = syllables_of(text)
    places = figure(strokes)
    if len(syllables) != len(places):
        at = " ".join(place_text(p, meter) for p, _ in places)
        raise BadScore(
            f"“{shown(text)}” has {len(syllables)} syllables, "
            f"the figure {len(places)} strokes ({at})."
        )
    return [
        Syllable(place, s.lower() if s.isupper() else s, s.isupper())
        for s, (place, _) in zip(syllables, places, strict=True)
    ]


def as_words(text: str, syllables: Sequence[Syllable]) -> list[tuple[str, list[Syllable]]]:
    """The words of a text with the syllables of each: what a voice says in one breath."""
    words, at = [], 0
    for word in text.split():
        count = len(syllables_of(word))
        words.append(
            (word.replace("-", "").strip(",.!?;:").lower(), list(syllables[at : at + count]))
        )
        at += count
    return words
