"""Every view of a song as pages: what stands on them is gathered here from meaning and hands."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from orchesis import engraving
from orchesis.engraving.counting import counting_pages
from orchesis.engraving.mei import document as mei_document
from orchesis.engraving.road_map import RoadBlock, road_map_pages
from orchesis.errors import BadScore
from orchesis.hands import difficulty, rules
from orchesis.meaning import fill_facts, grooves, passages, words
from orchesis.meaning.road_map import RoadLine, RoadSection, road_map
from orchesis.page import Look, Page, page_of
from orchesis.page.build import rhythm_page
from orchesis.page.model import GHOSTS, Bracket, Heading, System, Word
from orchesis.score import Meter, PulseMap, Score, Section, Stroke
from orchesis.score.decision import Decision
from orchesis.score.groove import Groove, Option
from orchesis.score.kit import LAYOUTS
from orchesis.score.notation import as_written, in_notation
from orchesis.score.on_paper import (
    USUAL,
    OnPaper,
    fill_item,
    groove_item,
    option_item,
    section_item,
)
from orchesis.score.signs import SIGNS
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.untrusted import printable, shown
from orchesis.teaching.stages import Stage, plan

VIEWS = ("full", "road-map", "limbs", "counting", "excerpts", "variations", "stages")
STICKINGS = ("none", "fills", "all")
COUNTS = ("none", "hard", "all")


@dataclass(frozen=True)
class Wish:
    """What pages are wanted. brackets: fills under brackets, with their figures. repeats: bars that
    are the one before as a sign. counting: a school. bars: first and last, of a limb chart;
    count_row: there, between hands and feet. chosen: passages of the excerpt sheet, (first bar,
    last bar, a line of advice); none: those that tell most of the song. layout: which line is
    which, of kit.LAYOUTS. ghosts: of GHOSTS. letters: of the right hand and of the left.
    bars_a_line: at the most; 0: as the paper has room."""

    view: str = "full"
    paper: str = "A4"
    sticking: str = "none"
    counts: str = "none"
    brackets: bool = True
    repeats: bool = False
    counting: str = "letters"
    bars: tuple[int, int] | None = None
    chosen: tuple[tuple[int, int, str], ...] = ()
    layout: str = "common"
    ghosts: str = "brackets"
    letters: str = "RL"
    bars_a_line: int = 0
    count_row: bool = True

    def __post_init__(self) -> None:
        for what, value, known in (
            ("view", self.view, VIEWS), ("paper", self.paper, tuple(engraving.PAPERS)),
            ("sticking", self.sticking, STICKINGS), ("counts", self.counts, COUNTS),
            ("layout", self.layout, tuple(LAYOUTS)), ("look of ghosts", self.ghosts, GHOSTS),
        ):  # fmt: skip
            if value not in known:
                raise BadScore(f"There is no {what} “{value}”; there are {', '.join(known)}.")
        if not 0 <= self.bars_a_line <= _MOST_A_LINE:
            raise BadScore(f"A line holds 1 to {_MOST_A_LINE} bars, not {self.bars_a_line}.")
        if len(self.letters) != 2 or not self.letters.isalpha() or len(set(self.letters)) < 2:
            raise BadScore(
                f"“{shown(self.letters)}” are no letters for the hands; give two, the right hand's "
                "and the left's, like RL."
            )


_MOST_A_LINE = 8
PLAIN = Wish()


@dataclass(frozen=True)
class Sheets:
    """svg: one a page. signs: of SIGNS that occur on them (none told of a road map). items: what a
    person may leave out there, or say words on."""

    svg: list[str]
    signs: tuple[str, ...] = ()
    items: tuple[Item, ...] = ()


@dataclass(frozen=True)
class Item:
    """Something that stands on a sheet, or was left out. item: its key (score/on_paper.py)."""

    item: str
    name: str
    said: OnPaper


def sheets(
    score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()
) -> Sheets:
    """The pages of a score. score: as it is counted, with what was left out. decisions: that are
    printed as footnotes, each with its words."""
    if wish.view == "road-map":
        return Sheets(_road_map(score, wish))
    if wish.view == "counting":
        page = full(score, replace(wish, brackets=False))
        made = counting_pages(as_written(score), page, wish.counting, wish.paper)
        return Sheets(made, page.signs, _section_items(score))
    if wish.view == "variations":
        varied = variation_items(score)
        page = variations(score, wish, varied)
        told = tuple(Item(v.item, f"{v.name}, {v.says}", v.said) for v in varied)
        return Sheets(engraving.svg_pages(page, wish.paper), page.signs, told)
    known: dict[str, Callable[[], Page]] = {
        "full": lambda: full(score, wish, decisions),
        "limbs": lambda: limbs(score, wish),
        "excerpts": lambda: excerpts(score, wish),
        "stages": lambda: stage_sheet(score, stages_of(score), wish),
    }
    page = known[wish.view]()
    items = _section_items(score) if wish.view in ("full", "limbs") else ()
    return Sheets(engraving.svg_pages(page, wish.paper), page.signs, items)


def pages(
    score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()
) -> list[str]:
    """The pages of a score as SVG."""
    return sheets(score, wish, decisions).svg


def pdf(score: Score, wish: Wish = PLAIN, decisions: Sequence[tuple[Decision, str]] = ()) -> bytes:
    """The same pages as a PDF."""
    return engraving.pdf_of(pages(score, wish, decisions), wish.paper)


def mei(score: Score, wish: Wish = PLAIN) -> bytes:
    """The full chart as an MEI document: every bar, whatever the pages leave out."""
    return mei_document(full(replace(score, on_paper={}), wish)).encode()


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
    halves = _half_time(score)
    is_half = bool(halves) and len(halves) == len(score.sections)
    narrow = engraving.PAPERS[wish.paper].width < 1700
    wide = (engraving.PAPERS[wish.paper].width - 2 * engraving.PAPERS[wish.paper].margin) / 1860
    return Look(
        sticking=wish.sticking, counts=wish.counts, repeats=wish.repeats,
        bars_a_line=wish.bars_a_line or (3 if narrow else 4), width=58.0 * wide,
        counting=wish.counting,
        brackets=fill_brackets(written) if wish.brackets else {},
        headings=_headings(written, set() if is_half else halves),
        hidden=frozenset(b for s in _left_out(written) for b in range(s.first_bar, s.last_bar + 1)),
        feel="half-time feel" if is_half else "",
        breaks=written.breaks_by_bar(),
        layout=wish.layout, ghosts=wish.ghosts, letters=wish.letters,
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


def fill_brackets(written: Score) -> dict[int, tuple[Bracket, ...]]:
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


def _headings(written: Score, halves: set[str]) -> dict[int, str]:
    """What is said beside a section's name: of which one it is the same music, its words, what
    is odd of its length."""
    made = {}
    for n, s in enumerate(written.sections):
        says = ["half-time"] if s.id in halves else []
        twin = next((t.name for t in written.sections[:n] if t.label == s.label), "")
        if twin:
            says.append(f"as {twin}")
        said = written.on_paper.get(section_item(s.id), USUAL)
        says += [s.note] if s.note else []
        says += [said.words] if said.words else []
        says += [f"{key}: {text}" for key, text in s.sound.items() if text]
        made[s.first_bar] = ", ".join(says)
    return made


def _left_out(score: Score) -> list[Section]:
    """Sections of which only the heading stands on the chart."""
    said = score.on_paper
    return [s for s in score.sections if not said.get(section_item(s.id), USUAL).shown]


def _section_items(score: Score) -> tuple[Item, ...]:
    keys = [(section_item(s.id), s.name) for s in score.sections]
    return tuple(Item(key, name, score.on_paper.get(key, USUAL)) for key, name in keys)


def _half_time(score: Score) -> set[str]:
    """Sections most of whose bars have their backbeat where a half-time feel has it: on 3 alone."""
    made = set()
    for section in score.sections:
        backs = [
            own for bar in range(section.first_bar, section.last_bar + 1)
            if (own := {s.place for s in score.strokes_of(bar) if s.layer == "backbeat"})
            and score.meters[bar - 1].beats == _HALF_TIME_BEATS
        ]  # fmt: skip
        if backs and 2 * sum(own == {_HALF_TIME} for own in backs) > len(backs):
            made.add(section.id)
    return made


_HALF_TIME_BEATS, _HALF_TIME = 4, Fraction(2)


# -- the limb chart


def limbs(score: Score, wish: Wish) -> Page:
    """Four lines, a limb each, with the rules between them as captions."""
    written = as_written(score)
    if wish.bars and written.bar_count != score.bar_count:
        wish = replace(wish, bars=None)  # other bars are written than are counted
    look = replace(
        _look(score, written, wish), view="limbs", brackets={},
        counts="all" if wish.count_row else "none", bars=wish.bars, headings=_captions(written),
    )  # fmt: skip
    return page_of(written, replace(look, hidden=frozenset()) if wish.bars else look)


def stretches(score: Score) -> list[tuple[str, int, int]]:
    """What a limb chart may hold instead of the whole song: name, first and last bar of each
    section and of each groove that is no other one, where it is most like itself."""
    made = [(s.name, s.first_bar, s.last_bar) for s in score.sections]
    for g in grooves.grooves(score):
        section = score.section_at(g.first_bar)
        if g.core and section is not None and (g.relation is None or g.relation.how != "same"):
            first = g.typical or g.first_bar
            name = g.name or f"groove of {section.name}"
            made.append((name, first, min(first + g.length - 1, score.bar_count)))
    return made


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
                  [(line.text, line.is_loud, _rhythm(line)) for line in r.lines])
        for r in road_map(score)
    ]  # fmt: skip
    return road_map_pages(page_of(score.played(), Look(bars=(1, 1))), blocks, wish.paper)


def _rhythm(line: RoadLine) -> Page | None:
    return rhythm_page(**vars(line.rhythm)) if line.rhythm is not None else None


def _groove(r: RoadSection, score: Score) -> Page | None:
    """A groove's core as a page of one system."""
    if not r.core:
        return None
    meter = score.meters[r.first_bar - 1]
    small = _small(r.core, [meter] * r.length, score)
    page = page_of(small, Look(bars_a_line=r.length, width=1e9))
    return _unnumbered(replace(page, systems=(System(page.systems[0].bars),)))


