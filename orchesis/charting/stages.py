"""Stage sheets: how the grooves of a song are learned, a stage at a time."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from orchesis import engraving
from orchesis.charting.look import bare_look, own_grooves, sheet_of, unnumbered
from orchesis.charting.wish import Wish
from orchesis.hands import difficulty
from orchesis.page import Page, page_of
from orchesis.page.model import Heading
from orchesis.score import Score
from orchesis.score.untrusted import printable
from orchesis.teaching.stages import Stage, plan


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
    parts: list[StagePart] = []
    number = 0
    for g, _section in own_grooves(score):
        last = min(g.first_bar + min(g.length, _MOST_STAGED) - 1, g.first_bar + g.bars - 1)
        bars = range(g.first_bar, last + 1)
        if not difficulty.played(played, bars):
            continue
        number += 1
        parts += [StagePart(f"{number}.{step}", s) for step, s in enumerate(plan(played, bars), 1)]
    return parts


_MOST_STAGED = 2  # bars of a groove's unit that are learned at once


def stage_sheet(score: Score, parts: Sequence[StagePart], wish: Wish) -> Page:
    """Stages one below the other, each with its limbs, its tempi, and what goes wrong there."""
    played = score.played()
    look = replace(
        bare_look(score, played, wish),
        breaks={},
        counts="all" if wish.counts == "none" else wish.counts,
        sticking="all" if wish.sticking == "none" else wish.sticking,
    )

    def drawn() -> Iterator[tuple[Heading, Page]]:
        for p in parts:
            rungs = p.stage.ladder
            note = f"{p.stage.plays}; {rungs.start:.0f} to {rungs.goal:.0f} bpm"
            lines = tuple(filter(None, (printable(p.words), p.stage.says)))
            name = f"{p.number}  {p.stage.title}"
            yield (
                Heading(name, None, p.stage.score.bar_count, note, lines),
                unnumbered(page_of(p.stage.score, look)),
            )

    return sheet_of(page_of(played, replace(look, bars=(1, 1))), drawn())


def stage_staff(score: Score, stage: Stage, wish: Wish) -> str:
    """One stage as notes, drawn alone: its limbs, its counts."""
    look = replace(bare_look(score, stage.score, wish), breaks={}, counts="all", sticking="all")
    return engraving.drawn_alone(unnumbered(page_of(stage.score, look)))
