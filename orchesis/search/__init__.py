"""Where a figure is played again, moved, faster or slower, in one song or in all of them."""

from orchesis.search.figures import SCOPES, Figure, Index, Match, Rows, figure, index_of, rows

__all__ = ["SCOPES", "Figure", "Index", "Match", "Rows", "figure", "index_of", "rows"]
