"""Which bar of a later version a bar of an earlier one has become."""

from __future__ import annotations

from collections import Counter

from orchesis.score.song import Score


def moved_bar(then: Score, now: Score, bar: int) -> int | None:
    """The bar of ``now`` in which a bar of ``then`` is found; None where it is gone.

    A bar goes where most of its strokes went. One of whose strokes none is left goes by its moment
    in the recording.
    """
    bars = _bars_of_strokes(then, now, bar)
    if bars:
        return bars.most_common(1)[0][0]
    start, end = then.seconds(bar), then.seconds(bar + 1)
    nearest = min(range(1, now.bar_count + 1), key=lambda b: abs(now.seconds(b) - start))
    return nearest if abs(now.seconds(nearest) - start) <= 0.5 * (end - start) else None


def moved_span(then: Score, now: Score, first: int, last: int) -> tuple[int, int] | None:
    """The bars that a passage has become, the first and the last; None where all are gone."""
    bars: set[int] = set()
    for bar in range(first, min(last, then.bar_count) + 1):
        span = _bars_of_strokes(then, now, bar)
        # Counted in other bars, one bar becomes two.
        bars |= {b for b, n in span.items() if n >= _SHARE * span.total()}
        if not span and (moved := moved_bar(then, now, bar)) is not None:
            bars.add(moved)
    return (min(bars), max(bars)) if bars else None


_SHARE = 0.25  # of a bar's strokes that have to lie in another bar, for it to belong to the passage


def _bars_of_strokes(then: Score, now: Score, bar: int) -> Counter[int]:
    strokes = then.strokes_of(bar)
    return Counter(now.strokes[s.id].bar for s in strokes if s.id in now.strokes)
