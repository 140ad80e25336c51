"""What of a part has to be learned, and where the rest of it comes from.

The part is read beat by beat, from the first bar on, as one tells a story without saying anything
twice (Ziv and Lempel's parsing, "A universal algorithm for sequential data compression", 1977): a
run of beats that was played before is a return of that figure, at the same place of its bar or at
another, on other drums, or twice as fast; what was not is new. The time hand and what marks a
beginning are no figures; they are told as surfaces.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from fractions import Fraction

from orchesis import fills
from orchesis.score import KIT, Score, Stroke

_MAX_BEATS = 8  # beats that are sought as one
_MIN_STROKES = 2  # strokes of a figure that is worth naming
_TIME_LAYERS = ("time", "left_foot")

_Word = frozenset[tuple[Fraction, str, bool]]


@dataclass(frozen=True)
class Passage:
    """Some beats of one bar or of a few: the first one's bar and number (from 1), how many."""

    bar: int
    beat: int
    beats: int


@dataclass(frozen=True)
class Figure:
    """Beats that are new where they stand, and how many strokes they have to be learned by."""

    where: Passage
    strokes: int


@dataclass(frozen=True)
class Return:
    """Beats that were played before: how: "same" (at the same place of the bar), "moved",
    "drums" (the rhythm on other drums) or "faster" (in half the time)."""

    where: Passage
    source: Passage
    how: str


@dataclass(frozen=True)
class Reuse:
    """What must be learned of some bars, in order, and what comes back."""

    figures: tuple[Figure, ...]
    returns: tuple[Return, ...]

    @property
    def strokes(self) -> int:
        return sum(f.strokes for f in self.figures)


def read(score: Score, first: int = 1, last: int | None = None) -> Reuse:
    """The figures and returns of some bars of a score (all of them if not told), as played."""
    played = score.played()
    spans = [
        (b, k)
        for b in range(first, (last or score.bar_count) + 1)
        for k in range(score.meters[b - 1].beats)
    ]
    filled = {b for s in fills.find(played) for b in range(s.bar, s.last_bar + 1)}
    by_beat: dict[tuple[int, int], list[Stroke]] = defaultdict(list)
    for bar in {b for b, _ in spans}:
        for s in played.strokes_of(bar):
            if not _is_surface(s, bar in filled):
                by_beat[bar, int(s.place)].append(s)
    words = [_word(by_beat[spot]) for spot in spans]
    return _parsed(spans, words)


def _is_surface(s: Stroke, in_fill: bool) -> bool:
    kit_part = KIT[s.part]
    return kit_part.is_crash or (kit_part.role in _TIME_LAYERS and not in_fill)


def _word(strokes: list[Stroke]) -> _Word:
    return frozenset((s.place % 1, s.part, s.dynamic == "ghost") for s in strokes)


def _rhythm(word: _Word) -> _Word:
    """The same on any drums of the hands."""
    return frozenset(
        (at, "foot" if KIT[part].role.endswith("_foot") else "hand", soft)
        for at, part, soft in word
    )


def _squeezed(one: _Word, two: _Word) -> _Word:
    """Two beats in the time of one."""
    half = Fraction(1, 2)
    return frozenset(
        [(at * half, part, soft) for at, part, soft in one]
        + [(half + at * half, part, soft) for at, part, soft in two]
    )


class _Beats:
    """The words of a row of beats by numbers, which are compared much faster. plain: of each word;
    rhythm: of its rhythm; sizes: its strokes."""

    def __init__(self, words: list[_Word]) -> None:
        self.words = words
        numbers: dict[_Word, int] = {}
        rhythms: dict[_Word, int] = {}
        self.plain = [numbers.setdefault(word, len(numbers)) for word in words]
        by_number = [rhythms.setdefault(_rhythm(word), len(rhythms)) for word in numbers]
        self.rhythm = [by_number[n] for n in self.plain]
        self.sizes = [len(word) for word in words]
        self._numbers = numbers
        self._squeezed: dict[tuple[int, int], int | None] = {}

    def squeezed(self, at: int) -> int | None:
        """The number of a beat and the next one in the time of one; None where none sounds so."""
        pair = (self.plain[at], self.plain[at + 1])
        if pair not in self._squeezed:
            word = _squeezed(self.words[at], self.words[at + 1])
            self._squeezed[pair] = self._numbers.get(word)
        return self._squeezed[pair]


def _parsed(spans: list[tuple[int, int]], words: list[_Word]) -> Reuse:
    beats_of = _Beats(words)
    figures: list[Figure] = []
    returns: list[Return] = []
    #: Where each run of beats was first played: as it is, by its rhythm, and squeezed into one.
    seen: tuple[dict, dict, dict] = ({}, {}, {})
    new: list[int] = []  # beats of the figure that is being read
    i = 0
    while i < len(words):
        if not words[i]:
            _close(spans, words, new, figures)
            _remember(beats_of, i, 1, seen)
            i += 1
            continue
        match = _longest(spans, beats_of, i, seen)
        if match is None:
            if new and spans[new[-1]][0] != spans[i][0]:
                _close(spans, words, new, figures)  # a figure lies within a bar
            new.append(i)
            _remember(beats_of, i, 1, seen)
            i += 1
            continue
        _close(spans, words, new, figures)
        start, beats, source, how = match
        returns.append(
            Return(
                Passage(spans[start][0], spans[start][1] + 1, beats),
                Passage(spans[source][0], spans[source][1] + 1, beats * (1 + (how == "faster"))),
                how,
            )
        )
        _remember(beats_of, i, beats, seen)
        i += beats
    _close(spans, words, new, figures)
    return Reuse(tuple(figures), tuple(returns))


def _close(
    spans: list[tuple[int, int]], words: list[_Word], new: list[int], figures: list[Figure]
) -> None:
    if new:
        bar, beat = spans[new[0]]
        strokes = sum(len(words[k]) for k in new)
        figures.append(Figure(Passage(bar, beat + 1, len(new)), strokes))
        new.clear()


def _remember(row: _Beats, start: int, beats: int, seen: tuple[dict, dict, dict]) -> None:
    """All runs that end with one of these beats."""
    plain, rhythm, fast = seen
    for end in range(start + 1, start + beats + 1):
        for size in range(1, min(_MAX_BEATS, end) + 1):
            plain.setdefault(tuple(row.plain[end - size : end]), end - size)
            rhythm.setdefault(tuple(row.rhythm[end - size : end]), end - size)
        if end >= 2 and (number := row.squeezed(end - 2)) is not None:
            fast.setdefault(number, end - 2)


def _longest(
    spans: list[tuple[int, int]], row: _Beats, i: int, seen: tuple[dict, dict, dict]
) -> tuple[int, int, int, str] | None:
    """(first beat, beats, first beat of the source, how) of the longest return that begins here:
    as it was, if that is as long as any other."""
    plain, rhythm, fast = seen
    for size in range(min(_MAX_BEATS, len(row.words) - i), 0, -1):
        strokes = sum(row.sizes[i : i + size])
        if not row.sizes[i + size - 1] or strokes < _MIN_STROKES:
            continue
        if (run := tuple(row.plain[i : i + size])) in plain:
            source = plain[run]
            how = "same" if spans[source][1] == spans[i][1] else "moved"
            return i, size, source, how
        if (key := tuple(row.rhythm[i : i + size])) in rhythm and strokes > _MIN_STROKES:
            return i, size, rhythm[key], "drums"
    if row.sizes[i] > _MIN_STROKES and row.plain[i] in fast:
        return i, 1, fast[row.plain[i]], "faster"
    return None
