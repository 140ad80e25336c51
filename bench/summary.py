"""What was asked for against what was reached, in one table; and how fast a correction is."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from fractions import Fraction

import numpy as np

from materials.measures import mean
from orchesis.correcting.pulse_edits import DragBeat, HalveTempo, SetMeter, SetOne, ShiftOne
from orchesis.editing import apply
from orchesis.explanations import summary
from orchesis.fills import fill_bars
from orchesis.score import Measured, PulseMap, Score

Figures = dict[str, dict[str, float]]
#: Songs whose tempo wanders or turns; drums alone are told apart by their name.
WANDERING = ("drifting", "accelerando", "rubato")


def _is_mix(name: str) -> bool:
    return "drums-only" not in name


def _wanders(name: str) -> bool:
    return name in WANDERING


def _all(_name: str) -> bool:
    return True


#: (what, its key, the songs, asked for, whether less is better).
_Asked = tuple[str, str, Callable[[str], bool], float, bool]
#: Of strokes, each kit for itself.
_STROKES: tuple[_Asked, ...] = (
    ("kick, mixes", "kick", _is_mix, 0.98, False),
    ("snare and cross-stick, mixes", "snare", _is_mix, 0.95, False),
    ("hats and cymbals, mixes", "cymbals", _is_mix, 0.95, False),
    ("toms", "toms", _all, 0.95, False),
    ("hats, rides, crashes told apart", "hat/ride/crash", _all, 0.94, False),
    ("every part", "every part", _all, 0.93, False),
    ("ghosts, mixes", "ghosts", _is_mix, 0.65, False),
    ("ghosts, drums alone", "ghosts", lambda n: not _is_mix(n), 0.95, False),
    ("snare precision", "snare precision", _all, 0.93, False),
    ("open against closed", "open/closed", _all, 0.97, False),
    ("loudness order, snare", "rho snare", _all, 0.82, False),
    ("loudness order, hat", "rho hat", _all, 0.85, False),
    ("loudness order, kick", "rho kick", _all, 0.6, False),
    ("drums forward above plain, dB", "above plain", _all, 5.0, False),
)
_TIME: tuple[_Asked, ...] = (
    ("beats, all songs", "beats", _all, 0.97, False),
    ("downbeats, all songs", "downbeats", _all, 0.90, False),
    ("beats, steady songs", "beats", lambda n: not _wanders(n), 0.97, False),
    ("downbeats, steady songs", "downbeats", lambda n: not _wanders(n), 0.93, False),
    ("beats, wandering songs", "beats", _wanders, 0.92, False),
    ("downbeats, wandering songs", "downbeats", _wanders, 0.85, False),
    ("tempo, half and double wrong", "tempo", _all, 0.95, False),
    ("tempo, or the first rival", "tempo or rival", _all, 0.97, False),
    ("meter", "meter", _all, 0.90, False),
    ("section borders at one bar", "borders", _all, 0.85, False),
    ("sections labelled alike", "labels", _all, 0.80, False),
    ("odd phrases found", "odd phrases", _all, 0.90, False),
    ("swing ratio, error", "swing error", _all, 0.03, True),
    ("placement of the snare, ms", "snare ms", _all, 5.0, True),
)


def table(figures: Figures, kits: Mapping[str, str], cost: dict[str, float]) -> list[str]:
    """Lines of the tables. kits: of each song. cost: shares of the song's length, in per cent, on
    two cores."""
    names = sorted(set(kits.values()))
    lines = [
        "## Strokes, asked for and reached\n",
        f"| the worst kit counts | asked for | {' | '.join(names)} | |",
        "|---|---|" + "---|" * (len(names) + 1),
    ]
    for what, key, chosen, asked, is_less in _STROKES:
        own = [
            mean([figures[n][key] for n in figures if chosen(n) and kits[n] == k]) for k in names
        ]
        met = all(_meets(x, asked, is_less) for x in own)
        cells = " | ".join(map(_shown, own))
        lines.append(f"| {what} | {asked:g} | {cells} | {'' if met else 'short'} |")
    lines += [
        "",
        "## Time and cost, asked for and reached\n",
        "| | asked for | reached | |",
        "|---|---|---|---|",
    ]
    for what, key, chosen, asked, is_less in _TIME:
        found = mean([figures[n][key] for n in figures if chosen(n)])
        met = _meets(found, asked, is_less)
        lines.append(f"| {what} | {asked:g} | {_shown(found)} | {'' if met else 'short'} |")
    for what, asked in (("hearing", 6.0), ("hearing with drums", 8.0)):
        short = "" if cost[what] <= asked else "short"
        lines.append(f"| {what}, % of the length | {asked:g} | {cost[what]:.1f} | {short} |")
    return [*lines, ""]


def _shown(figure: float) -> str:
    return "–" if np.isnan(figure) else f"{figure:.2f}"


def _meets(found: float, asked: float, is_less: bool) -> bool:
    """Also where there is no song to measure it on."""
    if np.isnan(found):
        return True
    return found <= asked if is_less else round(found, 2) >= asked


def five_minutes(score: Score) -> Score:
    """A song repeated until it lasts five minutes."""
    length = score.pulse.times[-1] - score.pulse.times[0]
    count = int(np.ceil(300 / length))
    times = [t + k * length for k in range(count) for t in score.pulse.times[:-1]]
    strokes = [
        replace(
            s,
            id=f"{s.id}-{k}",
            bar=s.bar + k * score.bar_count,
            measured=Measured((s.time or 0) + k * length),
        )
        for k in range(count)
        for s in score.strokes.values()
    ]
    sections = tuple(
        replace(s, id=f"{s.id}-{k}", first_bar=s.first_bar + k * score.bar_count)
        for k in range(count)
        for s in score.sections
    )
    long = replace(
        score,
        meters=score.meters * count,
        sections=sections,
        strokes={},
        pulse=PulseMap.of([*times, times[0] + count * length]),
        ones=tuple((t + k * length, p) for k in range(count) for t, p in score.ones),
        sounding=(times[0], times[0] + count * length - 1.0),
    )
    return long.with_strokes(strokes)


def rereading(score: Score) -> Iterable[str]:
    """How long corrections of a five-minute song take: the new score, and all told of it."""
    long = five_minutes(score)
    yield "## Re-reading five minutes after a correction of the pulse\n"
    yield f"{long.bar_count} bars, {len(long.strokes)} strokes.\n"
    yield "| correction | new score, ms | with the facts of its form, ms |"
    yield "|---|---|---|"
    middle = long.seconds(9, Fraction(1))
    for edit in (
        HalveTempo(),
        ShiftOne(beats=1),
        SetOne(bar=5, beat=3),
        SetMeter(meter="3/4", bar=9),
        DragBeat(bar=9, beat=2, seconds=middle + 0.03),
    ):
        took = []
        for _ in range(3):
            start = time.perf_counter()
            new = apply(long, edit)[0]
            done = time.perf_counter()
            summary.form_of(new, {bar for bar, _ in fill_bars(new.played())})
            took.append((done - start, time.perf_counter() - start))
        score_ms, all_ms = (1000 * min(t[k] for t in took) for k in range(2))
        yield f"| {edit.words} | {score_ms:.0f} | {all_ms:.0f} |"
    yield ""
