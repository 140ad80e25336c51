"""Every view of a song as pages."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis import engraving
from orchesis.charting.excerpts import excerpts
from orchesis.charting.items import Item, hidden_bars, section_items, words_on_sections
from orchesis.charting.limbs import limbs
from orchesis.charting.look import look_of
from orchesis.charting.road_map import road_map_of
from orchesis.charting.stages import stage_sheet, stages_of
from orchesis.charting.variations import variation_items, variations
from orchesis.charting.wish import PLAIN, Wish
from orchesis.engraving.counting import counting_pages
from orchesis.engraving.mei import document as mei_document
from orchesis.errors import BadScore
from orchesis.page import Page, page_of
from orchesis.page.model import Word
from orchesis.score import Score
from orchesis.score.decision import Decision
from orchesis.score.notation import as_written, in_notation
from orchesis.score.untrusted import printable


@dataclass(frozen=True)
class Sheets:
    """svg: one a page. signs: of SIGNS that occur on them (none told of a road map). items: what a
    person may leave out there, or say words on."""

    svg: list[str]
    signs: tuple[str, ...] = ()
    items: tuple[Item, ...] = ()


def sheets(
    score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()
) -> Sheets:
    """The pages of a score. score: as it is counted, with what was left out. decisions: that are
    printed as footnotes, each with its words."""
    if wish.view == "road-map":
        return Sheets(road_map_of(score, wish))
    if wish.view == "counting":
        page = full(score, replace(wish, brackets=False))
        pages = counting_pages(as_written(score), page, wish.counting, wish.paper)
        return Sheets(pages, page.signs, section_items(score))
    if wish.view == "variations":
        varied = variation_items(score)
        page = variations(score, wish, varied)
        varied_items = tuple(Item(v.item, f"{v.name}, {v.says}", v.said) for v in varied)
        return Sheets(engraving.svg_pages(page, wish.paper), page.signs, varied_items)
    views: dict[str, Callable[[], Page]] = {
        "full": lambda: full(score, wish, decisions),
        "limbs": lambda: limbs(score, wish),
        "excerpts": lambda: excerpts(score, wish),
        "stages": lambda: stage_sheet(score, stages_of(score), wish),
    }
    page = _headed(views[wish.view](), wish)
    items = section_items(score) if wish.view in ("full", "limbs") else ()
    return Sheets(engraving.svg_pages(page, wish.paper), page.signs, items)


def _headed(page: Page, wish: Wish) -> Page:
    """A page under the title of its lesson, the song beside it, with the teacher's words."""
    if wish.title and wish.title != page.title:
        song = ", ".join(filter(None, [page.title, page.artist]))
        page = replace(page, title=printable(wish.title), artist=song)
    return replace(page, words=tuple(printable(p) for p in wish.words.splitlines()))


def pages(
    score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()
) -> list[str]:
    """The pages of a score as SVG."""
    return sheets(score, wish, decisions).svg


def pdf(score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()) -> bytes:
    """The same pages as a PDF."""
    return engraving.pdf_of(pages(score, wish, decisions), wish.paper)


def mei(score: Score, wish: Wish = PLAIN) -> bytes:
    """The full chart as an MEI document: every bar, whatever the pages leave out."""
    return mei_document(full(replace(score, on_paper={}), wish)).encode()


def full(score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()) -> Page:
    """Every bar."""
    written = as_written(score)
    numbered = _numbered(score, decisions)
    look = look_of(score, written, wish)
    by_bar: dict[int, list[Word]] = defaultdict(list)
    for n, (bar, place, _) in enumerate(numbered, 1):
        by_bar[bar].append(Word(place, f"{n})", "footnote"))
    notes = [f"{n}) {text}" for n, (_, _, text) in enumerate(numbered, 1)]
    look = replace(
        look,
        words={b: tuple(w) for b, w in by_bar.items()},
        hidden=hidden_bars(written),
        headings=words_on_sections(written, look.headings),
    )
    return page_of(written, look, notes)


def _numbered(
    score: Score, decisions: Sequence[tuple[Decision, str]]
) -> list[tuple[int, Fraction, str]]:
    """Decisions where they stand in the way of writing, in the order of the bars: (bar, place,
    words)."""
    try:
        written = in_notation(score, score.notation)
    except BadScore:
        written = score
    strokes = written.strokes
    footnotes = [(strokes[d.stroke], says) for d, says in decisions if d.stroke in strokes]
    return sorted(((s.bar, s.place, says) for s, says in footnotes), key=lambda n: n[:2])
