"""Which was it?: questions to the ear about a song whose transcription is the key.

A stretch of the recording is played; what was it? Only bars without a doubt are asked about, for
the transcription must be right before it can be a key. Levels make it harder: shorter stretches,
more answers, softer strokes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from orchesis.score import KIT, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.stroke import NOBODYS

KINDS = ("section", "variation", "there", "one")
LEVELS = 5
_MIN_CONFIDENCE = 0.6  # confidence of every stroke of a bar that is asked about


@dataclass(frozen=True)
class Option:
    """An answer: words, or a bar to show (0: none)."""

    says: str
    bar: int = 0


@dataclass(frozen=True)
class Question:
    """first, beat: where the stretch begins (beat from 0); beats: how long it is. answer: number
    of the
    right option. because: what is told behind the answer."""

    kind: str
    asks: str
    first: int
    beat: int
    beats: int
    options: tuple[Option, ...]
    answer: int
    because: str


def question(score: Score, level: int, seed: int, kind: str | None = None) -> Question | None:
    """A question of a kind, or of any; None where the song has none. level: 1 to LEVELS."""
    rng = np.random.default_rng(seed)
    kinds = [kind] if kind else [KINDS[k] for k in rng.permutation(len(KINDS))]
    asked = {"section": _section, "variation": _variation, "there": _there, "one": _one}
    sure = _sure_bars(score)
    for name in kinds:
        question_asked = asked[name](score, sure, min(max(level, 1), LEVELS), rng)
        if question_asked is not None:
            return question_asked
    return None


def next_level(level: int, answers: Sequence[bool]) -> int:
    """Harder after three right in a row, easier after two wrong of the last three."""
    if len(answers) >= 3 and all(answers[-3:]):
        return min(LEVELS, level + 1)
    if answers[-3:].count(False) >= 2:
        return max(1, level - 1)
    return level


def _sure_bars(score: Score) -> list[int]:
    """Bars with strokes, none of which is in doubt."""
    return [
        bar
        for bar, strokes in sorted(score.by_bar().items())
        if (strokes_here := [s for s in strokes if s.doubt not in NOBODYS])
        and all(not s.doubt and s.confidence >= _MIN_CONFIDENCE for s in strokes_here)
    ]


def _picked(rng: np.random.Generator, count: int) -> int:
    return int(rng.integers(count))


def _section(
    score: Score, sure: Sequence[int], level: int, rng: np.random.Generator
) -> Question | None:
    """Which section is this?"""
    named: dict[str, list[int]] = {}
    for s in score.sections:
        bars = [b for b in range(s.first_bar, s.last_bar + 1) if b in set(sure)]
        if bars:
            named.setdefault(s.name, bars)
    if len(named) < 2:
        return None
    names = sorted(named, key=lambda n: named[n][0])
    right = names[_picked(rng, len(names))]
    others = [n for n in names if n != right]
    shown = {right, *(others[k] for k in rng.permutation(len(others))[: level + 1])}
    first = named[right][_picked(rng, len(named[right]))]
    beats = score.meters[first - 1].beats
    options = tuple(Option(n) for n in names if n in shown)
    return Question(
        "section",
        "Which section is this?",
        first,
        0,
        beats * (2 if level < 4 else 1),
        options,
        [o.says for o in options].index(right),
        f"Bar {first}, in {right}.",
    )


def _pattern(score: Score, bar: int) -> frozenset[tuple[Fraction, str, str]]:
    return frozenset(
        (s.place, s.part, s.dynamic) for s in score.strokes_of(bar) if s.doubt not in NOBODYS
    )


def _variation(
    score: Score, sure: Sequence[int], level: int, rng: np.random.Generator
) -> Question | None:
    """Which of these bars was it? Bars that differ little are asked about at high levels."""
    by_pattern: dict[frozenset[tuple[Fraction, str, str]], int] = {}
    for bar in sure:
        by_pattern.setdefault(_pattern(score, bar), bar)
    if len(by_pattern) < 2:
        return None
    patterns = list(by_pattern)
    right = patterns[_picked(rng, len(patterns))]
    meter = score.meters[by_pattern[right] - 1]
    others = sorted(
        (p for p in patterns if p != right and score.meters[by_pattern[p] - 1] == meter),
        key=lambda p: (len(p ^ right), by_pattern[p]),
    )
    if not others:
        return None
    if level < 3:
        others.reverse()
    shown = [right, *others[: 1 + (level + 1) // 2]]
    order = [shown[int(k)] for k in rng.permutation(len(shown))]
    bar = by_pattern[right]
    return Question(
        "variation",
        "Which of these was it?",
        bar,
        0,
        meter.beats,
        tuple(Option(chr(65 + n), by_pattern[p]) for n, p in enumerate(order)),
        order.index(right),
        f"Bar {bar}.",
    )


def _there(
    score: Score, sure: Sequence[int], level: int, rng: np.random.Generator
) -> Question | None:
    """Was there such a stroke? Loud ones first, ghosts last."""
    if len(sure) < 2:
        return None

    def asked(s: Stroke) -> bool:
        if level >= 4:
            return s.dynamic == "ghost"
        if level >= 2:
            return s.part in ("hat_open", "kick", "ride_bell") and s.place.denominator > 1
        return s.part in ("crash", "hat_open", "kick", "snare")

    places = sorted(
        {
            (s.part, s.dynamic == "ghost", s.place)
            for b in sure
            for s in score.strokes_of(b)
            if asked(s)
        }
    )
    if not places:
        return None
    part, ghost, place = places[_picked(rng, len(places))]
    has = {
        b: any(
            s.part == part and s.place == place and (s.dynamic == "ghost") == ghost
            for s in score.strokes_of(b)
        )
        for b in sure
    }
    is_there = bool(rng.integers(2))
    bars = [b for b, h in has.items() if h == is_there and place < score.meters[b - 1].beats]
    if not bars:
        is_there = not is_there
        bars = [b for b, h in has.items() if h == is_there and place < score.meters[b - 1].beats]
    if not bars:
        return None
    bar = bars[_picked(rng, len(bars))]
    name = ("a ghost of the " if ghost else "the ") + KIT[part].label.lower()
    where = place_text(place, score.meters[bar - 1])
    because = f"Bar {bar}: {name} {'is' if is_there else 'is not'} there on {where}."
    options = (Option("It was"), Option("It was not"))
    beats = score.meters[bar - 1].beats
    return Question(
        "there",
        f"Was {name} there on {where}?",
        bar,
        0,
        beats,
        options,
        0 if is_there else 1,
        because,
    )


def _one(
    score: Score, sure: Sequence[int], level: int, rng: np.random.Generator
) -> Question | None:
    """Where is the 1? The stretch begins on any beat."""
    bars = [b for b in sure if b + 2 <= score.bar_count and b + 1 in set(sure)]
    bars = [b for b in bars if score.meters[b - 1] == score.meters[b]]
    if not bars:
        return None
    bar = bars[_picked(rng, len(bars))]
    beats = score.meters[bar - 1].beats
    if beats < 2:
        return None
    start = _picked(rng, beats)
    length = 2 * beats - start if level > 2 else 2 * beats
    options = tuple(Option(f"Click {k + 1}") for k in range(beats))
    because = f"The stretch begins on beat {start + 1} of bar {bar}."
    return Question(
        "one",
        "Which of the clicks was the 1?",
        bar,
        start,
        length,
        options,
        (beats - start) % beats,
        because,
    )
