"""Score -> pages: MEI for the engraver, SVG pages for the screen, PDF for the stand."""

from orchesis.engraving.footnotes import footnotes
from orchesis.engraving.mei import mei
from orchesis.engraving.pages import pdf, svg_pages

__all__ = ["footnotes", "mei", "pdf", "svg_pages"]
