"""The orders in which a part is learned: each makes stages of it, a title and its strokes."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import pairwise
from typing import NamedTuple

from orchesis.score import KIT, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.stroke import CLASS_LOUDNESS, LIMBS
from orchesis.teaching.hardest import hardest

Titled = tuple[str, list[Stroke]]


class Zoomed(NamedTuple):
    """A step that goes round some beats only: the first of them from the start of the bars, from 0,
    and how many."""

    title: str
    strokes: list[Stroke]
    first: int
    beats: int


Order = Callable[[Score, Sequence[int], Sequence[Stroke]], Sequence[Titled | Zoomed]]
NAMES = {"RH": "right hand", "LH": "left hand", "RF": "right foot", "LF": "left foot"}
_MOST_NOTES = 4  # that are added one by one, each in a stage
_COMMON = 2 / 3  # share of the bars in which a stroke of the core lies
_MOST_PAIRS = 6  # of hand patterns over foot patterns
_COVERED = 0.7  # share of a fill that its cell makes up
_MOST_LOTS = 4  # that are drawn of the options


def _by_limb(strokes: Sequence[Stroke]) -> dict[str, list[Stroke]]:
    strokes_of_limb = {limb: [s for s in strokes if s.limb == limb] for limb in LIMBS}
    return {limb: row for limb, row in strokes_of_limb.items() if row}


def _regular(strokes: Sequence[Stroke], score: Score) -> float:
    """How much a limb's row goes like a clock, 0..1."""
    at = [score.beat_of(s.bar, s.place) for s in strokes]
    gaps = [b - a for a, b in pairwise(at)]
    return max((gaps.count(g) for g in set(gaps)), default=0) / max(1, len(gaps))


def _easiest_first(score: Score, strokes_of_limb: dict[str, list[Stroke]]) -> list[str]:
    """Limbs in the order in which they are learned: what is steady and often first."""

    def ease(limb: str) -> tuple[float, float]:
        time = any(KIT[s.part].role == "time" for s in strokes_of_limb[limb])
        return (-(_regular(strokes_of_limb[limb], score) + 1.0 * time), -len(strokes_of_limb[limb]))

    return sorted(strokes_of_limb, key=ease)


