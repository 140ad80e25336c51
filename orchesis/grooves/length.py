"""How long the unit of a groove is, and where a section goes over to another one.

Both are settled by description length: a part of the song is told by the chance of every
stroke at its place of the unit; telling the bars by these chances costs their entropy, and
every chance costs half the logarithm of the bars it is read from (Rissanen's two-part code).
The shortest telling wins, so a longer unit has to pay for itself.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from math import comb, log2
from typing import NamedTuple

from orchesis.score import KIT, Score, Stroke
from orchesis.score.fill import Span

LENGTHS = (1, 2, 4)
_WORTH = 2.0  # bits that a longer unit must save
_GAIN = 2.5  # bits that a stroke must save to be told bar by bar of the unit
_SPLIT = 8.0  # bits that a second groove within a section must save
_RIDDEN = 3  # strokes of a crash that keep the time of a bar without another time hand
_SURFACE = 0.5  # share of the bars from which on crashes are a surface
_MIN_LIKENESS_OF_NEIGHBOURS = 0.6  # mean likeness of neighbours that makes some bars one groove


#: What makes two strokes the same one of a groove: place, part, and for snares whether it is soft.
class Key(NamedTuple):
    """Its place is kept as two integers: fractions are slow to compare by the thousand."""

    above: int
    below: int
    part: str
    soft: bool

    @property
    def place(self) -> Fraction:
        return Fraction(self.above, self.below)


def key_of(s: Stroke) -> Key:
    soft = KIT[s.part].role == "backbeat" and s.dynamic == "ghost"
    return Key(s.place.numerator, s.place.denominator, s.part, soft)


@dataclass(frozen=True)
class Bar:
    """What one bar tells about its groove: its strokes, and up to which place it does (a fill
    hides the rest). A crash hides the time hand at its place."""

    number: int
    strokes: Mapping[Key, Stroke]
    until: Fraction
    hidden: frozenset[tuple[int, int]]

    def tells(self, key: Key) -> bool:
        if key in self.strokes:
            return True
        if key.above * self.until.denominator >= self.until.numerator * key.below:
            return False
        return not (self.hidden and key[:2] in self.hidden and KIT[key.part].role == "time")


def bars_of(score: Score, spans: Sequence[Span], first: int, last: int) -> list[Bar]:
    """The bars of a stretch that tell something; score: as it is played.

    Crashes that mark a few bars stand over the groove and are left out; where they sound in
    half of the bars, or keep the time of one, they are its surface.
    """
    until: dict[int, Fraction] = {}
    for span in spans:
        for b in range(span.bar, span.last_bar + 1):
            start = span.place if b == span.bar else Fraction(0)
            until[b] = min(until.get(b, Fraction(99)), start)
    by_bar = score.by_bar()
    bars = []
    for b in range(first, min(last, score.bar_count) + 1):
        end = until.get(b, Fraction(score.meters[b - 1].beats))
        strokes_by_key = {key_of(s): s for s in by_bar.get(b, []) if s.place < end}
        hidden = frozenset(k[:2] for k in strokes_by_key if KIT[k.part].is_crash)
        if strokes_by_key and end > 0:
            bars.append(Bar(b, strokes_by_key, end, hidden))
    crashing = sum(bool(b.hidden) for b in bars)
    if crashing > _SURFACE * len(bars):
        return [replace(b, hidden=frozenset()) for b in bars]
    return [
        replace(b, hidden=frozenset())
        if _rides_crash(b)
        else replace(b, strokes={k: s for k, s in b.strokes.items() if not KIT[k.part].is_crash})
        for b in bars
    ]


def _rides_crash(bar: Bar) -> bool:
    """Whether a bar's time is kept on a crash."""
    crashes = sum(KIT[k.part].is_crash for k in bar.strokes)
    return crashes >= _RIDDEN and not any(KIT[k.part].role == "time" for k in bar.strokes)


def marks_of(s: Stroke) -> tuple[str, ...]:
    """What is marked of a stroke beside its key: how loud it is meant, its ornament, its choke."""
    loud = s.dynamic if s.dynamic != "normal" and not key_of(s).soft else ""
    return tuple(m for m in (loud, s.ornament or "", "choked" if s.choked else "") if m)


#: What is told of a bar: that a stroke is there (""), or how it is marked.
_Feature = tuple[Key, str]


def _features(bar: Bar) -> Iterator[_Feature]:
    for key, s in bar.strokes.items():
        yield key, ""
        for mark in marks_of(s):
            yield key, mark


def _could(bar: Bar, feature: _Feature) -> bool:
    key, mark = feature
    return key in bar.strokes if mark else bar.tells(key)


@lru_cache(maxsize=1 << 16)
def _bits(count: int, of: int) -> float:
    """What it costs to tell in which of so many bars a stroke comes."""
    if of == 0:
        return 0.0
    p = count / of
    entropy = 0.0 if p in (0.0, 1.0) else -p * log2(p) - (1 - p) * log2(1 - p)
    return of * entropy + 0.5 * log2(of + 1)


