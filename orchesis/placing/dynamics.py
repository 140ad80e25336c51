"""Ghost, normal, accent: classes over the measured loudness of a part within the song."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

import numpy as np

from orchesis.score import KIT, Stroke

_GHOST = 0.6
_ACCENT = 1.22
_HAVE_GHOSTS = ("snare", "rimshot", "tom_high", "tom_mid", "tom_low", "tom_floor")


def classed(strokes: Iterable[Stroke]) -> list[Stroke]:
    """The same strokes with their dynamic set.

    Ghost: a snare or tom stroke below 0.6 of its part's usual full stroke. Accent: above
    1.22 of the part's usual stroke.
    """
    given = list(strokes)
    masked = {(s.bar, s.place) for s in given if KIT[s.part].family == "drum" and s.part != "kick"}
    levels: dict[str, list[float]] = defaultdict(list)
    for s in given:
        levels[s.part].append(s.loudness)
    usual = {p: float(np.median(v)) for p, v in levels.items()}
    full = {p: float(np.percentile(v, 75)) for p, v in levels.items()}
    made = []
    for s in given:
        dynamic = "normal"
        if s.part in _HAVE_GHOSTS and s.loudness < _GHOST * full[s.part]:
            dynamic = "ghost"
        elif KIT[s.part].role == "time" and (s.bar, s.place) in masked:
            dynamic = "normal"  # a hand drum at the same moment hides how loud it was
        elif s.loudness > _ACCENT * max(usual[s.part], 0.45):
            dynamic = "accent"
        made.append(s.changed(dynamic=dynamic))
    return made
