"""Who plays what: a limb for every stroke, by an exact search over whole phrases.

The two hands are sought together by dynamic programming (Bellman, 1957): what counts of the past
is what each hand struck last and when. Every way of giving a moment's strokes to the hands costs
what it costs a drummer: speed of one hand, way between the drums, hands that cross, and the school
(natural, alternating, lead, fewest, open). What no limb is left for is told, never handed out.
Feet follow their pedals; with a second pedal both play fast kicks in turn.

Times and ways are rules of thumb of the trade, not measurements: a practised hand crosses the kit in
about a tenth of a second, the two strokes of a double may lie 55 ms apart, and ten to twelve strokes a
second are what one hand keeps up.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import NamedTuple

from orchesis.hands import accents, recorded
from orchesis.hands.plan import plan_of
from orchesis.score import KIT, Score, Stroke
from orchesis.score.player import Player
from orchesis.score.stroke import NOBODYS

_FEET = ("right_foot", "left_foot")


#: third hand: both strike already. grace: an ornament takes both hands, one of which strikes
#: elsewhere. too fast: no limb keeps up. foot: one foot on two pedals. held: the other foot would
#: have to leave the hat. lacks: the kit has no such piece.
REASONS = ("third hand", "grace", "too fast", "foot", "held", "lacks")


@dataclass(frozen=True)
class Unplayable:
    """A stroke that no limb is left for. reason: of REASONS."""

    stroke: str
    bar: int
    place: Fraction
    reason: str


@dataclass(frozen=True)
class Solution:
    """limbs: by id of the stroke; a stroke that is unplayable has the limb that it would need."""

    limbs: dict[str, str]
    unplayable: tuple[Unplayable, ...]
    cost: float


# -- what a hand can do

#: Seconds that a hand needs at least between two strokes on one drum, by how many such fast steps it
#: has made already: a double, a triple, and what it keeps up.
_LEAST_S = (0.055, 0.07, 0.083, 0.09)
_FAST_STEP_S = 0.105  # seconds: a step as fast as this makes the next one harder
_REACH_S = 0.022  # seconds a reach to another drum takes besides: 2.5 reaches cross the kit
_FAST_KICKS_S = 0.138  # seconds between kicks that a second pedal's foot helps with
FOOT_DOUBLE, FOOT_SINGLE = 0.055, 0.1  # between the two kicks of a double; of one foot in a row
_HELD_SHUT_S = 0.12  # seconds round a stroke on the shut hat within which its foot can't leave it
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
_SHARED, _HELP = 0.13, 1.0  # seconds within which both hands keep the time; what it costs then
_LEFT_TIME = 1.2  # the hand that keeps the time leaves it
_COST_OF_UNNATURAL = 1.1  # not the hand of that 16th
_COST_OF_A_DOUBLE = 1.6  # one hand twice, where strokes follow fast
FAST_S = 0.26  # seconds within which strokes follow fast
_COST_OF_A_TRIPLE = 3.0  # one hand three times, fast
_COST_OF_A_FIRST = 0.3  # the other hand begins where neither has a claim
_COST_OF_WEAK_ACCENT = 2.5  # school of the lead hand: an accent with the other
_COST_OF_A_BOUNCE = 0.5  # the second stroke of a double on one drum, however fast
_COST_AGAINST_ACCENTS = 4.0  # against the sticking that a row's accents ask for
_ACCENT_ROW_S = 0.36  # seconds between strokes of a row whose accents ask for a sticking
_COST_AGAINST_RECORDING = 2.4  # against what the recording says of this hand

#: Ornaments whose graces the other hand plays.
_GRACED = ("flam", "drag", "ruff")
#: Those round which the other hand is not free.
_BOTH = (*_GRACED, "buzz")
_HAT_SHUT = ("hat_closed", "hat_half")


class _Past(NamedTuple):
    """What counts of the past: for each hand (0 lead, 1 other) when it struck last and on what, and
    how many strokes in a row the last one that struck alone has had; how many fast steps each hand has
    made without a rest."""

    times: tuple[float, float]
    parts: tuple[str, str]
    last: int  # hand of the last moment: 0, 1, 2 both, -1 nobody
    run: int
    fast: tuple[int, int] = (0, 0)


_NOBODY = _Past((-99.0, -99.0), ("snare", "snare"), -1, 0)


@dataclass(frozen=True)
class _Moment:
    """Hand strokes at one time; fixed: hand by stroke, where a person chose it. lead: whether its
    place belongs to the lead hand, None where no hand has a claim (triplets). claim: the hand that the
    accents of its row ask for."""

    time: float
    strokes: tuple[Stroke, ...]
    fixed: tuple[int | None, ...]
    lead: bool | None
    timed: bool  # whether the lead hand keeps time round it
    school: str
    times: tuple[bool, ...]  # which of its strokes keep the time
    streams: bool  # whether the time goes by so fast that both hands play it
    both: bool  # whether hat and ride come in turns, a hand each
    claim: int | None = None


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
    moment: _Moment
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
        self.feet = ("RF", "LF") if lead == "R" else ("LF", "RF")

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
        limbs |= self._feet(feet, hands, unplayable)
        self.heard = recorded.turns(self.score, hands)
        moments = self._moments(hands, unplayable, limbs)
        if loops and moments:
            length = self.score.seconds(max(strokes_of_bar) + 1) - self.score.seconds(
                min(strokes_of_bar)
            )
            chosen, cost = self._round(moments, length, unplayable)
        else:
            chosen, cost = self._hands(moments, unplayable)
        return Solution(limbs | chosen, tuple(dict.fromkeys(unplayable)), cost)

    def _round(
        self, moments: Sequence[_Moment], length: float, unplayable: list[Unplayable]
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

    def seconds(self, s: Stroke) -> float:
        return self.score.seconds(s.bar, s.place)

    # -- feet

    def _feet(
        self, strokes: Sequence[Stroke], hands: Sequence[Stroke], unplayable: list[Unplayable]
    ) -> dict[str, str]:
        """The kick's foot and the hat's. With a second pedal the hat's foot helps with fast kicks,
        but not where it shuts or holds the hat. One foot plays doubles, but not three so fast."""
        kick, hat = self.feet
        limbs: dict[str, str] = {}
        last = {kick: -99.0, hat: -99.0}
        is_second = dict.fromkeys(last, False)  # whether the foot's last kick was one of a double's
        turn = kick
        shut = sorted(
            [self.seconds(s) for s in hands if s.part in _HAT_SHUT]
            + [self.seconds(s) for s in strokes if KIT[s.part].role == "left_foot"]
        )
        down: set[tuple[int, Fraction, str]] = set()  # feet that are on a pedal already
        for s in strokes:
            now = self.seconds(s)
            held = False
            if s.limb_by == "person" and s.limb in self.feet:
                foot = s.limb
            elif KIT[s.part].role == "left_foot":
                foot = hat
            else:
                helps = self.player.pedals > 1 and now - max(last.values()) < _FAST_KICKS_S
                foot = hat if helps and turn == kick else kick
                held = foot == hat and _is_near(shut, now)
                foot = kick if held else foot
                turn = foot
            limbs[s.id] = foot
            gap = now - last[foot]
            if (s.bar, s.place, foot) in down:
                unplayable.append(Unplayable(s.id, s.bar, s.place, "foot"))
            elif gap < (FOOT_SINGLE if is_second[foot] else FOOT_DOUBLE):
                reason = "held" if held else "too fast"
                unplayable.append(Unplayable(s.id, s.bar, s.place, reason))
            is_second[foot] = gap < FOOT_SINGLE
            last[foot] = now
            down.add((s.bar, s.place, foot))
        return limbs

    # -- hands

    def _moments(
        self, strokes: Sequence[Stroke], unplayable: list[Unplayable], limbs: dict[str, str]
    ) -> list[_Moment]:
        groups: dict[tuple[int, Fraction], list[Stroke]] = defaultdict(list)
        for s in strokes:
            groups[s.bar, s.place].append(s)
        grids = self._grids(strokes)
        schools = {
            b: section.school
            for section in self.score.sections
            if section.school
            for b in range(section.first_bar, section.last_bar + 1)
        }
        keeping = _time_keepers(strokes)
        kept = {(s.bar, int(s.place)) for s in strokes if s.id in keeping}
        both = _bars_of_two_times(strokes)
        streams = self._streams([s for s in strokes if s.id in keeping])
        moments = []
        for (bar, place), together in sorted(groups.items()):
            ordered = sorted(together, key=lambda s: (s.limb_by != "person", -_weight(s)))
            for s in ordered[2:]:
                unplayable.append(Unplayable(s.id, s.bar, s.place, "third hand"))
                limbs[s.id] = self.names[0]
            pair = tuple(ordered[:2])
            if len(pair) == 2:
                unplayable += [
                    Unplayable(s.id, s.bar, s.place, "grace") for s in pair if s.ornament in _GRACED
                ]
            moments.append(
                _Moment(
                    self.score.seconds(bar, place),
                    pair,
                    tuple(
                        self.names.index(s.limb)
                        if s.limb_by == "person" and s.limb in self.names
                        else None
                        for s in pair
                    ),
                    _is_lead(place, grids[bar, int(place)]),
                    (bar, int(place)) in kept,
                    schools.get(bar) or self.player.school,
                    tuple(s.id in keeping for s in pair),
                    (bar, place) in streams,
                    bar in both,
                )
            )
        return self._with_claims(moments)

    def _streams(self, strokes: Sequence[Stroke]) -> set[tuple[int, Fraction]]:
        """Places of strokes that keep the time in a row of three so fast that both hands share it."""
        places = sorted({(s.bar, s.place) for s in strokes})
        times = [self.score.seconds(*at) for at in places]
        fast = [False, *(b - a < _SHARED for a, b in pairwise(times)), False]
        rest = [*fast[1:], False]
        return {
            at
            for k, at in enumerate(places)
            if (fast[k] and (rest[k] or fast[k - 1])) or (rest[k] and fast[min(k + 2, len(times))])
        }

    def _with_claims(self, moments: Sequence[_Moment]) -> list[_Moment]:
        """The moments with the hands that the accents of fast, even rows ask for."""
        claimed = list(moments)
        for row in self._rows_of(moments):
            loud = [moments[k].strokes[0].dynamic == "accent" for k in row]
            first = "L" if moments[row[0]].lead is False else "R"
            offered = accents.stickings(loud, first)
            if offered:
                for k, hand in zip(row, offered[0][1], strict=True):
                    claimed[k] = replace(moments[k], claim="RL".index(hand))
        return claimed

    def _rows_of(self, moments: Sequence[_Moment]) -> list[list[int]]:
        """Indices of fast, evenly spaced single strokes, one row each; none where time is kept."""
        rows: list[list[int]] = [[]]
        step: Fraction | None = None
        for k, m in enumerate(moments):
            if len(m.strokes) != 1 or m.timed or m.school not in ("natural", "open"):
                rows.append([])
                step = None
                continue
            s = m.strokes[0]
            if rows[-1]:
                before = moments[k - 1].strokes[0]
                gap = self.score.beat_of(s.bar, s.place) - self.score.beat_of(
                    before.bar, before.place
                )
                if m.time - moments[k - 1].time > _ACCENT_ROW_S or (step and gap != step):
                    rows.append([])
                    gap = None
                step = gap
            rows[-1].append(k)
        return [row for row in rows if len(row) >= accents.MIN_STROKES]

    def _grids(self, strokes: Sequence[Stroke]) -> dict[tuple[int, int], int]:
        """The finest division of each beat that its hand strokes are written in."""
        grids: dict[tuple[int, int], int] = defaultdict(lambda: 1)
        for s in strokes:
            key = (s.bar, int(s.place))
            grids[key] = max(grids[key], (s.place % 1).denominator)
        return grids

    def _hands(
        self, moments: Sequence[_Moment], unplayable: list[Unplayable]
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

    def _ways_on(self, past: _Past, moment: _Moment, prices: Prices) -> Iterator[Way]:
        """The ways of playing a moment after a past, with what they cost; where one of them can't
        be, also those that leave strokes out."""
        ways = _ways(moment)
        priced = list(self._priced(past, moment, ways, prices))
        yield from priced
        if len(priced) < len(ways):
            yield from self._priced(past, moment, _less(ways), prices)

    def _priced(
        self, past: _Past, moment: _Moment, ways: Iterable[tuple[int, ...]], prices: Prices
    ) -> Iterator[Way]:
        """Those of some ways that can be played, with their costs."""
        for hands in ways:
            total = self._crossed(past, moment, hands)
            for n, hand in enumerate(hands):
                if hand == _NO_HAND:
                    total += _COST_OF_UNPLAYABLE + _weight(moment.strokes[n])
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

    def _after(self, past: _Past, moment: _Moment, hands: tuple[int, ...]) -> _Past:
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

    def _price(self, past: _Past, moment: _Moment, s: Stroke, hand: int) -> float:
        """What one hand's stroke costs: speed, way and habit."""
        soon = self._soon(past, moment, s, hand)
        if soon >= _COST_OF_UNPLAYABLE:
            return soon
        reach = self.plan.distance(past.parts[hand], s.part) if past.times[hand] > -50 else 0.0
        far = (3.0 if moment.school == "fewest" else 1.0) * _COST_OF_REACH * reach
        return soon + far + self._habit(past, moment, s, hand)

    def _crossed(self, past: _Past, moment: _Moment, hands: tuple[int, ...]) -> float:
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

    def _soon(self, past: _Past, moment: _Moment, s: Stroke, hand: int) -> float:
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

    def _habit(self, past: _Past, moment: _Moment, s: Stroke, hand: int) -> float:
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