def limbs(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """Limb by limb, each added to what there is."""
    strokes_of_limb = _by_limb(strokes)
    steps, learnt = [], list[str]()
    for limb in _easiest_first(score, strokes_of_limb):
        learnt.append(limb)
        if len(learnt) == 1:
            steps.append((f"The {NAMES[limb]} alone", strokes_of_limb[limb]))
            continue
        together = [s for s in strokes if s.limb in learnt]
        steps.append((f"With the {NAMES[limb]}", together))
    return steps


def hands(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """The hands, then the feet's notes one by one."""
    hands = [s for s in strokes if s.limb[1] == "H"]
    feet = [s for s in strokes if s.limb[1] == "F"]
    steps = [("The hands alone", hands)] if hands else []
    return steps + _one_by_one(score, hands, feet)


def steady(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """What goes like a clock, then the other notes one by one."""
    strokes_of_limb = _by_limb(strokes)
    first = _easiest_first(score, strokes_of_limb)[0]
    rest = [s for s in strokes if s.limb != first]
    steps = [(f"The {NAMES[first]} alone", strokes_of_limb[first])]
    return steps + _one_by_one(score, strokes_of_limb[first], rest)


def _one_by_one(score: Score, base: Sequence[Stroke], rest: Sequence[Stroke]) -> list[Titled]:
    """What comes on the beat at once, then each other place alone, the strong ones first."""
    steps: list[Titled] = []
    learnt = list(base)
    on = [s for s in rest if s.place.denominator == 1]
    if on:
        learnt += on
        steps.append(("With what falls on the beats", sorted(learnt, key=_when)))
    off = sorted({(s.place.denominator, s.place, s.part) for s in rest if s.place.denominator > 1})
    for n, (_, place, part) in enumerate(off):
        more = [s for s in rest if s.place == place and s.part == part]
        learnt += more
        if n < _MOST_NOTES or n == len(off) - 1:
            meter = score.meters[more[0].bar - 1]
            steps.append(
                (
                    f"With the {KIT[part].label.lower()} on {place_text(place, meter)}",
                    sorted(learnt, key=_when),
                )
            )
    return steps


def _when(s: Stroke) -> tuple[int, Fraction]:
    return s.bar, s.place


def skeleton(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """Kick and backbeat; the time; ghosts; ornaments and openings."""

    def kept(which: Callable[[Stroke], bool], plain: bool = True) -> list[Stroke]:
        strokes_kept = [s for s in strokes if which(s)]
        return [s.changed(ornament=None) for s in strokes_kept] if plain else strokes_kept

    frame = lambda s: s.layer in ("kick", "backbeat")  # noqa: E731
    timed = lambda s: frame(s) or KIT[s.part].role == "time"  # noqa: E731
    return [
        ("Kick and backbeat", kept(frame)),
        ("With the time", kept(timed)),
        ("With the ghosts", kept(lambda s: timed(s) or s.layer == "ghosts")),
    ]


def _beats_from(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke], first: int, beats: int
) -> list[Stroke]:
    """The strokes of some beats, counted from the start of the bars."""
    base = {}
    at = 0
    for b in bars:
        base[b], at = at, at + score.meters[b - 1].beats
    return [s for s in strokes if first <= base[s.bar] + s.place < first + beats]


def _with_joins(
    score: Score,
    bars: Sequence[int],
    strokes: Sequence[Stroke],
    title: str,
    beat: int,
    first: int,
    last: int,
) -> Zoomed:
    """One beat and its join: of the beat behind it the first strokes, into which it leads; of the
    last beat of a stretch (first to last, counted from the start of the bars) the last ones of the
    beat before it."""
    if first == last:
        return Zoomed(title, _beats_from(score, bars, strokes, beat, 1), beat, 1)
    start = beat if beat < last else beat - 1
    strokes_here = _beats_from(score, bars, strokes, start, 2)
    inside = {s.id for s in _beats_from(score, bars, strokes, beat, 1)}
    others = [s for s in strokes_here if s.id not in inside]
    edge = (min if start == beat else max)((_when(s) for s in others), default=None)
    return Zoomed(title, [s for s in strokes_here if s.id in inside or _when(s) == edge], start, 2)


def zoom(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> Sequence[Titled | Zoomed]:
    """The hard place with its join, the half bar, the bar it stands in: just that goes round,
    without the rest of the bar in silence."""
    at = hardest(score, bars)
    meter = score.meters[at.bar - 1]
    where = f"beat {int(at.place) + 1}" + (f" of bar {at.bar}" if len(bars) > 1 else "")
    base = sum(score.meters[b - 1].beats for b in bars if b < at.bar)
    beat = base + int(at.place)
    half = meter.beats // 2 if meter.beats > 3 else meter.beats
    first = base + int(at.place) // half * half
    last = min(first + half, base + meter.beats) - 1
    title = f"The hard place: {where}"
    steps: list[Titled | Zoomed] = [_with_joins(score, bars, strokes, title, beat, first, last)]
    if half < meter.beats:
        count = last - first + 1
        near = _beats_from(score, bars, strokes, first, count)
        steps.append(Zoomed(f"Half the bar round {where}", near, first, count))
    if len(bars) > 1:
        bar = [s for s in strokes if s.bar == at.bar]
        steps.append(Zoomed(f"Bar {at.bar} whole", bar, base, meter.beats))
    return steps


def without(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """With and without in turn: what can be left out, each for four bars without it and four with
    it."""
    kinds: list[tuple[str, Callable[[Stroke], bool]]] = [
        ("the ghosts", lambda s: s.dynamic == "ghost"),
        ("the openings", lambda s: s.part in ("hat_open", "hat_half")),
        ("the left foot", lambda s: s.limb == "LF"),
        ("the off-beat kicks", lambda s: s.layer == "kick" and s.place.denominator > 1),
    ]
    steps: list[Titled] = []
    if any(s.ornament for s in strokes):
        plain = [s.changed(ornament=None) for s in strokes]
        steps += [("Without the ornaments", plain), ("With the ornaments", list(strokes))]
    for name, is_it in kinds:
        rest = [s for s in strokes if not is_it(s)]
        if rest and len(rest) < len(strokes):
            steps += [(f"Without {name}", rest), (f"With {name}", list(strokes))]
    return steps or [("The hands alone", [s for s in strokes if s.limb[1] == "H"])]


def fill(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """A fill: its cell, at half its density, the feet first, one hand and then the other, on one
    drum, whole, turned round, over another division."""
    grid = max(s.place.denominator for s in strokes)
    coarse = [s for s in strokes if (s.place * grid).numerator % 2 == 0] if grid > 1 else []
    feet = [s for s in strokes if s.limb[1] == "F"]
    hands_only = [s for s in strokes if s.limb[1] == "H"]
    steps: list[Titled] = []
    if figure := _cell(hands_only or strokes):
        count = len({_when(s) for s in figure})
        steps.append((f"The cell alone: {count} strokes", figure))
    if coarse:
        steps.append(("At half its density", coarse))
    if feet and hands_only:
        steps += [("The feet alone", feet), ("The hands alone", hands_only)]
    strokes_of_limb = _by_limb(hands_only)
    if len(strokes_of_limb) == 2:
        steps += [(f"The {NAMES[limb]} of it alone", x) for limb, x in strokes_of_limb.items()]
    if len({s.part for s in hands_only}) > 1:
        steps.append(("On the snare alone", _on_one_drum(strokes)))
    steps.append(("The fill", list(strokes)))
    if len(strokes_of_limb) == 2:
        first = NAMES[_OTHER_HAND[min(hands_only, key=_when).limb]]
        steps.append((f"Turned round: the {first} first", [_turned(s) for s in strokes]))
    if other := _over_another_grid(score, hands_only):
        steps.append(other)
    return steps


def _cell(row: Sequence[Stroke]) -> list[Stroke]:
    """The first turn of the shortest figure, of parts and distances, that turns round from the
    row's start on; none where nothing does."""
    by_place: dict[tuple[int, Fraction], list[Stroke]] = {}
    for s in sorted(row, key=_when):
        by_place.setdefault(_when(s), []).append(s)
    at = list(by_place)
    parts = ["+".join(sorted(s.part for s in by_place[w])) for w in at]
    gaps = [b[1] - a[1] if a[0] == b[0] else None for a, b in pairwise(at)]
    for n in range(2, len(at) // 2 + 1):
        if len(set(parts[:n])) == 1 and len(set(gaps[:n])) == 1:
            continue  # one drum at one distance is no figure
        turns = 1
        while (
            parts[turns * n : (turns + 1) * n] == parts[:n]
            and all(gaps[turns * n + k] in (gaps[k], None) for k in range(n - 1))
            and gaps[turns * n - 1] in (gaps[n - 1], None)
        ):
            turns += 1
        if turns > 1 and turns * n >= _COVERED * len(at):
            return [s for w in at[:n] for s in by_place[w]]
    return []


def _on_one_drum(strokes: Sequence[Stroke]) -> list[Stroke]:
    """The hands' strokes all on the snare, one a place; the feet as they are."""
    by_place: dict[tuple[object, ...], Stroke] = {}
    for s in strokes:
        if s.limb[1] == "H":
            by_place.setdefault((*_when(s), "hand"), s.changed(part="snare"))
        else:
            by_place[(*_when(s), s.part)] = s
    return sorted(by_place.values(), key=_when)


_OTHER_HAND = {"RH": "LH", "LH": "RH"}


def _turned(s: Stroke) -> Stroke:
    """The same stroke by the other hand; feet stay."""
    return s.changed(limb=_OTHER_HAND.get(s.limb, s.limb))


def _over_another_grid(score: Score, row: Sequence[Stroke]) -> Titled | None:
    """The same strokes, one behind the other, over another division of the beat: 16ths as triplets,
    triplets as 16ths; what no longer fits the bar is left away. Only of a row without rests."""
    at = sorted({_when(s) for s in row})
    beats = [score.beat_of(*w) for w in at]
    gaps = {b - a for a, b in pairwise(beats)}
    if len(gaps) != 1 or (gap := gaps.pop()) not in _OTHER_GRID or len(at) < _FIGURE:
        return None
    name, step = _OTHER_GRID[gap]
    new = {w: at[0][1] + k * step for k, w in enumerate(at)}
    bar = at[0][0]
    end = score.meters[bar - 1].beats
    moved = [s.changed(bar=bar, place=new[_when(s)]) for s in row if new[_when(s)] < end]
    return f"The same strokes as {name}", moved


_OTHER_GRID = {
    Fraction(1, 4): ("triplets", Fraction(1, 3)),
    Fraction(1, 3): ("16ths", Fraction(1, 4)),
}


def moved(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """An accent (or an opening of the hat) moved to every number and every &, a bar each."""
    bar = bars[0]
    strokes_of_bar = [s for s in strokes if s.bar == bar]
    beats = score.meters[bar - 1].beats
    opened = next((s for s in strokes_of_bar if s.part == "hat_open"), None)
    row = (
        [s for s in strokes_of_bar if KIT[s.part].role == "time"]
        if opened
        else [s for s in strokes_of_bar if s.limb[1] == "H" and KIT[s.part].role != "time"]
    )
    row = row or [s for s in strokes_of_bar if s.limb[1] == "H"]
    places = {s.place for s in row}
    steps: list[Titled] = []
    for k in range(2 * beats):
        place = Fraction(k, 2)
        if place not in places:
            continue
        where = place_text(place, score.meters[bar - 1])
        if opened:
            each = [_opening(s, s.place == place) if s in row else s for s in strokes_of_bar]
            steps.append((f"The hat open on {where}", each))
        else:
            each = [_accent(s, s.place == place) if s in row else s for s in strokes_of_bar]
            steps.append((f"The accent on {where}", each))
    return steps


def _accent(s: Stroke, is_here: bool) -> Stroke:
    if is_here:
        return s.changed(dynamic="accent", loudness=CLASS_LOUDNESS["accent"])
    if s.dynamic != "accent":
        return s
    return s.changed(dynamic="normal", loudness=CLASS_LOUDNESS["normal"])


def _opening(s: Stroke, is_here: bool) -> Stroke:
    if is_here:
        return s.changed(part="hat_open")
    return s.changed(part="hat_closed") if s.part == "hat_open" else s


def crash(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> Sequence[Titled | Zoomed]:
    """Round a crash: it is the 1, the next stroke of the hand comes behind it; first that beat,
    then with the last beat before it, then the bar."""
    hits = [s for s in strokes if KIT[s.part].layer == "crashes"]
    if not hits:
        return zoom(score, bars, strokes)
    at = min(hits, key=_when)
    beat = int(at.place)
    where = f"beat {beat + 1} of bar {at.bar}"
    base = sum(score.meters[b - 1].beats for b in bars if b < at.bar)
    total = sum(score.meters[b - 1].beats for b in bars)
    title = f"The crash and what comes behind it: {where}"
    steps: list[Titled | Zoomed] = [
        _with_joins(score, bars, strokes, title, base + beat, 0, total - 1)
    ]
    if base + beat > 0:
        count = min(3, total - base - beat + 1)
        led = _beats_from(score, bars, strokes, base + beat - 1, count)
        steps.append(Zoomed("With the beat that leads into it", led, base + beat - 1, count))
    whole_bar = [s for s in strokes if s.bar == at.bar]
    return [*steps, Zoomed("The bar of the crash", whole_bar, base, score.meters[at.bar - 1].beats)]


Spot = tuple[int, Fraction, str]


def _core_and_options(
    bars: Sequence[int], strokes: Sequence[Stroke]
) -> tuple[list[Stroke], list[Spot]]:
    """(what most bars have in common, what single bars add, the rarest first)."""
    signs = Counter((s.place, s.part) for s in strokes)
    least = max(1, round(_COMMON * len(bars)))
    core = [s for s in strokes if signs[s.place, s.part] >= least]
    options = sorted(
        {(s.bar, s.place, s.part) for s in strokes if signs[s.place, s.part] < least},
        key=lambda o: (signs[o[1], o[2]], o),
    )
    return core, options


def _with(core: Sequence[Stroke], strokes: Sequence[Stroke], more: Sequence[Spot]) -> list[Stroke]:
    chosen = set(more)
    options = [s for s in strokes if (s.bar, s.place, s.part) in chosen]
    return sorted([*core, *options], key=_when)


def _spot(spot: Spot, score: Score) -> str:
    bar, place, part = spot
    return f"{KIT[part].label.lower()} on {place_text(place, score.meters[bar - 1])} of bar {bar}"


def chance(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """The core, then it with options drawn by lot: always the same lots for the same bars."""
    core, options = _core_and_options(bars, strokes)
    steps = [("What the bars have in common", core)] if core else []
    lots = random.Random(f"{bars[0]} {bars[-1]} {len(strokes)}")
    for turn in range(min(_MOST_LOTS, 2 ** len(options) - 1)):
        drawn = lots.sample(options, lots.randint(1, min(2, len(options))))
        title = f"Draw {turn + 1}, this time: with the " + " and the ".join(
            _spot(o, score) for o in sorted(drawn)
        )
        steps.append((title, _with(core, strokes, drawn)))
    return steps


def energy(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """The core, then options that come in as the energy rises, and that go as it falls."""
    core, options = _core_and_options(bars, strokes)
    steps = [("What the bars have in common", core)] if core else []
    if not options or len(bars) < 2:
        return steps

    def by(share: Callable[[int], float]) -> list[Stroke]:
        some: list[Spot] = []
        for n, bar in enumerate(bars):
            options_of_bar = [o for o in options if o[0] == bar]
            some += options_of_bar[: round(share(n) * len(options_of_bar))]
        return _with(core, strokes, some)

    last = len(bars) - 1
    steps.append(("Rising: more of the options from bar to bar", by(lambda n: n / last)))
    steps.append(("Falling: fewer of them from bar to bar", by(lambda n: 1 - n / last)))
    return steps


def whole(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """As it is played, at once: for what is known and is to be joined."""
    return []


def core(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """What most bars have in common, then what single bars add, one by one."""
    core_strokes, options = _core_and_options(bars, strokes)
    steps = [("What the bars have in common", core_strokes)] if core_strokes else []
    for n, (bar, place, part) in enumerate(options):
        core_strokes = sorted(
            [
                *core_strokes,
                *(s for s in strokes if (s.bar, s.place, s.part) == (bar, place, part)),
            ],
            key=_when,
        )
        if n < _MOST_NOTES or n == len(options) - 1:
            where = place_text(place, score.meters[bar - 1])
            steps.append(
                (f"With the {KIT[part].label.lower()} on {where} of bar {bar}", core_strokes)
            )
    return steps


def variations(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """Each bar that differs from those before it alone, then all in their order."""
    seen: set[frozenset[tuple[Fraction, str, str]]] = set()
    steps: list[Titled] = []
    for bar in bars:
        strokes_of_bar = [s for s in strokes if s.bar == bar]
        sign = frozenset((s.place, s.part, s.dynamic) for s in strokes_of_bar)
        if strokes_of_bar and sign not in seen:
            seen.add(sign)
            steps.append((f"Bar {bar} alone", strokes_of_bar))
    return steps


def transform(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """Every pattern of the hands over every pattern of the feet, each on a bar of its own."""

    def patterns(kind: str) -> dict[frozenset[tuple[Fraction, str]], list[Stroke]]:
        distinct: dict[frozenset[tuple[Fraction, str]], list[Stroke]] = {}
        for bar in bars:
            strokes_of_bar = [s for s in strokes if s.bar == bar and s.limb[1] == kind]
            if strokes_of_bar:
                distinct.setdefault(
                    frozenset((s.place, s.part) for s in strokes_of_bar), strokes_of_bar
                )
        return distinct

    steps: list[Titled] = []
    for top in patterns("H").values():
        for below in patterns("F").values():
            beats = score.meters[top[0].bar - 1].beats
            moved = [s.changed(bar=top[0].bar) for s in below if s.place < beats]
            title = f"The hands of bar {top[0].bar} over the feet of bar {below[0].bar}"
            steps.append((title, sorted([*top, *moved], key=_when)))
    return steps[:_MOST_PAIRS]


def recurring(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[str]:
    """What comes back and needs no learning anew, one sentence each: bars that are alike, beats
    that are."""
    names: list[str] = []
    signs: dict[int, frozenset[tuple[Fraction, str, str]]] = {
        b: frozenset((s.place, s.part, s.dynamic) for s in strokes if s.bar == b) for b in bars
    }
    for n, b in enumerate(bars):
        same = next((a for a in bars[:n] if signs[a] == signs[b] and signs[b]), None)
        if same is not None:
            names.append(f"Bar {b} is bar {same} again: nothing new to learn.")
    seen: dict[frozenset[tuple[Fraction, str, str]], tuple[int, int]] = {}
    for b in bars:
        if any(says.startswith(f"Bar {b} is") for says in names):
            continue
        for beat in range(score.meters[b - 1].beats):
            strokes_here = [s for s in strokes if s.bar == b and beat <= s.place < beat + 1]
            sign = frozenset((s.place % 1, s.part, s.dynamic) for s in strokes_here)
            if len(strokes_here) < _FIGURE:
                continue
            if sign in seen:
                bar, first = seen[sign]
                of = "" if bar == b else f" of bar {bar}"
                names.append(f"The figure of {first + 1}{of} comes back on {beat + 1} of bar {b}.")
            seen.setdefault(sign, (b, beat))
    return names[:_MOST_TOLD]


_FIGURE = 3  # strokes of a beat that is worth a word
_MOST_TOLD = 4

#: Order -> what it is called, and how it makes stages; “computed” chooses among them.
ORDERS: dict[str, tuple[str, Order]] = {
    "limbs": ("Limb by limb", limbs),
    "hands": ("Hands first", hands),
    "steady": ("What is steady first", steady),
    "skeleton": ("Skeleton first", skeleton),
    "zoom": ("The hard place first", zoom),
    "without": ("With and without in turn", without),
    "core": ("The core, then its options", core),
    "chance": ("The core, options by lot", chance),
    "energy": ("The core, options by energy", energy),
    "variations": ("One variation at a time", variations),
    "transform": ("Every hand over every foot pattern", transform),
    "fill": ("As a fill", fill),
    "crash": ("Round the crash", crash),
    "moved": ("An accent or opening moved round", moved),
    "whole": ("As it is played", whole),
}
