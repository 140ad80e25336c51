"""The tempo ladder: where to start, by how much to go up, where it is learned.

Rules of the trade: an easy part starts near its tempo, a hard one at half; a part that is harder
slow starts near it all the same. One goes up after clean and relaxed loops, down after trouble.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from orchesis.hands import difficulty
from orchesis.score import Score, Stroke

_SHARE = 0.075  # of the tempo that a point of difficulty takes away
_SLOWEST, _FASTEST, _SPARSE = 0.5, 0.92, 0.85
_STEP = 0.05
_ABOVE = 1.04  # above its tempo, so that the tempo itself is easy
RUN = 3  # clean loops before one goes up


@dataclass(frozen=True)
class Ladder:
    """Beats a minute. run: clean loops before a step."""

    start: float
    step: float
    goal: float
    run: int = RUN

    def after(self, tempo: float, clean: int, trouble: int = 0) -> float:
        """The next tempo after so many clean loops in a row, or loops in trouble."""
        if trouble:
            return max(self.start, tempo - trouble * self.step)
        return min(self.goal, tempo + self.step) if clean >= self.run else tempo


def ladder(score: Score, strokes: Sequence[Stroke], bars: Sequence[int]) -> Ladder:
    """The ladder of some strokes, in order of time, at the song's tempo."""
    tempo = score.pulse.tempo()[0]
    total = difficulty.of_strokes(score, strokes).total
    share = min(_FASTEST, max(_SLOWEST, 1.08 - _SHARE * total))
    if difficulty.is_harder_slow(score.with_strokes(strokes), bars):
        share = max(share, _SPARSE)
    step = max(2.0, round(tempo * _STEP))
    return Ladder(round(tempo * share), step, round(tempo * _ABOVE))
