"""Who plays what: a limb for every stroke, by an exact search over whole phrases.

The two hands are sought together by dynamic programming (Bellman, 1957): what counts of the past
is what each hand struck last and when. Every way of giving a moment's strokes to the hands costs
what it costs a drummer: speed of one hand, way between the drums, hands that cross, and the school
(natural, alternating, lead, fewest, open). What no limb is left for is told, never handed out.
Feet follow their pedals; with a second pedal both play fast kicks in turn.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from orchesis.hands import recorded
from orchesis.hands.feet import feet_of
from orchesis.hands.moments import GRACED, Moment, Unplayable, keeps_time, moments_of, weight
from orchesis.hands.pace import fast_steps, shortest
from orchesis.hands.plan import plan_of
from orchesis.score import KIT, Score, Stroke
from orchesis.score.player import Player
from orchesis.score.stroke import NOBODYS

_FEET = ("right_foot", "left_foot")


@dataclass(frozen=True)
class Solution:
    """limbs: by id of the stroke; a stroke that is unplayable has the limb that it would need."""

    limbs: dict[str, str]
    unplayable: tuple[Unplayable, ...]
    cost: float


# -- what a hand can do

_ORNAMENT = 0.06  # seconds that the other hand needs round an ornament
_NO_HAND = -1  # no hand: the stroke is left out
_FORGOTTEN_S = 1.2  # seconds after which a hand has no past
_FORGOTTEN_OTHER_S = 0.75  # the same for the hand that did not strike last

# -- what it costs

_COST_OF_UNPLAYABLE = 1000.0
_SPEED_UNIT_S = 0.2  # seconds: a stroke as fast as this costs one
_COST_OF_REACH = 0.4  # a reach
_TRAVEL, _TRAVEL_UNIT_S = (
    4.0,
    0.05,
)  # what a reach in so many seconds costs, with the cube of its speed
_COST_OF_CROSSING = 2.5  # hands that cross, where the lead hand is not on the hat
_CROSSED_AFTER = 0.25  # of that where they strike one after the other
_UNCROSSED_S = 0.3  # seconds after which a hand is out of the other's way
_OVER_THE_SNARE = 0.5  # how far to the right the other hand may be under the one on the hat
_COST_OF_OTHER_TIME_HAND = 2.5  # the time hand is not the lead hand
_HELP = 1.0  # what it costs that the other hand plays such a stroke
_LEFT_TIME = 1.2  # the hand that keeps the time leaves it
_COST_OF_UNNATURAL = 1.1  # not the hand of that 16th
_COST_OF_A_DOUBLE = 1.6  # one hand twice, where strokes follow fast
FAST_S = 0.26  # seconds within which strokes follow fast
_COST_OF_A_TRIPLE = 3.0  # one hand three times, fast
_COST_OF_A_FIRST = 0.3  # the other hand begins where neither has a claim
_COST_OF_WEAK_ACCENT = 2.5  # school of the lead hand: an accent with the other
_COST_OF_A_BOUNCE = 0.5  # the second stroke of a double on one drum, however fast
_COST_AGAINST_ACCENTS = 4.0  # against the sticking that a row's accents ask for
_COST_AGAINST_RECORDING = 2.4  # against what the recording says of this hand

#: Those round which the other hand is not free.
_BOTH = (*GRACED, "buzz")


class _Past(NamedTuple):
    """What counts of the past: for each hand (0 lead, 1 other) when it struck last and on what, and
    how many strokes in a row the last one that struck alone has had; how many fast steps each hand
    has made without a rest."""

    times: tuple[float, float]
    parts: tuple[str, str]
    last: int  # hand of the last moment: 0, 1, 2 both, -1 nobody
    run: int
    fast: tuple[int, int] = (0, 0)


_NOBODY = _Past((-99.0, -99.0), ("snare", "snare"), -1, 0)


def solve(
    score: Score, player: Player | None = None, bars: Collection[int] | None = None
) -> Solution:
    """A limb for every stroke of a score, or of some of its bars.

    player: instead of the score's own. A limb that a person chose is a constraint. Strokes of
    neighbouring bars are not looked at: give whole phrases. What is left out, or a layer of the
    recording, is nobody's.
    """
    return _Solver(score, player or score.player).solve(bars)


def unplayable_in(score: Score) -> list[Unplayable]:
    """What the score's player can't play, in order of time."""
    return sorted(solve(score.played()).unplayable, key=lambda u: (u.bar, u.place))


def solve_loop(score: Score, bars: Sequence[int], player: Player | None = None) -> Solution:
    """The limbs of a phrase that comes round: its end fits its start. bars: in a row."""
    return _Solver(score, player or score.player).solve(bars, loops=True)


@dataclass(frozen=True)
class _Step:
    """How a moment was played, and what came before it."""

    before: _Step | None
    past: _Past
    moment: Moment
    hands: tuple[int, ...]


#: What a stroke costs a hand, by what it hangs on; and hands with what a moment costs so.
Prices = dict[tuple[object, ...], float]
Way = tuple[tuple[int, ...], float]


class _Solver:
    def __init__(self, score: Score, player: Player) -> None:
        self.score, self.player, self.plan = score, player, plan_of(player.plan)
        self.heard: dict[str, bool] = {}
        lead = "R" if player.hand == "right" else "L"
        self.names = (f"{lead}H", "LH" if lead == "R" else "RH")

    def solve(self, bars: Collection[int] | None, loops: bool = False) -> Solution:
        strokes_of_bar = self.score.by_bar() if bars is None else bars
        strokes = [
            s
            for b in sorted(strokes_of_bar)
            for s in self.score.strokes_of(b)
            if s.doubt not in NOBODYS
        ]
        limbs: dict[str, str] = {}
        unplayable = [
            Unplayable(s.id, s.bar, s.place, "lacks")
            for s in strokes
            if s.part in self.player.lacking
        ]
        hands = [s for s in strokes if KIT[s.part].role not in _FEET]
        feet = [s for s in strokes if KIT[s.part].role in _FEET]
        limbs |= feet_of(self.score, self.player, feet, hands, unplayable)
        self.heard = recorded.turns(self.score, hands)
        limbs |= dict.fromkeys(
            (s.id for s in hands), self.names[0]
        )  # those that no hand is left for
        moments = moments_of(self.score, self.player, hands, unplayable)
        if loops and moments:
            length = self.score.seconds(max(strokes_of_bar) + 1) - self.score.seconds(
                min(strokes_of_bar)
            )
            chosen, cost = self._round(moments, length, unplayable)
        else:
            chosen, cost = self._hands(moments, unplayable)
        return Solution(limbs | chosen, tuple(dict.fromkeys(unplayable)), cost)

    def _round(
        self, moments: Sequence[Moment], length: float, unplayable: list[Unplayable]
    ) -> tuple[dict[str, str], float]:
        """The cheapest way that comes round: the phrase with itself before it, and behind it its
        first moment again, which each time is struck by the same hand."""
        first = moments[0]
        tried: list[tuple[float, dict[str, str], list[Unplayable]]] = []
        for hands in _ways(first):
            begin = replace(first, fixed=hands)
            once = [begin, *moments[1:]]
            before = [replace(m, time=m.time - length) for m in once]
            reported: list[Unplayable] = []
            row = [*before, *once, replace(begin, time=first.time + length)]
            limbs, cost = self._hands(row, reported)
            tried.append((cost, limbs, reported))
        cost, limbs, reported = min(tried, key=lambda t: t[0])
        unplayable += reported
        return limbs, cost / 2

    # -- hands

    def _hands(
        self, moments: Sequence[Moment], unplayable: list[Unplayable]
    ) -> tuple[dict[str, str], float]:
        """The cheapest way of giving the moments to the hands, and what it costs."""
        #: What each state costs, and the step that led to it cheapest.
        paths: dict[_Past, tuple[float, _Step | None]] = {_NOBODY: (0.0, None)}
        for moment in moments:
            following: dict[_Past, tuple[float, _Step | None]] = {}
            prices: Prices = {}
            for past, (cost, before) in paths.items():
                for hands, price in self._ways_on(past, moment, prices):
                    total = cost + price
                    state = self._after(past, moment, hands)
                    if state not in following or total < following[state][0]:
                        following[state] = (total, _Step(before, past, moment, hands))
            paths = _hopeful(following)
        cost, step = min(paths.values(), key=lambda p: p[0])
        limbs: dict[str, str] = {}
        while step is not None:
            for s, hand in zip(step.moment.strokes, step.hands, strict=True):
                limbs.setdefault(s.id, self.names[max(hand, 0)])
                if hand == _NO_HAND:
                    unplayable.append(Unplayable(s.id, s.bar, s.place, "too fast"))
            step = step.before
        return limbs, cost

    def _ways_on(self, past: _Past, moment: Moment, prices: Prices) -> Iterator[Way]:
        """The ways of playing a moment after a past, with what they cost; where one of them can't
        be, also those that leave strokes out."""
        ways = _ways(moment)
        priced = list(self._priced(past, moment, ways, prices))
        yield from priced
        if len(priced) < len(ways):
            yield from self._priced(past, moment, _less(ways), prices)

    def _priced(
        self, past: _Past, moment: Moment, ways: Iterable[tuple[int, ...]], prices: Prices
    ) -> Iterator[Way]:
        """Those of some ways that can be played, with their costs."""
        for hands in ways:
            total = self._crossed(past, moment, hands)
            for n, hand in enumerate(hands):
                if hand == _NO_HAND:
                    total += _COST_OF_UNPLAYABLE + weight(moment.strokes[n])
                    continue
                # What one hand's stroke costs hangs on this of the past, and many paths share it.
                key = (
                    n,
                    hand,
                    past.times[hand],
                    past.parts[hand],
                    past.last,
                    past.run,
                    max(past.times),
                    past.fast[hand],
                )
                price = prices.get(key)
                if price is None:
                    price = prices[key] = self._price(past, moment, moment.strokes[n], hand)
                if price >= _COST_OF_UNPLAYABLE:
                    break
                total += price
            else:
                yield hands, total

    def _after(self, past: _Past, moment: Moment, hands: tuple[int, ...]) -> _Past:
        times = list(past.times)
        parts = list(past.parts)
        fast = list(past.fast)
        struck: list[int] = []
        for s, hand in zip(moment.strokes, hands, strict=True):
            if hand == _NO_HAND:
                continue
            fast[hand] = fast_steps(fast[hand], moment.time - times[hand])
            times[hand], parts[hand] = moment.time, s.part
            if s.ornament in _BOTH:
                times[1 - hand] = max(times[1 - hand], moment.time - _ORNAMENT)
            struck.append(hand)
        # A hand that rested long enough has no past: fewer states, the same costs.
        if moment.time - min(times) > _FORGOTTEN_OTHER_S:
            for hand in (0, 1):
                gap = moment.time - times[hand]
                if gap > _FORGOTTEN_S or (
                    gap > _FORGOTTEN_OTHER_S and times[1 - hand] > times[hand]
                ):
                    times[hand], parts[hand], fast[hand] = -99.0, "snare", 0
        if not struck:
            return past
        last = 2 if len(struck) == 2 else struck[0]
        run = 2 if last == past.last else 1
        return _Past((times[0], times[1]), (parts[0], parts[1]), last, run, (fast[0], fast[1]))

    def _price(self, past: _Past, moment: Moment, s: Stroke, hand: int) -> float:
        """What one hand's stroke costs: speed, way and habit."""
        soon = self._soon(past, moment, s, hand)
        if soon >= _COST_OF_UNPLAYABLE:
            return soon
        reach = self.plan.distance(past.parts[hand], s.part) if past.times[hand] > -50 else 0.0
        far = (3.0 if moment.school == "fewest" else 1.0) * _COST_OF_REACH * reach
        return soon + far + self._habit(past, moment, s, hand)

    def _crossed(self, past: _Past, moment: Moment, hands: tuple[int, ...]) -> float:
        """What it costs that the hands cross."""
        struck = [n for n, h in enumerate(hands) if h != _NO_HAND]
        if len(struck) == 2:
            lead = hands.index(0)
            return self._crossing(
                moment.strokes[lead].part, moment.strokes[1 - lead].part, moment.school
            )
        if struck:
            hand, part = hands[struck[0]], moment.strokes[struck[0]].part
            gap = moment.time - past.times[1 - hand]
            if gap < _UNCROSSED_S:  # later the other hand is out of the way
                other = past.parts[1 - hand]
                pair = (part, other) if hand == 0 else (other, part)
                return (
                    self._crossing(*pair, moment.school) * _CROSSED_AFTER * (1 - gap / _UNCROSSED_S)
                )
        return 0.0

    def _soon(self, past: _Past, moment: Moment, s: Stroke, hand: int) -> float:
        """What it costs one hand to strike again so soon."""
        gap = moment.time - past.times[hand]
        if gap > _FORGOTTEN_S:
            return 0.0
        reach = self.plan.distance(past.parts[hand], s.part)
        if gap < shortest(past.fast[hand], reach):
            return _COST_OF_UNPLAYABLE
        speed, travel = (_SPEED_UNIT_S / gap) ** 3, _TRAVEL * (_TRAVEL_UNIT_S * reach / gap) ** 3
        alone = past.last == hand and past.run == 1
        is_second = past.fast[hand] == 0 and (
            not moment.streams if keeps_time(moment, s) else alone
        )
        if is_second and reach == 0 and s.dynamic != "accent":
            speed = min(speed, _COST_OF_A_BOUNCE)
        return speed + travel

    def _crossing(self, lead: str, other: str, school: str) -> float:
        """Hands that cross: the lead hand's drum lies on the other's side. Over the snare to the
        hat is how most play."""
        x_of_lead, x_of_other = self.plan.x_of(lead), self.plan.x_of(other)
        reaches_over = KIT[lead].family == "hat" or KIT[lead].is_crash
        if reaches_over and x_of_other < _OVER_THE_SNARE and school != "open":
            return 0.0
        over = x_of_other - x_of_lead
        return _COST_OF_CROSSING * over if over > 0.25 else 0.0

    def _habit(self, past: _Past, moment: Moment, s: Stroke, hand: int) -> float:
        """What the school says of a stroke."""
        school = moment.school
        if s.id in self.heard and past.last in (0, 1):  # the recording goes before the school
            return _COST_AGAINST_RECORDING * ((past.last != hand) != self.heard[s.id])
        total = 0.0
        is_time = keeps_time(moment, s)
        if moment.claim is not None:
            return _COST_AGAINST_ACCENTS * (hand != moment.claim)
        if is_time:
            other = school == "open" or moment.both
            keeper = 1 if other and KIT[s.part].family == "hat" else 0
            total += (_HELP if moment.streams else _COST_OF_OTHER_TIME_HAND) * (hand != keeper)
            total += _COST_OF_UNNATURAL * (hand == 1 and moment.lead is True and school != "open")
        elif moment.timed and len(moment.strokes) == 1:
            keeper = 1 if school == "open" else 0
            # A crash takes the place of the time hand's stroke.
            total += _LEFT_TIME * (hand == keeper and not KIT[s.part].is_crash)
        follows = moment.time - max(past.times) < FAST_S
        if follows and past.last == hand and not is_time:
            total += _COST_OF_A_TRIPLE * (past.run >= 2) + _COST_OF_A_DOUBLE * (past.run == 1) * (
                school != "lead"
            )
        if (
            school == "alternating"
            and past.last in (0, 1)
            and moment.time - max(past.times) < _FORGOTTEN_S
        ):
            total += 4 * _COST_OF_UNNATURAL * (past.last == hand)
        elif school == "lead":
            loud = s.dynamic == "accent"
            total += (
                _COST_OF_WEAK_ACCENT * (loud and hand == 1)
                + _COST_OF_WEAK_ACCENT * (not loud and hand == 0) * 0.5
            )
        elif moment.lead is not None and school in ("natural", "open") and not is_time:
            total += _COST_OF_UNNATURAL * ((hand == 0) != moment.lead)
        if past.last == -1 and (moment.lead is None or school in ("alternating", "lead")):
            total += _COST_OF_A_FIRST * (hand == 1)
        return total