def _small(strokes: Sequence[Stroke], meters: list[Meter], score: Score) -> Score:
    beats = sum(m.beats for m in meters)
    pulse = PulseMap.even(max(20.0, score.pulse.tempo()[0]), beats)
    own = {f"c{n}": s.changed(id=f"c{n}") for n, s in enumerate(strokes)}
    return Score(tuple(meters), pulse, own, (Section("a", "", "A", 1, len(meters)),),
                 swing=score.swing)  # fmt: skip


# -- variations


@dataclass(frozen=True)
class Variation:
    """One thing on the sheet. strokes: of ``bars`` bars of a unit; none: the bars of the song
    themselves, from ``first_bar`` on. said: by a person."""

    item: str
    name: str
    says: str
    said: OnPaper
    seconds: float
    first_bar: int
    bars: int
    strokes: tuple[Stroke, ...] = ()


def variation_items(score: Score) -> list[Variation]:
    """The grooves of a song, each with its options one by one, then its fills; numbered by groove,
    then step. What a person left out has no number, and with a groove go its options."""
    made: list[Variation] = []
    number = 0
    for g in grooves.grooves(score):
        section = score.section_at(g.first_bar)
        if not g.core or (g.relation is not None and g.relation.how == "same") or section is None:
            continue
        own = _of_groove(g, section, score)
        number += own[0].said.shown
        step = 0
        for v in own:
            step += v.said.shown
            numbered = f"{number}  {v.name}" if v is own[0] else f"{number}.{step - 1}"
            made.append(replace(v, name=numbered if v.said.shown else v.name))
            if not own[0].said.shown:
                break
    told = 0
    for n, f in enumerate(fill_facts.told(score), 1):
        if any(how == "same" and k < n - 1 for k, how in f.like):
            continue
        at = score.seconds(f.span.bar)
        item = fill_item(at, score.on_paper)
        said = score.on_paper.get(item, USUAL)
        told += said.shown
        says = ", ".join(f.subdivisions) + f"; bar {f.span.bar}, {f.difficulty:.0f} of 10"
        made.append(Variation(item, f"Fill {told}" if said.shown else "Fill", says, said, at,
                              f.span.bar, f.span.last_bar - f.span.bar + 1))  # fmt: skip
    return made


