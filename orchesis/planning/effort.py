"""How long a transcription takes one person, learned from the songs that they finished.

What a song costs grows with what is to be confirmed and with what is doubtful. Each person has
a pace of their own, which drifts as they learn; so a finished song tells the pace as
log(minutes / size), newer songs weigh more, and a little of a usual pace stands in for
what is not known yet (a normal prior on the log, as in Bayesian shrinkage: Gelman et al.,
Bayesian Data Analysis, ch. 2). What was already spent on the song itself counts as a part of
a song of its own.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

#: Minutes for a bar to be confirmed and for a doubt to be settled, of somebody nobody knows yet.
_A_BAR, _A_DOUBT = 0.35, 0.4
#: A song costs so much before the first bar: listening, pulse, form.
_MINUTES_OF_A_FIRST_SONG = 8.0
#: What stands in for songs that are not finished yet: for the pace, and for how much it varies.
_PRIOR_SONGS, _PRIOR_SPREAD = 0.7, 0.6
_SPREAD_SONGS, _USUAL_SPREAD = 3.0, 0.42
_HALF = 6.0  # finished songs after which an old one weighs half
#: A pause so long (seconds) ends a sitting; what comes before its first change (minutes).
PAUSE, _LEAD = 300.0, 1.0
#: Part of a song that has to be done before what was spent on it says something.
_SAYS_SOMETHING = 0.1


@dataclass(frozen=True)
class Work:
    """One song. bars: that are to be confirmed; doubts: questions that hearing left; minutes:
    that were spent on it; done: share of it that is confirmed (0 to 1)."""

    bars: int
    doubts: int
    minutes: float = 0.0
    done: float = 0.0

    @property
    def size(self) -> float:
        """Minutes that it would take at the usual pace."""
        return _MINUTES_OF_A_FIRST_SONG + _A_BAR * self.bars + _A_DOUBT * self.doubts


@dataclass(frozen=True)
class Forecast:
    """Minutes that are left: four times in five between low and high. songs: finished ones that
    it was learned from."""

    likely: float
    low: float
    high: float
    songs: int


def worked(before: float, since: float | None) -> float:
    """Minutes spent in all, once one more change was made.

    before: minutes until the last change; since: seconds since then, None for the first change.
    """
    if since is None or since > PAUSE:
        return before + _LEAD
    return before + max(since, 0.0) / 60


def forecast(finished: Sequence[Work], song: Work) -> Forecast:
    """What is left of a song. finished: the person's finished songs, oldest first."""
    measured = [w for w in finished if w.minutes > 0]
    weights = [0.5 ** ((len(measured) - 1 - k) / _HALF) for k in range(len(measured))]
    paces = [math.log(w.minutes / w.size) for w in measured]
    if song.minutes > 0 and song.done >= _SAYS_SOMETHING:
        # Its first minutes are listening; the share that is done is of the rest.
        weights.append(song.done)
        paces.append(math.log(song.minutes / (song.size * _spent_share(song))))
    total = sum(weights)
    mean = sum(w * p for w, p in zip(weights, paces, strict=True)) / (total + _PRIOR_SONGS)
    around = sum(w * (p - mean) ** 2 for w, p in zip(weights, paces, strict=True))
    spread = math.sqrt(
        (around + _SPREAD_SONGS * _USUAL_SPREAD**2) / (total + _SPREAD_SONGS)
        + _PRIOR_SPREAD**2 / (1 + total) ** 2
    )
    left = song.size * (1 - _spent_share(song))
    likely = left * math.exp(mean)
    return Forecast(
        likely,
        likely * math.exp(-1.2816 * spread),
        likely * math.exp(1.2816 * spread),
        len(measured),
    )


def _spent_share(song: Work) -> float:
    """The share of a song's size that is behind whoever confirmed a share of its bars."""
    if song.done <= 0:
        return 0.0
    return min(
        (_MINUTES_OF_A_FIRST_SONG + song.done * (song.size - _MINUTES_OF_A_FIRST_SONG)) / song.size,
        1.0,
    )
