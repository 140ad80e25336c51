"""Orders of a groove's core and its options, of its bars, of hands over feet."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Sequence
from fractions import Fraction

from orchesis.score import KIT, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.teaching.limb_orders import MOST_NOTES
from orchesis.teaching.steps import Titled, when

_MIN_SHARE_OF_CORE = 2 / 3  # share of the bars in which a stroke of the core lies
_MOST_PAIRS = 6  # of hand patterns over foot patterns
_MOST_LOTS = 4  # that are drawn of the options
Spot = tuple[int, Fraction, str]


def _core_and_options(
    bars: Sequence[int], strokes: Sequence[Stroke]
) -> tuple[list[Stroke], list[Spot]]:
    """(what most bars have in common, what single bars add, the rarest first)."""
    signs = Counter((s.place, s.part) for s in strokes)
    least = max(1, round(_MIN_SHARE_OF_CORE * len(bars)))
    core = [s for s in strokes if signs[s.place, s.part] >= least]
    options = sorted(
        {(s.bar, s.place, s.part) for s in strokes if signs[s.place, s.part] < least},
        key=lambda o: (signs[o[1], o[2]], o),
    )
    return core, options


def _with(core: Sequence[Stroke], strokes: Sequence[Stroke], more: Sequence[Spot]) -> list[Stroke]:
    chosen = set(more)
    options = [s for s in strokes if (s.bar, s.place, s.part) in chosen]
    return sorted([*core, *options], key=when)


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
            key=when,
        )
        if n < MOST_NOTES or n == len(options) - 1:
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
            steps.append((title, sorted([*top, *moved], key=when)))
    return steps[:_MOST_PAIRS]