def _of_groove(g: Groove, section: Section, score: Score) -> list[Variation]:
    """A groove's core and its most usual options."""
    meter = score.meters[g.first_bar - 1]
    said = score.on_paper
    key = groove_item(section.id)
    made = [
        Variation(key, section.name, "core", said.get(key, USUAL), score.seconds(g.first_bar),
                  g.first_bar, g.length, tuple(g.core))
    ]  # fmt: skip
    for o in sorted(g.options, key=lambda o: -o.share)[:_MOST_OPTIONS]:
        key = option_item(section.id, o.part, o.bar, o.place)
        says = f"with {words.option_name(o, meter)}, in {words.option_bars(o)}"
        made.append(
            Variation(key, "", says, said.get(key, USUAL), score.seconds(o.bars[0]), g.first_bar,
                      g.length, (*g.core, *_optional(o, g.length, score)))
        )  # fmt: skip
    return made


def variations(score: Score, wish: Wish, items: Sequence[Variation] | None = None) -> Page:
    """The sheet of a song's variations: those that are shown, each with its heading."""
    played = score.played()
    look = replace(_look(score, played, wish), headings={}, brackets={}, hidden=frozenset())
    systems: list[System] = []
    signs: set[str] = set()
    for v in variation_items(score) if items is None else items:
        if not v.said.shown:
            continue
        if v.strokes:
            meters = [score.meters[v.first_bar - 1]] * v.bars
            part = _unnumbered(page_of(_small(v.strokes, meters, score), look))
        else:
            part = page_of(played, replace(look, bars=(v.first_bar, v.first_bar + v.bars - 1)))
        signs.update(part.signs)
        first, *rest = part.systems
        lines = (printable(v.said.words),) if v.said.words else ()
        heading = Heading(v.name, v.seconds, v.bars, v.says, lines)
        systems.append(replace(first, heading=heading))
        systems.extend(replace(s, heading=None) for s in rest)
    whole = page_of(played, replace(look, bars=(1, 1)))
    return replace(whole, systems=tuple(systems),
                   signs=tuple(s for s in SIGNS if s in signs))  # fmt: skip


