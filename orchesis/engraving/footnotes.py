"""Footnotes of a chart: what was decided of single strokes, numbered where it stands."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from textwrap import wrap
from xml.sax.saxutils import escape

from orchesis.errors import BadScore
from orchesis.score import Score
from orchesis.score.decision import Decision
from orchesis.score.notation import in_notation

_LINE = 105  # letters of a footnote's line
_HEIGHT, _SIZE = 420, 300  # of a line and its letters, in the page's own units
_LEFT, _BELOW, _FOOT = 1300, 1500, 1300
_STAFF_LINE = re.compile(r'<path d="M\d+ (\d+) L\d+ \1"')


@dataclass(frozen=True)
class Footnote:
    """A numbered mark over a place of a written bar, and its words."""

    number: int
    bar: int
    place: Fraction
    text: str


def footnotes(score: Score, decisions: Sequence[tuple[Decision, str]]) -> list[Footnote]:
    """Decisions as footnotes of the score in its way of writing, in the order of the bars.

    score: with what was left out, as counted; its strokes tell where the marks go. decisions:
    each with its words.
    """
    try:
        written = in_notation(score, score.notation)
    except BadScore:
        written = score
    strokes = written.strokes
    known = [(strokes[d.stroke], says) for d, says in decisions if d.stroke in strokes]
    known.sort(key=lambda pair: (pair[0].bar, pair[0].place))
    return [Footnote(n, s.bar, s.place, says) for n, (s, says) in enumerate(known, 1)]


def lines(notes: Sequence[Footnote]) -> list[str]:
    """The footnotes' text, broken into lines."""
    made: list[str] = []
    for note in notes:
        made += wrap(f"{note.number}) {note.text}", _LINE, subsequent_indent="    ")
    return made


def below(pages: Sequence[str], notes: Sequence[Footnote], font: str) -> list[str]:
    """The pages with the footnotes below the last system, on a page of their own if need be."""
    text = lines(notes)
    if not text or not pages:
        return list(pages)
    *before, last = pages
    height = float(re.findall(r'viewBox="0 0 [\d.]+ ([\d.]+)"', last)[-1])
    bottom = max((int(y) for y in _STAFF_LINE.findall(last)), default=0) + 1100 + _BELOW
    if bottom + _HEIGHT * len(text) + _FOOT <= height:
        return [*before, _with(last, text, bottom, font)]
    empty = re.sub(r'<g class="page-margin".*</g>', "<g/>", last, flags=re.DOTALL)
    made = list(pages)
    room = int((height - 2 * _FOOT) / _HEIGHT)
    for k in range(0, len(text), room):
        made.append(_with(empty, text[k : k + room], _FOOT, font))
    return made


def _with(page: str, text: Sequence[str], top: float, font: str) -> str:
    rows = "".join(
        f'<text x="{_LEFT}" y="{top + _HEIGHT * n:.0f}" font-size="{_SIZE}px" '
        f'font-family="{font}" xml:space="preserve">{escape(row)}</text>'
        for n, row in enumerate(text)
    )
    end = page.rindex("</svg>")
    inner = page.rindex("</svg>", 0, end) if page.count("</svg>") > 1 else end
    return f'{page[:inner]}<g class="footnotes">{rows}</g>{page[inner:]}'
