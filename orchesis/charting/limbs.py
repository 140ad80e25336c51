"""The limb chart: four lines, a limb each."""

from __future__ import annotations

from dataclasses import replace

from orchesis import explanations, grooves
from orchesis.charting.items import hidden_bars, words_on_sections
from orchesis.charting.look import look_of, own_grooves
from orchesis.charting.wish import Wish
from orchesis.hands import rules
from orchesis.page import Page, page_of
from orchesis.score import Score
from orchesis.score.notation import as_written


def limbs(score: Score, wish: Wish) -> Page:
    """The rules between the limbs as captions, the count row between hands and feet."""
    written = as_written(score)
    bars = wish.bars if written.bar_count == score.bar_count else None
    look = replace(
        look_of(score, written, wish),
        view="limbs",
        brackets={},
        bars=bars,
        counts="all" if wish.count_row else "none",
        headings=words_on_sections(written, _captions(written)),
        hidden=frozenset() if bars else hidden_bars(written),
    )
    return page_of(written, look)


def stretches(score: Score) -> list[tuple[str, int, int]]:
    """What a limb chart may hold instead of the whole song: name, first and last bar of each
    section and of each groove that is no other one, where it is most like itself. None where other
    bars are written than are counted."""
    if as_written(score).bar_count != score.bar_count:
        return []
    by_section = [(s.name, s.first_bar, s.last_bar) for s in score.sections]
    for g, section in own_grooves(score):
        first = g.typical or g.first_bar
        name = g.name or f"groove of {section.name}"
        by_section.append((name, first, min(first + g.length - 1, score.bar_count)))
    return by_section


def _captions(score: Score) -> dict[int, str]:
    """The first rule between the limbs of each section."""
    left = score.player.hand == "left"
    captions = {}
    for g in grooves.grooves(score):
        bars = [b for b in range(g.first_bar, g.last_bar + 1) if b not in g.fills]
        limb_rules = rules.between(score, bars)
        section = score.section_at(g.first_bar)
        if limb_rules and section is not None and section.first_bar not in captions:
            meter = score.meters[g.first_bar - 1]
            captions[section.first_bar] = explanations.limb_rule(
                limb_rules[0], meter, left_handed=left
            )
    return captions
