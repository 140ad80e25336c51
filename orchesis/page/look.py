"""How a page looks, where that is a choice."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from orchesis.page.model import Bracket, Word


@dataclass(frozen=True)
class Look:
    """How a page looks, where that is a choice. view: "full" or "limbs". sticking: "none",
    "fills" (what is under brackets) or "all". counts: "none", "hard" (bars of 16ths and finer) or
    "all". repeats: bars that are the one before as a sign. bars_a_line: at the most. width: room
    of a line (orchesis/page/systems.py). counting: a school. feel: what the tempo is felt like,
    in words. brackets, words: by bar, what stands there besides. headings: by first bar, what is
    said of a section. layout: which line is which, of kit.LAYOUTS. ghosts: how they are drawn, of
    GHOSTS. letters: of the right hand and of the left. bars: first and last, None: all. breaks:
    by bar, of BREAKS (orchesis/score/song.py), by a person's word. hidden: bars of sections
    of which only the heading stands there."""

    view: str = "full"
    sticking: str = "none"
    counts: str = "none"
    repeats: bool = False
    bars_a_line: int = 4
    width: float = 58.0
    counting: str = "letters"
    feel: str = ""
    brackets: Mapping[int, Sequence[Bracket]] = field(default_factory=dict)
    words: Mapping[int, Sequence[Word]] = field(default_factory=dict)
    headings: Mapping[int, str] = field(default_factory=dict)
    bars: tuple[int, int] | None = None
    breaks: Mapping[int, str] = field(default_factory=dict)
    layout: str = "common"
    ghosts: str = "brackets"
    letters: str = "RL"
    hidden: frozenset[int] = frozenset()


PLAIN = Look()
