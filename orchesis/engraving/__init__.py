"""Page model -> pages: MEI for the engraver a system at a time, SVG pages, PDF, PNG."""

from orchesis.engraving.pages import PAPERS, drawn_alone, pdf_of, png_of, svg_pages

__all__ = ["PAPERS", "drawn_alone", "pdf_of", "png_of", "svg_pages"]
