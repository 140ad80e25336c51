"""Hearing as a job: claimed by lease, resumed when a worker dies, finished once.

The database row is the truth; a message in the broker only says "look at this row". A
lost or doubled message therefore does no harm: claiming is one atomic update, and the
result is kept only by the attempt that still holds the claim.
"""

from __future__ import annotations

import errno
import logging
import multiprocessing
import shutil
import time
from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import Any, TypeVar

from config.errors import DISK_FULL, Conflict
from django.conf import settings
from django.core.files import File
from django.db import InterfaceError, OperationalError, close_old_connections, transaction
from django.db.models import F, Q
from django.utils import timezone
from library.models import Song, Take

from orchesis.analysis_file import analysis, hearing_of
from orchesis.errors import BadSound, Cancelled, OrchesisError
from orchesis.hearing import STEPS, Hearing, align, listen_to, take_in
from orchesis.hearing.sound import RATE, has_picture
from orchesis.hearing.types import Report
from orchesis.transcribing import transcribe
from transcription.models import HearingJob, Transcription

log = logging.getLogger(__name__)
T = TypeVar("T")
_TELL_EVERY = 0.4  # seconds between two signs of life
_STUCK = timedelta(seconds=6)
_PATIENCE = 120.0
_SAME_SONG = 0.35  # mean likeness of bars from which on two recordings are one song


#: Set when this worker is told to end; its processes share it.
ending = multiprocessing.Event()


class Superseded(Exception):
    """Another attempt has taken the job over."""


class Interrupted(Exception):
    """This worker ends; another one will do the job."""


def start_hearing(take: Take) -> HearingJob:
    job = HearingJob.objects.create(take=take)
    transaction.on_commit(lambda: _send(job.pk))
    return job


def hear_again(job: HearingJob) -> HearingJob:
    """A new job for what was cancelled or refused; Conflict while one waits, runs, or is done.

    However often it is asked for, and by however many windows: one job is made.
    """
    with transaction.atomic():
        take = Take.objects.select_for_update().get(pk=job.take_id)
        states = set(take.jobs.values_list("state", flat=True))
        if states & set(HearingJob.OPEN):
            raise Conflict("This recording is being heard already.")
        if HearingJob.DONE in states:
            raise Conflict("This recording has been heard already.")
        return start_hearing(take)


def _send(pk: int) -> None:
    from transcription.tasks import hear

    try:
        hear.apply_async((pk,), retry=False)
    except Exception:  # the broker is away: the sweep sends the row again
        log.warning("The broker did not take hearing job %s; it waits for the sweep.", pk)


def cancel(job: HearingJob) -> HearingJob:
    """Cancels a job: at once where it waits, within a second where it runs."""
    waiting = HearingJob.objects.filter(pk=job.pk, state=HearingJob.QUEUED)
    if not waiting.update(state=HearingJob.CANCELLED):
        HearingJob.objects.filter(pk=job.pk).update(cancel_asked=True)
    job.refresh_from_db()
    return job


def send_waiting() -> int:
    """Send every job that nobody works on: overlooked ones, and those of dead workers."""
    now = timezone.now()
    waiting = HearingJob.objects.filter(
        Q(state=HearingJob.QUEUED, created__lt=now - _STUCK)
        | Q(state=HearingJob.RUNNING, lease_until__lt=now)
    )
    pks = list(waiting.values_list("pk", flat=True))
    if not pks or (_messages() or 0) >= len(pks):
        return 0  # whoever is free next finds a message; more of them would only pile up
    for pk in pks:
        _send(pk)
    return len(pks)


def _messages() -> int | None:
    """How many messages wait in the broker; None where it does not say."""
    from config.celery import app

    try:
        with app.connection_for_read() as connection:
            name = app.conf.task_default_queue
            declared = connection.default_channel.queue_declare(name, passive=True)
            return int(declared.message_count)
    except Exception:
        return None


def retry_while_away(act: Callable[[], T]) -> T:
    """Do something with the database, waiting while it restarts."""
    until = time.monotonic() + _PATIENCE
    while True:
        try:
            return act()
        except (OperationalError, InterfaceError):
            if time.monotonic() > until:
                raise
            close_old_connections()
            time.sleep(0.5)


