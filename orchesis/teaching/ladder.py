"""The tempo ladder: where to start, by how much to go up, where it is learned.

Rules of the trade: an easy part starts near its tempo, a hard one at half; a part that is harder
slow starts near it all the same. One goes up after clean and relaxed loops, down after trouble.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import ceil
from statistics import median

from orchesis.hands import difficulty
from orchesis.score import Score, Stroke

_SHARE = 0.075  # of the tempo that a point of difficulty takes away
_SLOWEST, _FASTEST, _SPARSE = 0.5, 0.92, 0.85
_TEMPO_STEP = 0.05
_ABOVE = 1.04  # above its tempo, so that the tempo itself is easy
RUN = 3  # clean loops before one goes up
#: What a loop does to the ladder, by how its player (or play-in) judges it: clean loops in a row go
#: on or are lost, rungs go up or down. The page goes by this table too.
JUDGED = {
    "relaxed": {"is_clean": True, "rungs": 0},
    "tense": {"is_clean": False, "rungs": 0},
    "not yet": {"is_clean": False, "rungs": -1},
}
#: A part runs by itself when one can do something else beside it: what is tried at the top.
CHECKS = {
    "count": "count aloud",
    "sing": "sing what the band plays",
    "speak": "tell somebody what you had for breakfast",
}
#: After so many days without a loop a stage is begun a rung lower, each time.
FORGOTTEN = 4


@dataclass(frozen=True)
class Rung:
    """Where a player stands on a ladder. clean: relaxed loops in a row."""

    tempo: float
    clean: int = 0
    is_learned: bool = False


@dataclass(frozen=True)
class Ladder:
    """Beats a minute. run: clean loops before a step."""

    start: float
    step: float
    goal: float
    run: int = RUN

    def rungs(self) -> list[float]:
        """Every tempo of the ladder, from the start to the goal."""
        count = max(0, ceil((self.goal - self.start) / self.step - 1e-9))
        return [self.start + k * self.step for k in range(count)] + [self.goal]

    def after(self, rung: Rung, how: str) -> Rung:
        """Where one stands after a loop judged as one of JUDGED."""
        rungs = self.rungs()
        at = min(range(len(rungs)), key=lambda k: abs(rungs[k] - rung.tempo))
        clean = rung.clean + 1 if JUDGED[how]["is_clean"] else 0
        at = max(0, at + int(JUDGED[how]["rungs"]))
        learned = rung.is_learned
        if clean >= self.run:
            clean, learned, at = 0, learned or at == len(rungs) - 1, min(at + 1, len(rungs) - 1)
        return Rung(rungs[at], clean, learned)

    def left_alone(self, rung: Rung, days: float) -> Rung:
        """Where one begins again after so many days without a loop."""
        rungs = self.rungs()
        at = min(range(len(rungs)), key=lambda k: abs(rungs[k] - rung.tempo))
        down = int(days // FORGOTTEN)
        return Rung(rungs[max(0, at - down)], 0, rung.is_learned) if down else rung


def days_left(climb: Sequence[tuple[float, float]], goal: float) -> float | None:
    """About how many days of the same pace are left to the goal. climb: (days ago, beats a
    minute), the newest last. None where nothing can be said: fewer than three days of practice, or
    no rise. The line through the days is Theil's and Sen's, which one bad day doesn't turn."""
    best: dict[int, float] = {}
    for ago, tempo in climb:
        day = -int(ago)
        best[day] = max(best.get(day, 0.0), tempo)
    days = sorted(best.items())
    if len(days) < _LEAST_DAYS:
        return None
    slopes = [(b - a) / (y - x) for (x, a), (y, b) in combinations(days, 2)]
    slope = median(slopes)
    if slope <= 0:
        return None
    return max(0.0, (goal - days[-1][1]) / slope)


_LEAST_DAYS = 3


def ladder(score: Score, strokes: Sequence[Stroke], bars: Sequence[int]) -> Ladder:
    """The ladder of some strokes, in order of time, at the song's tempo."""
    tempo = score.pulse.tempo()[0]
    total = difficulty.of_strokes(score, strokes).total
    share = min(_FASTEST, max(_SLOWEST, 1.08 - _SHARE * total))
    if difficulty.is_harder_slow(score.with_strokes(strokes), bars):
        share = max(share, _SPARSE)
    step = max(2.0, round(tempo * _TEMPO_STEP))
    return Ladder(round(tempo * share), step, round(tempo * _ABOVE))
