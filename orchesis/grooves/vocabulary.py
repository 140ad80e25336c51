"""Parts without a core: a handful of phrases that are woven, the feet chosen separately."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.grooves.length import Bar, Key
from orchesis.score import KIT, Score
from orchesis.score.groove import Phrase

_MIN_LIKENESS_OF_A_PHRASE = 0.8  # likeness from which on two bars play the same phrase
_MAX_PHRASES = 6  # phrases of a vocabulary
_MIN_SHARE_OF_BARS = 0.7  # share of the bars that they tell
_MIN_BARS = 6  # bars that a vocabulary is read from
_THERE = 0.7  # share of a phrase's bars over which the band plays one tone, and not elsewhere
_MIN_DB_APART = 1.5  # dB that set a phrase off from the others


@dataclass(frozen=True)
class Found:
    phrases: tuple[Phrase, ...]
    feet: tuple[Phrase, ...]
    feet_are_free: bool


def _is_foot(key: Key) -> bool:
    return KIT[key.part].role.endswith("_foot")


def _clusters(sets: Sequence[frozenset[Key]]) -> list[list[int]]:
    """Indices of bars that play the same, by the first that did."""
    groups: list[list[int]] = []
    for i, members in enumerate(sets):
        for group in groups:
            first = sets[group[0]]
            if members == first or len(members & first) >= _MIN_LIKENESS_OF_A_PHRASE * len(
                members | first
            ):
                group.append(i)
                break
        else:
            groups.append([i])
    return groups


def read(
    score: Score,
    bars: Sequence[Bar],
    levels: Sequence[Sequence[float]] = (),
    tones: Sequence[int | None] = (),
) -> Found | None:
    """The vocabulary of some bars, or None where no handful of phrases tells them."""
    if len(bars) < _MIN_BARS:
        return None
    hands = [frozenset(k for k in b.strokes if not _is_foot(k)) for b in bars]
    feet = [frozenset(k for k in b.strokes if _is_foot(k)) for b in bars]
    groups = sorted((g for g in _clusters(hands) if len(g) >= 2), key=lambda g: (-len(g), g[0]))
    groups = groups[:_MAX_PHRASES]
    if len(groups) < 2 or sum(map(len, groups)) < _MIN_SHARE_OF_BARS * len(bars):
        return None
    which = {i: n for n, g in enumerate(groups) for i in g}
    under: dict[int, set[int]] = defaultdict(set)
    patterns = sorted(_clusters(feet), key=lambda g: (-len(g), g[0]))
    for n, pattern in enumerate(patterns):
        for i in pattern:
            if i in which:
                under[which[i]].add(n)
    free = len(patterns) > 1 and sum(len(v) > 1 for v in under.values()) >= len(groups) / 2
    return Found(
        tuple(_phrase(score, bars, g, n, which, levels, tones) for n, g in enumerate(groups)),
        ()
        if not any(feet)
        else tuple(
            Phrase(bars[g[0]].number, tuple(bars[i].number for i in g), len(g) / len(bars))
            for g in patterns[:_MAX_PHRASES]
        ),
        free,
    )


def _phrase(
    score: Score,
    bars: Sequence[Bar],
    group: Sequence[int],
    number: int,
    which: dict[int, int],
    levels: Sequence[Sequence[float]],
    tones: Sequence[int | None],
) -> Phrase:
    followed_by = of_four = on_tone = louder = None
    after = Counter(which[i + 1] for i in group if i + 1 in which and which[i + 1] != number)
    if after and after.most_common(1)[0][1] >= 0.6 * len(group):
        followed_by = after.most_common(1)[0][0]
    place = Counter((bars[i].number - bars[0].number) % 4 for i in group)
    where, often = place.most_common(1)[0]
    if often >= 0.75 * len(group) and len(group) >= 3:
        of_four = where + 1
    own_tones = Counter(tones[bars[i].number - 1] for i in group) if tones else Counter()
    tone, count = own_tones.most_common(1)[0] if own_tones else (None, 0)
    if tone is not None and count >= _THERE * len(group) and len(group) >= 3:
        others = [i for i in range(len(bars)) if i not in group]
        elsewhere = sum(tones[bars[i].number - 1] == tone for i in others)
        if elsewhere <= (1 - _THERE) * max(1, len(others)):
            on_tone = tone
    level = [_level(score, b.number, levels) for b in bars]
    levels_heard = [x for x in level if x is not None]
    levels_there = [level[i] for i in group if level[i] is not None]
    if len(levels_there) >= 2 and len(levels_heard) > len(levels_there):
        off = float(np.mean([x for x in levels_there if x is not None])) - float(
            np.mean(levels_heard)
        )
        louder = off if abs(off) >= _MIN_DB_APART else None
    return Phrase(
        bars[group[0]].number,
        tuple(bars[i].number for i in group),
        len(group) / len(bars),
        followed_by,
        of_four,
        on_tone,
        louder,
    )


def _level(score: Score, bar: int, levels: Sequence[Sequence[float]]) -> float | None:
    a, b = score.seconds(bar), score.seconds(bar + 1)
    inside = [pair[0] for pair in levels[max(0, round(a)) : max(round(b), round(a) + 1)]]
    return float(np.mean(inside)) if inside else None