def claim(pk: int) -> HearingJob | None:
    """The job, if it waits or its holder's lease ran out; None if somebody holds it."""
    now = timezone.now()
    free = Q(state=HearingJob.QUEUED) | Q(state=HearingJob.RUNNING, lease_until__lt=now)
    taken = HearingJob.objects.filter(free, pk=pk).update(
        state=HearingJob.RUNNING,
        attempt=F("attempt") + 1,
        step=STEPS[0][0],
        share=0,
        lease_until=now + timedelta(seconds=settings.JOB_LEASE),
    )
    return HearingJob.objects.select_related("take__song").get(pk=pk) if taken else None


class _Teller:
    """Writes progress, renews the lease, and stops the work when that was asked."""

    def __init__(self, job: HearingJob) -> None:
        self.job = job
        self.last = 0.0
        self.before = {key: sum(s for _, _, s in STEPS[:i]) for i, (key, _, _) in enumerate(STEPS)}
        self.size = {key: size for key, _, size in STEPS}

    def __call__(self, step: str, share: float) -> None:
        if ending.is_set():
            raise Interrupted
        if time.monotonic() - self.last < _TELL_EVERY:
            return
        self.last = time.monotonic()
        # What comes behind the steps of hearing (fitting a further take) is nearly the end.
        whole = self.before.get(step, 0.98) + self.size.get(step, 0.0) * min(max(share, 0.0), 1.0)
        held = retry_while_away(lambda: self._tell(step, whole))
        if not held:
            raise Superseded
        if retry_while_away(lambda: self._is_cancelled()):
            raise Cancelled("Hearing was cancelled.")

    def _tell(self, step: str, share: float) -> int:
        return _held(self.job).update(
            step=step,
            share=share,
            lease_until=timezone.now() + timedelta(seconds=settings.JOB_LEASE),
        )

    def _is_cancelled(self) -> bool:
        return HearingJob.objects.filter(pk=self.job.pk, cancel_asked=True).exists()


def _held(job: HearingJob):
    return HearingJob.objects.filter(pk=job.pk, attempt=job.attempt, state=HearingJob.RUNNING)


def work(pk: int) -> None:
    """Hear one take from file to score. Safe to be called any number of times."""
    job = retry_while_away(lambda: claim(pk))
    if job is None:
        return
    folder = _folder(job)
    try:
        folder.mkdir(parents=True)
        _hear(job, folder)
    except Superseded:
        log.warning("Hearing job %s was taken over.", pk)
    except Interrupted:
        log.warning("Hearing job %s goes back to the queue: this worker ends.", pk)
        retry_while_away(lambda: _held(job).update(state=HearingJob.QUEUED, lease_until=None))
    except Cancelled:
        retry_while_away(lambda: _end(job, HearingJob.CANCELLED, ""))
    except OrchesisError as problem:
        message = str(problem)
        retry_while_away(lambda: _end(job, HearingJob.REFUSED, message))
    except OSError as problem:
        full = problem.errno == errno.ENOSPC
        message = DISK_FULL if full else "The recording's file can't be read; upload it again."
        log.exception("Hearing job %s failed.", pk)
        retry_while_away(lambda: _end(job, HearingJob.REFUSED, message))
    except Exception:
        log.exception("Hearing job %s failed.", pk)
        message = "Hearing failed for a reason of ours; the recording is kept. Try again."
        retry_while_away(lambda: _end(job, HearingJob.REFUSED, message))
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _folder(job: HearingJob) -> Path:
    """Where one attempt at a job keeps its files; removed when it ends, or by the sweep."""
    return Path(settings.WORK_ROOT) / f"hearing-{job.pk}-{job.attempt}"


def clear_leftovers() -> int:
    """Removes what killed attempts left on this machine; how many folders went."""
    root = Path(settings.WORK_ROOT)
    there = {f.name: f for f in root.glob("hearing-*")} if root.is_dir() else {}
    if not there:
        return 0
    running = HearingJob.objects.filter(state=HearingJob.RUNNING)
    left = there.keys() - {_folder(job).name for job in running.only("pk", "attempt")}
    for name in left:
        shutil.rmtree(there[name], ignore_errors=True)
    return len(left)


