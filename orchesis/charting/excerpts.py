"""Excerpt sheets: the few passages that tell a song, or those that its transcriber chose."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from orchesis import explanations
from orchesis.charting.look import bare_look, sheet_of
from orchesis.charting.wish import Wish
from orchesis.page import Page, page_of
from orchesis.page.model import Heading
from orchesis.score import Score
from orchesis.score.untrusted import printable
from orchesis.teaching import passages


def excerpts(score: Score, wish: Wish) -> Page:
    """Passages, numbered, each with its moment, its tempo where it is another, and a word: those
    that were chosen, or the few that tell most of the song and what they cover."""
    written = score.played()
    look = bare_look(score, written, wish)

    def parts() -> Iterator[tuple[Heading, Page]]:
        for n, (first, last, name, says) in enumerate(_excerpted(written, wish), 1):
            heading = Heading(f"{n}  {name}", written.seconds(first), last - first + 1, says)
            yield heading, page_of(written, replace(look, bars=(first, last)))

    return sheet_of(page_of(written, replace(look, bars=(1, 1))), parts())


def _excerpted(score: Score, wish: Wish) -> list[tuple[int, int, str, str]]:
    """First and last bar, name and words of each passage of the excerpt sheet."""
    if not wish.chosen:
        return [
            (
                p.bar,
                min(p.bar + p.bars - 1, score.bar_count),
                ", ".join(p.sections[:2]),
                f"bar {p.bar}; {explanations.told_passage(p)['says']}",
            )
            for p in passages.of_song(score)
        ]
    excerpts = []
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
        excerpts.append((first, last, section.name if section else "", "; ".join(says)))
    return excerpts


_OTHER_TEMPO = 0.03  # share by which a passage's tempo is worth a word
