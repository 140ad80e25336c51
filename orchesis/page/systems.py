"""Which bars share a line: four, where there is room, and no phrase is torn."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from orchesis.page.look import Look
from orchesis.page.model import Bar
from orchesis.score import Score

_SIGNATURE = 3.0  # room of a meter
_BARLINE = 2.0
_GRACE = 0.8
_MIN_ROOM_OF_A_BAR = 6.0  # room that a bar takes, however empty


def lines_of(
    score: Score, bars: Mapping[int, Bar], look: Look, first: int, last: int
) -> list[list[int]]:
    """Bars by line. Every section begins one, then every fourth bar; a single bar left over joins
    the line before it where there is room. A person's word goes before all of this."""
    lines: list[list[int]] = []
    rooms = {b: room(bar, look) for b, bar in bars.items()}
    for stretch in _stretches(score, look, first, last):
        while stretch:
            size = _size(stretch, rooms, look)
            while size < len(stretch) and look.breaks.get(stretch[size]) == "joined":
                size += 1
            lines.append(stretch[:size])
            stretch = stretch[size:]
    return lines


def _stretches(score: Score, look: Look, first: int, last: int) -> list[list[int]]:
    """The bars of each section; bars before the first one are a stretch too."""
    first_bars = {s.first_bar for s in score.sections if first < s.first_bar <= last}
    breaks_here = {b: kind for b, kind in look.breaks.items() if first < b <= last}
    first_bars |= {b for b, kind in breaks_here.items() if kind != "joined"}
    first_bars -= {b for b, kind in breaks_here.items() if kind == "joined"}
    first_bars |= {
        b
        for b in range(first + 1, last + 1)
        if (b in look.hidden) != (b - 1 in look.hidden)
        or (b in look.hidden and any(s.first_bar == b for s in score.sections))
    }
    starts = sorted({first, *first_bars})
    ends = [*(s - 1 for s in starts[1:]), last]
    return [list(range(a, b + 1)) for a, b in zip(starts, ends, strict=True)]


def _size(left: list[int], rooms: Mapping[int, float], look: Look) -> int:
    """How many bars the next line takes. rooms: of each bar."""
    most = look.bars_a_line
    sizes = [most + 1] if len(left) == most + 1 else []
    for size in (*sizes, *range(most, 0, -1)):
        bars = left[:size]
        if sum(rooms[b] for b in bars) <= look.width or size == 1:
            return len(bars)
    return 1


def room(bar: Bar, look: Look) -> float:
    """How wide a bar is: its moments, the ornaments before them, what is written under them."""
    if bar.is_repeat:
        return _MIN_ROOM_OF_A_BAR + _BARLINE
    places, graces = set(), 0
    for staff in bar.staves:
        for voice in staff.voices:
            for e in (e for b in voice.beams for e in b.events):
                places.add(e.place)
                graces += sum(n for _, n in e.graces) if e.heads else 0
    kinds = {w.kind for w in bar.words}
    per_place = 1.7 if "spoken" in kinds else 1.15 if kinds & {"count", "stick"} else 1.0
    wide = len(places) * per_place + _GRACE * graces + _BARLINE
    return max(_MIN_ROOM_OF_A_BAR, wide) + (_SIGNATURE if bar.shows_meter else 0)


def share_of(line: Sequence[Bar], look: Look) -> float:
    """How much of the width a line takes: all of it, but where it holds much less than fits."""
    used = sum(room(b, look) for b in line) / look.width
    return 1.0 if used > _SHORT else max(_LEAST_SHARE, used * _LOOSE)


_SHORT, _LOOSE, _LEAST_SHARE = 0.5, 1.7, 0.3
