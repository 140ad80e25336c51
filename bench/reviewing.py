"""How much of what is wrong the first answers of the review mend: a simulated user.

The user answers the queue from its top as one who hears the truth: per question, what most of its
strokes are. All strokes of the question get that answer, as on the desk. Errors are strokes that are
missing or too many, by part, at 50 ms; the drums of a bench song are known.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from materials.songs import OUT
from orchesis.checks import review, unlikely
from orchesis.checks.review import Doubt
from orchesis.correcting.form_edits import Settle
from orchesis.correcting.sound_edits import (
    DismissSound,
    DropPerhaps,
    NameSound,
    SplitSound,
    WritePerhaps,
)
from orchesis.correcting.stroke_edits import AddStroke, Many, RemoveStroke, SetDoubt, SetPart
from orchesis.editing import apply
from orchesis.errors import OrchesisError
from orchesis.score import Score
from orchesis.score.edit import Edit
from orchesis.score.swing import swung

_NEAR = 0.05  # seconds
ANSWERS = 15


@dataclass(frozen=True)
class Truth:
    """Strokes as (seconds, part), in order."""

    hits: tuple[tuple[float, str], ...]

    @classmethod
    def of(cls, name: str) -> Truth:
        told = json.loads((OUT / f"{name}.truth.json").read_text())["hits"]
        return cls(tuple(sorted((h["time"], h["part"]) for h in told)))

    def at(self, seconds: float) -> list[str]:
        times = np.array([t for t, _ in self.hits])
        return [self.hits[i][1] for i in np.flatnonzero(np.abs(times - seconds) <= _NEAR)]


def errors(score: Score, truth: Truth) -> int:
    """Strokes missing and too many, by part."""
    wrong = 0
    heard: dict[str, list[float]] = {}
    for s in score.played().strokes.values():
        heard.setdefault(s.part, []).append(_moment(score, s.bar, s.place, s.time))
    for part in {p for _, p in truth.hits} | set(heard):
        want = sorted(t for t, p in truth.hits if p == part)
        have = sorted(heard.get(part, []))
        hits = i = j = 0
        while i < len(want) and j < len(have):
            if abs(want[i] - have[j]) <= _NEAR:
                hits, i, j = hits + 1, i + 1, j + 1
            elif want[i] < have[j]:
                i += 1
            else:
                j += 1
        wrong += len(want) + len(have) - 2 * hits
    return wrong


def _moment(score: Score, bar: int, place, time: float | None) -> float:  # type: ignore[no-untyped-def]
    if time is not None:
        return time
    return score.pulse.seconds(score.start_of(bar) + swung(place, score.swing))


def answer(score: Score, doubt: Doubt, truth: Truth) -> Edit:
    """What a person who hears the truth answers."""
    if doubt.heard is not None:
        return _named(score, doubt, truth)
    if doubt.kind == "missing":
        there = [doubt.part in truth.at(_moment(score, b, doubt.place, None)) for b in doubt.bars]
        if 2 * sum(there) <= len(there):
            return Settle(key=doubt.key)
        adds = [
            AddStroke(
                id=f"a{doubt.key[:20]}{b}",
                bar=b,
                place=doubt.place,
                part=doubt.part,
                limb=doubt.limb,
            )  # type: ignore[arg-type]
            for b in doubt.bars
        ]
        return Many(edits=adds)
    if doubt.kind == "perhaps":
        own = [score.perhaps[k] for k in doubt.perhaps]
        right = sum(doubt.part in truth.at(p.time) for p in own)
        kind = WritePerhaps if 2 * right > len(own) else DropPerhaps
        return kind(ids=list(doubt.perhaps))
    strokes = [score.strokes[k] for k in doubt.strokes if k in score.strokes]
    votes: Counter[str] = Counter()
    for s in strokes:
        beside = {x.part for x in score.strokes_of(s.bar) if x.place == s.place and x.id != s.id}
        parts = [p for p in truth.at(_moment(score, s.bar, s.place, s.time)) if p not in beside]
        votes[s.part if s.part in parts else parts[0] if parts else ""] += 1
    best = votes.most_common(1)[0][0] if votes else doubt.part
    if best == doubt.part:
        if doubt.kind in ("echo", "hands") or not strokes:
            return Settle(key=doubt.key)
        return Many(edits=[SetDoubt(id=s.id, doubt="", reason="") for s in strokes])
    if not best:
        return Many(edits=[RemoveStroke(id=s.id) for s in strokes])
    return Many(edits=[SetPart(id=s.id, part=best) for s in strokes])


def _named(score: Score, doubt: Doubt, truth: Truth) -> Edit:
    """What five strokes of a sound are: where four agree it is that; else it is split, if it can be."""
    sound = doubt.heard
    assert sound is not None
    votes: Counter[str] = Counter()
    for t in sound.examples:
        parts = truth.at(t)
        votes[doubt.part if doubt.part in parts else parts[0] if parts else ""] += 1
    part, alike = votes.most_common(1)[0]
    if alike >= 0.8 * len(sound.examples):
        if part == doubt.part:
            return Settle(key=doubt.key)
        if not part:
            return DismissSound(sound=sound.number)
        return NameSound(sound=sound.number, part=part)
    return SplitSound(sound=sound.number) if sound.can_split else Settle(key=doubt.key)


def mended(name: str, score: Score, answers: int = ANSWERS) -> tuple[int, int, int]:
    """(errors before, after the first answers, questions there were) of a bench song."""
    truth = Truth.of(name)
    before, asked, count = errors(score, truth), set[str](), 0
    for _ in range(answers):
        special = [*unlikely.echo_doubts(score), *unlikely.third_hand(score)]
        queue = [d for d in review.queue(score, special) if d.key not in asked]
        count = count or len(queue)
        if not queue:
            break
        asked.add(queue[0].key)
        try:
            score = apply(score, answer(score, queue[0], truth))[0]
        except OrchesisError:
            continue
    return before, errors(score, truth), count


def run(heard: Mapping[str, Score]) -> tuple[float, list[str]]:
    """(share of all errors of the bench songs that the first answers mend, a table by song)."""
    lines = ["| song | questions | errors | after 15 answers |", "|---|---|---|---|"]
    before = after = 0
    for name, score in heard.items():
        if not (OUT / f"{name}.truth.json").exists():
            continue
        had, left, count = mended(name, score)
        before, after = before + had, after + left
        lines.append(f"| {name} | {count} | {had} | {left} |")
    return 1 - after / max(1, before), lines
