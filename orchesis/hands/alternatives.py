"""Other ways of sticking a bar: what each of them keeps even, soft or short of way, and its cost.

Each school's own, and each rudiment whose word fits a row of the bar's hands. Costs are the
solver's, for the player who asks, so that they can be compared.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from orchesis.hands import accents, recorded, rudiments
from orchesis.hands.moments import ACCENT_ROW_S, place_is_lead
from orchesis.hands.plan import plan_of
from orchesis.hands.row import rows
from orchesis.hands.solver import FAST_S, solve, solve_loop
from orchesis.score import KIT, Score, Stroke
from orchesis.score.kit import PIECE
from orchesis.score.player import SCHOOLS, Player
from orchesis.score.stroke import NOBODYS

#: Rudiments that are tried without being asked for; those with graces only where they are played.
_TRIED = tuple(
    r
    for r in rudiments.RUDIMENTS
    if not r.is_closed and "-" not in r.word and r.name != "triple stroke roll"
)
_MAX_OFFERED = 8  # that are offered


@dataclass(frozen=True)
class Facts:
    """What one sticking of a bar is like. doubles: fast strokes by the hand that played the one
    before, of so many fast ones. way: reaches. crossings: moments at which the hands cross.
    accents, ghosts: by the lead hand and by the other one. low: whether all ghosts lie in one hand
    that plays nothing loud."""

    doubles: int
    fast: int
    way: float
    crossings: int
    accents: tuple[int, int]
    ghosts: tuple[int, int]
    low: bool


#: The name of a sticking that comes round.
ROUND = "comes round"


@dataclass(frozen=True)
class Alternative:
    """name: of a school or a rudiment; several, joined by “, ”, where they come to the same.
    ROUND: as a loop its end fits its start. limbs: of every hand stroke of the bar, by id. cost:
    the solver's. is_now: how it stands. heard: whether it is what the recording speaks for, None
    where that says nothing."""

    name: str
    limbs: dict[str, str]
    hands: str
    cost: float
    facts: Facts
    is_now: bool
    heard: bool | None


def alternatives(score: Score, bar: int, player: Player | None = None) -> list[Alternative]:
    """How the hands of a bar can be given out: as it stands first, then what its accents ask for,
    then what costs least."""
    player = player or score.player
    hands = _hands(score, bar)
    if not hands:
        return []
    near = [b for b in (bar - 1, bar, bar + 1) if 1 <= b <= score.bar_count]
    free = _released(score, bar)
    stuck: dict[tuple[str, ...], list[str]] = {}

    def offer(name: str, limbs: dict[str, str]) -> None:
        stuck.setdefault(tuple(limbs[s.id] for s in hands), []).append(name)

    now = tuple(s.limb for s in hands)
    stuck[now] = []
    for school in (player.school, *SCHOOLS):
        solution = solve(_schooled(free, school), replace(player, school=school), near)
        offer(school, solution.limbs)
    asked = _by_accents(free, hands, player)
    offer(ROUND, solve_loop(free, [bar], player).limbs)
    bound = len(solve(free, player, near).unplayable)
    for name, limbs in [*asked, *_by_rudiments(free, hands, player)]:
        solution = solve(chosen(free, limbs), player, near)
        if len(solution.unplayable) <= bound:
            offer(name, {s.id: solution.limbs[s.id] for s in hands})
    turns = recorded.turns(score, hands)
    row_of_alternatives = []
    for row, names in stuck.items():
        limbs = dict(zip((s.id for s in hands), row, strict=True))
        cost = solve(chosen(free, limbs), player, near).cost
        row_of_alternatives.append(
            Alternative(
                ", ".join(dict.fromkeys(names)) or "as it stands",
                limbs,
                "".join(limb[0] for limb in row),
                round(cost, 1),
                facts(score, hands, limbs, player),
                row == now,
                _agrees(hands, limbs, turns),
            )
        )
    idioms = [name for name, _ in asked]

    def order(a: Alternative) -> tuple[bool, int, float]:
        ranks = [idioms.index(name) for name in a.name.split(", ") if name in idioms]
        return not a.is_now, min(ranks, default=len(idioms)), a.cost

    row_of_alternatives.sort(key=order)
    return row_of_alternatives[:_MAX_OFFERED]


def stick_as(
    score: Score, bars: Sequence[int], name: str, player: Player | None = None
) -> dict[str, str]:
    """The limbs of the bars' hand strokes by a rudiment that was asked for: each row of at least
    half its word is stuck by it, the lead hand first."""
    player = player or score.player
    hands = [s for b in bars for s in _hands(score, b)]
    limbs: dict[str, str] = {}
    for row in rows(score, hands):
        strokes_of_row = _behind_the_time([s for s in row.strokes if s is not None])
        if len(strokes_of_row) > 1 and 2 * len(strokes_of_row) >= rudiments.length(name):
            word = rudiments.sticking(name, len(strokes_of_row), player.hand[0].upper())
            limbs |= {s.id: f"{h}H" for s, h in zip(strokes_of_row, word, strict=True)}
    return limbs


def _behind_the_time(row: list[Stroke]) -> list[Stroke]:
    """A fill without the strokes of the time hand that lead to it; a row in which time and drums
    come in turns is one figure."""
    keeps_time = [KIT[s.part].role == "time" for s in row]
    leading = keeps_time.index(False) if False in keeps_time else 0
    return row if any(keeps_time[leading:]) else row[leading:]


def _hands(score: Score, bar: int) -> list[Stroke]:
    return [
        s
        for s in score.strokes_of(bar)
        if not KIT[s.part].role.endswith("_foot") and s.doubt not in NOBODYS
    ]


def _released(score: Score, bar: int) -> Score:
    """The score with no limb of the bar chosen."""
    released = {s.id: s.changed(limb_by="program") for s in score.strokes_of(bar)}
    return score.with_strokes({**score.strokes, **released}.values()).sharing_bars(score, {bar})


def _schooled(score: Score, school: str) -> Score:
    """The score with one school in all its sections."""
    return replace(
        score, sections=tuple(replace(s, school=school) for s in score.sections)
    ).sharing_bars(score, set())


def chosen(score: Score, limbs: dict[str, str]) -> Score:
    """The score with some limbs, by id, as a person chose them."""
    stuck = {i: score.strokes[i].changed(limb=limb, limb_by="person") for i, limb in limbs.items()}
    bars = {s.bar for s in stuck.values()}
    return score.with_strokes({**score.strokes, **stuck}.values()).sharing_bars(score, bars)


def _seconds(score: Score, row: Sequence[Stroke]) -> float:
    """How long a row lasts, from its first stroke to its last."""
    first, last = row[0], row[-1]
    return score.seconds(last.bar, last.place) - score.seconds(first.bar, first.place)


def _by_accents(
    score: Score, hands: Sequence[Stroke], player: Player
) -> list[tuple[str, dict[str, str]]]:
    """What the accents of the bar's longest row ask for, the most idiomatic first; their names are
    those of ``accents.REASONS``."""
    longest = max(rows(score, hands), key=lambda r: len(r.tokens), default=None)
    if longest is None or None in longest.strokes:
        return []
    row = [s for s in longest.strokes if s is not None]
    if any(KIT[s.part].role == "time" for s in row) or _seconds(score, row) > ACCENT_ROW_S * (
        len(row) - 1
    ):
        return []
    lead, other = ("RH", "LH") if player.hand == "right" else ("LH", "RH")
    first = "L" if place_is_lead(row[0].place, longest.grid or 1) is False else "R"
    return [
        (reason, {s.id: lead if h == "R" else other for s, h in zip(row, word, strict=True)})
        for reason, word in accents.stickings([s.dynamic == "accent" for s in row], first)
    ]


def _by_rudiments(
    score: Score, hands: Sequence[Stroke], player: Player
) -> list[tuple[str, dict[str, str]]]:
    """Rudiments whose ornaments and length fit the bar's longest row."""
    longest = max(rows(score, hands), key=lambda r: len(r.tokens), default=None)
    if longest is None or None in longest.strokes:
        return []
    strokes_of_row = [s for s in longest.strokes if s is not None]
    if _seconds(score, strokes_of_row) > FAST_S * (len(strokes_of_row) - 1) or any(
        KIT[s.part].role == "time" for s in strokes_of_row
    ):
        return []  # a rudiment is fast; one hand keeps the time
    signs = [t[:-1] for t in longest.tokens]
    stickings = []
    for r in _TRIED:
        word = [t[:-1] for t in r.word]
        fits = len(strokes_of_row) >= len(word) and len(strokes_of_row) % len(word) == 0
        if fits and all(signs[k] == word[k % len(word)] for k in range(len(strokes_of_row))):
            hand = rudiments.sticking(r.name, len(strokes_of_row), player.hand[0].upper())
            stickings.append(
                (r.name, {s.id: f"{h}H" for s, h in zip(strokes_of_row, hand, strict=True)})
            )
    return stickings


