"""An SVG page as a reader sees it: what is drawn, where on the sheet, in the page's own units."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from lxml import etree

_SVG = "{http://www.w3.org/2000/svg}"
_HREF = "{http://www.w3.org/1999/xlink}href"
_NUMBERS = re.compile(r"-?\d*\.?\d+(?:e-?\d+)?")
_TRANSFORM = re.compile(r"(translate|scale)\(([^)]*)\)")

Matrix = tuple[float, float, float, float]  # x scale, y scale, x shift, y shift


@dataclass(frozen=True)
class Ink:
    """A drawn shape. groups: classes of the groups around it, outermost first, with their ids.
    box: left, top, right, bottom on the sheet. glyph: the SMuFL code of one."""

    groups: tuple[tuple[str, str], ...]
    shape: str
    box: tuple[float, float, float, float]
    glyph: str = ""

    @property
    def kind(self) -> str:
        return self.groups[-1][0] if self.groups else ""


def _then(m: Matrix, transform: str) -> Matrix:
    sx, sy, tx, ty = m
    for what, numbers in _TRANSFORM.findall(transform):
        n = [float(x) for x in _NUMBERS.findall(numbers)]
        a, b = n[0], n[1] if len(n) > 1 else (n[0] if what == "scale" else 0.0)
        if what == "translate":
            tx, ty = tx + sx * a, ty + sy * b
        else:
            sx, sy = sx * a, sy * b
    return sx, sy, tx, ty


def _numbers(element: etree._Element, *names: str) -> list[float]:
    return [float(_NUMBERS.findall(element.get(n, "0"))[0]) for n in names]


def _outline(path: str) -> list[tuple[float, float]]:
    """The corners and control points of a path."""
    at, points, start = (0.0, 0.0), [], (0.0, 0.0)
    for command, rest in re.findall(r"([MmLlHhVvCcSsQqTtZz])([^A-Za-z]*)", path):
        n = [float(x) for x in _NUMBERS.findall(rest)]
        relative = command.islower()
        if command in "Zz":
            at = start
        elif command in "Hh":
            for x in n:
                at = (x + at[0] * relative, at[1])
                points.append(at)
        elif command in "Vv":
            for y in n:
                at = (at[0], y + at[1] * relative)
                points.append(at)
        else:
            step = {"C": 6, "S": 4, "Q": 4}.get(command.upper(), 2)
            for k in range(0, len(n) - step + 1, step):
                pairs = [
                    (n[k + j] + at[0] * relative, n[k + j + 1] + at[1] * relative)
                    for j in range(0, step, 2)
                ]
                points += pairs
                at = pairs[-1]
                if command in "Mm" and k == 0:
                    start = at
    return points


def inks(svg: str) -> list[Ink]:
    """All shapes of a page that leave ink, in the order in which they are drawn."""
    root = etree.fromstring(svg.encode())
    glyphs = {g.get("id"): g for g in root.iter(f"{_SVG}g", f"{_SVG}symbol") if g.get("id")}

    def walk(e: etree._Element, m: Matrix, groups: tuple[tuple[str, str], ...]) -> Iterator[Ink]:
        tag = str(e.tag).removeprefix(_SVG)
        if tag in ("defs", "style", "title", "desc") or "display:none" in e.get("style", ""):
            return
        if e.get("visibility") == "hidden":
            return
        if tag == "svg" and e.getparent() is not None:
            x, y = _numbers(e, "x", "y")
            m = _then(m, f"translate({x} {y})")
            if e.get("viewBox"):
                _, _, wide, high = (float(v) for v in e.get("viewBox", "").split())
                if e.get("width") and not e.get("width", "").endswith("%"):
                    w, h = _numbers(e, "width", "height")
                    m = _then(m, f"scale({w / wide} {h / high})")
                else:
                    above = e.getparent()
                    w, h = _numbers(above, "width", "height")
                    frame = above.get("viewBox")
                    if frame:
                        w, h = (float(v) for v in frame.split()[2:])
                    m = _then(m, f"scale({w / wide} {h / high})")
        m = _then(m, e.get("transform", ""))
        if tag in ("g", "svg") and (e.get("class") or e.get("id")):
            groups = (*groups, (e.get("class", ""), e.get("id", "")))
        points: list[tuple[float, float]] = []
        if tag == "use":
            x, y = _numbers(e, "x", "y")
            m = _then(m, f"translate({x} {y})")
            name = e.get(_HREF, "").removeprefix("#")
            glyph = glyphs[name]
            for child in glyph.iter(f"{_SVG}path"):
                inner = _then(m, child.get("transform", ""))
                outline = _outline(child.get("d", ""))
                yield from _ink(outline, inner, groups, "glyph", name.removeprefix("g"))
            return
        if tag == "ellipse":
            cx, cy, rx, ry = _numbers(e, "cx", "cy", "rx", "ry")
            points = [(cx - rx, cy - ry), (cx + rx, cy + ry)]
        elif tag == "rect":
            x, y, w, h = _numbers(e, "x", "y", "width", "height")
            points = [(x, y), (x + w, y + h)]
        elif tag == "path":
            points = _outline(e.get("d", ""))
        elif tag in ("polygon", "polyline"):
            n = [float(v) for v in _NUMBERS.findall(e.get("points", ""))]
            points = list(zip(n[::2], n[1::2], strict=True))
        elif tag == "text":
            x, y = _numbers(e, "x", "y")
            if "".join(e.itertext()).strip():
                yield from _ink([(x, y)], m, groups, "text")
            return
        yield from _ink(points, m, groups, tag)
        for child in e:
            yield from walk(child, m, groups)

    def _ink(
        points: list[tuple[float, float]],
        m: Matrix,
        groups: tuple[tuple[str, str], ...],
        shape: str,
        glyph: str = "",
    ) -> Iterator[Ink]:
        if points:
            xs = [m[0] * x + m[2] for x, _ in points]
            ys = [m[1] * y + m[3] for _, y in points]
            yield Ink(groups, shape, (min(xs), min(ys), max(xs), max(ys)), glyph)

    return list(walk(root, (1.0, 1.0, 0.0, 0.0), ()))
