"""Beats and bars as arithmetic: shared by hearing and by corrections of the pulse."""
