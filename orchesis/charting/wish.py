"""What pages are wanted."""

from __future__ import annotations

from dataclasses import dataclass

from orchesis import engraving
from orchesis.errors import BadScore
from orchesis.page.model import GHOSTS
from orchesis.score.kit import LAYOUTS
from orchesis.score.untrusted import shown

VIEWS = ("full", "road-map", "limbs", "counting", "excerpts", "variations", "stages")
#: What each view is called in the names of its files.
NAMES = {
    "full": "chart",
    "road-map": "road map",
    "limbs": "limbs",
    "counting": "counting sheet",
    "excerpts": "excerpts",
    "variations": "variations",
    "stages": "practice sheet",
}
STICKINGS = ("none", "fills", "all")
COUNTS = ("none", "hard", "all")


@dataclass(frozen=True)
class Wish:
    """What pages are wanted. brackets: fills under brackets, with their figures. repeats: bars that
    are the one before as a sign. counting: a school. bars: first and last, of a limb chart;
    count_row: there, between hands and feet. chosen: passages of the excerpt sheet, (first bar,
    last bar, a line of advice); none: those that tell most of the song. layout: which line is
    which, of kit.LAYOUTS. ghosts: of GHOSTS. letters: of the right hand and of the left.
    bars_a_line: at the most; 0: as the paper has room. title, words: of a lesson, at the head."""

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
    title: str = ""
    words: str = ""

    def __post_init__(self) -> None:
        for what, value, allowed in (
            ("view", self.view, VIEWS),
            ("paper", self.paper, tuple(engraving.PAPERS)),
            ("sticking", self.sticking, STICKINGS),
            ("counts", self.counts, COUNTS),
            ("layout", self.layout, tuple(LAYOUTS)),
            ("look of ghosts", self.ghosts, GHOSTS),
        ):
            if value not in allowed:
                raise BadScore(f"There is no {what} “{value}”; there are {', '.join(allowed)}.")
        if not 0 <= self.bars_a_line <= _MOST_A_LINE:
            raise BadScore(f"A line holds 1 to {_MOST_A_LINE} bars, not {self.bars_a_line}.")
        if len(self.letters) != 2 or not self.letters.isalpha() or len(set(self.letters)) < 2:
            raise BadScore(
                f"“{shown(self.letters)}” are no letters for the hands; give two, the right hand's "
                "and the left's, like RL."
            )


_MOST_A_LINE = 8
PLAIN = Wish()


def bars_text(first: int, last: int) -> str:
    """Some bars by their numbers.

    >>> bars_text(5, 8), bars_text(7, 7)
    ('bars 5-8', 'bar 7')
    """
    return f"bars {first}-{last}" if last > first else f"bar {first}"


def name_of(wish: Wish) -> str:
    """What stands on the pages, for the name of their file."""
    return f"{bars_text(*wish.bars)} - {NAMES[wish.view]}" if wish.bars else NAMES[wish.view]
