"""Pages: how fast they are made, and whether anything on fifty nasty bars collides."""

from __future__ import annotations

import time
from collections.abc import Callable

from materials import page_collisions
from materials.cases import road_maps
from orchesis import charting
from orchesis.engraving import systems
from orchesis.formats import count
from orchesis.hands import with_limbs
from orchesis.score import Score


def song(bars: int = 120) -> Score:
    """A song of that many bars, sixteen a section, with a fill at each end."""
    lanes = {
        "hat": (["8ths"] * 15 + ["1 1& 2 2&"]),
        "snare": (["2 (2a) 4"] * 15 + ["2 3 3e 3& 3a 4 4e 4& 4a"]),
        "kick": [f"1 {k % 4 + 1}& 3" for k in range(16)],
    }
    text = ["tempo: 104"]
    for first in range(0, bars, 16):
        text.append(f"== Part {first // 16 + 1}")
        size = min(16, bars - first)
        text += [f"{part}: {' | '.join(own[:size])}" for part, own in lanes.items()] + [""]
    return with_limbs(count.read("\n".join(text) + "\n"))


def _took(act: Callable[[], object]) -> float:
    start = time.perf_counter()
    act()
    return time.perf_counter() - start


def speed() -> list[tuple[str, float, float]]:
    """(what, seconds, asked) on 120 bars."""
    score = song()
    systems._drawn.clear()
    first = _took(lambda: charting.pages(score))
    stroke = next(s for s in score.ordered() if s.bar == 40)
    edited = score.with_strokes(
        {**score.strokes, stroke.id: stroke.changed(dynamic="accent")}.values()
    ).sharing_bars(score, {40})
    again = _took(lambda: charting.pages(edited))
    pdf = _took(lambda: charting.pdf(score))
    road = _took(lambda: charting.pages(score, charting.Wish("road-map")))
    return [
        ("all pages of 120 bars for the first time, s", first, 0.7),
        ("the same after an edit of one bar, s", again, 0.15),
        ("their PDF, s", pdf, 3.0),
        ("the road map, s", road, 0.3),
    ]


def table() -> list[str]:
    """The lines of the part on pages."""
    lines = ["## Pages\n", "| | asked for | reached | |", "|---|---|---|---|"]
    for what, value, goal in speed():
        lines.append(f"| {what} | {goal:g} | {value:.2f} | {'' if value <= goal else 'short'} |")
    count = page_collisions.collisions()
    lines.append(
        f"| collisions on 50 written bars | 0 | {count} | {'' if not count else 'short'} |"
    )
    right = road_maps.share_right()
    lines.append(
        f"| 12 road maps, line by line | 1 | {right:.2f} | {'' if right == 1 else 'short'} |"
    )
    return [*lines, ""]
