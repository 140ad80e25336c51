"""Names proposed for the sections of a song."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from math import log10
from statistics import median

from orchesis.score import KIT, Score, Section, Stroke
from orchesis.score.bar import of_bar

_MIN_SHARE_OF_BOTH = 0.35  # share of the song that verse and chorus together must be
_MAX_RETURNS = 6  # times that a verse or a chorus returns at most
_THIN, _BRIDGE = 0.5, 4  # share of the usual strokes of what is thin; bars of a bridge, at least


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
    """A modest name proposed for every section: what a musician would dare to write.

    Verse and chorus are named where the form speaks for them: both return, together they are a
    good part of the song, and neither returns more often than such parts do. The chorus is the
    one that is loudest and densest, the verse the other one that comes first. What opens or
    closes the song and never returns is its intro or outro; the one part that stands alone in the
    middle is a bridge, or a breakdown if it is thin. Everything else has the letter of its music,
    with a count where it returns, and the plain fact that no drums play in it.
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
    count = Counter(s.label for s in sections)
    usual = median(len(bars.get(b, ())) for b in range(1, score.bar_count + 1))
    verse, chorus = _verse_and_chorus(score, levels, density, count)
    speaks = verse is not None and chorus is not None
    middle = [s for s in sections[1:-1] if count[s.label] == 1 and s.label not in (verse, chorus)]
    thin = [s for s in middle if density(s) < _THIN * usual]
    full = [s for s in middle if s not in thin and s.bars >= _BRIDGE]
    kinds: list[str] = []
    for n, s in enumerate(sections):
        if s.label == verse:
            kinds.append("Verse")
        elif s.label == chorus:
            kinds.append("Chorus")
        elif n == 0 and (count[s.label] == 1 or not density(s)):
            kinds.append("Intro")
        elif n == len(sections) - 1 and count[s.label] == 1:
            kinds.append("Outro")
        elif speaks and thin == [s]:
            kinds.append("Breakdown")
        elif speaks and full == [s]:
            kinds.append("Bridge")
        else:
            kinds.append(f"{s.label}, no drums" if not density(s) else s.label)
    total, seen = Counter(kinds), Counter[str]()
    by_section = []
    for kind in kinds:
        seen[kind] += 1
        is_letter = len(kind) == 1
        by_section.append(
            kind if total[kind] == 1 or (is_letter and seen[kind] == 1) else f"{kind} {seen[kind]}"
        )
    return by_section


def _verse_and_chorus(
    score: Score,
    levels: Sequence[Sequence[float]],
    density: Callable[[Section], float],
    count: Counter[str],
) -> tuple[str | None, str | None]:
    """The labels of the verse and of the chorus; None where the form does not speak for them."""
    bars, sections = score.by_bar(), score.sections
    power: dict[str, float] = {}
    first: dict[str, int] = {}
    for n, s in enumerate(sections):
        struck = 4.0 * sum(
            _crashes(bars[b]) for b in range(s.first_bar, s.last_bar + 1) if b in bars
        )
        strength = (level_of(score, s, levels) or 0.0) + 0.15 * density(s) + struck / s.bars
        power[s.label] = max(power.get(s.label, -1e9), strength)
        first.setdefault(s.label, n)
    played = {s.label for s in sections if density(s)}
    repeated = [x for x in first if 1 < count[x] <= _MAX_RETURNS and x in played]
    # A few bars that open and close the song are no chorus, however loud.
    longest = {x: max(s.bars for s in sections if s.label == x) for x in repeated}
    long = [x for x in repeated if longest[x] > 4] or repeated
    if len(long) > 1:
        chorus = max(long, key=lambda x: power[x])
        verse = min((x for x in long if x != chorus), key=lambda x: first[x])
        share = sum(s.bars for s in sections if s.label in (verse, chorus)) / score.bar_count
        return (verse, chorus) if share >= _MIN_SHARE_OF_BOTH else (None, None)
    opening = sections[0]
    is_verse = opening.bars >= 8 and opening.label not in repeated and density(opening) > 0
    if len(long) == 1 and is_verse and power[opening.label] < power[long[0]]:
        # Eight bars that open below the one part that returns are its verse, not an intro.
        return opening.label, long[0]
    return None, None
