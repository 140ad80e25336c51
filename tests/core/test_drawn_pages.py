"""What the page model and the MEI hold is drawn: on the SVG page, and as ink on the PDF's pixels."""

from __future__ import annotations

import re
from collections import Counter
from itertools import pairwise
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
from lxml import etree

from orchesis.charting import Wish, full, limbs, pages
from orchesis.engraving import pdf_of
from orchesis.engraving.mei import mei
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.score import Score
from orchesis.score.kit import loc_in
from tests.drawn import Ink, inks
from tests.random_bars import random_score

NS = "{http://www.music-encoding.org/ns/mei}"
SCALE = 2.0  # pixels of the PDF for each point of 1/72 inch


def in_mei(text: str) -> Counter[str]:
    """How often each thing that a reader has to see stands in an MEI document."""
    seen: Counter[str] = Counter()
    root = etree.fromstring(text.encode())
    for note in root.iter(f"{NS}note"):
        seen["head"] += 1
        is_chord = note.getparent().tag == f"{NS}chord"
        timed = note.getparent() if is_chord else note
        # The dots of a chord stand at each of its heads.
        seen["dot"] += int(timed.get("dots", 0))
        # One grace stands among the notes of any beam, two and three have a beam of their own.
        is_grouped = any(a.tag == f"{NS}graceGrp" for a in note.iterancestors())
        seen["flag"] += bool(note.get("grace")) and not is_grouped
        seen["ghost"] += note.get("head.mod") == "paren"
    for timed in root.iter(f"{NS}note", f"{NS}chord"):
        if timed.getparent().tag == f"{NS}chord" or timed.get("grace"):
            continue
        beams = [a for a in timed.iterancestors() if a.tag == f"{NS}beam"]
        seen["flag"] += not beams and int(timed.get("dur")) >= 8
        seen["stroked"] += timed.get("stem.mod") is not None
    for rest in root.iter(f"{NS}rest"):
        seen["rest"] += 1
        seen["dot"] += int(rest.get("dots", 0))
    seen["rest"] += sum(1 for _ in root.iter(f"{NS}mRest"))
    for tuplet in root.iter(f"{NS}tuplet"):
        is_seen = any(True for _ in tuplet.iter(f"{NS}note", f"{NS}rest"))
        seen["number"] += is_seen and tuplet.get("num.visible") != "false"
    seen["sign"] += sum(1 for _ in root.iter(f"{NS}artic"))
    return seen


def _within(ink: Ink, kind: str) -> bool:
    return any(kind in name.split() for name, _ in ink.groups)


def on_page(drawn: list[Ink]) -> Counter[str]:
    """The same, counted by what is drawn."""
    seen: Counter[str] = Counter()
    music = [i for i in drawn if _within(i, "engraved")]
    heads = [i for i in music if i.kind == "notehead" and i.shape == "glyph"]
    seen["ghost"] = sum(i.glyph == "E26A" for i in heads)  # the left bracket
    seen["head"] = sum(i.glyph not in ("E26A", "E26B") for i in heads)
    seen["dot"] = sum(i.kind == "dots" and i.shape == "ellipse" for i in music)
    seen["rest"] = sum(
        _within(i, "rest") or _within(i, "mRest") for i in music if i.shape == "glyph"
    )
    seen["stroked"] = sum(i.kind == "stem" and i.shape == "glyph" for i in music)
    # A sign has several glyphs where it has several digits; it counts once.
    for what, kind in (("flag", "flag"), ("number", "tupletNum"), ("sign", "artic")):
        seen[what] = len({i.groups for i in music if i.kind == kind and i.shape == "glyph"})
    return seen


@pytest.fixture(scope="module")
def score() -> Score:
    return random_score(11)


@pytest.fixture(scope="module", params=["full", "limbs"])
def wish(request) -> Wish:
    return Wish(request.param)


