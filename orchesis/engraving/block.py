"""A block of a page: pages are columns of them."""

from __future__ import annotations

from dataclasses import dataclass

from orchesis.engraving.rows import Box


@dataclass(frozen=True)
class Block:
    """height: that it takes; svg: drawn from its own top left corner. keeps: with the block behind
    it. begins_page: on a new page. boxes: what is drawn, for who counts collisions."""

    height: float
    svg: str
    keeps: bool = False
    boxes: tuple[Box, ...] = ()
    begins_page: bool = False
