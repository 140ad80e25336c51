"""A part as stages: what to play first, what to add, what goes wrong here and what to listen for.

Every stage is a score of its own with some of the part's strokes. The order is computed from the
difficulty's causes and from what is steady: what goes like a clock comes first, the hardest place
gets a loop of its own. Schools fix the order otherwise.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from orchesis.errors import BadScore
from orchesis.hands import difficulty
from orchesis.hands.solver import solve_loop
from orchesis.score import KIT, PulseMap, Score, Section, Stroke
from orchesis.score.counting import place_text
from orchesis.score.stroke import LIMBS
from orchesis.teaching.ladder import Ladder, ladder

#: computed: by what is hard. limbs: limb by limb. hands: hands first, then the feet's notes one by
#: one. steady: what is steady first, then the other notes one by one. skeleton: kick and backbeat,
#: time, ghosts, ornaments. zoom: the hard place alone, then round it.
SCHOOLS = ("computed", "limbs", "hands", "steady", "skeleton", "zoom")
_NAMES = {"RH": "right hand", "LH": "left hand", "RF": "right foot", "LF": "left foot"}
_MOST_NOTES = 4  # that are added one by one, each in a stage
_WINDOW = 1  # beats of the hardest place


@dataclass(frozen=True)
class Place:
    """A beat of a bar; total: its difficulty, 0..10."""

    bar: int
    place: Fraction
    total: float


@dataclass(frozen=True)
class Stage:
    """plays: its limbs, or "hands". score: what is played, bars counted from 1. says: what goes
    wrong here and what
    to listen for. with_song: whether the recording can be played along with from here on."""

    title: str
    plays: str
    score: Score
    ladder: Ladder
    says: str
    with_song: bool


def hardest(score: Score, bars: Sequence[int]) -> Place:
    """The beat of some bars that is hardest, taken with what leads into it."""
    best = Place(bars[0], Fraction(0), -1.0)
    for bar in bars:
        strokes = difficulty.played(score, [bar])
        for beat in range(score.meters[bar - 1].beats):
            own = [s for s in strokes if beat <= s.place < beat + _WINDOW]
            lead = [s for s in strokes if beat - Fraction(1, 2) <= s.place < beat]
            total = _hard(score, own) + 0.15 * _hard(score, lead)
            if own and total > best.total + 1e-9:
                best = Place(bar, Fraction(beat), total)
    return best


def _hard(score: Score, strokes: Sequence[Stroke]) -> float:
    """How much one beat asks: off-beat strokes of the other limbs, soft beside loud, ornaments, how
    fine it is."""
    if not strokes:
        return 0.0
    lead = _steadiest(strokes)
    total = 0.35 * max(s.place.denominator for s in strokes)
    for s in strokes:
        off = {1: 0.1, 2: 0.5, 3: 0.9, 4: 1.2}.get(s.place.denominator, 1.5)
        total += off * (0.2 if s.limb == lead else 1.0)
        total += 0.8 * (s.dynamic == "ghost") + 1.2 * (s.ornament is not None)
        total += 1.0 * (s.part in ("hat_open", "hat_half"))
    return total


def _steadiest(strokes: Sequence[Stroke]) -> str:
    """The limb that goes most like a clock: the one with most strokes, the time hand first."""
    own = {limb: [s for s in strokes if s.limb == limb] for limb in LIMBS}
    times = {limb for limb, x in own.items() if any(KIT[s.part].role == "time" for s in x)}
    return max(own, key=lambda limb: (len(own[limb]), limb in times, limb == "RH"))


def plan(score: Score, bars: Sequence[int], school: str = "computed") -> list[Stage]:
    """The stages by which some bars, one behind the other, are learned."""
    if school not in SCHOOLS:
        raise BadScore(f"There is no school “{school}”; there are {', '.join(SCHOOLS)}.")
    if not difficulty.played(score, bars):
        raise BadScore("There is nothing to learn in these bars.")
    score = _round(score, bars)
    strokes = difficulty.played(score, bars)
    made: list[tuple[str, list[Stroke]]] = []
    if school == "computed":
        cause = difficulty.of_strokes(score, strokes).cause
        hands_only = all(s.limb[1] == "H" for s in strokes)
        order: tuple[Callable[..., list[tuple[str, list[Stroke]]]], ...] = (
            (_hands, _zoom) if hands_only
            else (_limbs, _zoom) if cause in ("speed", "moves", "changes")
            else (_steady, _zoom)
        )  # fmt: skip
        for part in order:
            made += part(score, bars, strokes)
    else:
        made = {"limbs": _limbs, "hands": _hands, "steady": _steady, "skeleton": _skeleton,
                "zoom": _zoom}[school](score, bars, strokes)  # fmt: skip
    made.append(("All of it", strokes))
    return [_stage(score, bars, title, own, strokes) for title, own in _different(made)]


def _round(score: Score, bars: Sequence[int]) -> Score:
    """The score with limbs by which the bars come round: what is learned is looped."""
    limbs = solve_loop(score, bars).limbs
    own = [s.changed(limb=limbs[s.id]) for b in bars for s in score.strokes_of(b)
           if s.id in limbs and s.limb_by == "program" and s.limb != limbs[s.id]]  # fmt: skip
    if not own:
        return score
    return score.with_strokes({**score.strokes, **{s.id: s for s in own}}.values()).sharing_bars(
        score, {s.bar for s in own}
    )


def _different(made: list[tuple[str, list[Stroke]]]) -> list[tuple[str, list[Stroke]]]:
    """Stages without those that only repeat the one before; the last one stays."""
    told: list[tuple[str, list[Stroke]]] = []
    for title, own in made:
        ids = {s.id for s in own}
        if own and not any({s.id for s in x} == ids for _, x in told[-1:]):
            told.append((title, own))
        elif told and title == "All of it":
            told[-1] = (title, own)
    return told


def _stage(
    score: Score, bars: Sequence[int], title: str, own: list[Stroke], whole: Sequence[Stroke]
) -> Stage:
    part = _cut(score, bars, own)
    rungs = ladder(score, own, bars)
    limbs = [limb for limb in LIMBS if any(s.limb == limb for s in own)]
    plays = "hands" if limbs == ["RH", "LH"] and len({s.limb for s in whole}) == 2 else (
        " ".join(limbs)
    )  # fmt: skip
    keeps_time = any(KIT[s.part].layer in ("kick", "backbeat") for s in own)
    along = keeps_time and len(own) >= len(whole) / 3 and len({s.bar for s in own}) == len(
        {s.bar for s in whole}
    )  # fmt: skip
    return Stage(title, plays, part, rungs, _mistake(score, own), along)


def _cut(score: Score, bars: Sequence[int], own: Sequence[Stroke]) -> Score:
    """Some strokes of some bars as a score of its own, bars counted from 1."""
    meters = tuple(score.meters[b - 1] for b in bars)
    beats = sum(m.beats for m in meters)
    number = {b: n for n, b in enumerate(bars, 1)}
    strokes = {s.id: s.changed(bar=number[s.bar], measured=None) for s in own}
    tempo = max(20.0, score.pulse.tempo()[0])
    return replace(
        Score(meters, PulseMap.even(tempo, beats), strokes,
              (Section("a", "Stage", "A", 1, len(meters)),), title=score.title),
        swing=score.swing, player=score.player,
    )  # fmt: skip


# -- the orders


def _by_limb(strokes: Sequence[Stroke]) -> dict[str, list[Stroke]]:
    made = {limb: [s for s in strokes if s.limb == limb] for limb in LIMBS}
    return {limb: own for limb, own in made.items() if own}


def _regular(own: Sequence[Stroke], score: Score) -> float:
    """How much a limb's row goes like a clock, 0..1."""
    at = [score.beat_of(s.bar, s.place) for s in own]
    gaps = [b - a for a, b in pairwise(at)]
    return max((gaps.count(g) for g in set(gaps)), default=0) / max(1, len(gaps))


