"""Score -> pages: MEI for the engraver, SVG pages for the screen, PDF for the stand."""

from orchesis.engraving.mei import mei
from orchesis.engraving.pages import pdf, svg_pages

__all__ = ["mei", "pdf", "svg_pages"]
