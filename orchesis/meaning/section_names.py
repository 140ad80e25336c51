"""Names proposed for the sections of a song."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from math import log10
from statistics import median

from orchesis.score import KIT, Score, Section, Stroke
from orchesis.score.bar import of_bar


def level_of(score: Score, section: Section, levels: Sequence[Sequence[float]]) -> float | None:
    """Mean level of a section in dB against the loudest second; None if unknown.

    levels: of the whole and of the drums each second, in dB.
    """
    a, b = score.seconds(section.first_bar), score.seconds(section.last_bar + 1)
    inside = [pair[0] for pair in levels[max(0, int(a)) : max(int(b), int(a) + 1)]]
    if not inside:
        return None
    return round(10 * log10(sum(10 ** (x / 10) for x in inside) / len(inside)), 1)


@of_bar
def _crashes(strokes: Sequence[Stroke]) -> int:
    return sum(KIT[s.part].is_crash for s in strokes)


def names(score: Score, levels: Sequence[Sequence[float]] = ()) -> list[str]:
    """A name proposed for every section: intro, verse, chorus, bridge, breakdown, outro.

    The chorus is the repeated section that is loudest and densest, the verse the repeated
    one that comes first; what opens or closes the song and never returns is its intro or
    outro; what stands alone in the middle is a bridge, or a breakdown if it is thin.
    """
    bars = score.by_bar()
    sections = score.sections

    def own(s: Section) -> range:
        return range(s.first_bar, s.last_bar + 1)

    def density(s: Section) -> float:
        """Strokes a bar."""
        return sum(len(bars.get(b, ())) for b in own(s)) / s.bars

    if len(sections) == 1:
        return ["Song"]
    power: dict[str, float] = {}
    count = Counter(s.label for s in sections)
    first: dict[str, int] = {}
    for n, s in enumerate(sections):
        struck = 4.0 * sum(_crashes(bars[b]) for b in own(s) if b in bars) / s.bars
        strength = (level_of(score, s, levels) or 0.0) + 0.15 * density(s) + struck
        power[s.label] = max(power.get(s.label, -1e9), strength)
        first.setdefault(s.label, n)
    repeated = [label for label in first if count[label] > 1]
    # A few bars that open and close the song are no chorus, however loud.
    longest = {x: max(s.bars for s in sections if s.label == x) for x in repeated}
    long = [x for x in repeated if longest[x] > 4] or repeated
    chorus = max(long, key=lambda x: power[x]) if len(repeated) > 1 and len(long) > 1 else None
    verses = [label for label in long if label != chorus]
    verse = min(verses, key=lambda x: first[x]) if verses else None
    opening = sections[0]
    is_verse = opening.bars >= 8 and opening.label not in repeated
    if chorus is None and len(long) == 1 and is_verse and power[opening.label] < power[long[0]]:
        # Eight bars that open below the one part that returns are its verse, not an intro.
        verse, chorus = opening.label, long[0]
    usual = median(len(bars.get(b, ())) for b in range(1, score.bar_count + 1))
    kinds = []
    for n, s in enumerate(sections):
        if s.label == verse:
            kinds.append("Verse")
        elif s.label == chorus:
            kinds.append("Chorus")
        elif n == 0:
            kinds.append("Intro")
        elif n == len(sections) - 1:
            kinds.append("Outro")
        elif density(s) < 0.5 * usual:
            kinds.append("Breakdown")
        elif s.label in repeated:
            kinds.append("Turn" if s.bars <= 4 else "Pre-chorus")
        else:
            kinds.append("Bridge")
    total, seen = Counter(kinds), Counter[str]()
    made = []
    for kind in kinds:
        seen[kind] += 1
        made.append(kind if total[kind] == 1 else f"{kind} {seen[kind]}")
    return made
