"""Every view of a song as pages: what stands on them is gathered here from meaning and hands."""

from orchesis.charting.excerpts import excerpts
from orchesis.charting.items import Item
from orchesis.charting.limbs import limbs, stretches
from orchesis.charting.look import fill_brackets
from orchesis.charting.sheets import Sheets, full, mei, pages, pdf, sheets
from orchesis.charting.stages import StagePart, stage_sheet, stage_staff, stages_of
from orchesis.charting.variations import variation_items, variations
from orchesis.charting.wish import COUNTS, PLAIN, STICKINGS, VIEWS, Wish, bars_text, name_of

__all__ = [
    "COUNTS",
    "PLAIN",
    "STICKINGS",
    "VIEWS",
    "Item",
    "Sheets",
    "StagePart",
    "Wish",
    "bars_text",
    "excerpts",
    "fill_brackets",
    "full",
    "limbs",
    "mei",
    "name_of",
    "pages",
    "pdf",
    "sheets",
    "stage_sheet",
    "stage_staff",
    "stages_of",
    "stretches",
    "variation_items",
    "variations",
]
