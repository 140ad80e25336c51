"""What a drummer says of each section: its surface, level, fills, twin, and what it never does.

The rules of the trade: the time surface is the part that most beats of a section sound on;
a section is told by what it does and by what it never does; an odd length is worth a flag.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from orchesis.form.section_names import level_of, names
from orchesis.form.surface import surface_of
from orchesis.score import KIT, Score, Section, Stroke
from orchesis.score.bar import Bar, of_bar, of_bars

_USUAL_LENGTHS = (4, 8, 12, 16, 24, 32, 2)
_MIN_LIKENESS_OF_TWINS = 0.7  # likeness below which a bar is told as unlike its twin's


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
    facts = []
    for n, section in enumerate(score.sections):
        twin = next((t for t in score.sections[:n] if t.label == section.label), None)
        level = level_of(score, section, levels)
        bars_here = _bars_of(score, section)
        filled = tuple(b for b in range(section.first_bar, section.last_bar + 1) if b in fills)
        other = _bars_of(score, twin) if twin else ()
        facts.append(
            _facts(
                bars_here + other, section, twin.id if twin else None, filled, level, proposed[n]
            )
        )
    return facts


def _bars_of(score: Score, section: Section) -> tuple[Bar, ...]:
    return tuple(score.strokes_of(b) for b in range(section.first_bar, section.last_bar + 1))


@of_bars
def _facts(
    bars: tuple[Bar, ...],
    section: Section,
    twin: str | None,
    fills: tuple[int, ...],
    level: float | None,
    proposed: str,
) -> SectionFacts:
    """bars: the section's own, then its twin's. fills: the section's."""
    first_half, other = bars[: section.bars], bars[section.bars :]
    numbers = range(section.first_bar, section.last_bar + 1)
    parts = [parts_in(strokes) for strokes in first_half]
    crashes = tuple(
        b for b, had in zip(numbers, parts, strict=True) if any(KIT[p].is_crash for p in had)
    )
    return SectionFacts(
        id=section.id,
        surface=surface_of(x for b, x in zip(numbers, first_half, strict=True) if b not in fills),
        level=level,
        fills=fills,
        crashes=crashes,
        rests=tuple(b for b, strokes in zip(numbers, first_half, strict=True) if not strokes),
        twin=twin,
        unlike=tuple(
            k
            for k, (x, y) in enumerate(zip(first_half, other, strict=False), 1)
            if alike(x, y) < _MIN_LIKENESS_OF_TWINS
        ),
        never=tuple(never(frozenset[str]().union(*parts), fills, crashes)),
        odd=section.bars % 4 != 0 and section.bars not in _USUAL_LENGTHS,
        proposed=proposed,
    )


def never(parts: Collection[str], fills: Collection[int], crashes: Collection[int]) -> list[str]:
    """What some bars never do, told by their parts, fills and crashes; nothing of silence."""
    if not parts:
        return []
    sentences = []
    if not fills:
        sentences.append("no fill")
    if not crashes:
        sentences.append("no crash")
    if "hat_closed" in parts and not {"hat_open", "hat_half"} & set(parts):
        sentences.append("the hat stays shut")
    if not any(KIT[p].is_backbeat for p in parts):
        sentences.append("no backbeat")
    if "kick" not in parts:
        sentences.append("no kick")
    return sentences
