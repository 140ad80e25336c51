"""Every view of a song as pages: what stands on them is gathered here from meaning and hands."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis import engraving
from orchesis.engraving.counting import counting_pages
from orchesis.engraving.road_map import RoadBlock, road_map_pages
from orchesis.errors import BadScore
from orchesis.hands import rules
from orchesis.meaning import fill_facts, grooves, passages, words
from orchesis.meaning.road_map import RoadSection, road_map
from orchesis.page import Look, Page, page_of
from orchesis.page.model import Bracket, Heading, System, Word
from orchesis.score import Meter, PulseMap, Score, Section
from orchesis.score.decision import Decision
from orchesis.score.notation import as_written, in_notation

VIEWS = ("full", "road-map", "limbs", "counting", "excerpts")
STICKINGS = ("none", "fills", "all")
COUNTS = ("none", "hard", "all")


@dataclass(frozen=True)
class Wish:
    """What pages are wanted. brackets: fills under brackets, with their figures. repeats: bars that
    are the one before as a sign. counting: a school. bars: first and last, of a limb chart."""

    view: str = "full"
    paper: str = "A4"
    sticking: str = "none"
    counts: str = "none"
    brackets: bool = True
    repeats: bool = False
    counting: str = "letters"
    bars: tuple[int, int] | None = None

    def __post_init__(self) -> None:
        for what, value, known in (
            ("view", self.view, VIEWS), ("paper", self.paper, tuple(engraving.PAPERS)),
            ("sticking", self.sticking, STICKINGS), ("counts", self.counts, COUNTS),
        ):  # fmt: skip
            if value not in known:
                raise BadScore(f"There is no {what} “{value}”; there are {', '.join(known)}.")


PLAIN = Wish()


def pages(
    score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()
) -> list[str]:
    """The pages of a score as SVG. score: as it is counted, with what was left out. decisions: that
    are printed as footnotes, each with its words."""
    made: dict[str, Callable[[], list[str]]] = {
        "full": lambda: engraving.svg_pages(full(score, wish, decisions), wish.paper),
        "limbs": lambda: engraving.svg_pages(limbs(score, wish), wish.paper),
        "road-map": lambda: _road_map(score, wish),
        "counting": lambda: counting_pages(
            as_written(score), full(score, replace(wish, brackets=False)), wish.counting, wish.paper
        ),
        "excerpts": lambda: engraving.svg_pages(excerpts(score, wish), wish.paper),
    }
    return made[wish.view]()


def pdf(score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()) -> bytes:
    """The same pages as a PDF."""
    return engraving.pdf_of(pages(score, wish, decisions), wish.paper)


# -- the full chart


def full(score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()) -> Page:
    """Every bar."""
    written = as_written(score)
    numbered = _numbered(score, decisions)
    look = _look(score, written, wish)
    by_bar: dict[int, list[Word]] = defaultdict(list)
    for n, (bar, place, _) in enumerate(numbered, 1):
        by_bar[bar].append(Word(place, f"{n})", "footnote"))
    notes = [f"{n}) {text}" for n, (_, _, text) in enumerate(numbered, 1)]
    look = replace(look, words={b: tuple(w) for b, w in by_bar.items()})
    return page_of(written, look, notes)


def _look(score: Score, written: Score, wish: Wish) -> Look:
    narrow = engraving.PAPERS[wish.paper].width < 1700
    wide = (engraving.PAPERS[wish.paper].width - 2 * engraving.PAPERS[wish.paper].margin) / 1860
    return Look(
        sticking=wish.sticking, counts=wish.counts, repeats=wish.repeats,
        bars_a_line=3 if narrow else 4, width=58.0 * wide, counting=wish.counting,
        brackets=_brackets(written) if wish.brackets else {}, headings=_headings(score, written),
    )  # fmt: skip


def _numbered(
    score: Score, decisions: Sequence[tuple[Decision, str]]
) -> list[tuple[int, Fraction, str]]:
    """Decisions where they stand in the way of writing, in the order of the bars: (bar, place,
    words)."""
    try:
        written = in_notation(score, score.notation)
    except BadScore:
        written = score
    strokes = written.strokes
    known = [(strokes[d.stroke], says) for d, says in decisions if d.stroke in strokes]
    return sorted(((s.bar, s.place, says) for s, says in known), key=lambda n: n[:2])


def _brackets(written: Score) -> dict[int, tuple[Bracket, ...]]:
    """Fills under brackets, with their figures ("3 x 4 16ths")."""
    made: dict[int, list[Bracket]] = defaultdict(list)
    for f in fill_facts.told(written):
        figure = next((f"{c.strokes} x {c.turns}" for c in f.cells if c.turns > 1), "")
        text = f"fill, {figure}" if figure else "fill"
        for bar in range(f.span.bar, f.span.last_bar + 1):
            start = f.span.place if bar == f.span.bar else Fraction(0)
            beats = Fraction(written.meters[bar - 1].beats)
            end = f.span.end if bar == f.span.last_bar else beats
            made[bar].append(Bracket(start, end, text if bar == f.span.bar else ""))
    return {bar: tuple(own) for bar, own in made.items()}


def _headings(score: Score, written: Score) -> dict[int, str]:
    """What is said beside a section's name: of which one it is the same music, its words, what
    is odd of its length."""
    made = {}
    for n, s in enumerate(written.sections):
        says = []
        twin = next((t.name for t in written.sections[:n] if t.label == s.label), "")
        if twin:
            says.append(f"as {twin}")
        says += [s.note] if s.note else []
        says += [f"{key}: {text}" for key, text in s.sound.items() if text]
        made[s.first_bar] = ", ".join(says)
    return made


# -- the limb chart


def limbs(score: Score, wish: Wish) -> Page:
    """Four lines, a limb each, with the rules between them as captions."""
    written = as_written(score)
    look = replace(
        _look(score, written, wish), view="limbs", brackets={},
        counts="all" if wish.counts == "none" else wish.counts, bars=wish.bars,
        headings=_captions(written),
    )  # fmt: skip
    return page_of(written, look)


def _captions(score: Score) -> dict[int, str]:
    """The first rule between the limbs of each section."""
    left = score.player.hand == "left"
    made = {}
    for g in grooves.grooves(score):
        bars = [b for b in range(g.first_bar, g.last_bar + 1) if b not in g.fills]
        found = rules.between(score, bars)
        section = score.section_at(g.first_bar)
        if found and section is not None and section.first_bar not in made:
            meter = score.meters[g.first_bar - 1]
            made[section.first_bar] = words.limb_rule(found[0], meter, left_handed=left)
    return made


# -- the road map


def _road_map(score: Score, wish: Wish) -> list[str]:
    blocks = [
        RoadBlock(r.name, r.seconds, r.bars, r.shape, r.like, _groove(r, score),
                  [(line.text, line.is_loud) for line in r.lines])
        for r in road_map(score)
    ]  # fmt: skip
    return road_map_pages(page_of(score.played(), Look(bars=(1, 1))), blocks, wish.paper)


def _groove(r: RoadSection, score: Score) -> Page | None:
    """A groove's core as a page of one system."""
    if not r.core:
        return None
    meter = score.meters[r.first_bar - 1]
    small = _small(r.core, [meter] * r.length, score)
    page = page_of(small, Look(bars_a_line=r.length, width=1e9))
    bars = [replace(b, end="", number=0 if n == 0 else b.number)
            for n, b in enumerate(page.systems[0].bars)]  # fmt: skip
    return replace(page, systems=(System(tuple(bars)),))


