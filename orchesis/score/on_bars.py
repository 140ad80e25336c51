"""What of a song tells when its bars sound: all that evidence and verdicts need of it."""

from __future__ import annotations

from typing import Protocol

from orchesis.score.meter import Meter
from orchesis.score.pulse import PulseMap


class OnBars(Protocol):
    """A song's bars in time. Beats are counted from the first one of the song."""

    @property
    def meters(self) -> tuple[Meter, ...]: ...

    @property
    def pulse(self) -> PulseMap: ...

    def start_of(self, bar: int) -> int: ...

    def bar_beats(self) -> list[int]: ...
