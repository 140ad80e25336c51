"""The moments at which hands strike, and what is known of each before it is given to a hand: who
keeps the time, which hand a place or a row's accents ask for, what a person chose."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from orchesis.hands import accents
from orchesis.score import KIT, Score, Stroke
from orchesis.score.player import Player

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


#: Ornaments whose graces the other hand plays.
GRACED = ("flam", "drag", "ruff")
_SHARED_S = 0.13  # seconds within which both hands keep the time
ACCENT_ROW_S = 0.36  # seconds between strokes of a row whose accents ask for a sticking


@dataclass(frozen=True)
class Moment:
    """Hand strokes at one time; fixed: hand by stroke, where a person chose it. lead: whether its
    place belongs to the lead hand, None where no hand has a claim (triplets). claim: the hand that
    the accents of its row ask for."""

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


def moments_of(
    score: Score, player: Player, strokes: Sequence[Stroke], unplayable: list[Unplayable]
) -> list[Moment]:
    """The moments of some strokes of the hands, in order of time; what a third hand would play, and
    graces whose hand strikes elsewhere, are added to unplayable."""
    names = ("RH", "LH") if player.hand == "right" else ("LH", "RH")
    groups: dict[tuple[int, Fraction], list[Stroke]] = defaultdict(list)
    for s in strokes:
        groups[s.bar, s.place].append(s)
    grids = _grids(strokes)
    schools = {
        b: section.school
        for section in score.sections
        if section.school
        for b in range(section.first_bar, section.last_bar + 1)
    }
    keeping = _time_keepers(strokes)
    kept = {(s.bar, int(s.place)) for s in strokes if s.id in keeping}
    both = _bars_of_two_times(strokes)
    streams = _streams(score, [s for s in strokes if s.id in keeping])
    moments = []
    for (bar, place), together in sorted(groups.items()):
        ordered = sorted(together, key=lambda s: (s.limb_by != "person", -weight(s)))
        for s in ordered[2:]:
            unplayable.append(Unplayable(s.id, s.bar, s.place, "third hand"))
        pair = tuple(ordered[:2])
        if len(pair) == 2:
            unplayable += [
                Unplayable(s.id, s.bar, s.place, "grace") for s in pair if s.ornament in GRACED
            ]
        moments.append(
            Moment(
                score.seconds(bar, place),
                pair,
                tuple(
                    names.index(s.limb) if s.limb_by == "person" and s.limb in names else None
                    for s in pair
                ),
                place_is_lead(place, grids[bar, int(place)]),
                (bar, int(place)) in kept,
                schools.get(bar) or player.school,
                tuple(s.id in keeping for s in pair),
                (bar, place) in streams,
                bar in both,
            )
        )
    return _with_claims(score, moments)


def _streams(score: Score, strokes: Sequence[Stroke]) -> set[tuple[int, Fraction]]:
    """Places of strokes that keep the time, three in a row so fast that both hands share it."""
    places = sorted({(s.bar, s.place) for s in strokes})
    times = [score.seconds(*at) for at in places]
    fast = [False, *(b - a < _SHARED_S for a, b in pairwise(times)), False]
    rest = [*fast[1:], False]
    return {
        at
        for k, at in enumerate(places)
        if (fast[k] and (rest[k] or fast[k - 1])) or (rest[k] and fast[min(k + 2, len(times))])
    }


def _with_claims(score: Score, moments: Sequence[Moment]) -> list[Moment]:
    """The moments with the hands that the accents of fast, even rows ask for."""
    claimed = list(moments)
    for row in _rows_of(score, moments):
        loud = [moments[k].strokes[0].dynamic == "accent" for k in row]
        first = "L" if moments[row[0]].lead is False else "R"
        offered = accents.stickings(loud, first)
        if offered:
            for k, hand in zip(row, offered[0][1], strict=True):
                claimed[k] = replace(moments[k], claim="RL".index(hand))
    return claimed


def _rows_of(score: Score, moments: Sequence[Moment]) -> list[list[int]]:
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
            gap = score.beat_of(s.bar, s.place) - score.beat_of(before.bar, before.place)
            goes_on = step is None or gap == step
            if m.time - moments[k - 1].time <= ACCENT_ROW_S and goes_on:
                step = gap
            else:
                rows.append([])
                step = None
        rows[-1].append(k)
    return [row for row in rows if len(row) >= accents.MIN_STROKES]


def _grids(strokes: Sequence[Stroke]) -> dict[tuple[int, int], int]:
    """The finest division of each beat that its hand strokes are written in."""
    grids: dict[tuple[int, int], int] = defaultdict(lambda: 1)
    for s in strokes:
        key = (s.bar, int(s.place))
        grids[key] = max(grids[key], (s.place % 1).denominator)
    return grids


def _time_keepers(strokes: Sequence[Stroke]) -> set[str]:
    """Ids of the strokes that keep the time: those of hats and rides, and of any other piece that
    goes evenly through a bar, no faster than 8ths, where no hat or ride does."""
    by_bar: dict[int, dict[str, list[Stroke]]] = defaultdict(lambda: defaultdict(list))
    for s in strokes:
        by_bar[s.bar][s.part].append(s)
    keeping: set[str] = set()
    for parts in by_bar.values():
        usual = [s.id for one in parts.values() for s in one if KIT[s.part].role == "time"]
        keeping.update(usual)
        together: dict[Fraction, int] = defaultdict(int)
        for of_part in parts.values():
            for s in of_part:
                together[s.place] += 1
        for name, of_part in parts.items():
            gaps = {b.place - a.place for a, b in pairwise(of_part)}
            is_even = len(of_part) >= _MIN_STROKES_OF_TIME and len(gaps) == 1
            goes_under = any(together[s.place] > 1 for s in of_part)
            is_usual = bool(usual) or KIT[name].is_backbeat
            if is_even and goes_under and not is_usual and gaps.pop() >= _FASTEST_TIME:
                keeping.update(s.id for s in of_part)
    return keeping


def _bars_of_two_times(strokes: Sequence[Stroke]) -> set[int]:
    """Bars in which a hat and a ride come in turns."""
    families: dict[int, list[str]] = defaultdict(list)
    for s in strokes:
        if KIT[s.part].role == "time" and KIT[s.part].family in ("hat", "cymbal"):
            families[s.bar].append(KIT[s.part].family)
    return {
        bar for bar, row in families.items() if sum(a != b for a, b in pairwise(row)) >= _MIN_TURNS
    }


_MIN_TURNS = 4  # changes between hat and ride in a bar
_MIN_STROKES_OF_TIME = 4
_FASTEST_TIME = Fraction(1, 2)  # of a beat


def weight(s: Stroke) -> float:
    """What of several strokes is kept first: the backbeat, a crash (it takes the place of the hat's
    or the ride's stroke), then time, accents before soft ones."""
    role = "crash" if KIT[s.part].is_crash else KIT[s.part].role
    return {"backbeat": 3.0, "crash": 2.5, "time": 1.5, "hand": 1.0}.get(role, 0.0) + s.loudness


def place_is_lead(place: Fraction, grid: int) -> bool | None:
    """Whether the 16th (32nd) of a place is the lead hand's: numbers and "ands"."""
    if grid & (grid - 1):
        return None
    step = place * max(4, grid)
    return step.numerator % 2 == 0 if step.denominator == 1 else None


def keeps_time(moment: Moment, s: Stroke) -> bool:
    """Whether a stroke of a moment is the time's."""
    return moment.times[moment.strokes.index(s)]
