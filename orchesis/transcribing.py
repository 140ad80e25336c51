"""The whole way from a hearing to a first score: placing, hands, names of the sections."""

from __future__ import annotations

from dataclasses import replace

from orchesis.form import section_names
from orchesis.hands import with_limbs
from orchesis.hearing import Hearing
from orchesis.placing.place import place
from orchesis.score import Score


def transcribe(hearing: Hearing, *, title: str = "", artist: str = "") -> Score:
    """A first score of what was heard: every hit on a written place, in a limb's lane, and the
    sections by the names that the form proposes."""
    placed = place(hearing, title=title, artist=artist)
    placed = with_limbs(placed)
    proposed = section_names.names(placed, hearing.levels)
    named = (replace(s, name=n) for s, n in zip(placed.sections, proposed, strict=True))
    return replace(placed, sections=tuple(named))
