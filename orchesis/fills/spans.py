"""Fills, found by their difference from the groove.

A drummer hears a fill by what it leaves and what it brings: the time surface stops, drums
sound where the groove has none, and often a crash answers. Where the time goes on, snare and kick
that change from bar to bar are comping, and where no hand keeps the time there is none to leave:
drums round the kit, or a beat full of strokes, fill there too. Each half of a beat (a third in
compound meters) is weighed against what the bars of the same music usually do there.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.bar import Bar, of_bar, of_bars, of_score
from orchesis.score.fill import Span
from orchesis.score.kit import MAIN_WAY

_MAX_LOUDNESS_OF_A_GHOST = 0.42  # ghosts louder than this may be plain strokes of a fill
_MIN_SHARE_OF_GROOVE = 0.4  # share of the bars from which on a stroke belongs to the groove
_MIN_SHARE_OF_TIME = 0.6  # share of the bars in which the time hand plays there: it is missed
_MIN_NEW_STROKES, _MIN_STRENGTH = (
    2.0,
    3.0,
)  # drum strokes beyond the groove, and all that speaks for a fill
_MAX_BARS = 4  # bars; more is another part of the song
_MAX_SHARE_OF_FILLS = 0.5  # share of a section beyond which fills are its part
_MIN_BARS_OF_A_MUSIC = 3  # music of fewer bars is weighed against the whole song
_MAX_GAP_UNITS = 2  # units without a new stroke that a fill may hold
_DENSE_STROKES_A_BEAT = 3.0  # new strokes within a beat that fill while the time goes on
_MAX_SHARE_OF_TIME_HAND = (
    0.2  # share of the bars that have a time hand in a part that is played on the drums
)


def _on_drums(stroke: Stroke) -> bool:
    kit_part = KIT[stroke.part]
    return (
        kit_part.family == "drum"
        and kit_part.role in ("backbeat", "hand")
        and (stroke.dynamic != "ghost" or stroke.loudness > _MAX_LOUDNESS_OF_A_GHOST)
    )


#: An instrument and a place (a fraction's two numbers: found ten times faster than a fraction).
_Spot = tuple[str, int, int]


@of_bar
def _drum_strokes(strokes: Sequence[Stroke], count: int) -> tuple[tuple[int, _Spot, float], ...]:
    """Each drum stroke that may belong to a fill: its unit (``count`` a beat), where it stands,
    what it counts."""
    return tuple(
        (
            s.place.numerator * count // s.place.denominator,
            (MAIN_WAY[s.part], s.place.numerator, s.place.denominator),
            1.2 if KIT[s.part].layer == "toms" else 1.0,
        )
        for s in strokes
        if _on_drums(s)
    )


@of_bar
def _time_units(strokes: Sequence[Stroke], count: int) -> frozenset[int]:
    """The units of a bar that the time hand plays in."""
    return frozenset(
        s.place.numerator * count // s.place.denominator
        for s in strokes
        if KIT[s.part].role == "time"
    )


@of_bar
def _kept_units(strokes: Sequence[Stroke], count: int) -> frozenset[int]:
    """The units in which the time goes on, or a crash stands for it."""
    return frozenset(
        s.place.numerator * count // s.place.denominator
        for s in strokes
        if KIT[s.part].role == "time" or KIT[s.part].is_crash
    )


class _Usual:
    """What the bars of one music do at each place, as shares of its bars."""

    def __init__(self, bars: Sequence[Sequence[Stroke]], count: int) -> None:
        n = max(1, len(bars))
        drums: Counter[_Spot] = Counter()
        time: Counter[int] = Counter()
        for strokes in bars:
            drums.update({spot for _, spot, _ in _drum_strokes(strokes, count)})
            time.update(_time_units(strokes, count))
        self.drums = {k: v / n for k, v in drums.items()}
        self.time = {k: v / n for k, v in time.items()}


@of_bars
def _usual(bars: tuple[Bar, ...], count: int) -> _Usual:
    return _Usual(bars, count)


def unit_of(score: Score, bar: int) -> Fraction:
    """What a bar is weighed in: half a felt beat, a third in compound meters."""
    return Fraction(1, 3) if score.meters[bar - 1].is_compound else Fraction(1, 2)


def _usuals(score: Score, by_bar: Mapping[int, Bar]) -> dict[int, _Usual]:
    """What is usual round each bar: in the bars of its label and meter, or in the whole song."""
    groups: dict[tuple[str, Meter], list[int]] = defaultdict(list)
    for s in score.sections:
        for bar in range(s.first_bar, min(s.last_bar, score.bar_count) + 1):
            groups[s.label, score.meters[bar - 1]].append(bar)
    usuals: dict[int, _Usual] = {}
    for (_, meter), bars in groups.items():
        bars_of_label = [b for b in bars if by_bar.get(b)]
        if len(bars_of_label) < _MIN_BARS_OF_A_MUSIC:
            bars_of_label = [
                b for b in by_bar if b <= score.bar_count and score.meters[b - 1] == meter
            ]
        usual = _usual(tuple(by_bar[b] for b in bars_of_label), 3 if meter.is_compound else 2)
        usuals |= dict.fromkeys(bars, usual)
    return usuals


def find(score: Score) -> list[Span]:
    """The spans of all fills, in order: those found, and what a person says of them.

    score: as it is played (``Score.played``). A fill lies within one section, holds at least
    two drum strokes that the groove has not, and is no longer than four bars.
    """
    return _as_said(score, _found(score)) if score.fill_verdicts else list(_found(score))


def said(score: Score, is_fill: bool) -> list[Span]:
    """Where a person says that there is a fill, or that there is none, in order."""
    spans = [v.span(score) for v in score.fill_verdicts if v.is_fill == is_fill]
    return sorted((s for s in spans if s is not None), key=lambda s: (s.bar, s.place))


def _as_said(score: Score, spans: Sequence[Span]) -> list[Span]:
    """The found fills and those that a person marked, without what these or a “no” overlap."""
    marked, denied = said(score, True), said(score, False)
    others = [*marked, *denied]
    kept = marked + [s for s in spans if not any(_overlap(score, s, o) for o in others)]
    return sorted(kept, key=lambda s: (s.bar, s.place))


def _overlap(score: Score, a: Span, b: Span) -> bool:
    """Whether two spans share half of the shorter one, or more."""
    ends = [(score.beat_of(s.bar, s.place), score.beat_of(s.last_bar, s.end)) for s in (a, b)]
    shared = min(e for _, e in ends) - max(s for s, _ in ends)
    return shared >= min(e - s for s, e in ends) / 2


@of_score
def _found(score: Score) -> tuple[Span, ...]:
    by_bar = score.by_bar()
    usuals = _usuals(score, by_bar)
    spans: list[Span] = []
    for section in score.sections:
        units = [
            unit
            for bar in range(section.first_bar, min(section.last_bar, score.bar_count) + 1)
            for unit in _units(score, bar, score.strokes_of(bar), usuals[bar])
        ]
        bars = range(section.first_bar, min(section.last_bar, score.bar_count) + 1)
        timed = sum(bool(_time_units(by_bar[b], 2)) for b in bars if by_bar.get(b))
        on_drums = timed <= _MAX_SHARE_OF_TIME_HAND * sum(bool(by_bar.get(b)) for b in bars)
        fresh: list[Span] = []
        for run in _runs(units):
            first = _beginning(score, by_bar, usuals, [units[i] for i in run])
            span = _judged(score, by_bar, section.last_bar, [units[i] for i in run], on_drums)
            if span is not None and first is not None:
                span = replace(span, place=first)
            if span is not None:
                fresh.append(span)
        filled = sum(
            score.beat_of(s.last_bar, s.end) - score.beat_of(s.bar, s.place) for s in fresh
        )
        whole = score.bar_beats()[min(section.last_bar, score.bar_count)]
        whole -= score.bar_beats()[section.first_bar - 1]
        if section.bars < _MAX_BARS or filled <= _MAX_SHARE_OF_FILLS * whole:
            spans += fresh  # else it is the part itself that is played on the drums
    return tuple(spans)


_Unit = tuple[int, int, float, bool]  # bar, unit, new drum strokes, the time hand is missed


def _units(score: Score, bar: int, strokes: Bar, usual: _Usual) -> list[_Unit]:
    """A bar's units, each with its new drum strokes and whether the time hand is missed."""
    meter = score.meters[bar - 1]
    cost_of_units = _weighed((strokes,), 3 if meter.is_compound else 2, meter.beats, usual)
    return [(bar, k, new, missed) for k, (new, missed) in enumerate(cost_of_units)]