def _easiest_first(score: Score, own: dict[str, list[Stroke]]) -> list[str]:
    """Limbs in the order in which they are learned: what is steady and often first."""

    def ease(limb: str) -> tuple[float, float]:
        time = any(KIT[s.part].role == "time" for s in own[limb])
        return (-(_regular(own[limb], score) + 1.0 * time), -len(own[limb]))

    return sorted(own, key=ease)


def _limbs(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> list[tuple[str, list[Stroke]]]:
    """Limb by limb, each added to what there is."""
    own = _by_limb(strokes)
    made, known = [], list[str]()
    for limb in _easiest_first(score, own):
        known.append(limb)
        if len(known) == 1:
            made.append((f"The {_NAMES[limb]} alone", own[limb]))
            continue
        together = [s for s in strokes if s.limb in known]
        made.append((f"With the {_NAMES[limb]}", together))
    return made


def _hands(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> list[tuple[str, list[Stroke]]]:
    """The hands, then the feet's notes one by one."""
    hands = [s for s in strokes if s.limb[1] == "H"]
    feet = [s for s in strokes if s.limb[1] == "F"]
    made = [("The hands alone", hands)] if hands else []
    return made + _one_by_one(score, hands, feet)


def _steady(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> list[tuple[str, list[Stroke]]]:
    """What goes like a clock, then the other notes one by one."""
    own = _by_limb(strokes)
    first = _easiest_first(score, own)[0]
    rest = [s for s in strokes if s.limb != first]
    made = [(f"The {_NAMES[first]} alone", own[first])]
    return made + _one_by_one(score, own[first], rest)


def _one_by_one(
    score: Score, base: Sequence[Stroke], rest: Sequence[Stroke]
) -> list[tuple[str, list[Stroke]]]:
    """What comes on the beat at once, then each other place alone, the strong ones first."""
    made: list[tuple[str, list[Stroke]]] = []
    known = list(base)
    on = [s for s in rest if s.place.denominator == 1]
    if on:
        known += on
        made.append(("With what falls on the beats", sorted(known, key=_when)))
    off = sorted({(s.place.denominator, s.place, s.part) for s in rest if s.place.denominator > 1})
    for n, (_, place, part) in enumerate(off):
        more = [s for s in rest if s.place == place and s.part == part]
        known += more
        if n < _MOST_NOTES or n == len(off) - 1:
            meter = score.meters[more[0].bar - 1]
            made.append((f"With the {KIT[part].label.lower()} on {place_text(place, meter)}",
                         sorted(known, key=_when)))  # fmt: skip
    return made


def _when(s: Stroke) -> tuple[int, Fraction]:
    return s.bar, s.place


def _skeleton(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> list[tuple[str, list[Stroke]]]:
    """Kick and backbeat; the time; ghosts; ornaments and openings."""

    def kept(which: Callable[[Stroke], bool], plain: bool = True) -> list[Stroke]:
        own = [s for s in strokes if which(s)]
        return [s.changed(ornament=None) for s in own] if plain else own

    frame = lambda s: s.layer in ("kick", "backbeat")  # noqa: E731
    timed = lambda s: frame(s) or KIT[s.part].role == "time"  # noqa: E731
    return [
        ("Kick and backbeat", kept(frame)),
        ("With the time", kept(timed)),
        ("With the ghosts", kept(lambda s: timed(s) or s.layer == "ghosts")),
    ]


def _zoom(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> list[tuple[str, list[Stroke]]]:
    """The hard place alone, the half bar, the bar it stands in."""
    at = hardest(score, bars)
    meter = score.meters[at.bar - 1]
    where = f"beat {int(at.place) + 1}" + (f" of bar {at.bar}" if len(bars) > 1 else "")
    bar = [s for s in strokes if s.bar == at.bar]
    beat = [s for s in bar if at.place <= s.place < at.place + 1]
    half = meter.beats // 2 or 1
    first = at.place // half * half
    near = [s for s in bar if first <= s.place < first + half]
    made = [(f"The hard place: {where}", beat)]
    if meter.beats > 2:
        made.append((f"Half the bar round {where}", near))
    if len(bars) > 1:
        made.append((f"Bar {at.bar} whole", bar))
    return made


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
    lead = _steadiest(strokes)
    off = [s for s in beat if s.limb != lead and s.place.denominator > 2]
    if not off:
        off = [s for s in beat if s.limb != lead and s.place.denominator > 1
               and not any(o.place == s.place and o.limb == lead for o in strokes)]  # fmt: skip
    if off:
        s = off[-1]
        return (
            f"The {KIT[s.part].label.lower()} on {where(s)} is drawn to the {_NAMES[lead]}'s next "
            "stroke. Listen whether it stands between them."
        )
    fast = difficulty.of_strokes(score, strokes)
    if fast.cause == "speed" and fast.speed > _STIFF:
        return (
            f"The {_NAMES[lead]} grows stiff and slows down. Listen for even strokes; stop before "
            "it hurts."
        )
    if len({s.limb for s in strokes}) == 1:
        return (
            f"The {_NAMES[lead]} alone runs away, for nothing holds it. Listen for even strokes, "
            "each as far from the next."
        )
    return "Hand and foot that fall together come apart. Listen for one sound on each number."


_STIFF = 2.9  # share of the difficulty that speed has, from which on it is the trouble


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