_MOST_OPTIONS = 6


def _optional(o: Option, length: int, score: Score) -> list[Stroke]:
    """The strokes of an option in the groove's unit."""
    bars = [o.bar] if o.bar else list(range(1, length + 1))
    return [
        Stroke(f"o{b}", b, o.place, o.part, o.limb, o.dynamic, CLASS_LOUDNESS[o.dynamic])
        for b in bars
    ]


def _unnumbered(page: Page) -> Page:
    """A page whose bars are no bars of the song."""
    return replace(page, systems=tuple(
        replace(s, bars=tuple(replace(b, end="", number=b.number - 1 if n == 0 and k == 0
                                      else b.number) for k, b in enumerate(s.bars)))
        for n, s in enumerate(page.systems)
    ))  # fmt: skip


# -- stages


@dataclass(frozen=True)
class StagePart:
    """A stage on its sheet. number: of the groove and of the stage, "2.3". words: the teacher's."""

    number: str
    stage: Stage
    words: str = ""


def stages_of(score: Score) -> list[StagePart]:
    """The stages of every groove of the song, in an order that is computed, numbered by groove,
    then step."""
    played = score.played()
    made: list[StagePart] = []
    number = 0
    for g in grooves.grooves(score):
        if not g.core or (g.relation is not None and g.relation.how == "same"):
            continue
        last = min(g.first_bar + min(g.length, _MOST_STAGED) - 1, g.first_bar + g.bars - 1)
        bars = range(g.first_bar, last + 1)
        if not difficulty.played(played, bars):
            continue
        number += 1
        made += [StagePart(f"{number}.{step}", s) for step, s in enumerate(plan(played, bars), 1)]
    return made


