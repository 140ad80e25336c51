"""What was heard of each part at every moment, before anybody judged it: evidence for later."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import exp
from typing import Any

import numpy as np

from orchesis.errors import BadScore
from orchesis.score.on_bars import OnBars

#: Parts that are told apart, each for all ways of playing it.
EVIDENT = ("kick", "snare", "tom", "hat", "ride", "crash")
#: Equal parts of a beat on which evidence is laid: 16ths and triplets.
CELLS = 12
STEPS = 9  # the clearest onset; 0 is none
#: A way of playing -> the part whose evidence speaks for it; auxiliary sounds have none.
EVIDENT_OF: dict[str, str] = {
    "kick": "kick",
    "snare": "snare",
    "cross_stick": "snare",
    "rimshot": "snare",
    "tom_high": "tom",
    "tom_mid": "tom",
    "tom_low": "tom",
    "tom_floor": "tom",
    "hat_closed": "hat",
    "hat_half": "hat",
    "hat_open": "hat",
    "hat_foot": "hat",
    "hat_splash": "hat",
    "ride": "ride",
    "ride_bell": "ride",
    "crash": "crash",
    "crash_2": "crash",
    "splash": "crash",
    "china": "crash",
}
_FRAME = 0.01  # seconds
_ODDS = 3.9  # log odds of the clearest onset


def chance(step: int) -> float:
    """How sure the model was of an onset so clear (0 to STEPS): 0 of none, 0.5 in the middle."""
    if step <= 0:
        return 0.0
    return 1 / (1 + exp(-_ODDS * (2 * (step - 1) / (STEPS - 1) - 1)))


@dataclass(frozen=True)
class Evidence:
    """Onset strength by part: moments (10 ms, rising) and how clear each is (1 to STEPS).

    It lies in time, as it was heard; the grid of the bars is laid over it on asking, so that a
    correction of the pulse lays it anew by itself.
    """

    onsets: dict[str, tuple[np.ndarray, np.ndarray]]

    def sure(self, score: OnBars, bar: int, part: str, place: Fraction) -> float:
        """How sure the networks were of something of a part's kind at a place, 0 to 1; where
        nothing was kept of what they heard, or not of that kind, a half."""
        if not self.onsets or part not in EVIDENT_OF:
            return 0.5
        cells = self.of_bar(score, bar).get(EVIDENT_OF[part], [])
        at = round(place * CELLS)
        return chance(max(cells[max(0, at - 1) : at + 2], default=0))

    def of_bar(self, score: OnBars, bar: int) -> dict[str, list[int]]:
        """For each part the clearest onset near each cell of a bar: beats times CELLS numbers."""
        cells = score.meters[bar - 1].beats * CELLS
        first = score.start_of(bar)
        edges = [score.pulse.seconds(first + (k - 0.5) / CELLS) / _FRAME for k in range(cells + 1)]
        clearness = {}
        for part, (at, clear) in self.onsets.items():
            lo, hi = np.searchsorted(at, [edges[0], edges[-1]])
            cell = np.searchsorted(edges, at[lo:hi], side="right") - 1
            cells_of_part = np.zeros(cells, int)
            np.maximum.at(cells_of_part, np.clip(cell, 0, cells - 1), clear[lo:hi])
            clearness[part] = [int(x) for x in cells_of_part]
        return clearness

    def to_json(self) -> dict[str, Any]:
        """Compact: distances between the moments, and a digit for each."""
        return {
            part: {
                "steps": [int(x) for x in np.diff(at, prepend=0)],
                "clear": (clear + ord("0")).astype(np.uint8).tobytes().decode("ascii"),
            }
            for part, (at, clear) in self.onsets.items()
        }

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Evidence:
        """Raises BadScore where JSON holds none."""
        onsets = {}
        try:
            for part, fields in data.items():
                steps = np.array(fields["steps"], dtype=np.int64)
                at = np.cumsum(steps)
                clear = np.frombuffer(fields["clear"].encode("ascii"), np.uint8).astype(int) - ord(
                    "0"
                )
                is_odd = (
                    (steps < 0).any() or (at < 0).any() or ((clear < 0) | (clear > STEPS)).any()
                )
                if part not in EVIDENT or len(at) != len(clear) or is_odd:
                    raise ValueError(part)
                onsets[part] = (at, clear)
        except (KeyError, TypeError, ValueError, AttributeError, OverflowError):
            raise BadScore("What was heard of each part can't be read.") from None
        return cls(onsets)

    @classmethod
    def laid(cls, score: OnBars, bars: list[dict[str, list[int]]]) -> Evidence:
        """As ``of_bar`` tells it of every bar; the moments are those of the cells."""
        onsets: dict[str, tuple[np.ndarray, np.ndarray]] = {}
        for part in EVIDENT:
            at, clear = [], []
            for bar, cells_of_bar in enumerate(bars, 1):
                for cell, value in enumerate(cells_of_bar.get(part, ())):
                    if value:
                        at.append(
                            round(score.pulse.seconds(score.start_of(bar) + cell / CELLS) / _FRAME)
                        )
                        clear.append(value)
            onsets[part] = (np.array(at, dtype=np.int64), np.array(clear, dtype=np.int64))
        return cls(onsets)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Evidence) and self.to_json() == other.to_json()

    __hash__ = None  # type: ignore[assignment]


NO_EVIDENCE = Evidence({})
