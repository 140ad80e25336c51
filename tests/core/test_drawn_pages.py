"""What the page model and the MEI hold is drawn: on the SVG page, and as ink on the PDF's pixels."""

from __future__ import annotations

import random
import re
from collections import Counter
from fractions import Fraction

import numpy as np
import pypdfium2
import pytest
from lxml import etree

from orchesis.charting import Wish, full, limbs, pages
from orchesis.engraving import pdf_of
from orchesis.engraving.mei import mei
from orchesis.score import Meter, PulseMap, Score, Section, Stroke
from orchesis.score.stroke import CLASS_LOUDNESS
from tests.drawn import Ink, inks

BARS = 200
METERS = ("4/4", "3/4", "6/8", "7/8", "12/8", "2/4", "5/4", "9/8")
#: Parts of a beat; the dotted figures of 16ths and 8ths come from leaving most of a grid empty.
GRIDS = (1, 2, 2, 3, 4, 4, 4, 5, 6, 8)
HANDS = ("snare", "snare", "hat_closed", "hat_open", "hat_half", "ride", "ride_bell", "crash",
         "tom_high", "tom_floor", "cross_stick", "rimshot", "cowbell", "china")  # fmt: skip
FEET = ("kick", "kick", "hat_foot", "hat_splash")
NS = "{http://www.music-encoding.org/ns/mei}"
SCALE = 2.0  # pixels of the PDF for each point of 1/72 inch


def random_score(seed: int, bars: int = BARS) -> Score:
    """Bars that nobody would play, of every sign that a page knows."""
    rng = random.Random(seed)
    meters: list[Meter] = []
    while len(meters) < bars:
        meters += [Meter.parse(rng.choice(METERS))] * rng.randint(4, 9)
    meters = meters[:bars]
    strokes: dict[str, Stroke] = {}
    for bar, meter in enumerate(meters, 1):
        fullness = rng.choice((0.2, 0.35, 0.6, 0.9))
        for beat in range(meter.beats):
            grid = rng.choice(GRIDS)
            for k in range(grid):
                place = Fraction(beat) + Fraction(k, grid)
                picks = [
                    *((p, rng.choice(("RH", "LH"))) for p in rng.sample(HANDS, rng.randint(1, 2))
                      if rng.random() < fullness),
                    *((p, "LF" if p.startswith("hat") else "RF") for p in rng.sample(FEET, 1)
                      if rng.random() < fullness / 2),
                ]  # fmt: skip
                for part, limb in dict(picks).items():
                    dynamic = rng.choice(("ghost", "normal", "normal", "accent"))
                    ornament = rng.choice(("flam", "drag", "ruff", "buzz", "diddle")) if (
                        limb in ("RH", "LH") and rng.random() < 0.12) else None  # fmt: skip
                    key = f"s{len(strokes)}"
                    strokes[key] = Stroke(
                        key, bar, place, part, limb, dynamic, CLASS_LOUDNESS[dynamic],
                        ornament=ornament, choked="crash" in part and rng.random() < 0.3,
                    )  # fmt: skip
    pulse = PulseMap.even(96, sum(m.beats for m in meters))
    return Score(tuple(meters), pulse, strokes, (Section("a", "A", "A", 1, bars),))


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
INK = {"dots": 0.5, "flag": 0.08, "rest": 0.15, "tupletNum": 0.12, "artic": 0.1, "notehead": 0.2,
       "stem": 0.3}  # fmt: skip


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
    from orchesis.formats import count

    score = count.read("snare: 1 1a 2 2a | 3\nkick: 1 2a 3")
    [sheet] = pages(score, Wish("full"))
    dots = [i for i in inks(sheet) if i.kind == "dots"]
    heads = [i for i in inks(sheet) if i.kind == "notehead"]
    assert len(dots) >= 2
    for dot in dots:
        assert any(
            0 < dot.box[0] - h.box[2] < 12 and abs(dot.box[1] - h.box[1]) < 16 for h in heads
        )
