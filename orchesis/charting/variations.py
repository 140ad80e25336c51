"""The sheet of a song's variations: its grooves, each with its options, and its fills."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from orchesis import explanations
from orchesis.charting.look import bare_look, own_grooves, sheet_of, small, unnumbered
from orchesis.charting.wish import Wish
from orchesis.fills import fill_facts
from orchesis.page import Page, page_of
from orchesis.page.model import Heading
from orchesis.score import Score, Section, Stroke
from orchesis.score.groove import Groove, Option
from orchesis.score.on_paper import USUAL, OnPaper, item_at
from orchesis.score.stroke import CLASS_LOUDNESS
from orchesis.score.untrusted import printable


@dataclass(frozen=True)
class Variation:
    """One thing on the sheet. item: its key (score/on_paper.py). strokes: of ``bars`` bars of a
    unit; none: the bars of the song themselves, from ``first_bar`` on. said: by a person."""

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
    variations: list[Variation] = []
    number = 0
    for g, section in own_grooves(score):
        core, *options = _of_groove(g, section, score)
        if not core.said.shown:
            variations.append(core)
            continue
        number += 1
        variations.append(replace(core, name=f"{number}  {core.name}"))
        step = 0
        for o in options:
            step += o.said.shown
            variations.append(replace(o, name=f"{number}.{step}") if o.said.shown else o)
    number = 0
    for f in _fills(score):
        number += f.said.shown
        variations.append(replace(f, name=f"Fill {number}") if f.said.shown else f)
    return variations


def _of_groove(g: Groove, section: Section, score: Score) -> list[Variation]:
    """A groove's core and its most usual options."""
    meter, on_paper, at = score.meters[g.first_bar - 1], score.on_paper, score.seconds(g.first_bar)
    key = item_at("groove", at, on_paper)
    entries = [
        Variation(
            key,
            section.name,
            "core",
            on_paper.get(key, USUAL),
            at,
            g.first_bar,
            g.length,
            tuple(g.core),
        )
    ]
    for o in sorted(g.options, key=lambda o: -o.share)[:_MOST_OPTIONS]:
        key = item_at("option", at, on_paper, f"{o.part} {o.bar} {o.place}")
        says = f"with {explanations.option_name(o, meter)}, in {explanations.option_bars(o)}"
        entries.append(
            Variation(
                key,
                "",
                says,
                on_paper.get(key, USUAL),
                score.seconds(o.bars[0]),
                g.first_bar,
                g.length,
                (*g.core, *_optional(o, g.length)),
            )
        )
    return entries


_MOST_OPTIONS = 6


def _optional(o: Option, length: int) -> list[Stroke]:
    """The strokes of an option in the groove's unit."""
    bars = [o.bar] if o.bar else list(range(1, length + 1))
    return [
        Stroke(f"o{b}", b, o.place, o.part, o.limb, o.dynamic, CLASS_LOUDNESS[o.dynamic])
        for b in bars
    ]


def _fills(score: Score) -> Iterator[Variation]:
    for n, f in enumerate(fill_facts.describe_fills(score), 1):
        if any(how == "same" and k < n - 1 for k, how in f.like):
            continue
        at = score.seconds(f.span.bar)
        key = item_at("fill", at, score.on_paper)
        says = ", ".join(f.subdivisions) + f"; bar {f.span.bar}, {f.difficulty:.0f} of 10"
        yield Variation(
            key,
            "Fill",
            says,
            score.on_paper.get(key, USUAL),
            at,
            f.span.bar,
            f.span.last_bar - f.span.bar + 1,
        )


def variations(score: Score, wish: Wish, items: Sequence[Variation] | None = None) -> Page:
    """The sheet: those that are shown, each with its heading. items: as they were found, else
    found here."""
    played = score.played()
    look = bare_look(score, played, wish)

    def parts() -> Iterator[tuple[Heading, Page]]:
        for v in variation_items(score) if items is None else items:
            if not v.said.shown:
                continue
            if v.strokes:
                meters = [score.meters[v.first_bar - 1]] * v.bars
                part = unnumbered(page_of(small(v.strokes, meters, score), look))
            else:
                bars = (v.first_bar, v.first_bar + v.bars - 1)
                part = page_of(played, replace(look, bars=bars))
            lines = (printable(v.said.words),) if v.said.words else ()
            yield Heading(v.name, v.seconds, v.bars, v.says, lines), part

    return sheet_of(page_of(played, replace(look, bars=(1, 1))), parts())
