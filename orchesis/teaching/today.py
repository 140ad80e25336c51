"""What to practise in the time there is, and when what was learned comes back.

Warm-up first, then what is due again, the weak spot while one is fresh, the stage in hand, and
the run through at the end; a break in every long session. No passage takes more than twenty
minutes of a session: tired hands learn mistakes. In a few minutes the warm-up is short. What is
learned comes back at growing intervals (spaced practice; Ebbinghaus 1885, and every method book
since)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

INTERVALS = (1.0, 3.0, 7.0, 16.0, 35.0)  # days
_WARM_UP, _RUN_THROUGH = 0.15, 0.2
_MIN_MINUTES_OF_A_BLOCK = 3.0  # minutes that anything but a short warm-up takes
_SHORT, _SHORT_WARM_UP = 10.0, 1.0  # in so few minutes one warms up with the part itself
_BLOCK, _ONE_PASSAGE = 12.0, 20.0  # minutes at a time, and of one passage in a session
_FREE = 30.0
_SESSION, _BREAK = 40.0, 5.0


@dataclass(frozen=True)
class Passage:
    """What somebody learns. hard: 0..10. learned, stages: how many of its stages. days: since it
    was played last. returns: how often it was played clean since it was learned. due: days until
    it is needed, None: whenever."""

    key: str
    title: str
    hard: float
    learned: int
    stages: int
    days: float
    returns: int = 0
    due: float | None = None

    @property
    def is_learned(self) -> bool:
        return self.learned >= self.stages

    @property
    def is_back(self) -> bool:
        """Whether it was learned, and its interval is over."""
        return self.is_learned and self.days >= INTERVALS[min(self.returns, len(INTERVALS) - 1)]

    def matters(self) -> float:
        """How much it asks for the time there is: what is hard, unfinished, needed soon."""
        soon = 0.0 if self.due is None else 6.0 / (1.0 + max(0.0, self.due) / 3)
        return self.hard * (1 - self.learned / max(1, self.stages)) + soon


@dataclass(frozen=True)
class Block:
    """kind: warm-up, returns, weak spot, stage, run through, free or break. key: of its passage,
    or ""."""

    kind: str
    minutes: float
    key: str
    says: str


def plan(minutes: float, passages: Sequence[Passage]) -> list[Block]:
    """Blocks that fill the time and never more; none where there is no time for one."""
    if minutes < _MIN_MINUTES_OF_A_BLOCK:
        return []
    pauses = int(max(0.0, minutes - 1e-9) // (_SESSION + _BREAK))
    playing = minutes - pauses * _BREAK
    warm = min(10.0, max(_MIN_MINUTES_OF_A_BLOCK, _WARM_UP * playing))
    if playing < _SHORT:
        warm = min(_SHORT_WARM_UP, playing)
    blocks = [
        Block("warm-up", warm, "", "Slow singles and doubles, loose wrists; stop when it hurts.")
    ]
    left = playing - warm
    open_ones = sorted(
        (p for p in passages if not p.is_learned), key=lambda p: (-p.matters(), p.key)
    )
    back = sorted((p for p in passages if p.is_back), key=lambda p: (-p.days, p.key))
    run = min(10.0, _RUN_THROUGH * playing)
    keeps = (
        run
        if passages and run >= _MIN_MINUTES_OF_A_BLOCK and left - run >= _MIN_MINUTES_OF_A_BLOCK
        else 0.0
    )
    left -= keeps
    for p in back:
        if left < _MIN_MINUTES_OF_A_BLOCK or (open_ones and left < 2 * _MIN_MINUTES_OF_A_BLOCK):
            break
        blocks.append(
            Block("returns", _MIN_MINUTES_OF_A_BLOCK, p.key, f"{p.title}: learned, and due again.")
        )
        left -= _MIN_MINUTES_OF_A_BLOCK
    work = _open_work(open_ones, left)
    blocks += work
    left -= sum(b.minutes for b in work)
    free = []
    while left >= _MIN_MINUTES_OF_A_BLOCK:
        free.append(
            Block("free", min(_FREE, left), "", _WHAT_IS_LEFT if passages else _NOTHING_CHOSEN)
        )
        left -= free[-1].minutes
    if keeps:
        best = max(passages, key=lambda p: (p.learned, -p.days, p.key))
        blocks.append(
            Block("run through", keeps, best.key, f"{best.title}: through, whatever happens.")
        )
    return _with_breaks(blocks + free, pauses)


_WHAT_IS_LEFT = "Play along with songs you like, or stop here while it still goes well."
_NOTHING_CHOSEN = "Choose some bars of a song and begin with their first step, slowly."


def _open_work(open_ones: Sequence[Passage], left: float) -> list[Block]:
    """What is not learned yet, in the time that is left: the hard place of the first passage, then
    the next step of it and of others."""
    if not open_ones or left < _MIN_MINUTES_OF_A_BLOCK:
        return []
    first = open_ones[0]
    if left < 2 * _MIN_MINUTES_OF_A_BLOCK:
        return [Block("stage", left, first.key, f"{first.title}: the next step.")]
    share = min(_BLOCK, max(_MIN_MINUTES_OF_A_BLOCK, 0.4 * left))
    blocks = [Block("weak spot", share, first.key, f"{first.title}: its hard place, slowly.")]
    left -= share
    for n, p in enumerate(open_ones):
        if left < _MIN_MINUTES_OF_A_BLOCK:
            break
        others = len(open_ones) - n
        each = left if left < 2 * _MIN_MINUTES_OF_A_BLOCK else left / min(2, others)
        each = min(
            max(each, _MIN_MINUTES_OF_A_BLOCK), _BLOCK, _ONE_PASSAGE - (share if n == 0 else 0.0)
        )
        blocks.append(Block("stage", each, p.key, f"{p.title}: the next step."))
        left -= each
    return blocks


def _with_breaks(blocks: list[Block], pauses: int) -> list[Block]:
    """The same with breaks between the blocks, as evenly as they fall."""
    blocks_with_breaks: list[Block] = []
    played, given = 0.0, 0
    for block in blocks:
        if given < pauses and played >= _SESSION * (given + 1) - 1e-9 and blocks_with_breaks:
            blocks_with_breaks.append(
                Block("break", _BREAK, "", "Sticks down, shoulders loose, a glass of water.")
            )
            given += 1
        blocks_with_breaks.append(block)
        played += block.minutes
    return blocks_with_breaks
