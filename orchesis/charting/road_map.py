"""The road map: what a substitute needs, on a page."""

from __future__ import annotations

from dataclasses import replace

from orchesis.charting.look import small, unnumbered
from orchesis.charting.wish import Wish
from orchesis.engraving.road_map import RoadBlock, road_map_pages
from orchesis.explanations.road_map import RoadLine, RoadSection, road_map
from orchesis.page import Look, Page, page_of
from orchesis.page.build import rhythm_page
from orchesis.page.model import System
from orchesis.score import Score


def road_map_of(score: Score, wish: Wish) -> list[str]:
    """Its pages as SVG."""
    blocks = [
        RoadBlock(
            r.name,
            r.seconds,
            r.bars,
            r.shape,
            r.like,
            _groove(r, score),
            [(line.text, line.is_loud, _rhythm(line)) for line in r.lines],
        )
        for r in road_map(score)
    ]
    return road_map_pages(page_of(score.played(), Look(bars=(1, 1))), blocks, wish.paper)


def _rhythm(line: RoadLine) -> Page | None:
    return rhythm_page(**vars(line.rhythm)) if line.rhythm is not None else None


def _groove(r: RoadSection, score: Score) -> Page | None:
    """A groove's core as a page of one system."""
    if not r.core:
        return None
    meter = score.meters[r.first_bar - 1]
    core = small(r.core, [meter] * r.length, score)
    page = page_of(core, Look(bars_a_line=r.length, width=1e9))
    return unnumbered(replace(page, systems=(System(page.systems[0].bars),)))