def _is_near(times: Sequence[float], now: float) -> bool:
    at = bisect_left(times, now - _HELD_SHUT_S)
    return at < len(times) and times[at] <= now + _HELD_SHUT_S


def shortest(fast: int, reach: float) -> float:
    """The least time (seconds) that a hand needs for a stroke behind its last one. fast: steps that it
    has made without a rest; reach: how far it has to go."""
    return _LEAST_S[min(fast, len(_LEAST_S) - 1)] + _REACH_S * reach


def fast_steps(before: int, gap: float) -> int:
    """Steps that a hand has made without a rest, behind one of so many seconds."""
    return min(before + 1, len(_LEAST_S) - 1) if gap < _FAST_STEP_S else 0


def _time_keepers(strokes: Sequence[Stroke]) -> set[str]:
    """Ids of the strokes that keep the time: those of hats and rides, and of any other piece that goes
    evenly through a bar, no faster than 8ths, where no hat or ride does."""
    by_bar: dict[int, dict[str, list[Stroke]]] = defaultdict(lambda: defaultdict(list))
    for s in strokes:
        by_bar[s.bar][s.part].append(s)
    keeping: set[str] = set()
    for parts in by_bar.values():
        usual = [s.id for own in parts.values() for s in own if KIT[s.part].role == "time"]
        keeping.update(usual)
        together: dict[Fraction, int] = defaultdict(int)
        for own in parts.values():
            for s in own:
                together[s.place] += 1
        for own in parts.values():
            gaps = {b.place - a.place for a, b in pairwise(own)}
            even = len(own) >= _MIN_STROKES_OF_TIME and len(gaps) == 1
            if even and not usual and gaps.pop() >= _FASTEST_TIME:
                if any(together[s.place] > 1 for s in own) and not KIT[own[0].part].is_backbeat:
                    keeping.update(s.id for s in own)
    return keeping


