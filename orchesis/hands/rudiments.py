"""Rudiments by name, found in a row of hand strokes, feet apart.

The forty rudiments in common use, as words: one sign a hand stroke, R or L, before it f (flam), d
(drag), z (buzz), i (diddle). A word may begin with either hand. Rows of evenly spaced single hand
strokes are divided into words so that as much as possible is named, by as few words as possible.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis.hands.row import Row, rows
from orchesis.score import Score, Stroke

_SWAP = str.maketrans("RL", "LR")


@dataclass(frozen=True)
class Rudiment:
    """word: tokens of one turn. is_closed: it ends its row (what follows is a rest or another
    speed), or goes on with itself. least: tokens from which on it is one. grids: divisions of the
    beat that its strokes lie in; empty: any."""

    name: str
    word: tuple[str, ...]
    is_closed: bool = False
    least: int = 0
    grids: tuple[int, ...] = ()
    is_common: bool = False  # so common that anything more particular goes before it


def _of(name: str, word: str, **more: object) -> Rudiment:
    tokens = tuple(word.split())
    return Rudiment(name, tokens, **{"least": len(tokens), **more})  # type: ignore[arg-type]


#: Steps a beat of a roll: slower hands just play in turn.
_FAST = tuple(range(2, 17))
_ROLLS = {
    5: "five",
    7: "seven",
    9: "nine",
    10: "ten",
    11: "eleven",
    13: "thirteen",
    15: "fifteen",
    17: "seventeen",
}


def _rolls() -> Iterator[Rudiment]:
    """Doubles with one tap behind them (two of ten), as doubles and as diddles."""
    for size, name in _ROLLS.items():
        taps = 2 if size == 10 else 1
        hands = ["RL"[k % 2] for k in range((size - taps) // 2 + taps)]
        pairs, ends = hands[:-taps], hands[-taps:]
        yield _of(
            f"{name}-stroke roll", " ".join([*(f"{h} {h}" for h in pairs), *ends]), is_closed=True
        )
        yield _of(
            f"{name}-stroke roll", " ".join([*(f"i{h}" for h in pairs), *ends]), is_closed=True
        )


#: The rudiments, one of them in more than one writing.
RUDIMENTS: tuple[Rudiment, ...] = (
    _of("single stroke roll", "R L", least=4, is_common=True, grids=_FAST),
    _of("single stroke four", "R L R L", is_closed=True, grids=(6, 8, 12)),
    _of("single stroke seven", "R L R L R L R", is_closed=True, grids=(6, 8, 12)),
    _of("multiple bounce roll", "zR zL", least=1),
    _of("multiple bounce roll", "zR", least=1),
    _of("triple stroke roll", "R R R L L L"),
    _of("double stroke roll", "R R L L", least=8, is_common=True, grids=_FAST),
    _of("double stroke roll", "iR iL", least=3, is_common=True),
    *_rolls(),
    _of("six-stroke roll", "R L L R R L"),
    _of("single paradiddle", "R L R R L R L L"),
    _of("double paradiddle", "R L R L R R L R L R L L"),
    _of("triple paradiddle", "R L R L R L R R L R L R L R L L"),
    _of("single paradiddle-diddle", "R L R R L L", least=12),
    _of("inverted paradiddle", "R L L R L R R L"),
    _of("reversed paradiddle", "R R L R L L R L"),
    _of("flam accent", "fR L R fL R L"),
    _of("flam tap", "fR R fL L"),
    _of("flamacue", "fR L R L fR", is_closed=True),
    _of("flam paradiddle", "fR L R R fL R L L"),
    _of("single flammed mill", "fR R L R fL L R L"),
    _of("flam paradiddle-diddle", "fR L R R L L"),
    _of("pataflafla", "fR L R fL"),
    _of("swiss army triplet", "fR R L"),
    _of("inverted flam tap", "fR L fL R"),
    _of("flam drag", "fR iL R fL iR L"),
    _of("single drag tap", "dR L dL R"),
    _of("double drag tap", "dR dR L dL dL R"),
    _of("lesson 25", "dR L R", is_closed=True),
    _of("single dragadiddle", "iR L R R iL R L L"),
    _of("drag paradiddle 1", "R - dR L R R"),
    _of("drag paradiddle 2", "R dR dR L R R"),
    _of("single ratamacue", "dR L R L", is_closed=True, grids=(3, 6, 12)),
    _of("double ratamacue", "dR - - dR L R L", is_closed=True, grids=(3, 6, 12)),
    _of("triple ratamacue", "dR - - dR - - dR L R L", is_closed=True, grids=(3, 6, 12)),
    _of("flam", "fR", least=1, is_common=True),
    _of("drag", "dR", least=1, is_common=True),
)

#: Their names, each once; the two paradiddles turned round are asked for too.
NAMES: tuple[str, ...] = tuple(dict.fromkeys(r.name for r in RUDIMENTS))


@dataclass(frozen=True)
class Found:
    """A rudiment from a place on. strokes: ids in order of time."""

    name: str
    bar: int
    place: Fraction
    strokes: tuple[str, ...]


def found(score: Score, strokes: Sequence[Stroke]) -> list[Found]:
    """The rudiments in some strokes (in order of time; feet sound apart), in order of time."""
    rudiments = []
    for row in rows(score, strokes):
        for rudiment, first, last in _divided(row):
            strokes_of_row = [s for s in row.strokes[first:last] if s is not None]
            rudiments.append(
                Found(
                    rudiment.name,
                    strokes_of_row[0].bar,
                    strokes_of_row[0].place,
                    tuple(s.id for s in strokes_of_row),
                )
            )
    return _joined(rudiments)


def named(score: Score, strokes: Sequence[Stroke]) -> list[str]:
    """Names of the rudiments in a row of strokes, each once, in order."""
    return list(dict.fromkeys(f.name for f in found(score, strokes)))


def _joined(rudiments: list[Found]) -> list[Found]:
    """A rudiment that follows itself is told once."""
    joined: list[Found] = []
    for f in rudiments:
        if joined and joined[-1].name == f.name:
            last = joined.pop()
            f = Found(last.name, last.bar, last.place, last.strokes + f.strokes)
        joined.append(f)
    return joined


def _divided(row: Row) -> list[tuple[Rudiment, int, int]]:
    """The words (rudiment, first step, behind its last) that name most of a row."""
    size = len(row.tokens)
    best: list[tuple[float, list[tuple[Rudiment, int, int]]]] = [(0.0, [])] * (size + 1)
    for at in range(size - 1, -1, -1):
        best[at] = best[at + 1]
        if row.tokens[at] == "-":
            continue
        for rudiment in RUDIMENTS:
            if rudiment.grids and row.grid not in rudiment.grids:
                continue
            for last in _ends(rudiment, row.tokens, at):
                if _cuts(row.tokens, at, last):
                    continue
                worth = _worth(rudiment, row, at, last) + best[last][0]
                if worth > best[at][0] + 1e-9:
                    best[at] = (worth, [(rudiment, at, last), *best[last][1]])
    return best[0][1]


def _cuts(tokens: Sequence[str], at: int, last: int) -> bool:
    """Whether a border falls between two strokes of one hand, which belong together."""

    def same(k: int) -> bool:
        return 0 < k < len(tokens) and tokens[k] == tokens[k - 1]

    return same(at) or same(last)


def _worth(rudiment: Rudiment, row: Row, at: int, last: int) -> float:
    strokes = sum(t != "-" for t in row.tokens[at:last])
    first = row.strokes[at]
    off = first is not None and first.place.denominator > 1  # rudiments begin on the beat
    return strokes * (1.0 if rudiment.is_common else 1.2) - 0.7 - _OFF * off


_OFF = 1.5  # strokes that it must name more to begin off the beat


def _ends(rudiment: Rudiment, tokens: Sequence[str], at: int) -> Iterator[int]:
    """Where a rudiment that begins at a step may end: behind each of its turns, hands in turn or
    the same hand again; what isn't closed, also in the midst of a turn once it is long enough."""
    size = len(rudiment.word)
    for swaps in (False, True):
        if swaps and rudiment.is_common and size > 1:
            continue  # R L | L R are no single strokes
        word, k, last_turn = rudiment.word, at, at
        swapped = tokens[at][-1] != word[0][-1]
        while k < len(tokens):
            turn, step = divmod(k - at, size)
            token = word[step]
            is_swapped = swapped ^ (swaps and turn % 2 == 1)
            if tokens[k] != (token.translate(_SWAP) if is_swapped else token):
                break
            k += 1
            if step == size - 1:
                last_turn = k
        if rudiment.is_closed:
            for end in range(at + size, last_turn + 1, size):
                if end == len(tokens) or tokens[end] == "-":
                    yield end
        elif k - at >= rudiment.least:
            if last_turn - at >= rudiment.least:
                yield last_turn
            if k != last_turn and (rudiment.is_common or k == len(tokens)):
                yield k


def length(name: str) -> int:
    """How many strokes one turn of a rudiment has.

    >>> length("single paradiddle"), length("five-stroke roll")
    (8, 5)
    """
    word = next(r for r in RUDIMENTS if r.name == name).word
    return sum(t != "-" for t in word)


def sticking(name: str, size: int, lead: str = "R") -> str:
    """The hands (R, L) of a rudiment's strokes, as many as are asked for, its turns in turn.

    >>> sticking("six-stroke roll", 8)
    'RLLRRLRL'
    """
    rudiment = next(r for r in RUDIMENTS if r.name == name)
    word = [t[-1] for t in rudiment.word if t != "-"]
    swaps = (rudiment.is_closed and name != "lesson 25") or name.startswith("drag paradiddle")
    letters = ""
    while len(letters) < size:
        turn = len(letters) // len(word)
        letters += "".join(word).translate(_SWAP) if swaps and turn % 2 else "".join(word)
    letters = letters[:size]
    return letters if lead == "R" else letters.translate(_SWAP)