def test_all_that_the_mei_holds_is_drawn(score, wish):
    model = {"full": full, "limbs": limbs}[wish.view](score, wish)
    wanted: Counter[str] = Counter()
    for system in model.systems:
        wanted += in_mei(mei(system, model.staves))
    assert min(wanted[k] for k in ("head", "dot", "flag", "rest", "number", "sign", "ghost")) > 20
    found: Counter[str] = Counter()
    for page in pages(score, wish):
        found += on_page(inks(page))
    for what in ("head", "ghost", "dot", "rest", "flag", "number", "sign", "stroked"):
        assert found[what] == wanted[what], what


#: Share of a shape's box that is ink at the least: filled ones, and those of thin lines.
INK = {
    "dots": 0.5,
    "flag": 0.08,
    "rest": 0.15,
    "tupletNum": 0.12,
    "artic": 0.1,
    "notehead": 0.2,
    "stem": 0.3,
}


def test_all_that_is_drawn_is_ink_on_the_pdf(score, wish):
    sheets = pages(score, wish)
    document = pypdfium2.PdfDocument(pdf_of(sheets))
    assert len(document) == len(sheets)
    looked: Counter[str] = Counter()
    for sheet, page in zip(sheets, document, strict=True):
        pixels = np.asarray(page.render(scale=SCALE, grayscale=True).to_pil())
        ink = 1.0 - pixels.astype(float) / 255.0
        wide = float(re.findall(r'viewBox="0 0 ([\d.]+) ', sheet)[0])
        factor = pixels.shape[1] / wide
        for shape in inks(sheet):
            if shape.kind not in INK or not _within(shape, "engraved"):
                continue
            left, top, right, bottom = (factor * v for v in shape.box)
            rows = slice(int(top), max(int(np.ceil(bottom)), int(top) + 1))
            columns = slice(int(left), max(int(np.ceil(right)), int(left) + 1))
            here = ink[rows, columns]
            area = max((right - left) * (bottom - top), 1.0)
            assert here.sum() / area >= INK[shape.kind], (shape.kind, shape.box, shape.groups[-2:])
            looked[shape.kind] += 1
    assert min(looked[k] for k in INK if k != "stem") > 20, looked


def test_a_dotted_eighth_has_its_dot_in_sight():
    """A dotted 8th beamed to a 16th: the ink of its dot is right of its head, in the space."""
    score = count.read("snare: 1 1a 2 2a | 3\nkick: 1 2a 3")
    [sheet] = pages(score, Wish("full"))
    dots = [i for i in inks(sheet) if i.kind == "dots"]
    heads = [i for i in inks(sheet) if i.kind == "notehead"]
    assert len(dots) >= 2
    for dot in dots:
        assert any(
            0 < dot.box[0] - h.box[2] < 12 and abs(dot.box[1] - h.box[1]) < 16 for h in heads
        )


@pytest.mark.parametrize(
    "song", sorted((Path(__file__).parents[2] / "demo/songs").glob("*.count")), ids=lambda p: p.stem
)
def test_each_note_stands_in_its_bar_in_its_order_on_its_line(song):
    """Read note by note against the strokes: nothing missing, nothing in another bar or place."""
    score = with_limbs(count.read(song.read_text()))
    boxes = {}
    for page in pages(score, Wish("full")):
        for ink in inks(page):
            ids = [name for _, name in ink.groups if name.startswith("n-")]
            if ids and ink.kind == "notehead" and ink.glyph not in ("E26A", "E26B"):
                bar = next(name for _, name in ink.groups if name.startswith("bar-"))
                boxes[ids[0][2:]] = (bar, ink.box)
    assert set(boxes) == set(score.strokes)
    for bar in range(1, score.bar_count + 1):
        own = sorted(score.strokes_of(bar), key=lambda s: s.place)
        assert all(boxes[s.id][0] == f"bar-{bar}" for s in own)
        for a, b in pairwise(own):
            assert a.place == b.place or boxes[a.id][1][0] < boxes[b.id][1][0], (bar, a, b)
        heights = {}
        for s in own:
            _, top, _, bottom = boxes[s.id][1]
            heights.setdefault(loc_in("common", s.part), set()).add(round((top + bottom) / 2))
        lines = [heights[loc] for loc in sorted(heights)]
        assert all(max(h) - min(h) <= 1 for h in lines)
        assert all(min(low) >= max(high) for low, high in pairwise(lines)), bar
