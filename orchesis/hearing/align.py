"""Other takes of a song laid beside it, bar to bar."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
import soundfile as sf

from orchesis.errors import BadSound
from orchesis.hearing import programs
from orchesis.hearing.types import Hearing, Report, silent

_CELLS = 16
_SKIP = 0.45  # what a bar without a partner costs
_SAME_SONG = 0.35  # mean likeness of bars from which on two recordings are one song


@dataclass(frozen=True)
class Aligned:
    """pairs: (bar here, bar there) of the same music, rising; likeness: 0..1 of each pair."""

    pairs: tuple[tuple[int, int], ...]
    likeness: tuple[float, ...]

    @property
    def mean_likeness(self) -> float:
        """Mean likeness of all pairs."""
        return float(np.mean(self.likeness)) if self.likeness else 0.0

    @property
    def is_same_song(self) -> bool:
        """Whether the bars are alike enough for two takes of one song."""
        return self.mean_likeness >= _SAME_SONG


def _rows(hearing: Hearing) -> np.ndarray:
    """(bars, features): where in the bar each family sounds, and the chord; not how fast or
    how loud, which differ between takes."""
    starts = np.array([b.time for b in hearing.beats if b.beat == 1])
    kinds = ("kick", "snare", "cross", "hat", "ride", "crash", "tom")
    rows = np.zeros((len(starts) - 1, len(kinds) * _CELLS))
    for hit in hearing.hits:
        bar = int(np.searchsorted(starts, hit.time + 0.03, side="right")) - 1
        kind = next((k for k, name in enumerate(kinds) if hit.part.startswith(name)), None)
        if kind is None or not 0 <= bar < len(rows):
            continue
        place = (hit.time - starts[bar]) / (starts[bar + 1] - starts[bar])
        cell = min(max(int(place * _CELLS + 0.5), 0), _CELLS - 1)
        rows[bar, kind * _CELLS + cell] = max(rows[bar, kind * _CELLS + cell], hit.confidence)
    rows /= np.linalg.norm(rows, axis=1, keepdims=True) + 1e-6
    chords = (
        np.array([b.chroma for b in hearing.bars]) if hearing.bars else np.zeros((len(rows), 12))
    )
    chords = chords[: len(rows)] - chords.mean(axis=0)
    chords /= np.linalg.norm(chords, axis=1, keepdims=True) + 1e-6
    return np.concatenate([rows * np.sqrt(0.7), chords * np.sqrt(0.3)], axis=1)


def takes(here: Hearing, there: Hearing) -> Aligned:
    """Bar by bar alignment of two takes of one song at any tempo and level.

    The cheapest way through both (dynamic programming over bars; Needleman & Wunsch, 1970);
    a bar may stay without a partner where one take repeats, cuts or adds.
    """
    a, b = _rows(here), _rows(there)
    cost = 1 - a @ b.T
    n, m = cost.shape
    total = np.zeros((n + 1, m + 1))
    total[:, 0], total[0] = _SKIP * np.arange(n + 1), _SKIP * np.arange(m + 1)
    step = np.zeros((n + 1, m + 1), int)
    step[:, 0], step[0] = 1, 2
    for i in range(1, n + 1):
        for j in range(1, m + 1):
            ways = (
                total[i - 1, j - 1] + cost[i - 1, j - 1],
                total[i - 1, j] + _SKIP,
                total[i, j - 1] + _SKIP,
            )
            step[i, j] = int(np.argmin(ways))
            total[i, j] = ways[step[i, j]]
    pairs, i, j = [], n, m
    while i > 0 and j > 0:
        if step[i, j] == 0:
            i, j = i - 1, j - 1
            pairs.append((i + 1, j + 1))
        elif step[i, j] == 1:
            i -= 1
        else:
            j -= 1
    pairs.reverse()
    return Aligned(tuple(pairs), tuple(round(float(1 - cost[p - 1, q - 1]), 3) for p, q in pairs))


def anchors(here: Hearing, there: Hearing, aligned: Aligned) -> tuple[tuple[float, float], ...]:
    """(seconds here, seconds there) of the bars that have a partner, rising, and the end of
    the last: between them both takes run in proportion."""
    mine, theirs = ([b.time for b in h.beats if b.beat == 1] for h in (here, there))
    pairs = [(mine[a - 1], theirs[b - 1]) for a, b in aligned.pairs]
    if aligned.pairs:
        a, b = aligned.pairs[-1]
        pairs.append((mine[a], theirs[b]))
    return tuple((round(a, 4), round(b, 4)) for a, b in pairs)


def across(times: Sequence[float], places: Sequence[tuple[float, float]]) -> np.ndarray:
    """Moments of another take, in seconds of this one; (n,).

    places: anchors (seconds here, seconds there); before the first and behind the last the take
    runs on at this one's speed.
    """
    here, there = (np.array([p[k] for p in places]) for k in (0, 1))
    at = np.asarray(times, float)
    there_times = np.interp(at, there, here)
    there_times = np.where(at < there[0], here[0] + at - there[0], there_times)
    return np.where(at > there[-1], here[-1] + at - there[-1], there_times)


def laid_over(
    take: str | Path,
    places: Sequence[tuple[float, float]],
    duration: float,
    out: str | Path,
    report: Report = silent,
) -> None:
    """Writes a take so that it runs in step with another recording of that duration (seconds).

    places: anchors; one alone moves the take without stretching it. Several stretch it between
    them without change of pitch (the program rubberband). report("beside", share) is called as
    it goes on and may raise Cancelled. Raises BadSound if they don't rise.
    """
    sound, rate = sf.read(take, dtype="float32", always_2d=True)
    size = int(duration * rate)
    if len(places) == 1:
        here, there = places[0]
        moved = np.zeros((size, sound.shape[1]), np.float32)
        lag = round((here - there) * rate)
        lo, hi = max(lag, 0), min(lag + len(sound), size)
        if hi > lo:
            moved[lo:hi] = sound[lo - lag : hi - lag]
        sf.write(out, moved, rate, subtype="PCM_16", format="FLAC")
        return
    if len(places) < 2 or any(b[0] <= a[0] or b[1] <= a[1] for a, b in pairwise(places)):
        raise BadSound("These two recordings could not be laid over each other bar by bar.")
    # Before the first and behind the last pair both run on at one speed.
    first = places[0]
    lead = min(first[0], first[1])
    start = round((first[1] - lead) * rate)
    points = [
        (round((b - first[1] + lead) * rate), round((a - first[0] + lead) * rate))
        for a, b in places
    ]
    rest = len(sound) - start - points[-1][0]
    total = points[-1][1] + rest
    with tempfile.TemporaryDirectory(dir=Path(out).parent) as folder:
        source, target, plan = (Path(folder) / n for n in ("in.wav", "out.wav", "map.txt"))
        sf.write(source, sound[start:], rate, subtype="PCM_16")
        plan.write_text("".join(f"{a} {b}\n" for a, b in points))
        command = [
            "rubberband",
            "-q",
            "-M",
            str(plan),
            "-D",
            f"{total / rate:.6f}",
            str(source),
            str(target),
        ]
        try:
            ended = programs.run(command, seconds=600, tick=lambda _said: report("beside", 0.5))
        except programs.ProgramMissing as problem:
            raise BadSound(str(problem)) from None
        except programs.TookTooLong:
            ended = None
        if ended is None or ended.code != 0:
            raise BadSound("This take could not be brought to the song's tempo.")
        stretched, _ = sf.read(target, dtype="float32", always_2d=True)
    fitted = np.zeros((size, stretched.shape[1]), np.float32)
    at = round((first[0] - lead) * rate)
    hi = min(at + len(stretched), size)
    fitted[at:hi] = stretched[: hi - at]
    sf.write(out, np.clip(fitted, -1, 1), rate, subtype="PCM_16", format="FLAC")
