"""Score -> page model: what stands on a page, decided once and exactly; every format spells it."""

from orchesis.page.build import page_of
from orchesis.page.look import Look
from orchesis.page.model import Page

__all__ = ["Look", "Page", "page_of"]
