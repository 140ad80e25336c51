"""What to propose so that a part can be played, or more easily, and how it is then played.

Behind each way (orchesis/hands/ways.py) what is still unplayable is thinned, so that every proposal
can be played by the player it is made for.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.hands import difficulty
from orchesis.hands.limbs import with_limbs
from orchesis.hands.solver import solve
from orchesis.hands.ways import WAYS, is_hand, moments_of, weight
from orchesis.score import KIT, Score, Stroke
from orchesis.score.player import Player

#: What each unplayable stroke asks for.
_FOR = {
    "third hand": ("one_part",),
    "grace": ("one_part", "no_ornaments"),
    "held": ("single_pedal",),
}
#: Ways that only a person asks for.
_ASKED = ("snare_to_cross_stick", "foot_on_2_and_4", "foot_on_offbeats", "foot_rests")


@dataclass(frozen=True)
class Proposal:
    """way: of WAYS, for these bars. must: whether the part can't be played without it (or another
    like it). gain: by how much the hardest bar gets easier. changed: strokes that change or go."""

    way: str
    bars: tuple[int, ...]
    must: bool
    gain: float
    changed: int
    player: Player

    def apply(self, score: Score) -> Score:
        return arranged(score, self.way, self.bars, self.player)


def arranged(score: Score, way: str, bars: Collection[int], player: Player | None = None) -> Score:
    """The score with some bars played another way, limbs solved anew, and playable."""
    player = player or score.player
    played_bars = difficulty.played(score, sorted(bars))
    new = _changed(score, WAYS[way](score, played_bars, player))
    new = with_limbs(new, player, bars)
    return with_limbs(_settled(new, bars, player), player, bars)


def _changed(score: Score, changes: dict[str, Stroke | None]) -> Score:
    if not changes:
        return score
    strokes = dict(score.strokes)
    for key, stroke in changes.items():
        if stroke is None:
            strokes.pop(key, None)
        else:
            strokes[key] = stroke
    return score.with_strokes(_once(strokes.values()))


def _once(strokes: Iterable[Stroke]) -> list[Stroke]:
    """One stroke a part and place: the louder one."""
    by_place: dict[tuple[int, Fraction, str], Stroke] = {}
    for s in strokes:
        at = (s.bar, s.place, s.part)
        if at not in by_place or by_place[at].loudness < s.loudness:
            by_place[at] = s
    return list(by_place.values())


def _settled(score: Score, bars: Collection[int], player: Player) -> Score:
    """What is still unplayable is put elsewhere or thinned, the least important first."""
    looked_at = set(bars)
    while True:  # each turn takes something away
        unplayable = solve(score, player, looked_at).unplayable
        if not unplayable and looked_at == set(bars):
            return score
        # What was changed is looked at with its neighbours; in the end, all of it once more.
        near = {b for u in unplayable for b in (u.bar - 1, u.bar, u.bar + 1)}
        looked_at = near & set(bars) or set(bars)
        changes: dict[str, Stroke | None] = {}
        played_bars = difficulty.played(score, sorted({u.bar for u in unplayable}))
        hands = moments_of(s for s in played_bars if is_hand(s))
        if any(u.reason == "lacks" for u in unplayable):
            for way in ("toms", "cymbals", "auxiliary"):
                changes |= WAYS[way](score, played_bars, player)
        for u in unplayable:
            s = score.strokes[u.stroke]
            if u.reason == "lacks":
                changes.setdefault(s.id, None)
            elif u.reason == "grace":
                changes[s.id] = s.changed(ornament=None)
            elif u.reason == "third hand":
                changes[min(hands[s.bar, s.place], key=weight).id] = None
            else:
                changes[s.id] = None
        score = _changed(score, changes)


def proposals(
    score: Score, player: Player | None = None, bars: Collection[int] | None = None
) -> list[Proposal]:
    """What to do with some bars (of the song): first what makes them playable, then what makes
    them easier, by how much easier for how little changed."""
    player = player or score.player
    asked = sorted(score.by_bar() if bars is None else bars)
    played_bars = difficulty.played(score, asked)
    needed = _needed(score, asked, player)
    figures: dict[int, float] = {}

    def hard(of: Score, bar: int) -> float:
        return difficulty.of(of, [bar]).total

    weighed: list[tuple[float, Proposal]] = []
    for order, (way, change) in enumerate(WAYS.items()):
        if way in _ASKED:
            continue
        changes = change(score, played_bars, player)
        touched = sorted({s.bar for s in played_bars if s.id in changes})
        if not touched:
            continue
        new = arranged(score, way, touched, player)
        for bar in touched:
            figures.setdefault(bar, hard(score, bar))
        hardest = max(touched, key=figures.__getitem__)
        gain = figures[hardest] - hard(new, hardest)
        lost = sum(_loss(score.strokes[i], s) for i, s in changes.items() if i in score.strokes)
        must = needed.get(way, 0)
        if not must and gain <= _LEAST_GAIN and way != "cross_stick_to_snare":
            continue
        worth = 100.0 * must + gain / (0.4 + lost / max(1, len(played_bars))) - 0.001 * order
        bars_of = tuple(touched)
        weighed.append(
            (worth, Proposal(way, bars_of, must > 0, round(gain, 2), len(changes), player))
        )
    return [p for _, p in sorted(weighed, key=lambda p: -p[0])]


_LEAST_GAIN = 0.1


def _loss(was: Stroke, now: Stroke | None) -> float:
    """How much of what one recognises goes with a stroke: least with what is soft."""
    weight = {
        "kick": 1.0,
        "backbeat": 1.2,
        "toms": 0.8,
        "crashes": 0.8,
        "time": 0.35,
        "openings": 0.3,
        "auxiliary": 0.3,
    }.get(KIT[was.part].layer, 0.4)
    if was.dynamic == "ghost":
        weight = 0.2
    if now is None:
        return weight
    return 0.3 * weight if now.part != was.part else 0.15 * weight


def _needed(score: Score, bars: Sequence[int], player: Player) -> Counter[str]:
    """Ways that unplayable strokes ask for, with how many ask."""
    needs: Counter[str] = Counter()
    for u in solve(score, player, bars).unplayable:
        s = score.strokes[u.stroke]
        if u.reason == "lacks":
            layer = KIT[s.part].layer
            needs[layer if layer in ("toms", "auxiliary") else "cymbals"] += 1
        elif u.reason == "too fast":
            if not is_hand(s):
                needs["single_pedal"] += 1
            elif KIT[s.part].role == "time":
                needs["two_handed_hat"] += 1
                needs["thin_time"] += 1
            else:
                needs["thin_fill"] += 1
        else:
            for way in _FOR.get(u.reason, ("one_part",)):
                needs[way] += 1
    return needs