def _bars_of_two_times(strokes: Sequence[Stroke]) -> set[int]:
    """Bars in which a hat and a ride come in turns."""
    families: dict[int, list[str]] = defaultdict(list)
    for s in strokes:
        if KIT[s.part].role == "time":
            families[s.bar].append(KIT[s.part].family)
    return {
        bar for bar, row in families.items() if sum(a != b for a, b in pairwise(row)) >= _MIN_TURNS
    }


_MIN_TURNS = 4  # changes between hat and ride in a bar
_MIN_STROKES_OF_TIME = 4
_FASTEST_TIME = Fraction(1, 2)  # of a beat


def keeps_time(moment: _Moment, s: Stroke) -> bool:
    return moment.times[moment.strokes.index(s)]


def _weight(s: Stroke) -> float:
    """What of several strokes is kept first: the backbeat, then time, accents before soft ones."""
    role = KIT[s.part].role
    return {"backbeat": 3.0, "time": 2.0, "hand": 1.0}.get(role, 0.0) + s.loudness


def _is_lead(place: Fraction, grid: int) -> bool | None:
    """Whether the 16th (32nd) of a place is the lead hand's: numbers and "ands"."""
    if grid & (grid - 1):
        return None
    step = place * max(4, grid)
    return step.numerator % 2 == 0 if step.denominator == 1 else None


def _less(ways: list[tuple[int, ...]]) -> list[tuple[int, ...]]:
    """The same ways with strokes left out, those that leave out fewest first."""
    reduced: list[tuple[int, ...]] = []
    for w in ways:
        if len(w) == 2:
            reduced += [(w[0], _NO_HAND), (_NO_HAND, w[1])]
    reduced.append((_NO_HAND,) * len(ways[0]))
    return list(dict.fromkeys(reduced))


def _ways(moment: _Moment) -> list[tuple[int, ...]]:
    """The ways of giving a moment's strokes to the hands (0 lead, 1 other)."""
    one = len(moment.strokes) == 1
    ways: list[tuple[int, ...]] = [(0,), (1,)] if one else [(0, 1), (1, 0)]
    fit = [w for w in ways if all(f in (None, h) for f, h in zip(moment.fixed, w, strict=True))]
    return fit or ways
