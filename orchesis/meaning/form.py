"""What a drummer says of each section: its surface, level, fills, twin, and what it never does.

The rules of the trade: the time surface is the part that most beats of a section sound on;
a section is told by what it does and by what it never does; an odd length is worth a flag.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from orchesis.meaning.section_names import level_of, names
from orchesis.meaning.surface import surface_of
from orchesis.score import KIT, Score, Section, Stroke
from orchesis.score.bar import of_bar

_USUAL_LENGTHS = (4, 8, 12, 16, 24, 32, 2)
_LIKE = 0.7  # likeness below which a bar is told as unlike its twin's


@dataclass(frozen=True)
class SectionFacts:
    """What stands in a section.

    surface: its time surface outside fills, "" where nothing keeps time. level: dB against the
    loudest second, None if unknown. fills, crashes, rests: bars of the song. twin: the id of the
    first section of the same music, None for that one itself; unlike: bars, counted from 1, that
    differ from the twin's. never: what it never does. odd: whether its length is unusual.
    proposed: a name for it.
    """

    id: str
    surface: str
    level: float | None
    fills: tuple[int, ...]
    crashes: tuple[int, ...]
    rests: tuple[int, ...]
    twin: str | None
    unlike: tuple[int, ...]
    never: tuple[str, ...]
    odd: bool
    proposed: str


@of_bar
def pattern(strokes: Sequence[Stroke]) -> frozenset[tuple[str, int, int]]:
    """What a bar is compared by: part and place (a fraction's two numbers), ghosts left out."""
    return frozenset(
        (s.part, s.place.numerator, s.place.denominator) for s in strokes if s.dynamic != "ghost"
    )


@of_bar
def parts_in(strokes: Sequence[Stroke]) -> frozenset[str]:
    """The parts that a bar is played on."""
    return frozenset(s.part for s in strokes)


def alike(a: Sequence[Stroke], b: Sequence[Stroke]) -> float:
    """Likeness 0..1 of two bars: strokes they share of all they have."""
    x, y = pattern(a), pattern(b)
    return len(x & y) / len(x | y) if x or y else 1.0


def section_facts(
    score: Score, fills: Collection[int], levels: Sequence[Sequence[float]] = ()
) -> list[SectionFacts]:
    """Facts of every section.

    score: as it is played (``Score.played``). fills: the bars of fills. levels: of the whole and
    of the drums each second, in dB (the analysis file's).
    """
    proposed = names(score, levels)
    made = []
    for n, section in enumerate(score.sections):
        twin = next((t for t in score.sections[:n] if t.label == section.label), None)
        level = level_of(score, section, levels)
        made.append(_facts(score, section, twin, fills, level, proposed[n]))
    return made


def _facts(
    score: Score, section: Section, twin: Section | None, fills: Collection[int],
    level: float | None, proposed: str,
) -> SectionFacts:  # fmt: skip
    own = range(section.first_bar, section.last_bar + 1)
    bars = {b: score.strokes_of(b) for b in own}
    filled = tuple(b for b in own if b in fills)
    crashes = tuple(b for b in own if any(KIT[p].is_crash for p in parts_in(bars[b])))
    shared = min(section.bars, twin.bars) if twin else 0
    first = twin.first_bar if twin else 0
    unlike = tuple(
        k + 1
        for k in range(shared)
        if alike(bars[section.first_bar + k], score.strokes_of(first + k)) < _LIKE
    )
    parts = frozenset[str]().union(*(parts_in(strokes) for strokes in bars.values()))
    return SectionFacts(
        id=section.id,
        surface=surface_of(strokes for b, strokes in bars.items() if b not in fills),
        level=level,
        fills=filled,
        crashes=crashes,
        rests=tuple(b for b in own if not bars[b]),
        twin=twin.id if twin else None,
        unlike=unlike,
        never=tuple(never(parts, filled, crashes)),
        odd=section.bars % 4 != 0 and section.bars not in _USUAL_LENGTHS,
        proposed=proposed,
    )


def never(parts: Collection[str], fills: Collection[int], crashes: Collection[int]) -> list[str]:
    """What some bars never do, told by their parts, fills and crashes; nothing of silence."""
    if not parts:
        return []
    told = []
    if not fills:
        told.append("no fill")
    if not crashes:
        told.append("no crash")
    if "hat_closed" in parts and not {"hat_open", "hat_half"} & set(parts):
        told.append("the hat stays shut")
    if not any(KIT[p].is_backbeat for p in parts):
        told.append("no backbeat")
    if "kick" not in parts:
        told.append("no kick")
    return told
