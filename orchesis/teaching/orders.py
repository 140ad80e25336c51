"""The orders in which a part is learned: each makes stages of it, a title and its strokes."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from orchesis.score import Score, Stroke
from orchesis.teaching.fill_orders import MIN_FIGURE, fill
from orchesis.teaching.groove_orders import chance, core, energy, transform, variations
from orchesis.teaching.limb_orders import hands, limbs, moved, skeleton, steady, without
from orchesis.teaching.place_orders import crash, zoom
from orchesis.teaching.steps import Order, Titled


def whole(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> list[Titled]:
    """As it is played, at once: for what is known and is to be joined."""
    return []


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
            if len(strokes_here) < MIN_FIGURE:
                continue
            if sign in seen:
                bar, first = seen[sign]
                of = "" if bar == b else f" of bar {bar}"
                names.append(f"The figure of {first + 1}{of} comes back on {beat + 1} of bar {b}.")
            seen.setdefault(sign, (b, beat))
    return names[:_MOST_SENTENCES]


_MOST_SENTENCES = 4
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
