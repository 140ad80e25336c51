"""The page model -> SVG pages -> PDF and PNG: the same pages on screen and on paper.

A page is a column of blocks (title, headings, systems, legend, footnotes) that are placed from top
to bottom; a heading stays with what follows it. PDF and PNG are the SVG pages, placed by typst.
Units: tenths of a millimetre.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from textwrap import wrap
from typing import Literal

import typst

from orchesis.engraving.block import Block
from orchesis.engraving.legend import legend, said
from orchesis.engraving.rows import TEXT_FONT, around, set_text, text_width
from orchesis.engraving.systems import engraved
from orchesis.errors import BadScore
from orchesis.page.model import Heading, Page, System
from orchesis.score.moments import clock_text

FONTS = Path(__file__).parent / "fonts"
NOTE_FONT = "Orchesis Notes"


@dataclass(frozen=True)
class Paper:
    """width, height, margin: as wide as they are set, in tenths of a millimetre. unit: half the
    distance of two staff lines. larger: by how much it is printed larger than it is set."""

    width: float
    height: float
    margin: float
    unit: float
    larger: float = 1.0


PAPERS = {
    "A4": Paper(2100, 2970, 120, 8.0),
    "letter": Paper(2159, 2794, 120, 8.0),
    "tablet": Paper(1500, 2000, 60, 8.0),
    # Large print, to be read from a stand two metres away.
    "A4 large": Paper(1400, 1980, 70, 8.0, 1.5),
    "letter large": Paper(1439, 1863, 70, 8.0, 1.5),
}
_SYSTEM_GAP, _HEADING, _TITLE, _SMALL = 26.0, 34.0, 62.0, 26.0
_FOOT = 22.0
_NOTES = {
    "quarter": "\ueca5",
    "dotted": "\ueca5\u2009\uecb7",
    "eighth": "\ueca7",
    "half": "\ueca3",
    "16th": "\ueca9",
}


def paper_of(name: str) -> Paper:
    """The paper of that name; BadScore where there is none."""
    if name not in PAPERS:
        raise BadScore(f"There is no paper “{name}”; there are {', '.join(PAPERS)}.")
    return PAPERS[name]


def svg_pages(page: Page, paper: str = "A4") -> list[str]:
    """The page model as one SVG a page."""
    sheet = paper_of(paper)
    width = sheet.width - 2 * sheet.margin
    return sheets(list(_blocks(page, sheet, width)), sheet, page.title)


def sheets(blocks: Sequence[Block], sheet: Paper, title: str) -> list[str]:
    """Blocks on as many sheets as they take; later ones bear the title in small."""
    columns = _paginated(blocks, sheet)
    return [
        _sheet(column, sheet, title if n else "", n + 1, len(columns))
        for n, column in enumerate(columns)
    ]


def _blocks(page: Page, sheet: Paper, width: float) -> Iterator[Block]:
    yield title_block(page, width)
    for system in page.systems:
        if system.heading is not None:
            heading = heading_block(system.heading, width)
            yield replace(heading, begins_page=system.begins_page, keeps=bool(system.bars))
        if not system.bars:
            yield Block(_SYSTEM_GAP, "")
            continue
        yield system_block(system, page, sheet.unit, width)
    if page.signs:
        yield legend(tuple((s, said(s, dict(page.how_to))) for s in page.signs), width)
    for n, line in enumerate(_footnotes(page.footnotes)):
        yield Block(
            _SMALL * 1.3 + (12 if n == 0 else 0),
            set_text(0, _SMALL + (12 if n == 0 else 0), line, _SMALL, "foot").svg,
        )


def title_block(page: Page, width: float) -> Block:
    name = set_text(width / 2, _TITLE, page.title, _TITLE, "title", "middle")
    artist = set_text(width, _TITLE + 40, page.artist, 30, "artist", "end")
    note = (
        f'<text x="0" y="{_TITLE + 40:.0f}" font-size="34px" font-family="{NOTE_FONT}">'
        f"{_NOTES[page.beat]}</text>"
    )
    wide = 34 if page.beat == "dotted" else 24
    tempo = set_text(wide, _TITLE + 40, f"= {page.tempo}", 30, "tempo", weight="bold")
    y = _TITLE + 60.0
    boxes = [name, artist, tempo]
    letters = int(width / text_width("x", _SMALL))
    for line in (part for text in page.words for part in wrap(text, letters) or [""]):
        y += _SMALL * 1.35
        boxes.append(set_text(0, y, line, _SMALL, "line"))
    y += 12.0 if page.words else 0.0
    return Block(y, note + "".join(b.svg for b in boxes), True, tuple(boxes))


def heading_block(heading: Heading, width: float) -> Block:
    """A section's name, its moment and length, on a line of its own above the system."""
    y = 24 + _HEADING
    name = set_text(16, y, heading.name, _HEADING, "section", weight="bold")
    bars = f"{heading.bars} bar{'s' * (heading.bars != 1)}"
    when = "" if heading.seconds is None else clock_text(heading.seconds)
    says = ", ".join(filter(None, [when, bars, heading.note]))
    rest = set_text(16 + name.width + 24, y, says, _SMALL, "said")
    mark = f'<rect x="0" y="{y - 26:.0f}" width="6" height="32"/>'
    boxes = [name, rest]
    letters = int((width - 16) / text_width("x", _SMALL))
    for line in (part for text in heading.lines for part in wrap(text, letters)):
        y += _SMALL * 1.35
        boxes.append(set_text(16, y, line, _SMALL, "line"))
    return Block(y + 10, mark + "".join(b.svg for b in boxes), True, tuple(boxes))


