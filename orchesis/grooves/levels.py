"""Levels of simplification that keep the song recognisable, from the core of its grooves.

1 skeleton: kick and backbeat of the core. 2: the time with it, fills in 8ths. 3: ghosts. 4: what
comes in some bars only, and ornaments. 5: everything.
"""

from __future__ import annotations

from fractions import Fraction

from orchesis import fills, grooves
from orchesis.hands import with_limbs
from orchesis.score import KIT, Score, Stroke

LEVELS = ("skeleton", "time", "ghosts", "options and ornaments", "everything")
_GHOSTS, _OPTIONS, FULL = 3, 4, 5


def at_level(score: Score, level: int) -> Score:
    """The song at a level, 1 to 5; limbs that no person chose are solved anew."""
    if level >= FULL:
        return score
    played = score.played()
    in_fill = {s.id for span in fills.find(played) for s in fills.inside(played, span)}
    optional = _optional(score)
    kept: list[Stroke] = []
    for s in score.strokes.values():
        if s.id in in_fill:
            keeps = _in_fill(s, level)
        else:
            keeps = _in_groove(s, level) and (level >= _OPTIONS or s.id not in optional)
        if keeps:
            plain = level < _OPTIONS and (s.ornament is not None or s.part in _SHUT)
            kept.append(s.changed(ornament=None, part=_SHUT.get(s.part, s.part)) if plain else s)
    return with_limbs(score.with_strokes(kept))


#: How a part is played where openings are an ornament.
_SHUT = {"hat_open": "hat_closed", "hat_half": "hat_closed"}


def _in_groove(s: Stroke, level: int) -> bool:
    ghost = s.dynamic == "ghost" and KIT[s.part].layer == "backbeat"
    if ghost:
        return level >= _GHOSTS
    if KIT[s.part].layer in ("kick", "backbeat"):
        return True
    if KIT[s.part].family == "auxiliary" or KIT[s.part].role == "left_foot":
        return level >= _OPTIONS
    return level > 1 or KIT[s.part].layer == "toms"


def _in_fill(s: Stroke, level: int) -> bool:
    """A fill's frame: its quarters at first, then its 8ths (triplet 8ths where it is in three)."""
    if level >= _OPTIONS:
        return True
    if s.dynamic == "ghost":
        return level >= _GHOSTS
    grid = {1: (1,), 2: (1, 2, 3)}.get(level, (1, 2, 3, 4))
    return s.place.denominator in grid


def _optional(score: Score) -> set[str]:
    """Strokes of kick and backbeat that are not in the core of their section's groove."""
    ids: set[str] = set()
    for g in grooves.grooves(score):
        if not g.core:
            continue
        core = {(s.bar, s.place, s.part) for s in g.core}
        for bar in range(g.first_bar, g.last_bar + 1):
            unit = (bar - g.first_bar) % g.length + 1
            ids |= {
                s.id
                for s in score.strokes_of(bar)
                if KIT[s.part].layer in ("kick", "backbeat")
                and s.dynamic != "ghost"
                and (unit, Fraction(s.place), s.part) not in core
            }
    return ids