Paths = dict[_Past, tuple[float, _Step | None]]
#: Above the cheapest path's cost by which another one has left out a stroke a hand more, and cannot
#: make up for it: the cheapest one is ready for anything, too, once it leaves out as many.
_HOPELESS = 2 * _COST_OF_UNPLAYABLE + 100.0


def _hopeful(paths: Paths) -> Paths:
    """Paths that may still become the cheapest."""
    most = min(cost for cost, _ in paths.values()) + _HOPELESS
    return {past: path for past, path in paths.items() if path[0] <= most}


def _less(ways: list[tuple[int, ...]]) -> list[tuple[int, ...]]:
    """The same ways with strokes left out, those that leave out fewest first."""
    reduced: list[tuple[int, ...]] = []
    for w in ways:
        if len(w) == 2:
            reduced += [(w[0], _NO_HAND), (_NO_HAND, w[1])]
    reduced.append((_NO_HAND,) * len(ways[0]))
    return list(dict.fromkeys(reduced))


def _ways(moment: Moment) -> list[tuple[int, ...]]:
    """The ways of giving a moment's strokes to the hands (0 lead, 1 other)."""
    one = len(moment.strokes) == 1
    ways: list[tuple[int, ...]] = [(0,), (1,)] if one else [(0, 1), (1, 0)]
    fit = [w for w in ways if all(f in (None, h) for f, h in zip(moment.fixed, w, strict=True))]
    return fit or ways
