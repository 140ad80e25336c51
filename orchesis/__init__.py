"""Orchesis: transcribing the drum part of a recorded song.

The rooms, in the order of the flow: hearing -> placing -> score -> meaning, hands ->
engraving / sounding / formats; correcting makes new scores of what a person changes. Imports
run downward only (see pyproject.toml).
"""
