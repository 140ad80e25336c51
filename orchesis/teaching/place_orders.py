"""Orders round one place of the bars: the hard one, a crash."""

from __future__ import annotations

from collections.abc import Sequence

from orchesis.score import KIT, Score, Stroke
from orchesis.teaching.hardest import hardest
from orchesis.teaching.steps import Titled, Zoomed, when


def _beats_from(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke], first: int, beats: int
) -> list[Stroke]:
    """The strokes of some beats, counted from the start of the bars."""
    base = {}
    at = 0
    for b in bars:
        base[b], at = at, at + score.meters[b - 1].beats
    return [s for s in strokes if first <= base[s.bar] + s.place < first + beats]


def _with_joins(
    score: Score,
    bars: Sequence[int],
    strokes: Sequence[Stroke],
    title: str,
    beat: int,
    first: int,
    last: int,
) -> Zoomed:
    """One beat and its join: of the beat behind it the first strokes, into which it leads; of the
    last beat of a stretch (first to last, counted from the start of the bars) the last ones of the
    beat before it."""
    if first == last:
        return Zoomed(title, _beats_from(score, bars, strokes, beat, 1), beat, 1)
    start = beat if beat < last else beat - 1
    strokes_here = _beats_from(score, bars, strokes, start, 2)
    inside = {s.id for s in _beats_from(score, bars, strokes, beat, 1)}
    others = [s for s in strokes_here if s.id not in inside]
    edge = (min if start == beat else max)((when(s) for s in others), default=None)
    return Zoomed(title, [s for s in strokes_here if s.id in inside or when(s) == edge], start, 2)


def zoom(score: Score, bars: Sequence[int], strokes: Sequence[Stroke]) -> Sequence[Titled | Zoomed]:
    """The hard place with its join, the half bar, the bar it stands in: just that goes round,
    without the rest of the bar in silence."""
    at = hardest(score, bars)
    meter = score.meters[at.bar - 1]
    where = f"beat {int(at.place) + 1}" + (f" of bar {at.bar}" if len(bars) > 1 else "")
    base = sum(score.meters[b - 1].beats for b in bars if b < at.bar)
    beat = base + int(at.place)
    half = meter.beats // 2 if meter.beats > 3 else meter.beats
    first = base + int(at.place) // half * half
    last = min(first + half, base + meter.beats) - 1
    title = f"The hard place: {where}"
    steps: list[Titled | Zoomed] = [_with_joins(score, bars, strokes, title, beat, first, last)]
    if half < meter.beats:
        count = last - first + 1
        near = _beats_from(score, bars, strokes, first, count)
        steps.append(Zoomed(f"Half the bar round {where}", near, first, count))
    if len(bars) > 1:
        bar = [s for s in strokes if s.bar == at.bar]
        steps.append(Zoomed(f"Bar {at.bar} whole", bar, base, meter.beats))
    return steps


def crash(
    score: Score, bars: Sequence[int], strokes: Sequence[Stroke]
) -> Sequence[Titled | Zoomed]:
    """Round a crash: it is the 1, the next stroke of the hand comes behind it; first that beat,
    then with the last beat before it, then the bar."""
    hits = [s for s in strokes if KIT[s.part].layer == "crashes"]
    if not hits:
        return zoom(score, bars, strokes)
    at = min(hits, key=when)
    beat = int(at.place)
    where = f"beat {beat + 1} of bar {at.bar}"
    base = sum(score.meters[b - 1].beats for b in bars if b < at.bar)
    total = sum(score.meters[b - 1].beats for b in bars)
    title = f"The crash and what comes behind it: {where}"
    steps: list[Titled | Zoomed] = [
        _with_joins(score, bars, strokes, title, base + beat, 0, total - 1)
    ]
    if base + beat > 0:
        count = min(3, total - base - beat + 1)
        led = _beats_from(score, bars, strokes, base + beat - 1, count)
        steps.append(Zoomed("With the beat that leads into it", led, base + beat - 1, count))
    whole_bar = [s for s in strokes if s.bar == at.bar]
    return [*steps, Zoomed("The bar of the crash", whole_bar, base, score.meters[at.bar - 1].beats)]
