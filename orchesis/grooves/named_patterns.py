"""Common figures of drumming, recognised and named; written from general knowledge of the trade.

Each rule looks at the voices of a unit (kick, backbeat, time hand, left foot) as sets of places
in beats; a unit of two bars runs on behind four (or three, five ...) beats.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from orchesis.score import KIT, Meter, Stroke

F = Fraction
Places = frozenset[Fraction]


def _set(*values: float | Fraction) -> Places:
    return frozenset(F(v) for v in values)


@dataclass(frozen=True)
class Voices:
    """Places in beats from the start of the unit; beats: of one bar; bars: of the unit. snare: full
    strokes of the snare itself; long_short: the time hand where swung 8ths sound."""

    kick: Places
    backbeat: Places
    soft: Places
    time: Places
    opened: Places
    foot: Places
    clave: Places
    snare: Places
    long_short: Places
    every: tuple[tuple[Fraction, str], ...]
    beats: int
    bars: int
    is_compound: bool

    def bar(self, places: Places, n: int) -> Places:
        """Those places of bar n (from 0), counted from its start."""
        return _of_bar(places, n, self.beats)

    def each(self, places: Places, fits: Callable[[Places], bool]) -> bool:
        return all(fits(self.bar(places, n)) for n in range(self.bars))


@lru_cache(maxsize=512)
def _of_bar(places: Places, n: int, beats: int) -> Places:
    return frozenset(p - n * beats for p in places if n * beats <= p < (n + 1) * beats)


def voices(
    strokes: Sequence[Stroke], meter: Meter, length: int, swing: tuple[str, float]
) -> Voices:
    """The voices of a unit of ``length`` bars; strokes count their bar from 1."""

    def of(fits: Callable[[Stroke], bool]) -> Places:
        return frozenset((s.bar - 1) * meter.beats + s.place for s in strokes if fits(s))

    def full(s: Stroke) -> bool:
        return s.dynamic != "ghost"

    time = of(lambda s: KIT[s.part].role == "time" or s.part in ("crash", "tom_floor"))
    is_swung = swing[0] == "eighth" and swing[1] >= _SWUNG and not meter.is_compound
    return Voices(
        kick=of(lambda s: s.part == "kick"),
        backbeat=of(lambda s: s.part in ("snare", "rimshot", "cross_stick", "clap") and full(s)),
        soft=of(lambda s: s.part == "snare" and not full(s)),
        time=time,
        snare=of(lambda s: s.part in ("snare", "rimshot") and full(s)),
        long_short=frozenset(p + F(1, 6) if is_swung and p % 1 == F(1, 2) else p for p in time),
        opened=of(lambda s: s.part in ("hat_open", "hat_half")),
        foot=of(lambda s: KIT[s.part].role == "left_foot"),
        clave=of(lambda s: s.part in ("cross_stick", "snare", "block", "cowbell") and full(s)),
        every=tuple(((s.bar - 1) * meter.beats + s.place, KIT[s.part].role) for s in strokes),
        beats=meter.beats,
        bars=length,
        is_compound=meter.is_compound,
    )


_SWUNG = 0.6  # long share of a pair from which on swung 8ths are a shuffle's
_FLOOR = 6  # kicks of a bar that still has the four as its floor
_ANDS = _set(0.5, 1.5, 2.5, 3.5)
_FOUR = _set(0, 1, 2, 3)
_TRESILLO = _set(0, 0.75, 1.5)
_WHOLE_TRESILLO = _set(0, 1.5, 3)
_CLAVES = {
    "son clave": (_WHOLE_TRESILLO, _set(1, 2)),
    "rumba clave": (_set(0, 1.5, 3.5), _set(1, 2)),
    "bossa clave": (_WHOLE_TRESILLO, _set(1, 2.5)),
}


def _four(v: Voices) -> bool:
    return v.beats == 4


def _clave(v: Voices) -> str:
    """A clave over two bars in 8ths, or over one in 16ths."""
    if not _four(v):
        return ""
    halves = (v.bar(v.clave, 0), v.bar(v.clave, 1)) if v.bars == 2 else None
    if v.bars == 1:
        first = frozenset(2 * p for p in v.clave if p < 2)
        halves = (first, frozenset(2 * (p - 2) for p in v.clave if p >= 2))
    for name, (three, two) in _CLAVES.items():
        if halves == (three, two):
            return f"3-2 {name}"
        if halves == (two, three):
            return f"2-3 {name}"
    return ""


def _tresillo(v: Voices) -> str:
    for name, voice in (("kick", v.kick), ("snare", v.backbeat | v.soft), ("time", v.time)):
        half = all(
            frozenset(p - 2 * h for p in voice if 2 * h <= p < 2 * h + 2) == _TRESILLO
            for h in range(v.bars * v.beats // 2)
        )
        if _four(v) and voice and half:
            return f"tresillo in the {name}"
        if _four(v) and voice and v.each(voice, lambda p: p == _WHOLE_TRESILLO):
            return f"whole-bar tresillo in the {name}"
    return ""


def _shuffles(places: Places, beats: int) -> bool:
    long = [b for b in range(beats) if F(b) in places and b + F(2, 3) in places]
    return len(long) >= beats - 1 and not any(p % 1 == F(1, 3) for p in places)


def _linear(v: Voices) -> bool:
    places = [p for p, _ in v.every]
    with_feet = {role.endswith("_foot") for _, role in v.every} == {True, False}
    return with_feet and len(set(places)) == len(places) and len(places) >= 6 * v.bars


_RULES: tuple[tuple[str, Callable[[Voices], bool]], ...] = (
    (
        "half-time shuffle",
        lambda v: (
            _four(v)
            and v.each(v.long_short, lambda p: _shuffles(p, 4))
            and v.each(v.backbeat, lambda p: p == _set(2))
        ),
    ),
    ("shuffle", lambda v: v.each(v.long_short, lambda p: _shuffles(p, v.beats))),
    (
        "swung ride",
        lambda v: (
            _four(v) and v.each(v.long_short, lambda p: p == _set(0, 1, 2, 3) | {F(5, 3), F(11, 3)})
        ),
    ),
    (
        "backbeat",
        lambda v: _four(v) and v.each(v.backbeat, lambda p: p >= _set(1, 3) and not p & _set(0, 2)),
    ),
    (
        "half-time backbeat",
        lambda v: (
            _four(v)
            and v.each(v.backbeat, lambda p: p == _set(2))
            and bool(v.bar(v.kick, 0) & _set(0))
        ),
    ),
    ("double-time backbeat", lambda v: _four(v) and v.each(v.backbeat, lambda p: p == _ANDS)),
    ("snare on all four", lambda v: _four(v) and v.each(v.snare, lambda p: p == _FOUR)),
    (
        "four on the floor",
        lambda v: _four(v) and v.each(v.kick, lambda p: p >= _FOUR and len(p) <= _FLOOR),
    ),
    (
        "one-drop",
        lambda v: (
            _four(v)
            and v.each(v.kick, lambda p: F(2) in p and F(0) not in p)
            and v.each(v.backbeat, lambda p: F(2) in p)
        ),
    ),
    ("open off-beats", lambda v: _four(v) and v.each(v.opened, lambda p: p >= _ANDS)),
    (
        "off-beat hats",
        lambda v: (
            _four(v)
            and v.each(v.time, lambda p: p == _ANDS)
            and not v.each(v.opened, lambda p: p >= _ANDS)
        ),
    ),
    (
        "samba feet",
        lambda v: (
            _four(v)
            and v.each(
                v.kick, lambda p: p == frozenset(b + x for b in range(4) for x in (F(0), F(3, 4)))
            )
        ),
    ),
    ("bossa feet", lambda v: _four(v) and v.each(v.kick, lambda p: p == _set(0, 1.5, 2, 3.5))),
    ("foot hat on 2 and 4", lambda v: _four(v) and v.each(v.foot, lambda p: p == _set(1, 3))),
    ("foot hat on the off-beats", lambda v: _four(v) and v.each(v.foot, lambda p: p == _ANDS)),
    (
        "train",
        lambda v: _four(v) and v.each(v.backbeat | v.soft, lambda p: len(p) >= 13) and bool(v.soft),
    ),
    ("double kick in 16ths", lambda v: _four(v) and v.each(v.kick, lambda p: len(p) >= 14)),
    (
        "waltz",
        lambda v: (
            v.beats == 3
            and not v.is_compound
            and v.each(v.kick, lambda p: F(0) in p)
            and v.each(v.backbeat, lambda p: bool(p & _set(1, 2)) and F(0) not in p)
        ),
    ),
    ("linear", _linear),
)


def figures(
    strokes: Sequence[Stroke],
    meter: Meter,
    length: int = 1,
    swing: tuple[str, float] = ("none", 0.5),
) -> list[str]:
    """Names of the common figures in a unit of ``length`` bars, the more specific first.

    swing: the score's; a figure written in swung 8ths is the one that it sounds as.
    """
    if not strokes:
        return []
    v = voices(strokes, meter, length, swing)
    names = [name for name, rule in _RULES if rule(v)]
    names += [name for name in (_clave(v), _tresillo(v)) if name]
    if "half-time shuffle" in names:
        names = [n for n in names if n not in ("shuffle", "half-time backbeat")]
    return names