def _small(strokes: Sequence[object], meters: list[Meter], score: Score) -> Score:
    beats = sum(m.beats for m in meters)
    pulse = PulseMap.even(max(20.0, score.pulse.tempo()[0]), beats)
    own = {f"c{n}": s.changed(id=f"c{n}") for n, s in enumerate(strokes)}  # type: ignore[attr-defined]
    return Score(tuple(meters), pulse, own, (Section("a", "", "A", 1, len(meters)),),
                 swing=score.swing)  # fmt: skip


# -- excerpts


def excerpts(score: Score, wish: Wish) -> Page:
    """The few passages that tell most of the song, each with its moment and what it covers."""
    written = score.played()
    found = passages.of_song(written)
    look = replace(_look(score, written, wish), headings={}, brackets={})
    systems: list[System] = []
    signs: set[str] = set()
    for n, p in enumerate(found, 1):
        part = page_of(written, replace(look, bars=(p.bar, min(p.bar + p.bars - 1,
                                                               written.bar_count))))  # fmt: skip
        signs |= set(part.signs)
        says = f"bar {p.bar}; {words.told_passage(p)['says']}"
        name = f"{n}  {', '.join(p.sections[:2])}"
        heading = Heading(name, written.seconds(p.bar), p.bars, says)
        first, *rest = part.systems
        systems += [replace(first, heading=heading), *(replace(s, heading=None) for s in rest)]
    whole = page_of(written, look)
    kept = tuple(s for s in whole.signs if s in signs)
    return replace(whole, systems=tuple(systems), signs=kept)
