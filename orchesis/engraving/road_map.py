"""The road map as blocks of a page: each section's name and length, its groove, what is said."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from textwrap import wrap

from orchesis.engraving.pages import (
    Block,
    Paper,
    paper_of,
    sheets,
    system_block,
    title_block,
)
from orchesis.engraving.rows import Box, set_text, text_width
from orchesis.page.model import Page
from orchesis.score.moments import clock_text

_NAME, _SAID, _LINE = 36.0, 28.0, 29.0
_MUSIC = 0.5  # share of the width that a groove takes, of one or two bars
_GAP = 30.0
_RHYTHM, _RHYTHM_WIDTH = 0.6, 520.0  # of a rhythm's own staff: its size, its width


@dataclass(frozen=True)
class RoadBlock:
    """A section as it is set: groove: its bars as a page of one system, None where it is told by
    an earlier one. lines: (text, whether it is loud, its rhythm as a page of one bar)."""

    name: str
    seconds: float
    bars: int
    shape: str
    like: str
    groove: Page | None
    lines: Sequence[tuple[str, bool, Page | None]]


def road_map_pages(page: Page, sections: Sequence[RoadBlock], paper: str = "A4") -> list[str]:
    """page: for its title and tempo."""
    sheet = paper_of(paper)
    width = sheet.width - 2 * sheet.margin
    return sheets(list(_blocks(page, sections, sheet, width)), sheet, page.title)


def _blocks(
    page: Page, sections: Sequence[RoadBlock], sheet: Paper, width: float
) -> Iterator[Block]:
    yield title_block(page, width)
    for section in sections:
        yield _section(section, sheet, width)


def _section(s: RoadBlock, sheet: Paper, width: float) -> Block:
    y = 14 + _NAME
    name = set_text(16, y, s.name, _NAME, "section", weight="bold")
    count = f"{s.bars} bar{'s' * (s.bars != 1)}"
    x = 16 + name.width + 26
    length = set_text(
        x,
        y,
        f"{count} = {s.shape}" if s.shape else count,
        _NAME,
        "length",
        weight="bold" if s.shape else "",
    )
    rest = [clock_text(s.seconds)] + ([f"as {s.like}"] if s.like else [])
    words = set_text(width, y, ", ".join(rest), _SAID, "said", "end")
    rule = f'<path d="M0 6H{width:g}" stroke="#000" stroke-width="1.4"/>'
    boxes: list[Box] = [name, length, words]
    parts = [rule, *(b.svg for b in boxes)]
    top = y + 22
    left, height = 16.0, 0.0
    if s.groove is not None:
        bars = len(s.groove.systems[0].bars)
        room = width if bars > 2 else _MUSIC * width
        block = system_block(s.groove.systems[0], s.groove, 0.85 * sheet.unit, room)
        parts.append(f'<g transform="translate(0 {top:.1f})">{block.svg}</g>')
        height = block.height
        if bars > 2:
            top, height = top + block.height - 10, 0.0
        else:
            left = room + _GAP
    y = 18.0
    for text, loud, rhythm in _wrapped(s.lines, width - left):
        line = set_text(left, top + y, text, _LINE, "line", weight="bold" if loud else "")
        parts.append(line.svg)
        boxes.append(line)
        y += _LINE * 1.35
        height = max(height, y + 6)
        if rhythm is not None:
            drawn = system_block(rhythm.systems[0], rhythm, _RHYTHM * sheet.unit, _RHYTHM_WIDTH)
            at = f"translate({left + 20:.1f} {top + y - 24:.1f})"
            parts.append(f'<g class="rhythm" transform="{at}">{drawn.svg}</g>')
            y += drawn.height
            height = max(height, y - 18)
    return Block(top + height + 6, "".join(parts), False, tuple(boxes))


def _wrapped(
    lines: Sequence[tuple[str, bool, Page | None]], width: float
) -> Iterator[tuple[str, bool, Page | None]]:
    """Lines broken where they are too long; a rhythm stands under the last of its lines."""
    letters = max(20, int(width / text_width("x", _LINE)))
    for text, loud, rhythm in lines:
        parts = wrap(text, letters, subsequent_indent="   ")
        for n, part in enumerate(parts, 1):
            yield part, loud, rhythm if n == len(parts) else None
