"""How hard some bars are, split by cause, and how fast they can go.

Each cause is a plain figure of the strokes and their limbs; what they weigh was set on forty
patterns graded by hand (materials/cases/levels.py), twenty more were kept apart.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from fractions import Fraction
from itertools import pairwise

from orchesis.hands.pace import FOOT_SINGLE, fast_steps, shortest
from orchesis.hands.plan import plan_of
from orchesis.score import KIT, Score, Stroke
from orchesis.score.kit import PIECE
from orchesis.score.player import Player
from orchesis.score.stroke import LIMBS, NOBODYS

CAUSES = ("speed", "independence", "moves", "dynamics", "changes")

#: What each cause adds for what it counts.
_SPEED, _INDEPENDENCE, _MOVES, _DYNAMICS, _CHANGES = 0.62, 0.29, 0.06, 0.43, 0.2
_FOOT = 1.35  # a foot's stroke beside a hand's
_EASY = 1.2  # strokes of one limb a second that cost nothing
_WINDOW = 1.0  # seconds over which a limb's speed is taken
_BUSY = 5  # strokes from which on a bar can't be harder slow
_LONG = 1.5  # seconds without a stroke that one has to count through
FASTEST_TEMPO = 400.0  # beats a minute; a limb that keeps up beyond it has no limit worth telling
_SHARE_OF_TEMPO_AT_FIRST = 0.6  # of its tempo, at which a part is first learned

#: How far from the beat's own grid a place lies, by the parts of a beat it needs.
_OFF = {1: 0.0, 2: 0.5, 3: 0.8, 4: 1.0, 6: 1.2, 8: 1.3}
_ODD = 2.0  # five or seven in a beat


@dataclass(frozen=True)
class Difficulty:
    """total: 0..10. The causes: their shares of it; with 1 they sum to it (but where it is cut)."""

    total: float
    speed: float
    independence: float
    moves: float
    dynamics: float
    changes: float

    def to_json(self) -> dict[str, float]:
        return {k: round(v, 1) for k, v in asdict(self).items()}

    @property
    def cause(self) -> str:
        """What it is hard by, first of all."""
        return max(CAUSES, key=lambda c: float(getattr(self, c)))


NOTHING = Difficulty(0, 0, 0, 0, 0, 0)


def played(score: Score, bars: Sequence[int]) -> list[Stroke]:
    """The strokes of some bars that limbs play, in order of time."""
    return [s for b in bars for s in score.strokes_of(b) if s.doubt not in NOBODYS]


def of(score: Score, bars: Sequence[int]) -> Difficulty:
    """The difficulty of some bars, one behind the other, as their limbs stand."""
    return of_strokes(score, played(score, bars))


def of_strokes(score: Score, strokes: Sequence[Stroke]) -> Difficulty:
    """The difficulty of some strokes, in order of time: those of a fill, of a bar."""
    if not strokes:
        return NOTHING
    moments = _moments(score, strokes)
    seconds = _length(score, strokes)
    causes = {
        "speed": _SPEED * _speed(score, strokes),
        "independence": _INDEPENDENCE * _independence(moments, seconds),
        "moves": _MOVES * _ways(score, strokes) / seconds,
        "dynamics": _DYNAMICS * _contrasts(moments, seconds),
        "changes": _CHANGES * _turns(moments),
    }
    total = 1.0 + sum(causes.values())
    return Difficulty(round(min(10.0, total), 2), **causes)


Moments = dict[Fraction, list[Stroke]]


def _moments(score: Score, strokes: Sequence[Stroke]) -> Moments:
    moments: Moments = defaultdict(list)
    for s in strokes:
        moments[score.beat_of(s.bar, s.place)].append(s)
    return dict(sorted(moments.items()))


def _length(score: Score, strokes: Sequence[Stroke]) -> float:
    """Seconds that some strokes take, the last one's beat with them; not less than a beat."""
    first, last = strokes[0], strokes[-1]
    start = int(score.beat_of(first.bar, first.place))
    end = int(score.beat_of(last.bar, last.place)) + 1
    return max(0.3, score.pulse.seconds(end) - score.pulse.seconds(start))


