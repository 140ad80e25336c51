"""One system, engraved: its drawing, how high it is, and where every place of every bar lies.

Verovio engraves a system at a time; what was engraved before is kept by its MEI, so that an edit of
one bar costs one system. Units: tenths of a millimetre.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from threading import Lock, local

import verovio
from cachetools import LRUCache

from orchesis.engraving.mei import mei
from orchesis.errors import OrchesisError
from orchesis.page.model import Bar, Page, System

_OPTIONS = {
    "font": "Bravura",
    "pageHeight": 6000,
    "pageMarginLeft": 0,
    "pageMarginRight": 0,
    "pageMarginTop": 0,
    "pageMarginBottom": 0,
    "scale": 100,
    "breaks": "encoded",
    "header": "none",
    "footer": "none",
    "adjustPageHeight": True,
    "minLastJustification": 0,
    "beamMaxSlope": 0,
    "smuflTextFont": "none",
    "spacingStaff": 5,
    "svgViewBox": True,
    "svgHtml5": False,
    "xmlIdSeed": 1,
    "mnumInterval": 0,
}
_RESOURCES = str(Path(verovio.__file__).parent / "data")
_engraver, _own = Lock(), local()
#: What was drawn, by its MEI document, width and unit.
_drawn: LRUCache[tuple[str, int, float], Engraved] = LRUCache(400)
_drawing = Lock()
verovio.enableLog(verovio.LOG_ERROR)  # one system has no line breaks: it says so each time
_SCALE = 10  # of the engraver's own units in ours
#: A note's head and where it stands; the id of a note; bars.
_HEAD = re.compile(
    r'<g id="n-(?P<id>[^"]+)" class="note[^"]*">.*?<use [^>]*translate\((?P<x>-?[\d.]+), '
    r"(?P<y>-?[\d.]+)\)",
    re.DOTALL,
)
_REST = re.compile(r'class="rest"[^>]*>\s*<use [^>]*translate\((-?[\d.]+), ')
_MEASURE = re.compile(r'<g id="bar-(\d+)" class="measure">')
_LINE = re.compile(r'<path d="M(-?\d+) (-?\d+) L(-?\d+) \2"')
#: The engraver's own style, and the ellipses that this style hides. Other ellipses are dots.
_STYLE = re.compile(r"<style.*?</style>", re.DOTALL)
_PLACEHOLDER = re.compile(r'(<g [^>]*class="[^"]*\bplaceholder\b[^"]*"[^>]*>\s*)<ellipse[^>]*/>')
#: One that is empty closes itself.
_LEDGERS = re.compile(
    r'<g [^>]*class="ledgerLines[^"]*"[^>]*(?:/>|(?<!/)>(?:\s*<path[^>]*/>)*\s*</g>)'
)
_HEAD_WIDTH = 19.0  # of half a black head, tenths of a millimetre


@dataclass(frozen=True)
class Engraved:
    """drawing: SVG without its frame. x_of: by bar, the middles of heads and rests by place;
    edges: by bar, where its staff begins and ends. lines: of the first bar's staves, from
    above."""

    drawing: str
    width: float
    height: float
    x_of: dict[int, dict[Fraction, float]]
    edges: dict[int, tuple[float, float]]
    lines: tuple[float, ...]

    def smaller(self, by: float) -> Engraved:
        """The same at a share of its size: the drawing itself fills whatever frame it has."""
        return Engraved(
            self.drawing,
            by * self.width,
            by * self.height,
            {b: {p: by * x for p, x in xs.items()} for b, xs in self.x_of.items()},
            {b: (by * left, by * right) for b, (left, right) in self.edges.items()},
            tuple(by * y for y in self.lines),
        )

    def x(self, bar: int, place: Fraction, beats: int) -> float:
        """Where a place of a bar lies, also one on which nothing sounds."""
        places = self.x_of[bar]
        if place in places:
            return places[place]
        left, right = self.edges[bar]
        before = [(p, x) for p, x in places.items() if p < place]
        after = [(p, x) for p, x in places.items() if p > place]
        p0, x0 = max(before, default=(Fraction(0), left + 4 * _HEAD_WIDTH))
        p1, x1 = min(after, default=(Fraction(beats), right))
        if p1 == p0:
            return x0
        return x0 + (x1 - x0) * float((place - p0) / (p1 - p0))


def engraved(system: System, page: Page, width: float, unit: float) -> Engraved:
    """width: of the system; unit: half the distance of two staff lines (both in tenths of a
    millimetre)."""
    document = mei(system, page.staves)
    key = (document, round(width), unit)
    with _drawing:
        drawn = _drawn.get(key)
    if drawn is None:
        drawn = _draw(document, system, page, width, unit)
        with _drawing:
            _drawn[key] = drawn
    return drawn


def _draw(document: str, system: System, page: Page, width: float, unit: float) -> Engraved:
    svg, smaller = _engrave(document, round(width), unit), 1.0
    if svg.count('class="system"') > 1:  # the engraver breaks a line that is too full for it
        svg = _engrave(document, round(width), unit, "none")
        smaller = min(1.0, width / _size(svg)[0])
    if all(lines == 1 for _, lines in page.staves):
        svg = _LEDGERS.sub("", svg)  # a head above a single line hangs on nothing
    drawn = _read(svg, system)
    return drawn if smaller == 1.0 else drawn.smaller(smaller)


def _toolkit() -> verovio.toolkit:
    """This thread's engraver, made once: it keeps its folder per thread, and making it takes as
    long as half a system."""
    toolkit = getattr(_own, "toolkit", None)
    if toolkit is None:
        toolkit = _own.toolkit = verovio.toolkit(False)
        toolkit.setResourcePath(_RESOURCES)
    return toolkit


def _engrave(document: str, width: int, unit: float, breaks: str = "encoded") -> str:
    with _engraver:
        toolkit = _toolkit()
        toolkit.setOptions({**_OPTIONS, "pageWidth": width, "unit": unit, "breaks": breaks})
        if not toolkit.loadData(document):
            raise OrchesisError("The engraver refused this chart; undo the last change.")
        return str(toolkit.renderToSVG(1))


def _size(svg: str) -> tuple[float, float]:
    """Width and height of what was engraved."""
    width, height = re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', svg)[0]
    return float(width), float(height)


def _read(svg: str, system: System) -> Engraved:
    width, height = _size(svg)
    svg = _PLACEHOLDER.sub(r"\1", _STYLE.sub("", svg))
    inner = (
        svg[svg.index("<defs>") : svg.rindex("</svg>")]
        if "<defs>" in svg
        else (svg[svg.index(">") + 1 : svg.rindex("</svg>")])
    )
    places = {
        h.id: (b.number, e.place)
        for b in system.bars
        if not b.is_repeat
        for staff in b.staves
        for v in staff.voices
        for beam in v.beams
        for e in beam.events
        for h in e.heads
    }
    x_of: dict[int, dict[Fraction, float]] = {b.number: {} for b in system.bars}
    for match in _HEAD.finditer(svg):
        if match["id"] in places:
            bar, place = places[match["id"]]
            x = float(match["x"]) / _SCALE + _HEAD_WIDTH / 2
            x_of[bar][place] = min(x, x_of[bar].get(place, x))
    marks = [(int(m[1]), m.end()) for m in _MEASURE.finditer(svg)]
    edges: dict[int, tuple[float, float]] = {}
    ys: tuple[float, ...] = ()
    silent = {b.number: _rests(b) for b in system.bars}
    for n, (bar, at) in enumerate(marks):
        end = marks[n + 1][1] if n + 1 < len(marks) else len(svg)
        rests = [float(x) / _SCALE + _HEAD_WIDTH / 2 for x in _REST.findall(svg, at, end)]
        if len(rests) == len(silent[bar]):
            for place, x in zip(silent[bar], rests, strict=True):
                x_of[bar].setdefault(place, x)
        lines = _LINE.findall(svg, at, end)
        if lines:
            edges[bar] = (float(lines[0][0]) / _SCALE, float(lines[0][2]) / _SCALE)
            ys = ys or tuple(sorted({float(line[1]) / _SCALE for line in lines}))
    return Engraved(inner, width, height, x_of, edges, ys)


def _rests(bar: Bar) -> list[Fraction]:
    """The places of the rests that are seen in a bar, in the order in which they are drawn."""
    if bar.is_repeat:
        return []
    return [
        e.place
        for staff in bar.staves
        for v in staff.voices
        if any(e.heads for b in v.beams for e in b.events)
        for b in v.beams
        for e in b.events
        if not e.heads and e.silence == "rest"
    ]