def system_block(system: System, page: Page, unit: float, width: float) -> Block:
    """A system with all that stands round it."""
    labels = any(label for label, _ in page.staves)
    left = 64.0 if labels else 0.0
    drawn = engraved(system, page, (width - left) * system.share, unit)
    above, below, top, bottom = around(system, drawn)
    frame = (
        f'<svg class="engraved" x="0" y="0" width="{drawn.width:g}" height="{drawn.height:g}" '
        f'viewBox="0 0 {drawn.width:g} {drawn.height:g}" overflow="visible">{drawn.drawing}</svg>'
    )
    names = ""
    if labels:
        names = "".join(
            set_text(-14, y + 10, label, 28, "limb", "end", "bold").svg
            for y, (label, _) in zip(drawn.lines, page.staves, strict=False)
        )
    body = frame + names + "".join(b.svg for b in (*above, *below))
    boxes = (*above, *below)
    return Block(
        top + drawn.height + bottom + _SYSTEM_GAP,
        f'<g transform="translate({left:g} {top:.1f})">{body}</g>',
        False,
        boxes,
        system.begins_page and system.heading is None,
    )


def drawn_alone(page: Page, paper: str = "A4") -> str:
    """The systems of a page as one picture of their own: no title, no legend, no margins."""
    sheet = paper_of(paper)
    width = sheet.width - 2 * sheet.margin
    parts, y = [], 0.0
    for system in page.systems:
        block = system_block(replace(system, heading=None, share=1.0), page, sheet.unit, width)
        parts.append(f'<g transform="translate(0 {y:.1f})">{block.svg}</g>')
        y += block.height
    return _svg("".join(parts), width, y)


def _svg(body: str, width: float, height: float) -> str:
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '
        f'class="sheet" viewBox="0 0 {width:g} {height:g}">'
        f"<style>{_STYLE}</style>{_once(_own_fonts(body))}</svg>"
    )


def _footnotes(notes: Sequence[str]) -> list[str]:
    lines: list[str] = []
    for note in notes:
        lines += wrap(note, 120, subsequent_indent="    ")
    return lines


def _paginated(blocks: Sequence[Block], sheet: Paper) -> list[list[Block]]:
    """Blocks by page; a block that keeps goes over with the one behind it."""
    room = sheet.height - 2 * sheet.margin - _FOOT
    pages: list[list[Block]] = [[]]
    used = 0.0
    n = 0
    while n < len(blocks):
        together = [blocks[n]]
        while together[-1].keeps and n + len(together) < len(blocks):
            together.append(blocks[n + len(together)])
        height = sum(b.height for b in together)
        if used and (used + height > room or any(b.begins_page for b in together)):
            pages.append([])
            used = 40.0  # the head of a later page
        pages[-1] += together
        used += height
        n += len(together)
    return pages


