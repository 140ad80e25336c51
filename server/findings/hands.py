"""Who plays what: limbs, what can't be played, how hard it is, other stickings, proposals."""

from __future__ import annotations

from typing import Any

from transcription.models import Arrangement

from findings.readings import kept
from orchesis import explanations
from orchesis.hands import alternatives, arranging, difficulty, recorded, rudiments
from orchesis.hands.solver import unplayable_in
from orchesis.score import KIT, Score

#: Proposals that a person refused are settled under this name, with the way behind it.
REFUSED = "way-"


def hands_of(arrangement: Arrangement) -> dict[str, Any]:
    """What no limb is left for, and how hard each bar, section and the song are."""

    def make() -> dict[str, Any]:
        score = arrangement.score.played()
        bars = difficulty.by_bar(score)
        whole = difficulty.of_song(list(bars.values()))
        return {
            "unplayable": [
                {
                    "stroke": u.stroke,
                    "part": score.strokes[u.stroke].part,
                    "bar": u.bar,
                    "place": str(u.place),
                    "reason": u.reason,
                    "says": explanations.unplayable(u, score),
                }
                for u in unplayable_in(score)
            ],
            "chosen": sum(s.limb_by == "person" for s in score.strokes.values()),
            "layers": sorted({s.part for s in score.strokes.values() if s.doubt == "layer"}),
            "song": _told(whole),
            "sections": [
                {
                    "id": s.id,
                    "name": s.name,
                    "first_bar": s.first_bar,
                    "bars": s.bars,
                    "school": s.school,
                    **_told(difficulty.of_song([bars[b] for b in _bars(s) if b in bars])),
                }
                for s in score.sections
            ],
            "bars": [{"bar": b, "total": round(d.total, 1)} for b, d in bars.items()],
        }

    return kept(arrangement, "hands", make)


def _bars(section: Any) -> range:
    return range(section.first_bar, section.last_bar + 1)


def _told(d: difficulty.Difficulty) -> dict[str, Any]:
    shares = d.to_json()
    return {"total": shares.pop("total"), "causes": shares, "hard_by": explanations.cause(d.cause)}


def stickings_of(arrangement: Arrangement, bar: int) -> dict[str, Any]:
    """Other ways of sticking a bar, what the recording says of its hands, its rudiments, how fast
    each limb could go."""
    score = arrangement.score.played()
    left = score.player.hand == "left"
    strokes = difficulty.played(score, [bar])
    hands = [s for s in strokes if not KIT[s.part].role.endswith("_foot")]
    return {
        "alternatives": [
            {
                "name": ", ".join(
                    dict.fromkeys(explanations.school(n) for n in a.name.split(", "))
                ),
                "limbs": a.limbs,
                "hands": a.hands,
                "cost": a.cost,
                "is_now": a.is_now,
                "says": explanations.alternative(a, left_handed=left),
            }
            for a in alternatives.alternatives(score, bar)
        ],
        "heard": [explanations.saying(s) for s in recorded.sayings(score, hands)],
        "rudiments": rudiments.named(score, strokes),
        "askable": list(rudiments.NAMES),
        "fastest": {
            limb: bpm
            for limb, bpm in difficulty.fastest(score, [bar]).items()
            if bpm <= difficulty.FASTEST_TEMPO
        },
        "harder_slow": difficulty.is_harder_slow(score, [bar]),
        "hard": _told(difficulty.of(score, [bar])),
    }


def proposals_of(arrangement: Arrangement, bars: list[int] | None) -> list[dict[str, Any]]:
    """What would make the part, or some bars of it, playable or easier; not what was refused."""

    def make() -> list[dict[str, Any]]:
        score = arrangement.score.played()
        return [
            {
                "way": p.way,
                "title": explanations.way(p.way),
                "bars": list(p.bars),
                "must": p.must,
                "says": explanations.proposal(p),
                "example": _example(score, p),
            }
            for p in arranging.proposals(score, bars=bars)
            if REFUSED + p.way not in score.settled
        ]

    return kept(arrangement, "proposals", make, *(bars or ()))


def _example(score: Score, p: arranging.Proposal) -> dict[str, Any]:
    """The first bar that it changes, before and after."""
    bar = p.bars[0]
    after = arranging.arranged(score, p.way, [bar], p.player)
    return {
        "bar": bar,
        "before": [s.to_json() for s in score.strokes_of(bar)],
        "after": [s.to_json() for s in after.strokes_of(bar)],
    }
