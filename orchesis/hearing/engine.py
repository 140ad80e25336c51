"""The whole hearing of one recording, step by step, with progress and cancel."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np

from orchesis.errors import BadSound
from orchesis.hearing import (
    cymbals,
    evidence,
    form,
    hits,
    judging,
    network,
    percussion,
    pulse,
    separate,
    sounds,
    spectrum,
)
from orchesis.hearing.repetition import by_repetition
from orchesis.hearing.sound import RATE, Intake, take_in
from orchesis.hearing.types import Beat, Hearing, Hit, Report, silent
from orchesis.score.moments import clock_text

#: The steps by name, in order, with their usual share of the time.
STEPS = (
    ("decode", "Reading the file", 0.12),
    ("spectrum", "Listening to the whole", 0.18),
    ("strokes", "Finding the strokes", 0.30),
    ("pulse", "Finding the pulse", 0.08),
    ("form", "Laying out the form", 0.02),
    ("drums", "Bringing the drums forward", 0.30),
)
_FEWEST_A_MINUTE = 12


def listen(
    path: str | Path,
    *,
    repetition: bool = True,
    drums: str | Path | None = None,
    report: Report = silent,
) -> Hearing:
    """Hear one recording in any format.

    repetition: whether the song's own repetition may settle unsure strokes (the second
    pass). drums: a FLAC file to write the drums alone to. report(step, share) is called as
    the work goes on and may raise Cancelled. Raises BadSound with one sentence for what
    can't be heard.
    """
    with tempfile.TemporaryDirectory(prefix="orchesis-") as folder:
        intake = take_in(path, Path(folder) / "sound.flac", report=report)
        return listen_to(intake, repetition=repetition, drums=drums, report=report)


def listen_to(
    intake: Intake,
    *,
    repetition: bool = True,
    drums: str | Path | None = None,
    report: Report = silent,
) -> Hearing:
    """Hear a recording that was taken in already; see ``listen``."""
    report("spectrum", 0.0)
    measured = spectrum.measure(intake.path, intake.duration, report=report)
    activity = network.hear(measured, report=report)
    hearing = heard(measured, activity, intake.duration, repetition=repetition, report=report)
    if drums is not None:
        separate.write_drums(intake.path, activity.mask, drums, report=report)
    return replace(hearing, notes=(*intake.notes, *hearing.notes))


def heard(
    measured: spectrum.Spectrum,
    activity: network.Activity,
    duration: float,
    *,
    repetition: bool = True,
    report: Report = silent,
) -> Hearing:
    """What the rules make of the spectrum and the network's activity of a recording."""
    candidates = [h for h in hits.Listener(measured, activity).candidates() if h.time < duration]
    strokes = hits.written(candidates)
    _must_have_drums(strokes, duration)
    report("pulse", 0.0)
    pulse_found = pulse.find(measured, activity, strokes)
    beats = pulse_found.beats
    first = [h.confidence for h in candidates]
    if repetition:
        candidates = by_repetition(candidates, beats, activity.strength)
    judged = judging.judged(candidates, first, measured, activity, beats)
    judged = [h for h in judged if h.confidence >= judging.KEPT]
    judged, sounds_heard = sounds.of_song(judged, measured, activity)
    floor = judging.WRITTEN
    if repetition:
        judged, floor = cymbals.weighed(judged, beats, judging.WRITTEN)
    sure = {id(h) for h in judged if h.confidence >= cymbals.least(h, floor, judging.WRITTEN)}
    strokes = [h for h in judged if id(h) in sure]
    _must_have_drums(strokes, 0.0)  # by now few strokes are enough, if they are sure
    report("form", 0.0)
    sections = form.sections(measured, beats, tuple(strokes))
    no_kit = percussion.of_intro(strokes, beats, sections)
    sure -= {id(strokes[i]) for i in no_kit}
    strokes = [h for h in judged if id(h) in sure]
    report("form", 1.0)
    return Hearing(
        duration=duration,
        sample_rate=RATE,
        tempo=pulse_found.tempo,
        meters=pulse_found.meters,
        beats=beats,
        hits=tuple(strokes),
        perhaps=tuple(h for h in judged if id(h) not in sure),
        sections=sections,
        levels=_levels(measured, activity),
        bars=form.material(measured, activity.mask, beats, tuple(strokes)),
        ones=pulse_found.ones,
        sounding=pulse_found.sounding,
        sounds=sounds_heard,
        evidence=evidence.of_song(activity),
        notes=tuple(_cut(moment, beats) for moment in pulse_found.cuts),
    )


def _cut(moment: float, beats: tuple[Beat, ...]) -> str:
    """What the user should read of a place at which the grid of a click breaks off."""
    bar = max((b.bar for b in beats if b.time <= moment), default=1)
    at = clock_text(moment)
    return (
        f"The beats break off at {at} (bar {bar}) and go on at another place: something was cut "
        "there, a beat is missing or one too many, or the click changes; see that bar in the Pulse."
    )


def _levels(
    heard: spectrum.Spectrum, activity: network.Activity
) -> tuple[tuple[float, float], ...]:
    """Level of the whole and of the drums each second, in dB against the loudest second."""
    whole, drums = spectrum.powers(heard.bands, activity.mask)
    marks = np.arange(0, len(whole), round(1 / hits.FRAME))
    whole, drums = (np.add.reduceat(x, marks) for x in (whole, drums))
    db = 10 * np.log10(np.stack([whole, drums]) / (whole.max() + 1e-12) + 1e-8)
    return tuple((round(float(a), 1), round(float(b), 1)) for a, b in db.T)


def _must_have_drums(strokes: list[Hit], duration: float) -> None:
    sure = sum(h.confidence > 0.5 for h in strokes)
    if sure < max(8, _FEWEST_A_MINUTE * duration / 60):
        raise BadSound(
            "No drums were heard in this recording; choose a take in which the drums play."
        )
