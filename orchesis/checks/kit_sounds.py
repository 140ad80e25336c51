"""The sounds of the song as a person judges them: how many, how sure, where to hear each."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from orchesis.score import CandidateHit, KitSound, Score, Stroke

#: Mean confidence of a sound below which it is perhaps no drum, and the share of its strokes
#: under a second name from which on that is told.
DOUBTED, OR = 0.4, 0.25
FIVE = 5
_APART = 0.12  # seconds within which another stroke would be heard with an example


@dataclass(frozen=True)
class Sound:
    """A sound of the song: written: strokes of it; unsure: what a name for it would write besides;
    sure: mean confidence of what is written or shown as perhaps. doubt: "no drum", a second part,
    or "" (what was answered is in none). first_bar: of its first stroke. examples: moments
    (seconds) of five that sound clearest. can_split: whether it may be two."""

    number: int
    part: str
    answer: str
    written: int
    unsure: int
    sure: float
    doubt: str
    first_bar: int
    examples: tuple[float, ...]
    can_split: bool
    picture: str


def of_song(score: Score) -> list[Sound]:
    """The sounds of a song, the largest first; those that nothing bears any more are left out."""
    written: dict[int, list[Stroke]] = defaultdict(list)
    unsure: dict[int, list[CandidateHit]] = defaultdict(list)
    for s in score.strokes.values():
        if s.measured and s.measured.sound:
            written[s.measured.sound].append(s)
    for p in score.perhaps.values():
        unsure[p.measured.sound].append(p)
    moments = np.sort([s.time for s in score.strokes.values() if s.time is not None])
    sounds = [
        _told(sound, written[sound.number], unsure[sound.number], moments)
        for sound in score.sounds
        if written[sound.number] or unsure[sound.number]
    ]
    return sorted(sounds, key=lambda s: (-s.written, -s.unsure, s.number))


def _told(
    sound: KitSound, written: list[Stroke], unsure: list[CandidateHit], moments: np.ndarray
) -> Sound:
    all_of_it: list[Stroke | CandidateHit] = [*written, *unsure]
    # What is kept for the sake of the sound alone says nothing of how sure its strokes are.
    shown_of_it: list[Stroke | CandidateHit] = [*written, *(p for p in unsure if p.is_shown)]
    sure = float(np.mean([s.confidence for s in shown_of_it or all_of_it]))
    return Sound(
        sound.number,
        sound.part,
        sound.answer,
        len(written),
        len(unsure),
        round(sure, 3),
        "" if sound.answer else _doubt(sound, all_of_it, sure),
        min((s.bar for s in written), default=0),
        _examples(all_of_it, moments),
        bool(sound.halves),
        sound.picture,
    )


def _doubt(sound: KitSound, strokes: list[Stroke | CandidateHit], sure: float) -> str:
    if sure < DOUBTED:
        return "no drum"
    votes: dict[str, float] = defaultdict(float)
    for s in strokes:
        votes[s.part] += s.confidence**2
    votes.pop(sound.part, None)
    if not votes:
        return ""
    rival = max(sorted(votes), key=lambda p: votes[p])
    whole = sum(s.confidence**2 for s in strokes)
    return rival if votes[rival] > OR * whole else ""


def _examples(strokes: list[Stroke | CandidateHit], moments: np.ndarray) -> tuple[float, ...]:
    """Five from all over the song: in each fifth of them the surest that sounds most alone."""
    timed = sorted((s.time, s.confidence) for s in strokes if s.time is not None)

    def clear(k: int) -> float:
        """How sure an example is, and how far from any other stroke."""
        near = np.abs(moments - timed[k][0])
        return timed[k][1] + min(1.0, near[near > 1e-6].min(initial=_APART) / _APART)

    fifths = np.array_split(np.arange(len(timed)), min(FIVE, len(timed)))
    return tuple(round(timed[max(fifth, key=clear)][0], 4) for fifth in fifths)