def _sheet(blocks: Sequence[Block], sheet: Paper, title: str, number: int, of: int) -> str:
    y = sheet.margin
    parts = []
    if title:
        parts.append(set_text(sheet.margin, y, title, _SMALL, "head").svg)
        y += 40.0
    slack = sheet.height - sheet.margin - _FOOT - y - sum(b.height for b in blocks)
    # A page that is nearly full is filled; a short one stays short.
    gaps = max(1, len(blocks) - 1)
    more = slack / gaps if 0 < slack < 0.22 * sheet.height and number < of else 0.0
    for b in blocks:
        parts.append(f'<g transform="translate({sheet.margin:g} {y:.1f})">{b.svg}</g>')
        y += b.height + (0 if b.keeps else more)
    if of > 1:
        parts.append(
            set_text(
                sheet.width - sheet.margin,
                sheet.height - sheet.margin + _FOOT,
                f"{number} of {of}",
                _SMALL,
                "folio",
                "end",
            ).svg
        )
    return _svg("".join(parts), sheet.width, sheet.height)


#: Lines are drawn in the colour of the page's ink.
_STYLE = (
    ",".join(f".engraved {shape}" for shape in ("ellipse", "path", "polygon", "polyline", "rect"))
    + "{stroke:currentColor}"
)
_GLYPH = re.compile(r'<g id="([0-9A-F]{4}-[^"]+)">.*?</g>', re.DOTALL)


def _once(body: str) -> str:
    """Every glyph defined once a page, whatever system it was engraved with."""
    seen: dict[str, str] = {}

    def take(match: re.Match[str]) -> str:
        seen.setdefault(match[1].split("-")[0], match[0])
        return ""

    rest = re.sub(r"<defs>(.*?)</defs>", lambda d: _GLYPH.sub(take, d[0]), body, flags=re.DOTALL)
    glyphs = {code: re.sub(r'id="[^"]+"', f'id="g{code}"', g, count=1) for code, g in seen.items()}
    rest = re.sub(r'href="#([0-9A-F]{4})-[^"]+"', r'href="#g\1"', rest)
    return f"<defs>{''.join(glyphs.values())}</defs>{rest}"


def _own_fonts(svg: str) -> str:
    """Letters and metronome notes in the fonts that ship with us, on screen and on paper."""
    svg = re.sub(r'font-family="[^"]*Times[^"]*"', f'font-family="{TEXT_FONT}"', svg)
    svg = svg.replace("font-family:Times,serif", f"font-family:{TEXT_FONT}")
    return svg.replace('font-family="Bravura"', f'font-family="{NOTE_FONT}"')


def pdf_of(pages: Sequence[str], paper: str = "A4") -> bytes:
    """SVG pages as one PDF."""
    [document] = _typeset(pages, paper, "pdf")
    return document


def png_of(pages: Sequence[str], paper: str = "A4", dots: float = 110.0) -> list[bytes]:
    """SVG pages as PNG pictures, one a page. dots: an inch."""
    return _typeset(pages, paper, "png", dots)


def _typeset(
    pages: Sequence[str], paper: str, kind: Literal["pdf", "png"], dots: float = 110.0
) -> list[bytes]:
    sheet = paper_of(paper)
    width, height = (x * sheet.larger / 10 for x in (sheet.width, sheet.height))
    with tempfile.TemporaryDirectory(prefix="orchesis-") as folder:
        here = Path(folder)
        lines = [f"#set page(width: {width}mm, height: {height}mm, margin: 0mm)"]
        for n, page in enumerate(pages, 1):
            (here / f"p{n}.svg").write_text(page, encoding="utf-8")
            lines.append(f'#image("p{n}.svg", width: {width}mm)')
        source = here / "chart.typ"
        source.write_text("\n".join(lines), encoding="utf-8")
        files = typst.compile(str(source), font_paths=[str(FONTS)], format=kind, ppi=dots)
        return list(files) if isinstance(files, list) else [files]
