"""Orchesis: transcribing the drum part of a recorded song.

The rooms, in the order of the flow: hearing -> reading -> score -> hands ->
engraving / sounding / formats. Imports run downward only (see pyproject.toml).
"""