_MOST_STAGED = 2  # bars of a groove's unit that are learned at once


def stage_sheet(score: Score, parts: Sequence[StagePart], wish: Wish) -> Page:
    """Stages one below the other, each with its limbs, its tempi, and what goes wrong there."""
    played = score.played()
    look = replace(
        _look(score, played, wish), headings={}, brackets={}, breaks={}, hidden=frozenset(),
        counts="all" if wish.counts == "none" else wish.counts,
        sticking="all" if wish.sticking == "none" else wish.sticking,
    )  # fmt: skip
    systems: list[System] = []
    signs: set[str] = set()
    for p in parts:
        own = _unnumbered(page_of(p.stage.score, look))
        signs.update(own.signs)
        rungs = p.stage.ladder
        note = f"{p.stage.plays}; {rungs.start:.0f} to {rungs.goal:.0f} bpm"
        lines = tuple(filter(None, (printable(p.words), p.stage.says)))
        heading = Heading(
            f"{p.number}  {p.stage.title}", None, p.stage.score.bar_count, note, lines
        )
        first, *rest = own.systems
        systems += [replace(first, heading=heading), *(replace(s, heading=None) for s in rest)]
    whole = page_of(played, replace(look, bars=(1, 1)))
    return replace(whole, systems=tuple(systems), signs=tuple(s for s in SIGNS if s in signs))


def stage_staff(score: Score, stage: Stage, wish: Wish) -> str:
    """One stage as notes, drawn alone: its limbs, its counts."""
    look = replace(_look(score, stage.score, wish), headings={}, brackets={}, breaks={},
                   counts="all", sticking="all", hidden=frozenset())  # fmt: skip
    return engraving.drawn_alone(_unnumbered(page_of(stage.score, look)))


# -- excerpts


def excerpts(score: Score, wish: Wish) -> Page:
    """Passages, numbered, each with its moment, its tempo where it is another, and a word: those
    that were chosen, or the few that tell most of the song and what they cover."""
    written = score.played()
    look = replace(_look(score, written, wish), headings={}, brackets={}, hidden=frozenset())
    systems: list[System] = []
    signs: set[str] = set()
    for n, (first_bar, last_bar, name, says) in enumerate(_excerpted(written, wish), 1):
        part = page_of(written, replace(look, bars=(first_bar, last_bar)))
        signs |= set(part.signs)
        heading = Heading(
            f"{n}  {name}", written.seconds(first_bar), last_bar - first_bar + 1, says
        )
        first, *rest = part.systems
        systems += [replace(first, heading=heading), *(replace(s, heading=None) for s in rest)]
    whole = page_of(written, look)
    kept = tuple(s for s in whole.signs if s in signs)
    return replace(whole, systems=tuple(systems), signs=kept)


def _excerpted(score: Score, wish: Wish) -> list[tuple[int, int, str, str]]:
    """First and last bar, name and words of each passage of the excerpt sheet."""
    if not wish.chosen:
        return [
            (p.bar, min(p.bar + p.bars - 1, score.bar_count), ", ".join(p.sections[:2]),
             f"bar {p.bar}; {words.told_passage(p)['says']}") for p in passages.of_song(score)
        ]  # fmt: skip
    made = []
    usual = score.pulse.tempo()[0]
    for first, last, advice in wish.chosen:
        last = min(last, score.bar_count)
        if not 1 <= first <= last:
            continue  # the song has become shorter since
        section = score.section_at(first)
        span = f"bars {first} to {last}" if last > first else f"bar {first}"
        beats = sum(m.beats for m in score.meters[first - 1 : last])
        tempo = 60 * beats / (score.seconds(last + 1) - score.seconds(first))
        says = [span, *([f"{tempo:.0f} bpm"] if abs(tempo / usual - 1) > _OTHER_TEMPO else [])]
        says += [printable(advice)] if advice else []
        made.append((first, last, section.name if section else "", "; ".join(says)))
    return made


_OTHER_TEMPO = 0.03  # share by which a passage's tempo is worth a word