def _speed(score: Score, strokes: Sequence[Stroke]) -> float:
    """Strokes a second of the busiest limb over a second, more than are easy; the others' beside
    it count for less. A diddle or a drag is more strokes of a hand."""
    rates = []
    for limb in LIMBS:
        times = [score.seconds(s.bar, s.place) for s in strokes if s.limb == limb]
        extra = [_MORE.get(s.ornament or "", 0) for s in strokes if s.limb == limb]
        best = 0.0
        last, load = 0, 0.0
        for n, start in enumerate(times):
            while last < len(times) and times[last] < start + _WINDOW - 1e-6:
                load += 1 + extra[last]
                last += 1
            best = max(best, load / _WINDOW)
            load -= 1 + extra[n]
        foot = _FOOT if limb.endswith("F") else 1.0
        rates.append(max(0.0, foot * best - _EASY))
    rates.sort(reverse=True)
    return rates[0] + 0.35 * rates[1] + 0.15 * sum(rates[2:])


_MORE = {"flam": 0.4, "drag": 0.8, "ruff": 1.2, "diddle": 1.0, "buzz": 0.4}


def _independence(moments: Moments, seconds: float) -> float:
    """How much the limbs do that their neighbours' pattern does not carry: strokes off the beat
    that fall between or beside the busiest limb's, more so the more limbs have a rhythm of their
    own; a second."""
    if not moments:
        return 0.0
    places_of_limb: dict[str, list[Fraction]] = defaultdict(list)
    for at, strokes in moments.items():
        for s in strokes:
            places_of_limb[s.limb].append(at)
    busiest = max(places_of_limb, key=lambda limb: len(places_of_limb[limb]))
    carried = set(places_of_limb[busiest])
    load = 0.0
    for limb, places in places_of_limb.items():
        if limb == busiest:
            continue
        # A limb that comes as regularly as a clock needs no thought.
        gaps = [b - a for a, b in pairwise(places)]
        steady = max((gaps.count(g) for g in set(gaps)), default=1) / max(1, len(gaps))
        weight = 1.15 - 0.75 * steady * (len(places) >= 3)
        foot = 1.25 if limb.endswith("F") else 1.0
        for at in places:
            between = 1.3 if at not in carried else 0.8
            load += foot * weight * between * (0.25 + _off(at))
    limbs = len(places_of_limb)
    row = list(moments.values())
    ways = {
        (_set(a), _set(b)) for a, b in pairwise(row)
    }  # what has to be learned: which limbs follow on which
    beats = {int(at) for at in moments}
    hanging = sum(
        Fraction(b) not in moments or _set(moments[Fraction(b)]).isdisjoint({"RH", "LH"})
        for b in beats
    )
    return float(
        load / seconds * (0.55 + 0.15 * limbs)
        + _WAYS * max(0, len(ways) - 3)
        + _HANGING * hanging / max(2, len(beats))
    )


_WAYS, _HANGING = 0.3, 2.5


def _set(strokes: Sequence[Stroke]) -> frozenset[str]:
    return frozenset(s.limb for s in strokes)


def _off(at: Fraction) -> float:
    return _OFF.get(
        at.denominator, _ODD if at.denominator % 5 == 0 or at.denominator % 7 == 0 else 1.3
    )


def _ways(score: Score, strokes: Sequence[Stroke]) -> float:
    """Reaches that the hands go."""
    plan = plan_of(score.player.plan)
    total = 0.0
    for limb in ("RH", "LH"):
        parts = [s.part for s in strokes if s.limb == limb]
        total += sum(plan.distance(a, b) for a, b in pairwise(parts) if PIECE[a] != PIECE[b])
    return total


