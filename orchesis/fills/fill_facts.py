"""A fill told: subdivisions, cells, the way over the drums, how it starts and resolves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import groupby

from orchesis import fills
from orchesis.fills import cells
from orchesis.hands import difficulty, rudiments
from orchesis.score import KIT, Score, Stroke
from orchesis.score.bar import of_score
from orchesis.score.fill import Entry, Fill, Resolution, Span
from orchesis.score.kit import MAIN_WAY

_MIN_LIKENESS = 0.6  # share of the strokes that two fills have in common to be nearly the same
_MIN_STROKES = 3  # strokes of a fill that can be like another
_LATE = Fraction(1, 4)  # beats behind the end within which a fill resolves


def describe_fills(score: Score) -> list[Fill]:
    """Every fill of a score, with where each comes back."""
    return list(_described(score.played()))


@of_score
def _described(score: Score) -> tuple[Fill, ...]:
    spans = fills.find(score)
    marked = set(fills.said(score, True))
    described = [replace(tell(score, span), is_marked=span in marked) for span in spans]
    shapes = [_shape(score, span) for span in spans]
    for n, fill in enumerate(described):
        like = []
        for k, other in enumerate(shapes):
            how = _likeness(shapes[n], other) if k != n else ""
            if how:
                like.append((k, how))
        object.__setattr__(fill, "like", tuple(like))
    return tuple(described)


def tell(score: Score, span: Span) -> Fill:
    """One fill, without its likes. score: as it is played."""
    strokes = fills.inside(score, span)
    row = cells.moments(score, strokes)
    cells_of_fill = cells.cells(score, span, strokes)
    beats = score.beat_of(span.last_bar, span.end) - score.beat_of(span.bar, span.place)
    hands = [s for s in strokes if not KIT[s.part].role.endswith("_foot")]
    with_feet = 0 < len(hands) < len(strokes)
    linear = with_feet and all(len(m.strokes) == 1 for m in row)
    names = _subdivisions(score, row)
    hard = difficulty.of_strokes(score, strokes)
    return Fill(
        span=span,
        strokes=tuple(s.id for s in strokes),
        beats=beats,
        subdivisions=names,
        cells=tuple(cells_of_fill),
        path=tuple((name, len(list(run))) for name, run in groupby(way(hands))),
        is_linear=linear,
        accents=sum(s.dynamic == "accent" for s in strokes),
        ornaments=tuple(s.ornament for s in strokes if s.ornament),
        rudiments=tuple(rudiments.named(score, strokes)),
        entry=_entry(score, strokes),
        resolution=_resolution(score, span),
        difficulty=round(hard.total, 1),
        hard_by=hard.cause if strokes else "",
    )


def way(hands: Sequence[Stroke]) -> list[str]:
    """Instruments as the hands meet them; beside a drum the time hand is left out, and two drums
    struck together are one word, joined by “+”."""
    moments: dict[tuple[int, Fraction], list[Stroke]] = {}
    for s in hands:
        moments.setdefault((s.bar, s.place), []).append(s)
    path = []
    for together in moments.values():
        drums = [s for s in together if KIT[s.part].role != "time"] or together
        path.append("+".join(dict.fromkeys(_instrument(s.part) for s in drums)))
    return path


def _instrument(part: str) -> str:
    """A tom and a cross-stick sound for themselves; other ways of playing go by the main one."""
    return part if KIT[part].layer == "toms" or part == "cross_stick" else MAIN_WAY[part]


def _subdivisions(score: Score, row: Sequence[cells.Moment]) -> tuple[str, ...]:
    """Subdivisions in the order in which they come; quarters and 8ths only where nothing finer
    of their kind is played."""
    names: list[str] = []
    for m, grid in zip(row, cells.grids(score, row), strict=True):
        names.append(cells.subdivision(grid, score.meters[m.bar - 1]))
    told_ = list(dict.fromkeys(names))
    fine = {"16th", "32nd"} & set(told_)
    if fine or "triplet" in told_ or "sextuplet" in told_:
        told_ = [n for n in told_ if n not in ("quarter", "dotted quarter")]
    if fine:
        told_ = [n for n in told_ if n != "8th"]
    return tuple(told_)


def _entry(score: Score, strokes: Sequence[Stroke]) -> Entry | None:
    if not strokes:
        return None
    first = strokes[0]
    before = [
        s.place
        for s in score.strokes_of(first.bar)
        if s.place < first.place and KIT[s.part].role == "backbeat" and s.dynamic != "ghost"
    ]
    return Entry(first.place, before[-1] if before else None)


def _resolution(score: Score, span: Span) -> Resolution:
    """What stands on the first place behind the fill."""
    if span.end >= score.meters[span.last_bar - 1].beats:
        after, at = score.strokes_of(span.last_bar + 1), Fraction(0)
    else:
        after, at = score.strokes_of(span.last_bar), span.end
    near = [s for s in after if at <= s.place < at + _LATE]
    if not near:
        return Resolution("open" if after else "silence", at)
    kick = any(s.part == "kick" for s in near)
    for kind, is_so in (
        ("crash", lambda s: KIT[s.part].is_crash),
        ("time", lambda s: KIT[s.part].role == "time"),
    ):
        resolution = next(filter(is_so, near), None)
        if resolution is not None:
            return Resolution(kind, at, resolution.part, kick)
    return Resolution("plain", at, near[0].part, kick)


_Shape = tuple[frozenset[tuple[Fraction, str]], frozenset[Fraction]]


def _shape(score: Score, span: Span) -> _Shape:
    """A fill counted back from its end: (places with parts, places alone)."""
    end = score.beat_of(span.last_bar, span.end)
    part_moments = [
        (
            end - score.beat_of(s.bar, s.place),
            MAIN_WAY[s.part] if KIT[s.part].layer != "toms" else s.part,
        )
        for s in fills.inside(score, span)
        if KIT[s.part].role != "time"
    ]
    return frozenset(part_moments), frozenset(at for at, _ in part_moments)


def _likeness(a: _Shape, b: _Shape) -> str:
    if min(len(a[1]), len(b[1])) < _MIN_STROKES:
        return ""
    if a[0] == b[0]:
        return "same"
    if a[1] == b[1]:
        return "rhythm"
    share = len(a[0] & b[0]) / len(a[0] | b[0])
    return "near" if share >= _MIN_LIKENESS else ""