def _agrees(hands: Sequence[Stroke], limbs: dict[str, str], turns: dict[str, bool]) -> bool | None:
    """Whether a sticking does what the recording speaks for."""
    if not turns:
        return None
    return all(
        (limbs[a.id] != limbs[b.id]) == turns[b.id] for a, b in pairwise(hands) if b.id in turns
    )


def facts(score: Score, hands: Sequence[Stroke], limbs: dict[str, str], player: Player) -> Facts:
    """hands: strokes of the hands in order of time."""
    plan = plan_of(player.plan)
    lead = "RH" if player.hand == "right" else "LH"
    doubles, fast, way, crossings = 0, 0, 0.0, 0
    for a, b in pairwise(hands):
        gap = score.seconds(b.bar, b.place) - score.seconds(a.bar, a.place)
        if 0 < gap < FAST_S:
            fast += 1
            doubles += limbs[a.id] == limbs[b.id]
        apart = limbs[a.id] != limbs[b.id] and gap < FAST_S
        if apart and PIECE[a.part] != PIECE[b.part]:
            right, left = (a, b) if limbs[a.id] == lead else (b, a)
            usual = KIT[right.part].family == "hat"  # over the snare to the hat is how most play
            crossings += not usual and plan.x_of(left.part) - plan.x_of(right.part) > 0.25
    for hand in ("RH", "LH"):
        parts = [s.part for s in hands if limbs[s.id] == hand]
        way += sum(plan.distance(a, b) for a, b in pairwise(parts))

    def count(dynamic: str) -> tuple[int, int]:
        leads = [limbs[s.id] == lead for s in hands if s.dynamic == dynamic]
        return sum(leads), len(leads) - sum(leads)

    accents, ghosts = count("accent"), count("ghost")
    soft_hand = lead if ghosts[0] else ("LH" if lead == "RH" else "RH")
    low = (
        (0 in ghosts)
        and sum(ghosts) > 1
        and not any(limbs[s.id] == soft_hand and s.dynamic == "accent" for s in hands)
    )
    return Facts(doubles, fast, round(way, 1), crossings, accents, ghosts, low)
