"""A recording of one's practice: heard, laid beside the part, and judged.

Composes hearing and teaching. Candidates of the onset model are taken as they are, without the
rules that settle a song: a player's part is known, only what was played of it is asked.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from orchesis.errors import BadScore
from orchesis.hearing import network, onsets, spectrum, take_in
from orchesis.hearing.hits import FRAME, Listener
from orchesis.hearing.sound import Intake
from orchesis.hearing.types import Report, silent
from orchesis.score import Score
from orchesis.sounding import part
from orchesis.sounding.render import render
from orchesis.teaching import aligning, judging
from orchesis.teaching.aligning import Alignment, expected_of, length_of
from orchesis.teaching.stretches import Heard, kind_of

STEPS = (
    ("decode", "Reading the file", 0.2),
    ("spectrum", "Listening to the whole", 0.3),
    ("strokes", "Finding the strokes", 0.4),
    ("judging", "Comparing with the part", 0.1),
)
#: Bands (Hz) in which a kind of stroke is measured: where it speaks and the others are quiet.
MEASURE_BANDS = {
    "kick": (30, 120),
    "snare": (400, 2000),
    "tom": (80, 400),
    "cymbal": (6000, 16000),
}
_LOUDEST_DB, _SOFTEST_DB = 12.0, -20.0  # that a stroke is taken to lie off its written level


@dataclass(frozen=True)
class Take:
    """judged: as for what is played in. alignment: where in the recording the part was found."""

    judged: judging.Judged
    alignment: Alignment


def judge_recording(path: str | Path, score: Score, report: Report = silent) -> Take:
    """Judges a recording of a part, looped or not, in any format that is heard.

    Raises BadSound where it can't be heard, BadScore where the part is not to be found in it.
    """
    with tempfile.TemporaryDirectory(prefix="orchesis-") as folder:
        intake = take_in(path, Path(folder) / "sound.flac", report=report)
        return judge_intake(intake, score, report)


def judge_intake(intake: Intake, score: Score, report: Report = silent) -> Take:
    """The same of a recording that was taken in already."""
    if intake.duration > aligning.MAX_SECONDS:
        raise BadScore(
            f"A recording of practice may last {aligning.MAX_SECONDS / 60:.0f} minutes; "
            f"this one lasts {intake.duration / 60:.1f}. Cut out the loops that you want checked."
        )
    report("spectrum", 0.0)
    measured = spectrum.measure(intake.path, intake.duration, report=report)
    activity = network.hear(measured, report=report)
    listener = Listener(measured, activity)
    report("judging", 0.0)
    hits = listener.candidates()
    heard = _once([Heard(h.time, h.part, h.confidence) for h in hits])
    heard = onsets.apart(heard, intake.path)
    alignment = aligning.align(heard, score)
    levels = _Levels(measured.bands, activity.mask)
    reference = _Reference(score)
    played = _on_the_part(heard, alignment, levels, reference, score)
    spans, moved = _unrolled(alignment, played, score)
    is_known = reference.likeness(levels, heard, alignment, score) >= _KNOWN_KIT
    uneven = judging.UNEVEN_DB if is_known else judging.UNEVEN_UNKNOWN_DB
    judged = judging.judge_heard(score, moved, spans, alignment.drift / 100, uneven)
    report("judging", 1.0)
    return Take(replace(judged, tempo=alignment.says()), alignment)


def _once(heard: Sequence[Heard]) -> list[Heard]:
    """What was heard, of several names for one onset of a kind the surest."""
    kept: list[Heard] = []
    newest: dict[str, int] = {}
    for h in sorted(heard, key=lambda h: h.time):
        kind = kind_of(h.part)
        k = newest.get(kind)
        if k is not None and h.time - kept[k].time < _SAME_ONSET_S:
            if h.confidence > kept[k].confidence:
                kept[k] = h
            continue
        newest[kind] = len(kept)
        kept.append(h)
    return kept


_SAME_ONSET_S = 0.015


class _Levels:
    """How loud strokes are in the band in which their kind speaks, in dB."""

    def __init__(self, bands: np.ndarray, mask: np.ndarray | None) -> None:
        centres = spectrum.band_edges()[1:-1]
        shown = bands.astype(np.float32)
        self.bands = shown if mask is None else shown * np.sqrt(mask.astype(np.float32))
        self.power = {}
        for kind, (low, high) in MEASURE_BANDS.items():
            bins = np.flatnonzero((centres >= low) & (centres < high))
            self.power[kind] = (self.bands[:, bins] ** 2).sum(axis=1)

    def spectrum(self, times: Sequence[float]) -> np.ndarray:
        """The mean shape of what begins at some moments, (bands,): compressed, each of length 1."""
        frames = np.round(np.array(times) / FRAME).astype(int)
        last = len(self.bands) - 1
        after = self.bands[np.clip(frames[:, None] + np.arange(0, 4), 0, last)].max(axis=1)
        before = self.bands[np.clip(frames[:, None] - np.arange(3, 6), 0, last)].mean(axis=1)
        shape = np.cbrt(np.maximum(after - before, 0.0))
        return (shape / (np.linalg.norm(shape, axis=1, keepdims=True) + 1e-9)).mean(axis=0)

    def at(self, time: float, kind: str) -> float | None:
        power = self.power.get(kind)
        if power is None:
            return None
        frame = round(time / FRAME)
        after = power[max(0, frame - 1) : frame + 5]
        before = power[max(0, frame - 6) : max(0, frame - 2)]
        if not len(after):
            return None
        rise = float(after.max()) - (float(before.mean()) if len(before) else 0.0)
        return 10 * np.log10(max(rise, 1e-4 * float(after.max()), 1e-12))


class _Reference:
    """The part as it is written, played by our own kit and measured as the recording is. The second
    of two loops is measured, into which the first rings."""

    def __init__(self, score: Score) -> None:
        length = length_of(score)
        start = score.pulse.times[0]
        twice = [
            (e.time - start + _LEAD + k * length, e.part, e.loudness, e.choked)
            for k in range(2)
            for e in part.events(score)
        ]
        sound = render([e for e in twice if e[0] >= 0], _LEAD + 2 * length + 1.0)
        marks = range(0, len(sound), _BLOCK)
        bands = [
            spectrum.band_magnitudes(sound[k : k + _BLOCK])[: _BLOCK // spectrum.HOP] for k in marks
        ]
        self.levels = _Levels(np.concatenate(bands), None)
        self.written: dict[str, dict[float, float]] = {}
        self.moments: dict[str, list[float]] = {}
        for at, s in expected_of(score):
            kind, moment = kind_of(s.part), at + _LEAD + length
            level = self.levels.at(moment, kind)
            if level is not None:
                self.written.setdefault(kind, {})[round(at, 4)] = level
                self.moments.setdefault(kind, []).append(moment)

    def likeness(
        self, levels: _Levels, heard: Sequence[Heard], alignment: Alignment, score: Score
    ) -> float:
        """How much the kit of the recording sounds like ours, 0..1: the cosine of the mean spectra
        of its strokes, of the kind that is least alike."""
        likenesses = []
        for kind, moments in self.moments.items():
            times = [h.time for h in heard if kind_of(h.part) == kind and h.confidence > 0.6]
            if len(times) < _FEW or len(moments) < 2:
                continue
            a, b = levels.spectrum(times[:_MANY]), self.levels.spectrum(moments[:_MANY])
            likenesses.append(float(a @ b / (np.linalg.norm(a) * np.linalg.norm(b) + 1e-12)))
        return min(likenesses, default=0.0)


_LEAD = 0.5
_BLOCK = 2000 * spectrum.HOP
_FEW, _MANY = 6, 400
#: Likeness from which on the kit is taken for ours, whose balance is known.
_KNOWN_KIT = 0.98


def _on_the_part(
    heard: Sequence[Heard],
    alignment: Alignment,
    levels: _Levels,
    reference: _Reference,
    score: Score,
) -> list[tuple[int, judging.Played]]:
    """What was heard in the stretches, by the part's clock, with its level against the written
    one."""
    length = length_of(score)
    written = reference.written
    rows = {kind: np.array(sorted(row)) for kind, row in written.items()}
    times = np.array([h.time for h in heard])
    placed: list[tuple[int, judging.Played]] = []
    for n, stretch in enumerate(alignment.stretches):
        places = stretch.place(times)
        for h, place in zip(heard, places, strict=True):
            if not stretch.first - 0.1 <= place <= stretch.last + 0.1:
                continue
            kind = kind_of(h.part)
            level = None
            if kind in rows and (now := levels.at(h.time, kind)) is not None:
                row = rows[kind]
                off = (place - row + length / 2) % length - length / 2
                k = int(np.argmin(np.abs(off)))
                if abs(off[k]) < _SAME_S:
                    level = now - written[kind][float(row[k])]
            placed.append((n, judging.Played(float(place), h.part, 0.7, h.confidence, level)))
    levels_known = [p.level_db for _, p in placed if p.level_db is not None and p.confidence > 0.5]
    usual = float(np.median(levels_known)) if levels_known else 0.0
    return [
        (
            n,
            p
            if p.level_db is None
            else replace(p, level_db=float(np.clip(p.level_db - usual, _SOFTEST_DB, _LOUDEST_DB))),
        )
        for n, p in placed
    ]


_SAME_S = 0.07


def _unrolled(
    alignment: Alignment, played: Sequence[tuple[int, judging.Played]], score: Score
) -> tuple[list[tuple[float, float]], list[judging.Played]]:
    """Stretches one behind the other, loops apart, so that no stroke of one is near another's."""
    length = length_of(score)
    spans, moved = [], []
    after = 0.0
    for n, stretch in enumerate(alignment.stretches):
        shift = length * (np.ceil(after / length) - np.floor(stretch.first / length))
        spans.append((stretch.first + shift, stretch.last + shift))
        moved += [replace(p, time=p.time + float(shift)) for k, p in played if k == n]
        after = stretch.last + float(shift) + 0.5
    return [(float(a), float(b)) for a, b in spans], moved
