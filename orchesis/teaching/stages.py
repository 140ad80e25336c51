"""A part as stages: what to play first, what to add, what goes wrong here and what to listen for.

Every stage is a score of its own with some of the part's strokes. The order is computed from the
difficulty's causes and from what is steady: what goes like a clock comes first, the hardest place
gets a loop of its own. Schools fix the order otherwise.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import NamedTuple

from orchesis.errors import BadScore
from orchesis.hands import difficulty
from orchesis.hands.solver import solve_loop
from orchesis.score import KIT, Meter, PulseMap, Score, Section, Stroke
from orchesis.score.counting import place_text
from orchesis.score.stroke import LIMBS
from orchesis.teaching import orders
from orchesis.teaching.hardest import hardest, steadiest
from orchesis.teaching.ladder import Ladder, ladder
from orchesis.teaching.orders import ORDERS
from orchesis.teaching.steps import NAMES, Order

#: “computed”: by what is hard; the others as their orders say.
SCHOOLS = ("computed", *ORDERS)
LABELS = {"computed": "By what is hard", **{key: label for key, (label, _) in ORDERS.items()}}


@dataclass(frozen=True)
class Stage:
    """plays: its limbs, or "hands". score: what is played and goes round, bars counted from 1.
    strokes: the same in the song's bars. says: what goes wrong here and what to listen for.
    with_song: whether the recording can be played along with from here on. first, beats: what of
    the bars goes round, in beats from their start."""

    title: str
    plays: str
    score: Score
    ladder: Ladder
    says: str
    with_song: bool
    strokes: tuple[Stroke, ...] = ()
    first: int = 0
    beats: int = 0


def plan(score: Score, bars: Sequence[int], school: str = "computed") -> list[Stage]:
    """The stages by which some bars, one behind the other, are learned."""
    if school not in SCHOOLS:
        raise BadScore(f"There is no school “{school}”; there are {', '.join(SCHOOLS)}.")
    if not difficulty.played(score, bars):
        raise BadScore("There is nothing to learn in these bars.")
    score = _round(score, bars)
    strokes = difficulty.played(score, bars)
    steps: list[_Step] = []
    if school == "computed":
        cause = difficulty.of_strokes(score, strokes).cause
        hands_only = all(s.limb[1] == "H" for s in strokes)
        chosen: tuple[Order, ...] = (
            (orders.hands, orders.zoom)
            if hands_only
            else (orders.limbs, orders.zoom)
            if cause in ("speed", "moves", "changes")
            else (orders.steady, orders.zoom)
        )
    else:
        chosen = (ORDERS[school][1],)
    total = sum(score.meters[b - 1].beats for b in bars)
    for order in chosen:
        for item in order(score, bars, strokes):
            title, strokes_of_step, *span = item
            steps.append(_Step(title, strokes_of_step, *(span or (0, total))))
    steps.append(_Step("All of it", strokes, 0, total))
    return [_stage(score, bars, step, strokes) for step in _different(steps)]


class _Step(NamedTuple):
    """What becomes a stage. first, beats: what of the bars goes round."""

    title: str
    strokes: list[Stroke]
    first: int
    beats: int


def why_single(score: Score, bars: Sequence[int], school: str, stages: Sequence[Stage]) -> str:
    """Why an order gives a single step; empty where it gives more, or where it is to give one."""
    if len(stages) > 1 or school in ("computed", "whole"):
        return ""
    bars_text = "these bars" if len(bars) > 1 else "this bar"
    return (
        f"“{LABELS[school]}” finds nothing to take apart in {bars_text}: there is one step, all of "
        "it. Choose another method, or more bars."
    )


def recurring(score: Score, bars: Sequence[int]) -> list[str]:
    """What of some bars comes back, so that nothing of it is to be learned anew; a sentence
    each."""
    return orders.recurring(score, bars, difficulty.played(score, bars))


def _round(score: Score, bars: Sequence[int]) -> Score:
    """The score with limbs by which the bars come round: what is learned is looped."""
    limbs = solve_loop(score, bars).limbs
    strokes = [
        s.changed(limb=limbs[s.id])
        for b in bars
        for s in score.strokes_of(b)
        if s.id in limbs and s.limb_by == "program" and s.limb != limbs[s.id]
    ]
    if not strokes:
        return score
    return score.with_strokes(
        {**score.strokes, **{s.id: s for s in strokes}}.values()
    ).sharing_bars(score, {s.bar for s in strokes})


def _different(steps: list[_Step]) -> list[_Step]:
    """Steps without those that only repeat the one before; the last one stays."""
    kept: list[_Step] = []
    for step in steps:
        signs = (step.first, step.beats, {_sign(s) for s in step.strokes})
        before = [(x.first, x.beats, {_sign(s) for s in x.strokes}) for x in kept[-1:]]
        if step.strokes and signs not in before:
            kept.append(step)
        elif kept and step.title == "All of it":
            kept[-1] = step
    return kept


def _sign(s: Stroke) -> tuple[object, ...]:
    return s.id, s.bar, s.place, s.part, s.limb, s.dynamic, s.ornament


def _stage(score: Score, bars: Sequence[int], step: _Step, whole: Sequence[Stroke]) -> Stage:
    title, strokes_of_step = step.title, step.strokes
    total = sum(score.meters[b - 1].beats for b in bars)
    is_whole = (step.first, step.beats) == (0, total)
    part = _cut(score, bars, strokes_of_step) if is_whole else _cut_beats(score, bars, step)
    rungs = ladder(score, strokes_of_step, bars)
    limbs = [limb for limb in LIMBS if any(s.limb == limb for s in strokes_of_step)]
    plays = (
        "hands"
        if limbs == ["RH", "LH"] and len({s.limb for s in whole}) == 2
        else (" ".join(limbs))
    )
    keeps_time = any(KIT[s.part].layer in ("kick", "backbeat") for s in strokes_of_step)
    along = (
        keeps_time
        and len(strokes_of_step) >= len(whole) / 3
        and len({s.bar for s in strokes_of_step}) == len({s.bar for s in whole})
    )
    along = along and is_whole
    strokes = tuple(s.changed(measured=None) for s in strokes_of_step)
    says = _mistake(score, strokes_of_step)
    return Stage(title, plays, part, rungs, says, along, strokes, step.first, step.beats)


def _cut(score: Score, bars: Sequence[int], strokes_kept: Sequence[Stroke]) -> Score:
    """Some strokes of some bars as a score of its own, bars counted from 1."""
    meters = tuple(score.meters[b - 1] for b in bars)
    beats = sum(m.beats for m in meters)
    number = {b: n for n, b in enumerate(bars, 1)}
    strokes = {s.id: s.changed(bar=number[s.bar], measured=None) for s in strokes_kept}
    tempo = max(20.0, score.pulse.tempo()[0])
    part = Score(
        meters,
        PulseMap.even(tempo, beats),
        strokes,
        (Section("a", "Stage", "A", 1, len(meters)),),
        title=score.title,
    )
    spoken_words = score.spoken_by_bar()
    spoken = tuple((part.seconds(number[b]), spoken_words[b]) for b in bars if b in spoken_words)
    return replace(part, swing=score.swing, player=score.player, spoken=spoken, how_to=score.how_to)


def _cut_beats(score: Score, bars: Sequence[int], step: _Step) -> Score:
    """Some beats of the bars as one bar of their own."""
    base, at = {}, 0
    for b in bars:
        base[b], at = at, at + score.meters[b - 1].beats
    unit = score.meters[bars[0] - 1]
    meter = Meter(3 * step.beats, 8) if unit.is_compound else Meter(step.beats, unit.unit)
    strokes = {
        s.id: s.changed(bar=1, place=base[s.bar] + s.place - step.first, measured=None)
        for s in step.strokes
    }
    tempo = max(20.0, score.pulse.tempo()[0])
    part = Score(
        (meter,),
        PulseMap.even(tempo, meter.beats),
        strokes,
        (Section("a", "Stage", "A", 1, 1),),
        title=score.title,
    )
    return replace(part, swing=score.swing, player=score.player, how_to=score.how_to)


def on_song(
    stage: Stage, meters: Sequence[Meter], first: int, bar: int, place: Fraction
) -> tuple[int, Fraction]:
    """Where a place of a stage lies in the song: bar and place. meters: of the song's bars; first:
    the first of the bars that are learned."""
    beats = sum((m.beats for m in stage.score.meters[: bar - 1]), 0)
    at = stage.first + beats + place
    while first <= len(meters) and at >= meters[first - 1].beats:
        at -= meters[first - 1].beats
        first += 1
    return first, Fraction(at)


# -- what goes wrong


def mistake(score: Score, bars: Sequence[int]) -> str:
    """The usual mistake of some bars, at their hardest place, and what to listen for."""
    return _mistake(score, difficulty.played(score, bars))


def _mistake(score: Score, strokes: Sequence[Stroke]) -> str:
    bars = sorted({s.bar for s in strokes})
    at = hardest(_only(score, strokes), bars)
    meter = score.meters[at.bar - 1]
    beat = [s for s in strokes if s.bar == at.bar and at.place <= s.place < at.place + 1]

    def where(s: Stroke) -> str:
        return place_text(s.place, meter)

    ornament = next((s for s in beat if s.ornament), None)
    if ornament is not None:
        return (
            f"The {ornament.ornament} on {where(ornament)} comes late: its soft stroke lies before "
            "the count. Listen whether the main stroke is on the click."
        )
    opened = next((s for s in beat if s.part in ("hat_open", "hat_half")), None)
    if opened is not None:
        return (
            f"The open hat on {where(opened)} stays open too long, or drags the beat behind it. "
            "Listen for where it is shut."
        )
    if _changes(strokes):
        return (
            f"The subdivision changes into beat {int(at.place) + 1}: it is rushed there. Count it "
            "aloud before you play it."
        )
    ghost = next((s for s in beat if s.dynamic == "ghost"), None)
    if ghost is not None:
        return (
            f"The ghost on {where(ghost)} comes out too loud, or pulls the stroke beside it down. "
            "Listen for two loudnesses of one hand."
        )
    lead = steadiest(strokes)
    if {s.limb for s in strokes} == {"RH", "LH"} and len({s.part for s in strokes}) == 1:
        return (
            "One hand comes softer and later than the other, and both grow stiff. Listen for one "
            "even row; stop before it hurts."
        )
    off = [s for s in beat if s.limb != lead and s.place.denominator > 2]
    if not off:
        off = [
            s
            for s in beat
            if s.limb != lead
            and s.place.denominator > 1
            and not any(o.place == s.place and o.limb == lead for o in strokes)
        ]
    if off:
        s = off[-1]
        return (
            f"The {KIT[s.part].label.lower()} on {where(s)} is drawn to the {NAMES[lead]}'s next "
            "stroke. Listen whether it stands between them."
        )
    fast = difficulty.of_strokes(score, strokes)
    if fast.cause == "speed" and fast.speed > _SPEED_IS_THE_TROUBLE:
        return (
            f"The {NAMES[lead]} grows stiff and slows down. Listen for even strokes; stop before "
            "it hurts."
        )
    if len({s.limb for s in strokes}) == 1:
        return (
            f"The {NAMES[lead]} alone runs away, for nothing holds it. Listen for even strokes, "
            "each as far from the next."
        )
    return "Hand and foot that fall together come apart. Listen for one sound on each number."


_SPEED_IS_THE_TROUBLE = (
    2.9  # share of the difficulty that speed has, from which on it is the trouble
)


def _only(score: Score, strokes: Sequence[Stroke]) -> Score:
    return score.with_strokes(strokes)


def _changes(strokes: Collection[Stroke]) -> bool:
    """Whether beats in three follow beats in two."""
    grids: dict[tuple[int, int], int] = {}
    for s in strokes:
        key = (s.bar, int(s.place))
        grids[key] = max(grids.get(key, 1), s.place.denominator)
    kinds = [g % 3 == 0 for _, g in sorted(grids.items()) if g > 1]
    return any(a != b for a, b in pairwise(kinds))
