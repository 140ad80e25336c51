"""The legend of a page: the signs that occur on it, each drawn once, with how it is played."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from textwrap import wrap

from orchesis.engraving.block import Block
from orchesis.engraving.rows import set_text, text_width

#: What each sign is called, and how it is played.
WORDS = {
    "accent": "accent",
    "ghost": "ghost: very soft, from a low stick",
    "small_ghost": "small: a ghost, very soft, from a low stick",
    "flam": "flam: a soft stroke of the other hand just before",
    "drag": "drag: two soft strokes just before",
    "ruff": "ruff: three soft strokes just before",
    "buzz": "buzz: the stick pressed in",
    "diddle": "diddle: two strokes in its time",
    "drop": "an accent with its ghost behind it",
    "open": "open",
    "half": "half-open",
    "foot": "hat shut with the foot",
    "splash": "hat splashed with the foot: rings on",
    "choked": "stopped at once",
    "cross_stick": "cross-stick",
    "rimshot": "rimshot",
    "bell": "bell of the ride",
    "layer": "small: a layer of the recording, not played",
    "repeat": "the bar before once more",
}
_SIZE, _ROW, _CELL = 22.0, 34.0, 44.0
#: A head and its stem; the middle of the cell is 0, 0.
_STEM = '<path d="M7 0V-26" stroke="#000" stroke-width="2"/>'
_DOT = f'<ellipse cx="0" cy="0" rx="7.5" ry="5.5"/>{_STEM}'
_X = f'<path d="M-6-6L6 6M-6 6L6-6" stroke="#000" stroke-width="2"/>{_STEM}'
_LOW_X = '<path d="M-6-6L6 6M-6 6L6-6M6-4V22" stroke="#000" stroke-width="2"/>'
_DIAMOND = f'<path d="M0-8L8 0L0 8L-8 0Z"/>{_STEM}'


def _graces(count: int) -> str:
    step = 9
    heads = "".join(
        f'<ellipse cx="{-14 - step * k}" cy="2" rx="4.2" ry="3.2"/>'
        f'<path d="M{-10 - step * k} 2V-14" stroke="#000" stroke-width="1.4"/>'
        for k in range(count)
    )
    over = (
        '<path d="M-16-4L-4-14" stroke="#000" stroke-width="1.4"/>'
        if count == 1
        else f'<path d="M{-10 - step * (count - 1)}-14H-9" stroke="#000" stroke-width="2.6"/>'
    )
    return f"{heads}{over}{_DOT}"


_ACCENT = '<path d="M-8-38L8-34L-8-30" fill="none" stroke="#000" stroke-width="2"/>'
_DRAWN = {
    "accent": _ACCENT + _DOT,
    "ghost": '<path d="M-10-9Q-15 0-10 9M10-9Q15 0 10 9" fill="none" stroke="#000" '
    'stroke-width="1.6"/><ellipse cx="0" cy="0" rx="6" ry="4.5"/>',
    "flam": _graces(1),
    "drag": _graces(2),
    "ruff": _graces(3),
    "buzz": f'{_DOT}<path d="M2-20H12L2-10H12" fill="none" stroke="#000" stroke-width="2"/>',
    "diddle": f'{_DOT}<path d="M1-12L13-18" stroke="#000" stroke-width="3"/>',
    "drop": _ACCENT + _DOT,
    "open": f'{_X}<circle cx="0" cy="-36" r="5" fill="none" stroke="#000" stroke-width="1.8"/>',
    "half": f'{_X}<path d="M-6-36H6M0-42V-30" stroke="#000" stroke-width="1.8"/>',
    "foot": _LOW_X,
    "splash": f'{_LOW_X}<circle cx="0" cy="-18" r="5" fill="none" stroke="#000" '
    'stroke-width="1.8"/>',
    "choked": f'{_X}<path d="M-2-42H2L0-31Z"/>',
    "cross_stick": _X,
    "rimshot": f'{_DOT}<path d="M-11 8L11-8" stroke="#000" stroke-width="2"/>',
    "bell": _DIAMOND,
    "small_ghost": '<g transform="scale(.7)">' + _DOT + "</g>",
    "layer": '<g transform="scale(.6)">' + _DOT + "</g>",
    "repeat": '<path d="M-9 9L9-9" stroke="#000" stroke-width="5"/>'
    '<circle cx="-8" cy="-5" r="2.6"/><circle cx="8" cy="5" r="2.6"/>',
}


def said(sign: str, how_to: Mapping[str, str]) -> str:
    """What a sign is called and how it is played: by its writer's words, else by ours."""
    name = WORDS[sign].partition(":")[0]
    return f"{name}: {how_to[sign]}" if how_to.get(sign) else WORDS[sign]


@cache
def legend(signs: tuple[tuple[str, str], ...], width: float) -> Block:
    """The legend as a block of rows. signs: with what is said of each."""
    x, y = 0.0, 60.0
    parts, boxes = [], []
    letters = int((width - 2 * _CELL - 30) / text_width("x", _SIZE))
    for sign, text in signs:
        says, *more = wrap(text, letters)
        wide = 2 * _CELL + text_width(says, _SIZE) + 30
        if x and x + wide > width:
            x, y = 0.0, y + _ROW + 26
        parts.append(
            f'<g class="sign" transform="translate({x + _CELL:g} {y - 6:g})">{_DRAWN[sign]}</g>'
        )
        box = set_text(x + 1.6 * _CELL, y, says, _SIZE, "legend")
        boxes.append(box)
        parts.append(box.svg)
        x += wide
        for line in more:  # a writer's words may be longer than the page is wide
            y += _ROW
            parts.append(set_text(1.6 * _CELL, y, line, _SIZE, "legend").svg)
    line = f'<path d="M0 4H{width:g}" stroke="#000" stroke-width="1" opacity="0.4"/>'
    return Block(y + 20, line + "".join(parts), False, tuple(boxes))
