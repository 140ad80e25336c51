"""What the API gives of pages."""

from __future__ import annotations

from config.answers import Answer


class ChartFile(Answer):
    """lost: what the format can't hold of this song."""

    ending: str
    name: str
    lost: list[str]


class LegendSign(Answer):
    """A sign of the pages and how the legend says it is played where its writer says nothing."""

    sign: str
    says: str


class SheetItem(Answer):
    """Something that stands on the pages, or was left out by hand. item: its key. words: the
    transcriber's, beside it."""

    item: str
    name: str
    shown: bool
    words: str


class Stretch(Answer):
    """A section, or a groove where it is most like itself. first, last: its bars."""

    name: str
    first: int
    last: int


class Chart(Answer):
    """signs: that occur on the pages. items: what may be left out there or said words on.
    stretches: what a limb chart may hold instead of the whole song. decisions: what was decided of
    single strokes, in words. bars: seconds of each written bar, and of the end. files: formats that
    it can be taken as, beside PDF."""

    version: int
    decisions: list[str]
    pages: list[str]
    signs: list[LegendSign]
    items: list[SheetItem]
    stretches: list[Stretch]
    bars: list[float]
    notation: str
    notations: list[str]
    files: list[ChartFile]
    breaks: dict[str, str]
