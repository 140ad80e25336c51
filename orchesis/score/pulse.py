"""The pulse map: seconds <-> felt beats, exact at every beat, straight between them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from math import floor

from orchesis.errors import BadScore
from orchesis.score.untrusted import is_moment


@dataclass(frozen=True, slots=True)
class PulseMap:
    """Times (seconds, rising) of the felt beats; the last one closes the last bar.

    Beat 0 is beat 1 of bar 1. Before the first and behind the last beat the nearest
    tempo goes on, so that every moment has a place and every place a moment.
    """

    times: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.times) < 2:
            raise BadScore("A pulse needs at least two beats.")
        if any(not b > a for a, b in zip(self.times, self.times[1:], strict=False)):
            raise BadScore("The beats of a pulse must come one after the other.")
        if not (is_moment(self.times[0]) and is_moment(self.times[-1])):
            raise BadScore("The beats of a pulse are seconds of a recording.")

    def seconds(self, beat: Fraction | float) -> float:
        """The moment (seconds) of a position in beats: exact at every beat, and between them to
        far less than a sample."""
        at = float(beat)
        i = min(max(floor(at), 0), len(self.times) - 2)
        return self.times[i] + (at - i) * (self.times[i + 1] - self.times[i])

    def beat(self, seconds: float) -> float:
        """The position in beats of a moment (seconds).

        >>> pulse = PulseMap.even(bpm=120, beats=4, start=1.0)
        >>> pulse.beat(1.75), pulse.seconds(1.5), pulse.beat(0.5)
        (1.5, 1.75, -1.0)
        """
        last = len(self.times) - 2
        i = min(max(bisect_right(self.times, seconds) - 1, 0), last)
        return i + (seconds - self.times[i]) / (self.times[i + 1] - self.times[i])

    def tempo(self) -> tuple[float, float, float]:
        """Median, low and high tempo in beats a minute.

        >>> PulseMap.even(bpm=96, beats=16).tempo()[0]
        96.0

        Low and high are the 5th and 95th percentile of the tempo over four beats, so that
        one late beat does not make a steady song look loose.
        """
        span = min(4, len(self.times) - 1)
        local = sorted(
            60.0 * span / (self.times[i + span] - self.times[i])
            for i in range(len(self.times) - span)
        )
        n = len(local) - 1
        return local[round(n * 0.5)], local[round(n * 0.05)], local[round(n * 0.95)]

    @classmethod
    def even(cls, bpm: float, beats: int, start: float = 0.0) -> PulseMap:
        """A machine-steady pulse of so many beats."""
        return cls(tuple(start + i * 60.0 / bpm for i in range(beats + 1)))

    @classmethod
    def of(cls, times: Sequence[float]) -> PulseMap:
        return cls(tuple(float(t) for t in times))
