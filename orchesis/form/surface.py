"""The time surface: what most beats of some bars sound on."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

from orchesis.score import KIT, Stroke
from orchesis.score.bar import of_bar

#: What keeps the time by role counts more than a drum or a crash that may do so for once.
_KEEPS_TIME, _MAY = 1.0, 0.55


@of_bar
def _weights(strokes: Sequence[Stroke]) -> dict[str, float]:
    count: dict[str, float] = {}
    for s in strokes:
        part = KIT[s.part]
        if part.surface and s.dynamic != "ghost":
            weight = _KEEPS_TIME if part.role == "time" else _MAY
            count[part.surface] = count.get(part.surface, 0.0) + weight
    return count


def surface_of(bars: Iterable[Sequence[Stroke]]) -> str:
    """The time surface of some bars in a word; "" where nothing keeps time."""
    count: Counter[str] = Counter()
    for bar in bars:
        for name, weight in _weights(bar).items():
            count[name] += weight  # type: ignore[assignment]
    if not count:
        return ""
    name, most = count.most_common(1)[0]
    if name == "hat" and count["open hat"] > most:
        name = "open hat"
    return name
