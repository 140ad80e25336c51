"""What a person may leave out of a sheet, or say words on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from orchesis.score import Score
from orchesis.score.on_paper import USUAL, OnPaper, section_item
from orchesis.score.untrusted import printable


@dataclass(frozen=True)
class Item:
    """Something that stands on a sheet, or was left out. item: its key (score/on_paper.py)."""

    item: str
    name: str
    said: OnPaper


def section_items(score: Score) -> tuple[Item, ...]:
    """The sections, which chart, limb chart and counting sheet are made of."""
    keys = [(section_item(s.id), s.name) for s in score.sections]
    return tuple(Item(key, name, score.on_paper.get(key, USUAL)) for key, name in keys)


def hidden_bars(score: Score) -> frozenset[int]:
    """The bars of sections of which only the heading stands there."""
    return frozenset(
        b
        for s, i in zip(score.sections, section_items(score), strict=True)
        for b in range(s.first_bar, s.last_bar + 1)
        if not i.said.shown
    )


def words_on_sections(score: Score, headings: Mapping[int, str]) -> dict[int, str]:
    """Headings by first bar, with the words that a person says on the sections."""
    with_words = dict(headings)
    for s, i in zip(score.sections, section_items(score), strict=True):
        if i.said.words:
            lines = [with_words.get(s.first_bar, ""), printable(i.said.words)]
            with_words[s.first_bar] = ", ".join(filter(None, lines))
    return with_words
