"""MEI -> SVG pages (Verovio) -> PDF (typst): the same pages on screen and on paper."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from threading import Lock

import typst
import verovio

from orchesis.engraving.footnotes import Footnote, below
from orchesis.engraving.mei import mei
from orchesis.errors import OrchesisError
from orchesis.score import Score

FONTS = Path(__file__).parent / "fonts"
TEXT_FONT = "Atkinson Hyperlegible"
NOTE_FONT = "Orchesis Notes"
_A4 = (2100, 2970)  # tenths of a millimetre
_OPTIONS = {
    "font": "Bravura",
    "pageWidth": _A4[0],
    "pageHeight": _A4[1],
    "pageMarginLeft": 130,
    "pageMarginRight": 110,
    "pageMarginTop": 110,
    "pageMarginBottom": 110,
    "scale": 100,
    "unit": 8.0,
    "breaks": "line",
    "header": "encoded",
    "footer": "none",
    "beamMaxSlope": 0,
    "smuflTextFont": "none",
    "spacingSystem": 10,
    "spacingStaff": 6,
    "minLastJustification": 0.5,
    "justificationSystem": 1.0,
    "svgViewBox": True,
    "svgHtml5": False,
    "xmlIdSeed": 1,
    "mnumInterval": 0,
}
_RESOURCES = str(Path(verovio.__file__).parent / "data")
_engraver = Lock()


def svg_pages(score: Score, notes: Sequence[Footnote] = ()) -> list[str]:
    """The full chart, one SVG a page (A4), with its footnotes below the music."""
    return below(_pages(mei(score, notes)), notes, TEXT_FONT)


@lru_cache(maxsize=16)
def _pages(document: str) -> tuple[str, ...]:
    with _engraver:
        # The engraver keeps its default folder per thread: in a server's thread it has none.
        toolkit = verovio.toolkit(False)
        toolkit.setResourcePath(_RESOURCES)
        toolkit.setOptions(_OPTIONS)
        if not toolkit.loadData(document):
            raise OrchesisError("The engraver refused this chart; undo the last change.")
        count = toolkit.getPageCount()
        return tuple(_own_fonts(toolkit.renderToSVG(n)) for n in range(1, count + 1))


def _own_fonts(svg: str) -> str:
    """Letters and metronome notes in the fonts that ship with us, on screen and on paper."""
    svg = re.sub(r'font-family="[^"]*Times[^"]*"', f'font-family="{TEXT_FONT}"', svg)
    svg = svg.replace("font-family:Times,serif", f"font-family:{TEXT_FONT}")
    return svg.replace('font-family="Bravura"', f'font-family="{NOTE_FONT}"')


def pdf(score: Score, notes: Sequence[Footnote] = ()) -> bytes:
    """The same pages as a PDF."""
    with tempfile.TemporaryDirectory(prefix="orchesis-") as folder:
        here = Path(folder)
        lines = ["#set page(width: 210mm, height: 297mm, margin: 0mm)"]
        for n, page in enumerate(svg_pages(score, notes), 1):
            (here / f"p{n}.svg").write_text(page, encoding="utf-8")
            lines.append(f'#image("p{n}.svg", width: 210mm)')
        source = here / "chart.typ"
        source.write_text("\n".join(lines), encoding="utf-8")
        return typst.compile(str(source), font_paths=[str(FONTS)])
