"""How the kick goes with the bass: where both strike, where each does alone."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction

from orchesis.placing.requantise import nearest_place
from orchesis.score import KIT, Score

_LATE = 0.015  # seconds by which a pitch is felt after its note began


@dataclass(frozen=True)
class BassNote:
    """A note of the bass where it is written; pitch: a MIDI key."""

    bar: int
    place: Fraction
    pitch: int


@dataclass(frozen=True)
class KickAndBass:
    """notes: of the bass in some bars. together: places that both strike; of_bass, of_kick: that
    each strikes. bass_alone, kick_alone: (place in the bar, in how many bars), the most frequent
    first."""

    notes: tuple[BassNote, ...]
    together: int
    of_bass: int
    of_kick: int
    bass_alone: tuple[tuple[Fraction, int], ...]
    kick_alone: tuple[tuple[Fraction, int], ...]


def read(score: Score, first: int, last: int, heard: Iterable[tuple[float, int]]) -> KickAndBass:
    """heard: moments (seconds of the recording) and pitches of the bass's notes, in order."""
    notes: dict[tuple[int, Fraction], BassNote] = {}
    for moment, pitch in heard:
        bar, place = nearest_place(score, moment - _LATE)
        if first <= bar <= last:
            notes.setdefault((bar, place), BassNote(bar, place, pitch))
    played = score.played()
    kicks = {
        (s.bar, s.place)
        for b in range(first, last + 1)
        for s in played.strokes_of(b)
        if KIT[s.part].role == "right_foot"
    }
    both = kicks & notes.keys()
    return KickAndBass(
        tuple(notes[k] for k in sorted(notes)),
        len(both),
        len(notes),
        len(kicks),
        _alone(notes.keys() - both),
        _alone(kicks - both),
    )


def _alone(spots: Iterable[tuple[int, Fraction]]) -> tuple[tuple[Fraction, int], ...]:
    counted = Counter(place for _, place in spots)
    return tuple(sorted(counted.items(), key=lambda c: (-c[1], c[0])))
