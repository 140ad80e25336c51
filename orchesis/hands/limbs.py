"""The limbs that the solver found, written into a score."""

from __future__ import annotations

from collections.abc import Collection

from orchesis.hands.solver import solve
from orchesis.score import Score
from orchesis.score.player import Player


def with_limbs(
    score: Score, player: Player | None = None, bars: Collection[int] | None = None
) -> Score:
    """The score with a limb for every stroke (of some bars), but where a person chose it."""
    limbs = solve(score, player, bars).limbs
    changed = {
        key: score.strokes[key].changed(limb=limb)
        for key, limb in limbs.items()
        if score.strokes[key].limb_by != "person" and score.strokes[key].limb != limb
    }
    if not changed:
        return score
    limbed = score.with_strokes({**score.strokes, **changed}.values())
    return limbed.sharing_bars(score, {s.bar for s in changed.values()})
