"""Orders by limb and layer: one after the other, or with and without."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from itertools import pairwise

from orchesis.score import KIT, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.teaching.steps import NAMES, Titled, by_limb, when

MOST_NOTES = 4  # that are added one by one, each in a stage


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
    strokes_of_limb = by_limb(strokes)
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
    strokes_of_limb = by_limb(strokes)
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
        steps.append(("With what falls on the beats", sorted(learnt, key=when)))
    off = sorted({(s.place.denominator, s.place, s.part) for s in rest if s.place.denominator > 1})
    for n, (_, place, part) in enumerate(off):
        more = [s for s in rest if s.place == place and s.part == part]
        learnt += more
        if n < MOST_NOTES or n == len(off) - 1:
            meter = score.meters[more[0].bar - 1]
            steps.append(
                (
                    f"With the {KIT[part].label.lower()} on {place_text(place, meter)}",
                    sorted(learnt, key=when),
                )
            )
    return steps


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