def phased(placed: Sequence[tuple[int, Bar]], length: int) -> tuple[float, set[Key]]:
    """(bits, keys that are told phase by phase) of bars given with their index in the section."""
    counts: dict[_Feature, dict[int, int]] = defaultdict(lambda: defaultdict(int))
    for i, bar in placed:
        for feature in _features(bar):
            counts[feature][i % length] += 1
    if length == 1:
        whole = sum(
            _bits(sum(counts_of_phase.values()), _told(placed, what))
            for what, counts_of_phase in counts.items()
        )
        return whole, set()
    total = 0.0
    gains: list[tuple[float, _Feature]] = []
    for what, counts_of_phase in counts.items():
        seen: dict[int, int] = defaultdict(int)
        for i, bar in placed:
            seen[i % length] += _could(bar, what)
        whole = _bits(sum(counts_of_phase.values()), sum(seen.values()))
        total += whole
        gains.append((whole - sum(_bits(counts_of_phase[k], seen[k]) for k in range(length)), what))
    gains.sort(key=lambda g: (-g[0], str(g[1])))
    # Which of the strokes are told bar by bar has to be told too: log2 of the ways to choose.
    # A mark that always or never comes is no choice.
    choice = sum(
        not mark or 0 < sum(counts_of_phase.values()) < _told(placed, (key, mark))
        for (key, mark), counts_of_phase in counts.items()
    )
    best, saved, count = 0.0, 0.0, 0
    for n, (gain, _) in enumerate(gains, 1):
        if gain < _GAIN:
            break
        saved += gain
        value = saved - log2(comb(max(n, choice), n)) - 1 - 2 * log2(n)
        if value > best:
            best, count = value, n
    return total - best, {key for _, (key, _) in gains[:count]}


def _told(placed: Sequence[tuple[int, Bar]], what: _Feature) -> int:
    return sum(_could(bar, what) for _, bar in placed)


def unit_of(placed: Sequence[tuple[int, Bar]]) -> tuple[int, set[Key]]:
    """(length of the unit in bars, keys that differ from bar to bar of it)."""
    best, keys = phased(placed, 1)
    length: int = 1
    for n in LENGTHS[1:]:
        if len(placed) < 2 * n:
            break
        cost, core = phased(placed, n)
        if core and cost + _WORTH < best:
            best, keys, length = cost, core, n
    return length, keys if length > 1 else set()


def _likeness(bars: Sequence[Bar]) -> tuple[list[float], list[float]]:
    """How alike each bar is to the one before it, and to the one before that; 0 where none is."""

    def share(a: Bar, b: Bar) -> float:
        keys = {k for k in a.strokes if b.tells(k)}
        other = {k for k in b.strokes if a.tells(k)}
        return len(keys & other) / max(1, len(keys | other))

    def to_one_before(back: int) -> list[float]:
        return [share(b, bars[n - back]) if n >= back else 0.0 for n, b in enumerate(bars)]

    return to_one_before(1), to_one_before(2)


def _run_likeness(bars: Sequence[Bar]) -> list[float]:
    """For each number of bars from the start: how much each of them plays what the next, or the
    next but one, plays, in the mean. In one pass: only the last two change with each bar."""
    next_, second = _likeness(bars)
    best: list[float] = []  # of each bar so far, with its neighbours so far
    total, sums = 0.0, [0.0]
    for n in range(len(bars)):
        best.append(max(next_[n], second[n]))
        total += best[n]
        for back, like in ((1, next_[n]), (2, second[n])):
            if n >= back and like > best[n - back]:
                total += like - best[n - back]
                best[n - back] = like
        sums.append(total / (n + 1))
    return sums


def _run_bits(bars: Sequence[Bar]) -> list[float]:
    """What it costs to tell so many bars from the start by one bar, for each number of them."""
    counts: dict[_Feature, int] = defaultdict(int)
    could: dict[_Feature, int] = {}
    sums = [0.0]
    for n, bar in enumerate(bars):
        for feature in could:
            could[feature] += _could(bar, feature)
        for feature in _features(bar):
            if feature not in could:
                could[feature] = sum(_could(b, feature) for b in bars[: n + 1])
            counts[feature] += 1
        sums.append(sum(_bits(count, could[feature]) for feature, count in counts.items()))
    return sums


def parts_of(bars: Sequence[Bar], first: int) -> list[list[Bar]]:
    """The bars of a section, cut where another groove begins; at even bars from its start."""
    if len(bars) < 4:
        return [list(bars)]
    back = list(reversed(bars))
    alike, alike_behind = _run_likeness(bars), _run_likeness(back)
    cuts = [
        cut
        for cut in range(2, len(bars) - 1)
        if (bars[cut].number - first) % 2 == 0
        and min(alike[cut], alike_behind[len(bars) - cut]) >= _MIN_LIKENESS_OF_NEIGHBOURS
    ]
    if not cuts:
        return [list(bars)]
    left, right = _run_bits(bars), _run_bits(back)
    cut = min(cuts, key=lambda c: left[c] + right[len(bars) - c])
    if left[cut] + right[len(bars) - cut] + _SPLIT > left[-1]:
        return [list(bars)]
    return [*parts_of(bars[:cut], first), *parts_of(bars[cut:], bars[cut].number)]