def _end(job: HearingJob, state: str, message: str) -> None:
    _held(job).update(state=state, message=message, finished=timezone.now())


def _hear(job: HearingJob, folder: Path) -> None:
    take, tell = job.take, _Teller(job)
    source = folder / ("original" + Path(take.original.name).suffix)
    with take.original.open("rb") as file, source.open("wb") as out:
        for chunk in File(file).chunks():
            out.write(chunk)
    sound, drums, fitted = (folder / f"{name}.flac" for name in ("sound", "drums", "fitted"))
    intake = take_in(source, sound, name=take.name, report=tell)
    hearing = listen_to(intake, drums=drums, report=tell)
    score = transcribe(hearing, title=take.song.title, artist=take.song.artist)
    found = analysis(hearing, score)
    facts = {"duration": intake.duration, "is_video": has_picture(source)}
    files = (
        (take.sound, sound, "heard"),
        (take.drums, drums, "drums"),
        (take.fitted, fitted, "fitted"),
    )

    def keep(first: Transcription | None) -> bool:
        """Keeps all that was heard, or nothing: False where another take of the song has
        become its first one since it was looked for."""
        with transaction.atomic():
            if not _held(job).select_for_update().exists():
                raise Superseded
            Song.objects.select_for_update().get(pk=take.song_id)
            if first is None and _first_of(take) is not None:
                return False
            for field, made, ending in files:
                if not field and made.exists():
                    target = f"takes/{take.song_id}/{take.digest[:16]}.{ending}.flac"
                    field.storage.delete(target)
                    with made.open("rb") as file:
                        field.name = field.storage.save(target, File(file))
            for key, value in facts.items():
                setattr(take, key, value)
            take.save()
            Transcription.objects.get_or_create(
                song=take.song,
                defaults={
                    "take": take,
                    "document": score.to_json(),
                    "analysis": found,
                    **Transcription.shelf_columns(score),
                },
            )
            _held(job).update(
                state=HearingJob.DONE, share=1.0, notes=list(hearing.notes),
                finished=timezone.now(),
            )  # fmt: skip
            return True

    while True:
        first = retry_while_away(lambda: _first_of(take))
        if first is not None:
            facts |= _beside(first, take, hearing, folder, tell)
        if retry_while_away(lambda first=first: keep(first)):  # type: ignore[misc]
            return


def _first_of(take: Take) -> Transcription | None:
    """The transcription of the take's song, where another take is its first one."""
    others = Transcription.objects.select_related("take").exclude(take=take)
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
    first: Transcription, take: Take, hearing: Hearing, folder: Path, tell: Report
) -> dict[str, Any]:
    """How a further take lies beside the first one of its song; its sound on that timeline is
    written into the folder."""
    sound, whole = folder / "sound.flac", folder / "first.flac"
    with first.take.sound.open("rb") as file, whole.open("wb") as out:
        shutil.copyfileobj(file, out)
    tell("beside", 0.0)
    try:
        lag = align.stem(whole, sound) / RATE
        found = {
            "kind": Take.STEM,
            "anchors": [[max(lag, 0.0), max(-lag, 0.0)]],
            "likeness": 1.0,
        }
    except BadSound:
        here = hearing_of(first.analysis)
        pairs = align.takes(here, hearing)
        if pairs.mean_likeness < _SAME_SONG:
            raise BadSound(
                f"“{take.name}” does not sound like another take of this song; put it on the "
                "shelf as a song of its own."
            ) from None
        places = [list(p) for p in align.anchors(here, hearing, pairs)]
        found = {"kind": Take.OTHER, "anchors": places, "likeness": round(pairs.mean_likeness, 3)}
    places = [(a, b) for a, b in found["anchors"]]
    found["heard"] = _on_the_first(hearing, places)
    duration = first.take.duration or hearing.duration
    align.laid_over(sound, places, duration, folder / "fitted.flac", report=tell)
    return found
