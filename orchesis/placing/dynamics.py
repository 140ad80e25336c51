"""Ghost, normal, accent: classes over the measured loudness of a part within the song."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from fractions import Fraction

import numpy as np

from orchesis.score import KIT, Stroke

_GHOST = 0.6
_HAVE_GHOSTS = ("snare", "rimshot", "tom_high", "tom_mid", "tom_low", "tom_floor")
#: Shares of a part's usual loudness. A stroke stands out from the first on, if the strokes at its
#: place of the bars around reach the second; or it reaches the second where these stand out. A
#: backbeat is accented more often than anything else; the hand's own pulse on a hat reaches 1.25.
#: Chosen on the tuning songs, where of the accents written on hats .72 are right, not .43.
_SNARE, _OTHERS = (1.22, 1.12), (1.35, 1.2)
#: From this share on a stroke is meant, whatever the bars around say.
_MEANT = 1.5
_AROUND, _FEWEST = 8, 3  # bars to either side, and strokes without which nothing is borne out
_SOFT_PART = 0.45  # a part that is played softer is measured against this


def classed(strokes: Iterable[Stroke]) -> list[Stroke]:
    """The same strokes with their dynamic set.

    Ghost: a snare or tom stroke below 0.6 of its part's usual full stroke. Accent: one that stands
    out from its part's usual stroke, as others do at its place of the bars around, or by far; a
    lone stroke a little louder than its like is chance, and a chart that marks it can't be read.
    """
    given = list(strokes)
    hidden = {(s.bar, s.place) for s in given if KIT[s.part].family == "drum" and s.part != "kick"}
    levels: dict[str, list[float]] = defaultdict(list)
    at: dict[tuple[str, Fraction], list[Stroke]] = defaultdict(list)
    heard = [s for s in given if KIT[s.part].role != "time" or (s.bar, s.place) not in hidden]
    for s in given:
        levels[s.part].append(s.loudness)
    for s in heard:  # a hand drum at the same moment hides how loud a hat or ride was
        at[s.part, s.place].append(s)
    usual = {p: max(float(np.median(v)), _SOFT_PART) for p, v in levels.items()}
    full = {p: float(np.percentile(v, 75)) for p, v in levels.items()}

    def stands_out(s: Stroke) -> bool:
        share = s.loudness / usual[s.part]
        others = [o.loudness for o in at[s.part, s.place] if 0 < abs(o.bar - s.bar) <= _AROUND]
        is_snare = s.part in ("snare", "rimshot")
        high, low = _SNARE if is_snare else _OTHERS
        if share > _MEANT:
            return True
        if len(others) < _FEWEST:
            return is_snare and share > high
        around = float(np.median(others)) / usual[s.part]
        return max(share, around) > high and min(share, around) > low

    accented = {s.id for s in heard if stands_out(s)}
    hits_classed = []
    for s in given:
        is_ghost = s.part in _HAVE_GHOSTS and s.loudness < _GHOST * full[s.part]
        dynamic = "ghost" if is_ghost else "accent" if s.id in accented else "normal"
        hits_classed.append(s.changed(dynamic=dynamic))
    return hits_classed