@of_bars
def _weighed(
    bars: tuple[Bar, ...], count: int, beats: int, usual: _Usual
) -> list[tuple[float, bool]]:
    """(new drum strokes, whether the time hand is missed) of each unit of one bar."""
    [strokes] = bars
    size = count * beats
    new, keeps = [0.0] * size, _kept_units(strokes, count)
    for k, spot, counts in _drum_strokes(strokes, count):
        if k < size and usual.drums.get(spot, 0.0) < _MIN_SHARE_OF_GROOVE:
            new[k] += counts
    return [
        (new[k], usual.time.get(k, 0.0) >= _MIN_SHARE_OF_TIME and k not in keeps)
        for k in range(size)
    ]


def _runs(units: Sequence[_Unit]) -> list[list[int]]:
    """Runs of units that leave the groove, trimmed to where strokes are new."""
    runs: list[list[int]] = []
    current: list[int] = []
    quiet = 0
    for i, (_, _, new, missed) in enumerate(units):
        if new > 0 or (missed and current):
            current.append(i)
            quiet = 0 if new > 0 or missed else quiet
        elif current:
            quiet += 1
            current.append(i)
            if quiet > _MAX_GAP_UNITS:
                runs.append(current)
                current, quiet = [], 0
    if current:
        runs.append(current)
    trimmed = []
    for run in runs:
        while run and units[run[-1]][2] == 0 and not units[run[-1]][3]:
            run.pop()
        if run:
            trimmed.append(run)
    return trimmed


