"""Who plays what, in one file: limbs, what can't be played, rudiments, rules, difficulty
(`orchesis stick`)."""

from __future__ import annotations

from typing import Any

from orchesis import explanations, grooves
from orchesis.hands import difficulty, rudiments, rules, with_limbs
from orchesis.hands.solver import unplayable_in
from orchesis.score import Score
from orchesis.score.stroke import NOBODYS


def stuck(score: Score) -> dict[str, Any]:
    """The contract of `orchesis stick` (docs/stick-file.md), for the score's own player."""
    score = with_limbs(score).played()
    strokes = [s for s in score.ordered() if s.doubt not in NOBODYS]
    figures = difficulty.by_bar(score)
    whole = difficulty.of_song(list(figures.values()))

    def position(bar: int, place: Any) -> str:
        return str(place / score.meters[bar - 1].beats)

    return {
        "format": "orchesis-sticking",
        "version": 1,
        "title": score.title,
        "player": score.player.to_json(),
        "strokes": [
            {
                "bar": s.bar,
                "position": position(s.bar, s.place),
                "part": s.part,
                "limb": s.limb,
                "ornament": s.ornament,
            }
            for s in strokes
        ],
        "unplayable": [
            {
                "bar": u.bar,
                "position": position(u.bar, u.place),
                "reason": explanations.unplayable(u, score),
                "kind": u.reason,
            }
            for u in unplayable_in(score)
        ],
        "rudiments": [
            {
                "name": r.name,
                "bar": r.bar,
                "position": position(r.bar, r.place),
                "strokes": len(r.strokes),
            }
            for r in rudiments.found(score, strokes)
        ],
        "rules": _rules(score),
        "difficulty": round(whole.total, 1),
        "causes": whole.to_json(),
        "fastest": difficulty.fastest(score, sorted(figures)),
    }


def _rules(score: Score) -> list[dict[str, Any]]:
    rows = []
    for g in grooves.grooves(score):
        bars = [b for b in range(g.first_bar, g.last_bar + 1) if b not in g.fills]
        unit = [b for b in bars if b < g.first_bar + g.length]
        for r in rules.between(score, bars, unit if len(unit) == 2 else ()):
            says = explanations.limb_rule(
                r, score.meters[g.first_bar - 1], left_handed=score.player.hand == "left"
            )
            rows.append(
                {"says": says, "kind": r.kind, "bars": bars, "exceptions": list(r.exceptions)}
            )
    return rows
