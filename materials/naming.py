"""A user who names sounds, simulated: what three answers are worth, by the edits that the page sends."""

from __future__ import annotations

from collections import Counter
from typing import Any, NamedTuple

import numpy as np

from materials.measures import TOLD
from materials.record_measures import every_part
from orchesis import editing
from orchesis.checks import kit_sounds
from orchesis.score import KIT, Score

_STROKE = 0.05  # seconds
_FEWEST = 3  # strokes that an answer has to mend to be asked for
_ALIKE = 0.8  # share of the examples that make an answer
ASKED = 3


class Named(NamedTuple):
    """Every part before and after the answers, how many were given, how many sounds there were, and of the
    strokes of named sounds how many are right."""

    before: float
    after: float
    answers: int
    sounds: int
    right: int
    of: int


def named(truth: dict, score: Score, asked: int = ASKED) -> Named:
    """The largest wrong sounds answered one after the other by one who plays five of each: where four of them
    are one part, it is that; where four are none, it is no drum; else it is left."""
    before = every_part(truth, _heard(score))
    count, given = len(score.sounds), 0
    for _ in range(asked):
        open_ = [s for s in kit_sounds.of_song(score) if not s.answer]
        wrong = {s.number: _wrong(truth, score, s) for s in open_}
        if not wrong:
            break
        worst = max(wrong, key=lambda n: wrong[n][0])
        mended, part = wrong[worst]
        if mended < _FEWEST:
            break
        edit: dict[str, Any] = {"operation": "dismiss_sound", "sound": worst}
        if part is not None:
            edit = {"operation": "name_sound", "sound": worst, "part": part}
        score, _, _ = editing.apply(score, editing.edit_of(edit))
        given += 1
    answered = {s.number for s in score.sounds if s.answer == "named"}
    own = [s for s in score.strokes.values() if s.measured and s.measured.sound in answered]
    right = [
        t is not None and TOLD[t] == TOLD[s.part]
        for s, t in zip(own, _truths(truth, own), strict=True)
    ]
    return Named(before, every_part(truth, _heard(score)), given, count, sum(right), len(own))


def _heard(score: Score) -> list[Any]:
    return [s for s in score.strokes.values() if s.time is not None]


def _wrong(truth: dict, score: Score, sound: kit_sounds.Sound) -> tuple[int, str | None]:
    """How many strokes more the answer to a sound mends than it breaks, and the answer: a part, or None for
    no drum."""
    own = [s for s in score.strokes.values() if s.measured and s.measured.sound == sound.number]
    unsure = [p for p in score.perhaps.values() if p.measured.sound == sound.number]
    told = [None if t is None else TOLD[t] for t in _truths(truth, [*own, *unsure])]
    at = {s.time: t for s, t in zip([*own, *unsure], told, strict=True)}
    heard = Counter(min(at.items(), key=lambda x: abs(x[0] - e))[1] for e in sound.examples)
    part, alike = heard.most_common(1)[0]
    if alike < _ALIKE * len(sound.examples):
        return 0, None
    now: list[str | None] = [*(TOLD[s.part] for s in own), *[None] * len(unsure)]
    mends = sum(t == part and n != part for t, n in zip(told, now, strict=True))
    breaks = sum(t == n and n != part for t, n in zip(told, now, strict=True))
    return mends - breaks, part


def _truths(truth: dict, strokes: list[Any]) -> list[str | None]:
    """What was truly struck at each stroke's moment: its own part where that was, else one of its kind."""
    hits = sorted(truth["hits"], key=lambda h: h["time"])
    times = np.array([h["time"] for h in hits])
    made: list[str | None] = []
    for s in strokes:
        lo, hi = np.searchsorted(times, [s.time - _STROKE, s.time + _STROKE])
        near = [h["part"] for h in hits[lo:hi]]
        same = [p for p in near if TOLD[p] == TOLD[s.part]]
        alike = [p for p in near if _kind(p) == _kind(s.part)]
        made.append(next(iter([*same, *alike]), None))
    return made


def _kind(part: str) -> str:
    """What may be taken for one another: metal, feet, the drums of the hands."""
    if part == "kick":
        return "kick"
    return "metal" if KIT[part].family in ("hat", "cymbal") else "drum"