def _beginning(
    score: Score, by_bar: Mapping[int, Bar], usuals: Mapping[int, _Usual], run: Sequence[_Unit]
) -> Fraction | None:
    """Where a fill begins that opens with a crash and the kick, before its first drum: the time
    hand has left already, and no stroke of the groove lies between. None where it does not."""
    bar, k, _, _ = run[0]
    unit = unit_of(score, bar)
    strokes, usual = by_bar[bar], usuals[bar]
    timed = _time_units(strokes, int(1 / unit))
    start: Fraction | None = None
    while k > 0:
        k -= 1
        in_unit = [s for s in strokes if k * unit <= s.place < (k + 1) * unit]
        if k in timed or any(_on_drums(s) for s in in_unit):
            break
        if (
            any(KIT[s.part].is_crash for s in in_unit)
            and usual.time.get(k, 0.0) >= _MIN_SHARE_OF_TIME
        ):
            start = in_unit[0].place
    return start


def _judged(
    score: Score,
    by_bar: Mapping[int, Sequence[Stroke]],
    last_bar: int,
    run: Sequence[_Unit],
    on_drums: bool,
) -> Span | None:
    """The span of a run that is a fill. on_drums: whether no hand keeps the time there."""
    new = sum(u[2] for u in run)
    missed = sum(u[3] for u in run)
    first, last = run[0], run[-1]
    if (on_drums or not missed) and not _rolls(score, by_bar, run, on_drums):
        return None
    bar, end_bar = first[0], last[0]
    beats = score.meters[end_bar - 1].beats
    end = (last[1] + 1) * unit_of(score, end_bar)
    reaches_end = end >= beats
    after = by_bar.get(end_bar + 1, []) if reaches_end else by_bar.get(end_bar, [])
    at = Fraction(0) if reaches_end else end
    answered = any(KIT[s.part].is_crash and s.place == at for s in after)
    turn = reaches_end and (end_bar == last_bar or end_bar % 4 == 0)
    strength = new + 0.5 * missed + 1.0 * answered + 0.5 * turn
    is_drum_part = len(run) * unit_of(score, bar) > _MAX_BARS * beats
    if new < _MIN_NEW_STROKES or strength < _MIN_STRENGTH or is_drum_part:
        return None
    # It begins with its first new stroke, not with the silence before.
    place = first[1] * unit_of(score, bar)
    return Span(bar, place, end_bar, min(end, Fraction(beats)))


def _rolls(
    score: Score, by_bar: Mapping[int, Sequence[Stroke]], run: Sequence[_Unit], on_drums: bool
) -> bool:
    """Whether a run that leaves no time goes round the toms, or beside a time hand fills a beat."""
    beats: Counter[tuple[int, int]] = Counter()
    for bar, k, new, _ in run:
        unit = unit_of(score, bar)
        inside = [s for s in by_bar.get(bar, ()) if k * unit <= s.place < (k + 1) * unit]
        if new and any(KIT[s.part].layer == "toms" for s in inside):
            return True
        beats[bar, int(k * unit)] += new  # type: ignore[assignment]
    return not on_drums and max(beats.values()) >= _DENSE_STROKES_A_BEAT


def fill_bars(score: Score) -> list[tuple[int, int]]:
    """(bar, first felt beat counted from 0) of each bar that a fill touches."""
    first_bars: dict[int, int] = {}
    for span in find(score):
        for bar in range(span.bar, span.last_bar + 1):
            first_bars.setdefault(bar, int(span.place) if bar == span.bar else 0)
    return sorted(first_bars.items())


def seconds(score: Score, span: Span) -> tuple[float, float]:
    """The moments at which a fill begins and ends."""
    return (
        score.pulse.seconds(score.beat_of(span.bar, span.place)),
        score.pulse.seconds(score.beat_of(span.last_bar, span.end)),
    )


def inside(score: Score, span: Span) -> list[Stroke]:
    """The strokes of a fill in order of time."""
    return [
        s
        for bar in range(span.bar, span.last_bar + 1)
        for s in score.strokes_of(bar)
        if (bar, s.place) >= (span.bar, span.place) and (bar, s.place) < (span.last_bar, span.end)
    ]
