"""What stands round an engraved system: brackets and words above it, counts and sticking below.

Each kind has a row of its own, above or below all that was engraved, so that nothing collides with
notes; words of one row that would touch go to a further row. Units: tenths of a millimetre.
"""

from __future__ import annotations

from dataclasses import dataclass
from xml.sax.saxutils import escape

from orchesis.engraving.mei import counts_inside
from orchesis.engraving.systems import Engraved
from orchesis.page.model import System, Word

TEXT_FONT = "Atkinson Hyperlegible"
_WIDTH = 0.52  # of a letter, of its height
_GAP = 8.0
_UNDER_HANDS = 46.0  # from the left hand's line to the counts between hands and feet
_SIZES = {
    "count": 25.0,
    "uncounted": 25.0,
    "stick": 25.0,
    "spoken": 24.0,
    "cue": 25.0,
    "note": 25.0,
    "footnote": 22.0,
    "surface": 25.0,
    "bracket": 23.0,
    "number": 20.0,
}
_BELOW = (("stick",), ("count", "uncounted"), ("spoken",))
_ABOVE = (("footnote",), ("surface", "note", "cue"))
_ROW = 1.35  # height of a row, of its letters'


@dataclass(frozen=True)
class Box:
    """Something drawn: its frame and what it is."""

    x: float
    y: float
    width: float
    height: float
    kind: str
    svg: str


def text_width(text: str, size: float) -> float:
    return _WIDTH * size * len(text)


def set_text(
    x: float, y: float, text: str, size: float, kind: str, anchor: str = "start", weight: str = ""
) -> Box:
    """Words whose baseline lies at y."""
    wide = text_width(text, size)
    left = x - (wide / 2 if anchor == "middle" else wide if anchor == "end" else 0)
    bold = f' font-weight="{weight}"' if weight else ""
    svg = (
        f'<text class="{kind}" x="{x:.1f}" y="{y:.1f}" font-size="{size:g}px" '
        f'font-family="{TEXT_FONT}" text-anchor="{anchor}"{bold} xml:space="preserve">'
        f"{escape(text)}</text>"
    )
    return Box(left, y - 0.78 * size, wide, size, kind, svg)


def around(system: System, drawn: Engraved) -> tuple[list[Box], list[Box], float, float]:
    """(what stands above, what stands below, room above, room below the drawing). What stands
    above has y below 0; what stands below begins under the drawing's height, but for the counts of
    a limb chart, which stand between hands and feet."""
    above: list[Box] = [_number(system, drawn)] if system.bars[0].number else []
    room_above = _SIZES["number"] * _ROW * bool(above)
    rows = _brackets(system, drawn)
    rows += [r for kinds in _ABOVE for r in _rows(system, drawn, kinds)]
    for row in rows:
        size = max(b.height for b in row)
        above += [_moved(b, -room_above - 0.35 * size) for b in row]
        room_above += size * _ROW
    below: list[Box] = []
    room_below = _GAP
    for kinds in _BELOW:
        for row in _rows(system, drawn, kinds):
            size = max(b.height for b in row)
            if kinds[0] == "count" and counts_inside(system, len(drawn.lines)):
                below += [_moved(b, drawn.lines[1] + _UNDER_HANDS) for b in row]
                continue
            below += [_moved(b, drawn.height + room_below + 0.85 * size) for b in row]
            room_below += size * _ROW
    return above, below, room_above, room_below


def _number(system: System, drawn: Engraved) -> Box:
    """The number of the line's first bar."""
    size = _SIZES["number"]
    return set_text(0, -0.3 * size, str(system.bars[0].number), size, "number")


def _moved(box: Box, by: float) -> Box:
    return Box(
        box.x,
        box.y + by,
        box.width,
        box.height,
        box.kind,
        f'<g transform="translate(0 {by:.1f})">{box.svg}</g>',
    )


def _rows(system: System, drawn: Engraved, kinds: tuple[str, ...]) -> list[list[Box]]:
    """Words of some kinds in as few rows as keep them apart; baseline at 0."""
    words: list[tuple[float, Word]] = [
        (drawn.x(b.number, w.place, b.meter.beats), w)
        for b in system.bars
        for w in b.words
        if w.kind in kinds
    ]
    centred = kinds[0] in ("stick", "count", "footnote", "spoken")
    rows: list[list[Box]] = []
    for x, word in sorted(words, key=lambda p: p[0]):
        size = _SIZES[word.kind]
        anchor = "middle" if centred else "start"
        weight = "bold" if word.kind == "count" and word.text.isdigit() else ""
        box = set_text(x, 0, word.text, size, word.kind, anchor, weight)
        if not centred and box.x + box.width > drawn.width:
            box = set_text(drawn.width, 0, word.text, size, word.kind, "end")
        for row in rows:
            if row[-1].x + row[-1].width + (0 if centred else _GAP) <= box.x:
                row.append(box)
                break
        else:
            if centred and rows:
                continue  # a syllable that has no room is not printed; the beats always have
            rows.append([box])
    return rows


def _brackets(system: System, drawn: Engraved) -> list[list[Box]]:
    boxes: list[Box] = []
    size = _SIZES["bracket"]
    for b in system.bars:
        for bracket in b.brackets:
            x0 = drawn.x(b.number, bracket.start, b.meter.beats) - 12
            x1 = (
                drawn.edges[b.number][1] - 6
                if bracket.end >= b.meter.beats
                else drawn.x(b.number, bracket.end, b.meter.beats) - 24
            )
            words = set_text(x0 + 6, 0, bracket.text, size, "bracket")
            way = f"M{x0:.1f} 14V6H{x1:.1f}V14"
            line = f'<path d="{way}" fill="none" stroke="#000" stroke-width="2"/>'
            boxes.append(
                Box(x0, words.y, max(x1 - x0, words.width), size, "bracket", words.svg + line)
            )
    return [boxes] if boxes else []