def _contrasts(moments: Moments, seconds: float) -> float:
    """Soft beside loud: a ghost while another hand strikes, or right behind an accent or a
    backbeat; hats opened and shut; ornaments. A second."""
    count = 0.0
    last: dict[str, Stroke] = {}
    for together in moments.values():
        for s in together:
            if KIT[s.part].role.endswith("_foot"):
                continue
            before = last.get(s.limb)
            soft = s.dynamic == "ghost"
            if soft and len(together) > 1:
                count += 0.5
            if before is not None and before.dynamic != s.dynamic:
                beside = (before.dynamic, s.dynamic)
                count += 1.0 if "ghost" in beside else 0.4  # else an accent beside a plain one
            if s.part in ("hat_open", "hat_half"):
                count += 1.0
            if s.ornament in ("flam", "drag", "ruff"):
                count += 1.2
            last[s.limb] = s
    return count / seconds


def _turns(moments: Moments) -> float:
    """Changes of subdivision from beat to beat, and beats divided oddly, a beat."""
    grids: dict[int, int] = defaultdict(lambda: 1)
    for at in moments:
        grids[int(at)] = max(grids[int(at)], at.denominator)
    beats = [grids[b] for b in sorted(grids)]
    kinds = [3 if g in (3, 6, 12) else g if g in (5, 7) else 2 for g in beats]
    changed = sum(a != b for a, b in pairwise(kinds))
    odd = sum(k in (5, 7) for k in kinds)
    fast = sum(g >= 6 for g in beats)
    return (2.0 * changed + 2.5 * odd + 1.2 * fast) / max(2, len(beats))


# -- how fast, and whether slow is easier


def fastest(score: Score, bars: Sequence[int], player: Player | None = None) -> dict[str, float]:
    """By limb: the tempo (beats a minute) up to which it stays inside its limits in these bars;
    limbs that strike at most once are not told."""
    plan = plan_of((player or score.player).plan)
    strokes_of_limb: dict[str, list[Stroke]] = defaultdict(list)
    for s in played(score, bars):
        strokes_of_limb[s.limb].append(s)
    tempi = {}
    for limb, row in strokes_of_limb.items():
        steps = [
            (float(score.beat_of(b.bar, b.place) - score.beat_of(a.bar, a.place)), a, b)
            for a, b in pairwise(row)
        ]
        if limb.endswith("F"):
            rates = [60 * beats / FOOT_SINGLE for beats, *_ in steps if beats > 0]
            if rates:
                tempi[limb] = round(min(rates), 1)
            continue
        ways = [(beats, plan.distance(a.part, b.part)) for beats, a, b in steps if beats > 0]
        if ways:
            tempi[limb] = round(_fastest_hand(ways), 1)
    return tempi


def _fastest_hand(steps: Sequence[tuple[float, float]]) -> float:
    """The tempo up to which a hand keeps up. steps: (beats, reaches) from stroke to stroke."""

    def keeps_up(bpm: float) -> bool:
        fast = 0
        for beats, reach in steps:
            gap = 60 * beats / bpm
            if gap < shortest(fast, reach):
                return False
            fast = fast_steps(fast, gap)
        return True

    low, high = 10.0, 60 * max(beats for beats, _ in steps) / shortest(0, 0)
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if keeps_up(middle) else (low, middle)
    return low


def is_harder_slow(score: Score, bars: Sequence[int]) -> bool:
    """Whether long spaces have to be counted through where nothing carries one: a part of few
    strokes whose longest silence lasts, slowly, over a second and a half."""
    strokes = played(score, bars)
    times = sorted({score.seconds(s.bar, s.place) for s in strokes})
    if len(times) < 2 or len(times) > _BUSY * len(bars):
        return False
    longest = max(b - a for a, b in pairwise(times))
    return longest / _SHARE_OF_TEMPO_AT_FIRST > _LONG


def by_bar(score: Score) -> dict[int, Difficulty]:
    """The difficulty of each bar in which limbs play."""
    return {b: of(score, [b]) for b in sorted(score.by_bar())}


def of_song(figures: Sequence[Difficulty]) -> Difficulty:
    """A song or a section is as hard as its harder bars: what nine of ten stay below, cause by
    cause in the same measure."""
    if not figures:
        return NOTHING
    ranked = sorted(figures, key=lambda d: d.total)
    return ranked[min(len(ranked) - 1, int(0.9 * len(ranked)))]
