"""The whole hearing of one recording, step by step, with progress and cancel."""

from __future__ import annotations

import tempfile
from pathlib import Path

from orchesis.errors import BadSound
from orchesis.hearing import form, hits, network, pulse, spectrum
from orchesis.hearing.sound import RATE, Intake, take_in
from orchesis.hearing.types import Hearing, Hit, Report, silent

#: The steps by name, in order, with their usual share of the time.
STEPS = (
    ("decode", "Reading the file", 0.15),
    ("spectrum", "Listening to the whole", 0.25),
    ("strokes", "Finding the strokes", 0.40),
    ("pulse", "Finding the pulse", 0.15),
    ("form", "Laying out the form", 0.05),
)
_FEWEST_A_MINUTE = 12


def listen(path: str | Path, *, report: Report = silent) -> Hearing:
    """Hear one recording in any format.

    report(step, share) is called as the work goes on and may raise Cancelled.
    Raises BadSound with one sentence for what can't be heard.
    """
    with tempfile.TemporaryDirectory(prefix="orchesis-") as folder:
        intake = take_in(path, Path(folder) / "sound.flac", report=report)
        return listen_to(intake, report=report)


def listen_to(intake: Intake, *, report: Report = silent) -> Hearing:
    """Hear a recording that was taken in already."""
    report("spectrum", 0.0)
    heard = spectrum.measure(intake.path, intake.duration, report=report)
    activity = network.hear(heard, report=report)
    listener = hits.Listener(heard, activity)
    strokes = [h for h in listener.hits() if h.time < intake.duration]
    _must_have_drums(strokes, intake.duration)
    report("pulse", 0.0)
    tempo, meter, beats = pulse.find(
        heard, listener.strength, activity.pulse, strokes, report=report
    )
    report("form", 0.0)
    sections = form.sections(heard, beats, tuple(strokes))
    report("form", 1.0)
    return Hearing(
        duration=intake.duration,
        sample_rate=RATE,
        tempo=tempo,
        meter=meter,
        beats=beats,
        hits=tuple(strokes),
        sections=sections,
        notes=intake.notes,
    )


def _must_have_drums(strokes: list[Hit], duration: float) -> None:
    sure = sum(h.confidence > 0.5 for h in strokes)
    if sure < max(8, _FEWEST_A_MINUTE * duration / 60):
        raise BadSound(
            "No drums were heard in this recording; choose a take in which the drums play."
        )
