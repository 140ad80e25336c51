"""What touches on the pages of fifty bars that are hard to engrave."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

from materials.cases import page_bars
from orchesis import charting
from orchesis.engraving.pages import PAPERS, system_block
from orchesis.engraving.rows import Box
from orchesis.hands import with_limbs
from orchesis.page import Look, page_of


def touching(a: Box, b: Box) -> bool:
    """Whether two drawn things overlap (by more than a tenth of a millimetre)."""
    return (
        a.x < b.x + b.width - 1
        and b.x < a.x + a.width - 1
        and a.y < b.y + b.height - 1
        and b.y < a.y + a.height - 1
    )


def collisions() -> int:
    """Words, counts, sticking and brackets of the fifty bars that touch one another; notes lie
    between the rows above and below them."""
    score = with_limbs(page_bars.song())
    page = page_of(
        score, replace(Look(counts="all", sticking="all"), brackets=charting.fill_brackets(score))
    )
    return sum(
        touching(a, b)
        for system in page.systems
        for a, b in combinations(system_block(system, page, PAPERS["A4"].unit, 1860).boxes, 2)
    )
