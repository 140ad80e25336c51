"""Pattern search: where else a kick pattern, a hand pattern or a two-beat figure is played.

Bars are rows of a matrix for each voice, one column for each place that any of them uses; a
figure is a row of the same columns. Bars are compared by the strokes they share of all they
have (Jaccard), with one matrix product for all bars and all variants of the figure: as it
stands, moved along the bar, twice and half as fast.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import numpy as np

from orchesis.errors import BadScore
from orchesis.feel.voices import VOICES, voice_of
from orchesis.score import Score

_MIN_LIKENESS = 0.6  # likeness from which on a bar is told
_SHIFT_BEATS = Fraction(1, 4)  # beats by which figures are moved
_FACTOR_OF_KIND = {"same": 1.0, "moved": 0.92, "faster": 0.88, "slower": 0.86}
_MIN_STROKES = 2  # strokes of a figure

#: What can be searched for: the voices that count.
SCOPES: dict[str, tuple[str, ...]] = {
    "kick": ("kick",),
    "snare": ("backbeat",),
    "hands": ("backbeat", "ghosts", "time hand", "toms"),
    "time": ("time hand",),
    "feet": ("kick", "left foot"),
    "kick and snare": ("kick", "backbeat"),
    "all": VOICES,
}


@dataclass(frozen=True)
class Figure:
    """Places (beats from its start) by voice; length in beats; whole: it is a bar."""

    places: Mapping[str, frozenset[Fraction]]
    length: Fraction
    whole: bool

    @property
    def size(self) -> int:
        return sum(map(len, self.places.values()))


def figure(
    score: Score,
    bar: int,
    scope: str = "kick",
    first: Fraction = Fraction(0),
    length: Fraction | None = None,
) -> Figure:
    """What is played in a bar, or in ``length`` beats of it from ``first`` on.

    Raises BadScore where the bar or the scope is unknown, or too little is played to search for.
    """
    if scope not in SCOPES:
        raise BadScore(f"“{scope}” can't be searched for; there are {', '.join(SCOPES)}.")
    if not 1 <= bar <= score.bar_count:
        raise BadScore(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
    beats = score.meters[bar - 1].beats
    size = Fraction(beats) - first if length is None else min(length, Fraction(beats) - first)
    places_of_voice: dict[str, set[Fraction]] = {v: set() for v in SCOPES[scope]}
    for s in score.played().by_bar().get(bar, []):
        if voice_of(s) in places_of_voice and first <= s.place < first + size:
            places_of_voice[voice_of(s)].add(s.place - first)
    searched = Figure({v: frozenset(p) for v, p in places_of_voice.items()}, size, size == beats)
    if searched.size < _MIN_STROKES:
        raise BadScore(f"Bar {bar} has less than two strokes there; choose more to search for.")
    return searched


@dataclass(frozen=True)
class Match:
    """A place where the figure is played: how ("same", "near", "moved", "faster", "slower"),
    by how many beats it was moved, and what it has more and less."""

    song: Any
    bar: int
    place: Fraction
    how: str
    by: Fraction
    likeness: float
    more: int
    less: int

    def to_json(self) -> dict[str, Any]:
        return {
            "song": self.song,
            "bar": self.bar,
            "place": str(self.place),
            "how": self.how,
            "by": str(self.by),
            "likeness": round(self.likeness, 3),
            "more": self.more,
            "less": self.less,
        }


@dataclass
class Rows:
    """The bars of one song, ready to be searched: (beats, strokes as (voice, place)) each."""

    bars: list[tuple[int, tuple[tuple[str, Fraction], ...]]]


def rows(score: Score) -> Rows:
    by_bar = score.played().by_bar()
    return Rows(
        [
            (m.beats, tuple((voice_of(s), s.place) for s in by_bar.get(n, []) if voice_of(s)))
            for n, m in enumerate(score.meters, 1)
        ]
    )


@dataclass
class _Block:
    """All bars of so many beats."""

    beats: int
    songs: list[Any] = field(default_factory=list)
    bars: list[int] = field(default_factory=list)
    columns: dict[Fraction, int] = field(default_factory=dict)
    voices: dict[str, np.ndarray] = field(default_factory=dict)


class Index:
    """The bars of any number of songs. ``search`` finds a figure in all of them."""

    def __init__(self, songs: Iterable[tuple[Any, Rows]]) -> None:
        cells: dict[int, dict[str, list[tuple[int, Fraction]]]] = {}
        self._blocks: dict[int, _Block] = {}
        for song, rows in songs:
            for n, (beats, strokes) in enumerate(rows.bars, 1):
                block = self._blocks.setdefault(beats, _Block(beats))
                cells_of_meter = cells.setdefault(beats, {v: [] for v in VOICES})
                row = len(block.bars)
                block.songs.append(song)
                block.bars.append(n)
                for voice, place in strokes:
                    cells_of_meter[voice].append((row, place))
                    block.columns.setdefault(place, len(block.columns))
        for beats, cells_of_meter in cells.items():
            block = self._blocks[beats]
            for voice, own_cells in cells_of_meter.items():
                matrix = np.zeros((len(block.bars), max(1, len(block.columns))), np.uint8)
                if own_cells:
                    at = np.array([(r, block.columns[p]) for r, p in own_cells])
                    matrix[at[:, 0], at[:, 1]] = 1
                block.voices[voice] = matrix

    def __len__(self) -> int:
        return sum(len(b.bars) for b in self._blocks.values())

    def search(self, wanted: Figure, most: int = 60) -> list[Match]:
        """The likeliest places first; of one bar only the best reading."""
        best: dict[tuple[Any, int], Match] = {}
        for block in self._blocks.values():
            for match in _in_block(block, wanted, most):
                key = (match.song, match.bar)
                if key not in best or match.likeness > best[key].likeness:
                    best[key] = match
        order = sorted(best.values(), key=lambda m: (-m.likeness, str(m.song), m.bar))
        return order[:most]


_Variant = tuple[str, Fraction, Fraction, dict[str, set[Fraction]], Fraction, Fraction]


def _variants(wanted: Figure, beats: int) -> list[_Variant]:
    """(how, moved by, place, places by voice, window from, window to) for bars of so many beats."""
    variants: list[_Variant] = []
    whole = Fraction(beats)

    def add(
        how: str, by: Fraction, at: Fraction, factor: Fraction, wraps: bool, size: Fraction
    ) -> None:
        places_of_voice = {
            v: {(p * factor + at) % whole if wraps else p * factor + at for p in places}
            for v, places in wanted.places.items()
        }
        variants.append(
            (
                how,
                by,
                at,
                places_of_voice,
                Fraction(0) if wraps else at,
                whole if wraps else at + size,
            )
        )

    if wanted.whole:
        if wanted.length != beats:
            return []
        steps = int(whole / _SHIFT_BEATS)
        add("same", Fraction(0), Fraction(0), Fraction(1), True, whole)
        for k in range(1, steps):
            by = k * _SHIFT_BEATS if k * _SHIFT_BEATS <= whole / 2 else k * _SHIFT_BEATS - whole
            add("moved", by, k * _SHIFT_BEATS, Fraction(1), True, whole)
        if beats % 2 == 0:
            for half in (Fraction(0), whole / 2):
                add("faster", Fraction(0), half, Fraction(1, 2), False, whole / 2)
            slow = {v: {2 * p for p in ps if 2 * p < whole} for v, ps in wanted.places.items()}
            if sum(map(len, slow.values())) >= _MIN_STROKES:  # its first half, over a whole bar
                variants.append(("slower", Fraction(0), Fraction(0), slow, Fraction(0), whole))
        return variants
    offset = Fraction(0)
    while offset + wanted.length <= whole:
        how = "same" if offset.denominator == 1 else "moved"
        by = Fraction(0) if how == "same" else offset % 1
        add(how, by, offset, Fraction(1), False, wanted.length)
        offset += _SHIFT_BEATS
    if 2 * wanted.length <= whole:
        for k in range(int(whole - 2 * wanted.length) + 1):
            add("slower", Fraction(0), Fraction(k), Fraction(2), False, 2 * wanted.length)
    for k in range(int(whole - wanted.length / 2) + 1):
        add("faster", Fraction(0), Fraction(k), Fraction(1, 2), False, wanted.length / 2)
    return variants


def _in_block(block: _Block, wanted: Figure, most: int) -> list[Match]:
    variants = _variants(wanted, block.beats)
    if not variants or not block.bars:
        return []
    count, width = len(variants), max(1, len(block.columns))
    shared = np.zeros((len(block.bars), count), np.float32)
    has = np.zeros_like(shared)
    sizes = np.zeros(count, np.float32)
    places = np.array([float(p) for p in block.columns]) if block.columns else np.zeros(1)
    windows = np.stack([(places >= float(v[4])) & (places < float(v[5])) for v in variants], axis=1)
    for voice in wanted.places:
        asked = np.zeros((width, count), np.float32)
        for n, variant in enumerate(variants):
            for place in variant[3][voice]:
                sizes[n] += 1
                if place in block.columns:
                    asked[block.columns[place], n] = 1
        matrix = block.voices[voice].astype(np.float32)
        shared += matrix @ asked
        has += matrix @ windows.astype(np.float32)
    like = shared / np.maximum(sizes[None] + has - shared, 1)
    price = np.array([_FACTOR_OF_KIND[v[0]] for v in variants], np.float32)
    value = np.where(like >= _MIN_LIKENESS, like * price[None], 0)
    which = value.argmax(axis=1)
    top = value[np.arange(len(which)), which]
    rows_ = np.flatnonzero(top > 0)
    rows_ = rows_[np.argsort(-top[rows_], kind="stable")][:most]
    matches = []
    for row in rows_:
        n = int(which[row])
        how, by, at, *_ = variants[n]
        if how == "same" and like[row, n] < 1:
            how = "near"
        matches.append(
            Match(
                block.songs[row],
                block.bars[row],
                at,
                how,
                by,
                float(top[row]),
                int(has[row, n] - shared[row, n]),
                int(sizes[n] - shared[row, n]),
            )
        )
    return matches


def index_of(scores: Mapping[Any, Score] | Sequence[tuple[Any, Score]]) -> Index:
    """An index of whole scores by any key of theirs."""
    pairs = scores.items() if isinstance(scores, Mapping) else scores
    return Index((key, rows(score)) for key, score in pairs)
