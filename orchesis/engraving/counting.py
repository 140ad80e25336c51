"""The counting sheet: the spine on paper, large, for people who do not read notes.

A lane a limb, hands above the count row and feet below it; heads by their outline and letter, what
is said spelled out where something sounds.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from xml.sax.saxutils import escape

from orchesis.engraving.block import Block
from orchesis.engraving.pages import Paper, heading_block, paper_of, sheets, title_block
from orchesis.engraving.rows import set_text
from orchesis.page.model import Heading, Page
from orchesis.page.text_rows import count_word
from orchesis.score import KIT, Score, Stroke
from orchesis.score.shapes import SHAPES
from orchesis.score.stroke import NOBODYS

BARS_A_ROW = 2
_LANES = {"RH": 50.0, "LH": 100.0, "RF": 194.0, "LF": 244.0}
_COUNT, _HEIGHT, _LABEL = 156.0, 284.0, 60.0
_SCALE = 1.45
_PAD = 34.0  # before a bar's first beat


def counting_pages(score: Score, page: Page, school: str, paper: str = "A4") -> list[str]:
    """score: as it is written. page: for its title and headings."""
    sheet = paper_of(paper)
    return sheets(list(_blocks(score, page, school, sheet)), sheet, page.title)


def _blocks(score: Score, page: Page, school: str, sheet: Paper) -> Iterator[Block]:
    width = sheet.width - 2 * sheet.margin
    yield title_block(page, width)
    headings: dict[int, Heading] = {
        s.heading.first_bar: s.heading for s in page.systems if s.heading is not None
    }
    alone = {s.heading.first_bar for s in page.systems if s.heading is not None and not s.bars}
    narrow = width < 1500
    for section in score.sections:
        if section.first_bar in headings:
            yield heading_block(headings[section.first_bar], width)
        if section.first_bar in alone:
            continue
        step = 1 if narrow else BARS_A_ROW
        for first in range(section.first_bar, section.last_bar + 1, step):
            bars = range(first, min(first + step, section.last_bar + 1))
            yield _row(score, bars, school, width, step)


def _row(score: Score, bars: range, school: str, width: float, size: int) -> Block:
    each = (width - _LABEL) / size
    end = _LABEL + each * len(bars)
    parts = []
    for limb, y in _LANES.items():
        parts.append(set_text(_LABEL - 16, y + 9, limb, 26, "limb", "end", "bold").svg)
        parts.append(f'<path d="M{_LABEL}{_y(y)}H{end:.0f}" stroke="#000" stroke-width="1.2"/>')
    for k, bar in enumerate(bars):
        parts += _bar(score, bar, school, _LABEL + k * each, each)
    last = f'<path d="M{end:.0f} 10V{_HEIGHT - 14:g}" stroke="#000" stroke-width="2.4"/>'
    return Block(_HEIGHT, "".join([*parts, last]))


def _y(y: float) -> str:
    return f" {y:g}"


def _bar(score: Score, bar: int, school: str, left: float, width: float) -> list[str]:
    meter = score.meters[bar - 1]
    strokes = [s for s in score.strokes_of(bar) if s.doubt not in NOBODYS]
    unit = (width - _PAD) / meter.beats

    def x(place: Fraction) -> float:
        return left + _PAD + float(place) * unit

    parts = [
        f'<path d="M{left:.0f} 10V{_HEIGHT - 14:g}" stroke="#000" stroke-width="2.4"/>',
        set_text(left + 5, 12, str(bar), 18, "number").svg,
    ]
    struck = {s.place for s in strokes}
    for place in sorted(struck | {Fraction(b) for b in range(meter.beats)}):
        word = count_word(place, struck, meter, school)
        if word:
            is_beat = place.denominator == 1
            size = 36 if is_beat else 28
            parts.append(
                set_text(
                    x(place),
                    _COUNT + 10,
                    word,
                    size,
                    "count",
                    "middle",
                    "bold" if place in struck and is_beat else "",
                ).svg
            )
    return parts + [_head(s, x(s.place)) for s in strokes]


def _head(s: Stroke, x: float) -> str:
    shape = SHAPES[KIT[s.part].shape]
    hollow = shape.is_hollow or s.dynamic == "ghost"
    dash = ' stroke-dasharray="3 2.4"' if s.dynamic == "ghost" else ""
    fill, ink = ("#fff", "#000") if hollow else ("#000", "#fff")
    y = _LANES[s.limb]
    size = {"ghost": 0.82, "accent": 1.15}.get(s.dynamic, 1.0) * _SCALE
    extra = (
        f'<path d="{shape.extra}" fill="none" stroke="#000" stroke-width="2"/>'
        if shape.extra
        else ""
    )
    accent = (
        '<path d="M-18-12V12M18-12V12" stroke="#000" stroke-width="2.4"/>'
        if s.dynamic == "accent"
        else ""
    )
    word = {"flam": "f", "drag": "d", "ruff": "u", "buzz": "z", "diddle": "i"}.get(s.ornament or "")
    sign = (
        f'<text x="15" y="-8" font-size="12px" font-family="Atkinson Hyperlegible">{word}</text>'
        if word
        else ""
    )
    letter = (
        f'<text y="{shape.letter_y}" font-size="12px" font-weight="bold" text-anchor="middle" '
        f'font-family="Atkinson Hyperlegible" fill="{ink}">{escape(KIT[s.part].letter)}</text>'
    )
    return (
        f'<g transform="translate({x:.1f} {y:g}) scale({size:.2f})">'
        f'<path d="{shape.path}" fill="{fill}" stroke="#000" stroke-width="1.6"{dash}/>'
        f"{extra}{letter}{accent}{sign}</g>"
    )
