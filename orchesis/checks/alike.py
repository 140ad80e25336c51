"""What was changed in one bar, offered to the bars that had the same reading.

A transcriber who finds a ghost in bar 3 looks whether the other bars of that groove have it
too. After an edit the bars are found in which the same change is possible and the rest reads
alike; the edit ``Spread`` makes it there.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Any

from orchesis.grooves.compare import compare
from orchesis.score import Meter, Score, Stroke
from orchesis.score.bar import of_bar
from orchesis.score.difference import Difference
from orchesis.score.stroke import CARRIED

_Place = tuple[int, int]
_MIN_SHARE_IN_COMMON = 0.6  # least share of the other strokes that two bars have in common
_MAX_CHANGES = 32  # changes; more is another bar, not a correction


@dataclass(frozen=True)
class Offer:
    """An edit of one bar that would fit others too.

    bars: those where it would, the likest first. changes: [{was, now}] for the edit ``Spread``.
    differences: what the edit did. meter: of the bars.
    """

    bar: int
    bars: tuple[int, ...]
    changes: tuple[dict[str, Any], ...]
    differences: tuple[Difference, ...]
    meter: Meter


def offer(old: Score, new: Score, ids: Iterable[str]) -> Offer | None:
    """What an edit of one bar offers to others; None where it did anything else, or no other bar
    reads alike. ids: of the strokes that it changed."""
    if old.meters != new.meters:
        return None
    pairs = [(old.strokes.get(k), new.strokes.get(k)) for k in ids]
    pairs = [pair for pair in pairs if _differs(*pair)]
    bars = {s.bar for pair in pairs for s in pair if s is not None}
    if len(bars) != 1 or not 0 < len(pairs) <= _MAX_CHANGES:
        return None
    [bar] = bars
    changes = [{"was": _told(was), "now": _told(now)} for was, now in pairs]
    touched = {_at(s) for pair in pairs for s in pair if s is not None}
    untouched = {read for read in _spots(old.strokes_of(bar)) if read[1] not in touched}
    fitting = []
    for other in range(1, old.bar_count + 1):
        is_free = other != bar and other not in old.confirmed
        if is_free and old.meters[other - 1] == old.meters[bar - 1]:
            strokes = old.strokes_of(other)
            shared = len(untouched & _spots(strokes).keys())
            every = len(untouched) + _beside(strokes, touched) - shared
            like = shared / every if every else 0.0
            if like >= _MIN_SHARE_IN_COMMON and all(_fits(strokes, was, now) for was, now in pairs):
                fitting.append((-like, other))
    if not fitting:
        return None
    changes_in_words = compare([a for a, _ in pairs if a], [b for _, b in pairs if b])
    return Offer(
        bar,
        tuple(other for _, other in sorted(fitting)),
        tuple(changes),
        tuple(changes_in_words),
        old.meters[bar - 1],
    )


def _differs(a: Stroke | None, b: Stroke | None) -> bool:
    if a is b:
        return False
    if a is None or b is None:
        return True
    return a.bar != b.bar or any(getattr(a, k) != getattr(b, k) for k in CARRIED)


def _told(s: Stroke | None) -> dict[str, Any] | None:
    if s is None:
        return None
    data = s.to_json()
    return {"id": s.id, **{k: data[k] for k in CARRIED}}


def _beside(strokes: Sequence[Stroke], touched: Set[_Place]) -> int:
    """How many strokes a bar has beside the places that were touched."""
    places = _places(strokes)
    return len(_spots(strokes)) - sum(places.get(at, 0) for at in touched)


@of_bar
def _places(strokes: Sequence[Stroke]) -> Mapping[_Place, int]:
    return Counter(at for _, at in _spots(strokes))


def _at(s: Stroke) -> _Place:
    """A place as two whole numbers: found in a set ten times faster than a fraction."""
    return s.place.numerator, s.place.denominator


@of_bar
def _spots(strokes: Sequence[Stroke]) -> Mapping[tuple[str, _Place], Stroke]:
    return {(s.part, _at(s)): s for s in strokes}


def _fits(strokes: Sequence[Stroke], was: Stroke | None, now: Stroke | None) -> bool:
    """Whether a bar has what was changed, as it was, and room for what it became."""
    spots = _spots(strokes)
    if was is not None:
        stroke = spots.get((was.part, _at(was)))
        if stroke is None or (now is not None and not _differs_there(stroke, now)):
            return False
        if now is not None and was.dynamic != now.dynamic and stroke.dynamic != was.dynamic:
            return False
    if now is not None and (was is None or (was.part, was.place) != (now.part, now.place)):
        return (now.part, _at(now)) not in spots
    return True


def _differs_there(there: Stroke, now: Stroke) -> bool:
    carried = [k for k in CARRIED if k != "loudness"]
    return any(getattr(there, k) != getattr(now, k) for k in carried) or (
        abs(there.loudness - now.loudness) > 0.02
    )
