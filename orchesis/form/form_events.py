"""What happens in the form at a bar: layers that enter and leave, surfaces and meters that change,
rests, builds and fades."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from orchesis.form.pulse_agreement import disagreeing
from orchesis.form.surface import surface_of
from orchesis.score import KIT, Score, Section, Stroke
from orchesis.score.bar import of_bar
from orchesis.score.kit import KitPart

_ENTER = 6  # bars without a layer that make its return an entry
_BUILD = 4.0  # dB that a section grows by to be a build
_EVEN = 0.8  # correlation of level and bar from which on it grows evenly
_FADE = 10.0  # dB that a fade-out loses


@dataclass(frozen=True)
class FormEvent:
    """kind: enters, leaves, surface, rest, meter, disagrees, build or fade.

    layer: what enters or leaves. before, after: surfaces that change; by: what announces it
    (fill, crash). bars: how many rest. meter: the new one. rise: dB of a build up to ``last``.
    """

    bar: int
    kind: str
    layer: str = ""
    before: str = ""
    after: str = ""
    by: tuple[str, ...] = ()
    bars: int = 0
    meter: str = ""
    rise: float = 0.0
    last: int = 0


def _layer(part: KitPart) -> str:
    """What a part's entry is told by; "" for crashes, which only mark moments."""
    if part.is_crash:
        return ""
    return "percussion" if part.family == "auxiliary" else part.instrument


_LAYERS = tuple(dict.fromkeys(layer for p in KIT.values() if (layer := _layer(p))))


@of_bar
def layers_in(strokes: Sequence[Stroke]) -> frozenset[str]:
    """The instruments of a bar whose entry or leave is worth a word."""
    return frozenset(layer for s in strokes if (layer := _layer(KIT[s.part])))


def events(
    score: Score, fills: Collection[int], levels: Sequence[Sequence[float]] = ()
) -> list[FormEvent]:
    """What a drummer marks on the way, in the order of the bars.

    levels: of the whole and of the drums each second, in dB. fills: the bars of fills.
    """
    all_events = [
        *_entries(score),
        *_surfaces(score, fills),
        *_rests(score),
        *(
            FormEvent(b, "meter", meter=str(score.meters[b - 1]))
            for b in range(2, score.bar_count + 1)
            if score.meters[b - 1] != score.meters[b - 2]
        ),
        *(FormEvent(b, "disagrees") for b in disagreeing(score)),
    ]
    for s in score.sections:
        rise = build(score, s, levels)
        if rise is not None:
            all_events.append(FormEvent(s.first_bar, "build", rise=rise, last=s.last_bar))
    fade = fade_out(levels)
    if fade is not None:
        bar = next((b for b in range(score.bar_count, 0, -1) if score.seconds(b) <= fade), 1)
        all_events.append(FormEvent(bar, "fade"))
    return sorted(all_events, key=lambda e: e.bar)


def _entries(score: Score) -> Iterator[FormEvent]:
    present = [layers_in(score.strokes_of(b)) for b in range(1, score.bar_count + 1)]
    for layer in _LAYERS:
        played = [b for b, layers_of_bar in enumerate(present, 1) if layer in layers_of_bar]
        if len(played) < 4:
            continue
        last = None
        for b in played:
            if (last is None and b > 2) or (last is not None and b - last > _ENTER):
                yield FormEvent(b, "enters", layer=layer)
            if last is not None and b - last > _ENTER:
                yield FormEvent(last + 1, "leaves", layer=layer)
            last = b
        if last is not None and score.bar_count - last > _ENTER:
            yield FormEvent(last + 1, "leaves", layer=layer)


def _surfaces(score: Score, fills: Collection[int]) -> Iterator[FormEvent]:
    before = ""
    for s in score.sections:
        bars_of_section = [
            score.strokes_of(b) for b in range(s.first_bar, s.last_bar + 1) if b not in fills
        ]
        now = surface_of(bars_of_section)
        if before and now and now != before:
            first = score.strokes_of(s.first_bar)
            has_crash = any(KIT[x.part].is_crash and x.place == 0 for x in first)
            by = ("fill",) * (s.first_bar - 1 in fills) + ("crash",) * has_crash
            yield FormEvent(s.first_bar, "surface", before=before, after=now, by=by)
        before = now or before


def _rests(score: Score) -> Iterator[FormEvent]:
    run = 0
    for b in range(1, score.bar_count + 2):
        if b <= score.bar_count and not score.strokes_of(b):
            run += 1
        elif run:
            yield FormEvent(b - run, "rest", bars=run)
            run = 0


def build(score: Score, section: Section, levels: Sequence[Sequence[float]]) -> float | None:
    """By how many decibels a section of four bars or more grows louder, evenly, up to its end;
    None if it does not."""
    loud = []
    for bar in range(section.first_bar, section.last_bar + 1):
        a, b = score.bar_seconds[bar - 1 : bar + 1]
        inside = [pair[0] for pair in levels[max(0, round(a)) : max(round(b), round(a) + 1)]]
        if inside:
            loud.append(sum(inside) / len(inside))
    n = len(loud)
    if n < 4:
        return None
    # The least-squares line through them, and how well it holds.
    mean, middle = sum(loud) / n, (n - 1) / 2
    across = sum((k - middle) * (x - mean) for k, x in enumerate(loud))
    wide = sum((k - middle) ** 2 for k in range(n))
    high = sum((x - mean) ** 2 for x in loud)
    rise = across / wide * (n - 1)
    even = across / (wide * high) ** 0.5 if high > 0 else 0.0
    return rise if rise >= _BUILD and even > _EVEN else None


def fade_out(levels: Sequence[Sequence[float]]) -> float | None:
    """The second from which the song fades out; None if it ends.

    A fade falls evenly for at least six seconds, ten decibels or more, while drums go on.
    """
    loud = np.array([pair[0] for pair in levels])
    if len(loud) < 14:
        return None
    smooth = np.convolve(loud, np.ones(3) / 3, "same")
    end = len(smooth) - 2
    start = end
    while start > 1 and max(smooth[start - 2 : start]) > smooth[start] + 0.2:
        start -= 1
    fallen = smooth[start] - smooth[end]
    steps = np.diff(smooth[start : end + 1])
    if end - start >= 6 and fallen >= _FADE and (len(steps) == 0 or steps.min() > -0.5 * fallen):
        return float(start)
    return None
