"""The heads of the spine: told apart by outline, then by letter; colour only helps.

Each is an SVG path round 0, 0, about 28 wide; extra: drawn over it as a line; is_hollow: not
filled; letter_y: the baseline of its letter. On the screen and on paper they are the same.
"""

from __future__ import annotations

from typing import NamedTuple


class Shape(NamedTuple):
    path: str
    is_hollow: bool = False
    letter_y: int = 4
    extra: str = ""


_LENS = "M-13 0Q0-11 13 0Q0 11-13 0Z"
_SMALL_DISC = "M-9 0A9 9 0 1 0 9 0A9 9 0 1 0-9 0Z"

SHAPES: dict[str, Shape] = {
    "barrel": Shape("M-10-8H10V8H-10Z", extra="M-12-8H12M-12 8H12"),
    "disc": Shape("M-10 0A10 10 0 1 0 10 0A10 10 0 1 0-10 0Z"),
    "disc_bar": Shape(_SMALL_DISC, True, extra="M-15 9L15-9"),
    "disc_ring": Shape(
        _SMALL_DISC, extra="M-12.5 0A12.5 12.5 0 1 0 12.5 0A12.5 12.5 0 1 0-12.5 0Z"
    ),
    "lens": Shape(_LENS),
    "lens_half": Shape(_LENS, extra="M-9-9Q0-14 9-9"),
    "lens_open": Shape(_LENS, True, extra="M-11-8Q0-18 11-8"),
    "dish": Shape("M-14 7L0-9L14 7Z", letter_y=5),
    "dish_bell": Shape("M-14 7L-5-3A5 5 0 0 1 5-3L14 7Z", True, 5, "M-4-10H4"),
    "burst": Shape("M0-13L3.5-6L11-9L8-2L14 3L7 5L6 12L0 8L-6 12L-7 5L-14 3L-8-2L-11-9L-3.5-6Z"),
    "bowl": Shape("M-14-7L0 9L14-7L8-4L0-6L-8-4Z", letter_y=3),
    "keg": Shape("M-6-10H6L11 0L6 10H-6L-11 0Z"),
    "gem": Shape("M0-11L9 0L0 11L-9 0Z", True),
}
