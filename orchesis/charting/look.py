"""What the views of a song share: how their pages look, and sheets of parts under headings."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from fractions import Fraction

from orchesis import engraving, fills, grooves
from orchesis.charting.wish import Wish
from orchesis.fills import cells
from orchesis.page import Look, Page
from orchesis.page.model import Bracket, Heading, System
from orchesis.score import Meter, PulseMap, Score, Section, Stroke
from orchesis.score.groove import Groove
from orchesis.score.signs import SIGNS


def look_of(score: Score, written: Score, wish: Wish) -> Look:
    """How the pages of a score look. written: the same, as it is written."""
    halves = _half_time(score)
    is_half = bool(halves) and len(halves) == len(score.sections)
    narrow = engraving.PAPERS[wish.paper].width < 1700
    wide = (engraving.PAPERS[wish.paper].width - 2 * engraving.PAPERS[wish.paper].margin) / 1860
    return Look(
        sticking=wish.sticking,
        counts=wish.counts,
        repeats=wish.repeats,
        bars_a_line=wish.bars_a_line or (3 if narrow else 4),
        width=58.0 * wide,
        counting=wish.counting,
        brackets=fill_brackets(written) if wish.brackets else {},
        headings=_headings(written, set() if is_half else halves),
        feel="half-time feel" if is_half else "",
        breaks=written.breaks_by_bar(),
        layout=wish.layout,
        ghosts=wish.ghosts,
        letters=wish.letters,
    )


def bare_look(score: Score, written: Score, wish: Wish) -> Look:
    """The same for parts of a song under headings of their own."""
    return replace(look_of(score, written, wish), headings={}, brackets={})


def fill_brackets(written: Score) -> dict[int, tuple[Bracket, ...]]:
    """Fills under brackets, with their figures ("3 x 4 16ths")."""
    brackets: dict[int, list[Bracket]] = defaultdict(list)
    played = written.played()
    for span in fills.find(played):
        turning = cells.cells(played, span, fills.inside(played, span))
        figure = next((f"{c.strokes} x {c.turns}" for c in turning if c.turns > 1), "")
        text = f"fill, {figure}" if figure else "fill"
        for bar in range(span.bar, span.last_bar + 1):
            start = span.place if bar == span.bar else Fraction(0)
            beats = Fraction(written.meters[bar - 1].beats)
            end = span.end if bar == span.last_bar else beats
            brackets[bar].append(Bracket(start, end, text if bar == span.bar else ""))
    return {bar: tuple(row) for bar, row in brackets.items()}


def _headings(written: Score, halves: set[str]) -> dict[int, str]:
    """What is said beside a section's name: of which one it is the same music, its words, what
    is odd of its length."""
    texts = {}
    for n, s in enumerate(written.sections):
        says = ["half-time"] if s.id in halves else []
        twin = next((t.name for t in written.sections[:n] if t.label == s.label), "")
        if twin:
            says.append(f"as {twin}")
        says += [s.note] if s.note else []
        says += [f"{key}: {text}" for key, text in s.sound.items() if text]
        texts[s.first_bar] = ", ".join(says)
    return texts


def _half_time(score: Score) -> set[str]:
    """Sections most of whose bars have their backbeat where a half-time feel has it: on 3 alone."""
    half_time_bars = set()
    for section in score.sections:
        backs = [
            backbeats
            for bar in range(section.first_bar, section.last_bar + 1)
            if (backbeats := {s.place for s in score.strokes_of(bar) if s.layer == "backbeat"})
            and score.meters[bar - 1].beats == _HALF_TIME_BEATS
        ]
        if backs and 2 * sum(backbeats == {_HALF_TIME} for backbeats in backs) > len(backs):
            half_time_bars.add(section.id)
    return half_time_bars


_HALF_TIME_BEATS, _HALF_TIME = 4, Fraction(2)


# -- sheets of parts


def own_grooves(score: Score) -> Iterator[tuple[Groove, Section]]:
    """The grooves of a song that are no other one again, with the sections that they begin in."""
    for g in grooves.grooves(score):
        section = score.section_at(g.first_bar)
        is_other = g.relation is not None and g.relation.how == "same"
        if g.core and not is_other and section is not None:
            yield g, section


def small(strokes: Sequence[Stroke], meters: list[Meter], score: Score) -> Score:
    """Some strokes as a song of their own, at the tempo of theirs."""
    beats = sum(m.beats for m in meters)
    pulse = PulseMap.even(max(20.0, score.pulse.tempo()[0]), beats)
    renamed = {f"c{n}": s.changed(id=f"c{n}") for n, s in enumerate(strokes)}
    return Score(
        tuple(meters), pulse, renamed, (Section("a", "", "A", 1, len(meters)),), swing=score.swing
    )


def unnumbered(page: Page) -> Page:
    """A page whose bars are no bars of the song."""
    return replace(
        page,
        systems=tuple(
            replace(
                s,
                bars=tuple(
                    replace(b, end="", number=b.number - 1 if n == 0 and k == 0 else b.number)
                    for k, b in enumerate(s.bars)
                ),
            )
            for n, s in enumerate(page.systems)
        ),
    )


def sheet_of(whole: Page, parts: Iterable[tuple[Heading, Page]]) -> Page:
    """Parts one below the other, each under its heading. whole: a page of the song, for its title
    and tempo."""
    systems: list[System] = []
    signs: set[str] = set()
    for heading, part in parts:
        signs.update(part.signs)
        first, *rest = part.systems
        systems += [replace(first, heading=heading), *(replace(s, heading=None) for s in rest)]
    return replace(whole, systems=tuple(systems), signs=tuple(s for s in SIGNS if s in signs))
