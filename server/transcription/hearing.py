"""Hearing a recording, as a kind of long work: from the file to a first transcription, or to a
further take beside the song's first one."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

from django.core.files import File
from jobs import queue
from jobs.kinds import Kind
from jobs.models import Job
from jobs.work import Work
from library import store
from library.models import Analysis, Song, Take
from library.quota import room_for

from orchesis.analysis_file import analysis, hearing_of
from orchesis.errors import BadSound, Cancelled
from orchesis.hearing import STEPS, Hearing, align, listen_to, stems, take_in
from orchesis.hearing.sound import RATE, has_picture
from orchesis.hearing.types import Report
from orchesis.transcribing import transcribe
from transcription.models import Arrangement

HEARING = "hearing"


class _NoLongerFirst(Exception):
    """Another take of the song has become its first one since it was looked for."""


def start_hearing(take: Take, who: Any = None) -> Job:
    """Asks for a recording to be heard; it takes the turn of who asks, or of the song's owner."""
    return queue.start(HEARING, take.song, take.pk, who)


def hear(work: Work) -> None:
    """One take from file to score, or beside the song's first take.

    Raises BadSound where the recording can't be heard, or is of another song; Cancelled where
    the take is gone.
    """
    take = Take.objects.select_related("song__owner").filter(pk=work.job.subject).first()
    if take is None:
        raise Cancelled("The recording is gone.")
    folder = work.folder
    source = folder / ("original" + Path(take.original.name or "").suffix)
    with take.original.open("rb") as file, source.open("wb") as out:
        for chunk in File(file).chunks():
            out.write(chunk)
    sound, drums, fitted = (folder / f"{name}.flac" for name in ("sound", "drums", "fitted"))
    intake = take_in(source, sound, name=take.name, report=work.tell)
    hearing = listen_to(intake, drums=drums, report=work.tell)
    score = transcribe(hearing, title=take.song.title, artist=take.song.artist)
    document = analysis(hearing, score)
    facts = {"duration": intake.duration, "is_video": has_picture(source)}
    files = ((take.sound, sound), (take.drums, drums), (take.fitted, fitted))

    def keep(first: Arrangement | None) -> list[str]:
        """Keeps all that was heard."""
        Song.objects.select_for_update().get(pk=take.song_id)
        if first is None and _first_of(take) is not None:
            raise _NoLongerFirst
        for field, made in new:
            with made.open("rb") as file:
                field.name = store.keep(file, "flac").name
        for key, value in facts.items():
            setattr(take, key, value)
        take.save()
        Analysis.objects.update_or_create(take=take, defaults={"document": document})
        if first is None and not take.song.arrangements.exists():
            Arrangement.start(take, score)
        return list(hearing.notes)

    while True:
        first = queue.retry_while_away(lambda: _first_of(take))
        if first is not None:
            facts |= _beside(first, take, hearing, folder, work.tell)
        new = [(field, made) for field, made in files if not field and made.exists()]
        try:
            with room_for(take.song.owner, sum(made.stat().st_size for _, made in new)):
                work.finish(lambda first=first: keep(first))  # type: ignore[misc]
            return
        except _NoLongerFirst:
            continue


KIND = Kind(
    HEARING,
    hear,
    (*STEPS, ("beside", "Laying it beside the first take", 0.0)),
    doing="This recording is being heard already.",
    done="This recording has been heard already.",
    failed="Hearing failed for a reason of ours; the recording is kept. Try again.",
    unreadable="The recording's file can't be read; upload it again.",
)


def _first_of(take: Take) -> Arrangement | None:
    """The transcription of the take's song, where another take is its first one."""
    others = Arrangement.objects.select_related("take__analysis").exclude(take=take)
    return others.filter(song=take.song_id).first()


def _on_the_first(hearing: Hearing, places: list[tuple[float, float]]) -> dict[str, Any]:
    """The strokes of a further take at the moments of the song's first one."""
    moved = align.across([h.time for h in hearing.hits], places)
    start, end = align.across([0.0, hearing.duration], places)
    return {
        "start": round(float(start), 3),
        "end": round(float(end), 3),
        "hits": [
            [round(float(t), 4), h.part, h.loudness]
            for t, h in zip(moved, hearing.hits, strict=True)
        ],
    }


def _beside(
    first: Arrangement, take: Take, hearing: Hearing, folder: Path, tell: Report
) -> dict[str, Any]:
    """How a further take lies beside the first one of its song; its sound on that timeline is
    written into the folder."""
    sound, whole = folder / "sound.flac", folder / "first.flac"
    with first.take.sound.open("rb") as file, whole.open("wb") as out:
        shutil.copyfileobj(file, out)
    tell("beside", 0.0)
    try:
        lag = stems.find(whole, sound) / RATE
        kind, likeness = Take.STEM, 1.0
        places = [(max(lag, 0.0), max(-lag, 0.0))]
    except BadSound:
        here = hearing_of(first.take.analysis.document)
        pairs = align.takes(here, hearing)
        if not pairs.is_same_song:
            raise BadSound(
                f"“{take.name}” does not sound like another take of this song; put it on the "
                "shelf as a song of its own."
            ) from None
        kind, likeness = Take.OTHER, round(pairs.mean_likeness, 3)
        places = list(align.anchors(here, hearing, pairs))
    duration = first.take.duration or hearing.duration
    align.laid_over(sound, places, duration, folder / "fitted.flac", report=tell)
    return {
        "kind": kind,
        "likeness": likeness,
        "anchors": [list(p) for p in places],
        "heard": _on_the_first(hearing, places),
    }
