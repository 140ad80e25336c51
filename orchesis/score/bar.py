"""The strokes of one bar, and what follows from them alone."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from functools import cached_property, wraps
from operator import is_
from typing import Any, Concatenate, ParamSpec, TypeVar

from orchesis.score.stroke import Stroke

P = ParamSpec("P")
T = TypeVar("T")
S = TypeVar("S")


class Bar(tuple[Stroke, ...]):
    """The strokes of a bar in the order of time and then of the kit table; never changed.

    An edit leaves the bars it does not touch as the very same objects, so that what was reckoned
    of them (``of_bar``) need not be reckoned again.
    """

    @cached_property
    def known(self) -> dict[Hashable, Any]:
        """What was reckoned of this bar so far."""
        return {}


def of_bar(
    reckon: Callable[Concatenate[Sequence[Stroke], P], T],
) -> Callable[Concatenate[Sequence[Stroke], P], T]:
    """Makes a function of a bar's strokes (and of further arguments by place) reckon once a bar.

    What it gives is shared and must not be changed. The last result alone is kept: a bar outlives
    many pulses. It still takes any strokes, reckoning anew.
    """

    @wraps(reckon)
    def kept(strokes: Sequence[Stroke], *args: P.args, **kwargs: P.kwargs) -> T:
        if not isinstance(strokes, Bar) or kwargs:
            return reckon(strokes, *args, **kwargs)
        memo = strokes.known.get(reckon)
        if memo is None or memo[0] != args:
            memo = strokes.known[reckon] = (args, reckon(strokes, *args, **kwargs))
        return memo[1]

    return kept


def of_bars(
    reckon: Callable[Concatenate[tuple[Bar, ...], P], T],
) -> Callable[Concatenate[tuple[Bar, ...], P], T]:
    """The same for a function of several bars: as long as they are the very same ones, and the
    further arguments equal, it is not reckoned again. The last result alone is kept."""

    @wraps(reckon)
    def kept(bars: tuple[Bar, ...], *args: P.args, **kwargs: P.kwargs) -> T:
        if not bars or kwargs:
            return reckon(bars, *args, **kwargs)
        memo = bars[0].known.get(reckon)
        if (
            memo is not None
            and len(memo[0]) == len(bars)
            and all(map(is_, memo[0], bars))
            and memo[1] == args
        ):
            return memo[2]
        value = reckon(bars, *args, **kwargs)
        if bars[0]:  # what has no strokes stands for any empty bar
            bars[0].known[reckon] = (bars, args, value)
        return value

    return kept


def of_score(reckon: Callable[[S], tuple[T, ...]]) -> Callable[[S], tuple[T, ...]]:
    """The same for a function of a whole score, which never changes."""
    name = f"_of_score_{reckon.__module__}.{reckon.__qualname__}"

    @wraps(reckon)
    def kept(score: S) -> tuple[T, ...]:
        memo = vars(score)
        if name not in memo:
            memo[name] = reckon(score)
        return memo[name]

    return kept


NO_STROKES = Bar()
