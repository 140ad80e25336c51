"""The queue: asked for, sent, claimed, cancelled, asked for again, swept.

The database row is the truth; a message in the broker only says "look at this row". A lost or
doubled message therefore does no harm: claiming is one atomic update, and a result is kept only
by the attempt that still holds the claim.
"""

from __future__ import annotations

import logging
import shutil
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, TypeVar

from celery import current_app
from config.errors import Conflict
from django.conf import settings
from django.db import InterfaceError, OperationalError, close_old_connections, transaction
from django.db.models import Count, F, Max, Q, QuerySet
from django.utils import timezone
from library.models import Song

from jobs.kinds import KINDS
from jobs.models import Job

log = logging.getLogger(__name__)
T = TypeVar("T")
TASK = "jobs.work"
_OVERLOOKED = timedelta(seconds=6)  # after which a waiting row is sent again
_PATIENCE = 120.0  # seconds that a worker waits for a database that restarts
#: Workers that may die over one job; then it is given up, so that it fails alone.
MOST_BROKEN = 3
GIVEN_UP = (
    "This was tried three times, and each time the program that did it died. The recording is "
    "kept; try a shorter or a newly saved file, or tell whoever runs this server."
)


def lease() -> timedelta:
    """How long a claim stands without a heartbeat."""
    return timedelta(seconds=settings.JOB_LEASE)


def start(kind: str, song: Song | None, subject: int, owner: Any = None) -> Job:
    """Asks for a piece of work; it is sent once the transaction around it stands.

    owner: who asks, whose turn it takes; where nobody is named, the song's owner.
    """
    pk = owner.pk if owner is not None else song.owner_id if song is not None else None
    job = Job.objects.create(kind=kind, song=song, subject=subject, owner_id=pk)
    transaction.on_commit(lambda: send(job.pk))
    return job


def again(job: Job) -> Job:
    """A new job for what was cancelled or refused; Conflict while one waits, runs, or is done.

    However often it is asked for, and by however many windows: one job is made.
    """
    with transaction.atomic():
        same = Job.objects.filter(song=job.song_id, kind=job.kind, subject=job.subject)
        list(same.select_for_update().order_by("pk"))  # whoever asks too waits here
        states = set(same.values_list("state", flat=True))
        if states & set(Job.OPEN):
            raise Conflict(KINDS[job.kind].doing)
        if Job.DONE in states:
            raise Conflict(KINDS[job.kind].done)
        return start(job.kind, job.song, job.subject, job.owner)


def send(pk: int) -> None:
    """Tells the broker to look at a job."""
    try:
        current_app.send_task(TASK, (pk,), retry=False)
    except Exception:  # the broker is away: the sweep sends the row again
        log.warning("The broker did not take job %s; it waits for the sweep.", pk)


def cancel(job: Job) -> Job:
    """Cancels a job: at once where it waits, within a second where it runs."""
    waiting = Job.objects.filter(pk=job.pk, state=Job.QUEUED)
    if not waiting.update(state=Job.CANCELLED, finished=timezone.now()):
        Job.objects.filter(pk=job.pk).update(cancel_asked=True)
    job.refresh_from_db()
    return job


def _free() -> Q:
    """Rows that anybody may claim."""
    return Q(state=Job.QUEUED) | Q(state=Job.RUNNING, lease_until__lt=timezone.now())


def next_in_turn(pk: int) -> int:
    """The job that is to be done when the broker says “look at this row”.

    Whoever has least under work comes first, then whoever waited longest since something of
    theirs was begun: forty recordings of one person don't hold up another's one.
    """
    waiting = list(Job.objects.filter(_free()).values_list("pk", "owner").order_by("pk")[:5000])
    owners = {owner for _, owner in waiting}
    if len(owners) < 2:
        return pk if not waiting or any(pk == number for number, _ in waiting) else waiting[0][0]
    running = dict(
        Job.objects.filter(state=Job.RUNNING, owner__in=owners, lease_until__gte=timezone.now())
        .values_list("owner")
        .annotate(n=Count("pk"))
        .order_by()
    )
    served = dict(
        Job.objects.filter(owner__in=owners, started__isnull=False)
        .values_list("owner")
        .annotate(at=Max("started"))
        .order_by()
    )
    never = datetime.min.replace(tzinfo=UTC)
    return min(
        waiting, key=lambda row: (running.get(row[1], 0), served.get(row[1], never), row[0])
    )[0]


def claim(pk: int) -> Job | None:
    """The job, if it waits or its holder died; None if somebody holds it or it is given up."""
    held = Q(state=Job.RUNNING)
    given_up = Job.objects.filter(_free() & held, pk=pk, broken__gte=MOST_BROKEN - 1)
    if given_up.update(
        state=Job.REFUSED, broken=F("broken") + 1, message=GIVEN_UP, finished=timezone.now()
    ):
        log.error("Job %s was given up: %s workers died over it.", pk, MOST_BROKEN)
        return None
    Job.objects.filter(_free() & held, pk=pk).update(
        state=Job.QUEUED, broken=F("broken") + 1, lease_until=None
    )
    taken = Job.objects.filter(pk=pk, state=Job.QUEUED).update(
        state=Job.RUNNING,
        attempt=F("attempt") + 1,
        step="",
        share=0,
        started=timezone.now(),
        lease_until=timezone.now() + lease(),
    )
    return Job.objects.select_related("song").get(pk=pk) if taken else None


def held(job: Job) -> QuerySet[Job]:
    """The row of a job, as long as this attempt holds it."""
    return Job.objects.filter(pk=job.pk, attempt=job.attempt, state=Job.RUNNING)


def end(job: Job, state: str, message: str = "") -> None:
    held(job).update(state=state, message=message, finished=timezone.now())


def give_back(job: Job) -> None:
    """Another worker will do it; nobody died over it."""
    held(job).update(state=Job.QUEUED, lease_until=None)


def send_waiting() -> int:
    """Sends every job that nobody works on: overlooked ones, and those of dead workers."""
    now = timezone.now()
    waiting = Job.objects.filter(
        Q(state=Job.QUEUED, created__lt=now - _OVERLOOKED)
        | Q(state=Job.RUNNING, lease_until__lt=now)
    )
    pks = list(waiting.values_list("pk", flat=True))
    if not pks or (messages() or 0) >= len(pks):
        return 0  # whoever is free next finds a message; more of them would only pile up
    for pk in pks:
        send(pk)
    return len(pks)


def messages() -> int | None:
    """How many messages wait in the broker; None where it does not say."""
    try:
        with current_app.connection_for_read() as connection:
            name = current_app.conf.task_default_queue
            declared = connection.default_channel.queue_declare(name, passive=True)
            return int(declared.message_count)
    except Exception:
        return None


def folder_of(job: Job) -> Path:
    """Where one attempt at a job keeps its files; removed when it ends, or by the sweep."""
    return Path(settings.WORK_ROOT) / f"job-{job.pk}-{job.attempt}"


def clear_leftovers() -> int:
    """Removes what killed attempts left on this machine; how many folders went."""
    root = Path(settings.WORK_ROOT)
    there = {f.name: f for f in root.glob("*-*-*")} if root.is_dir() else {}
    if not there:
        return 0
    running = Job.objects.filter(state=Job.RUNNING)
    left = there.keys() - {folder_of(job).name for job in running.only("pk", "attempt")}
    for name in left:
        shutil.rmtree(there[name], ignore_errors=True)
    return len(left)


def retry_while_away(act: Callable[[], T]) -> T:
    """Does something with the database, waiting while it restarts.

    Raises what ``act`` raises; OperationalError where the database stays away for two minutes.
    """
    until = time.monotonic() + _PATIENCE
    while True:
        try:
            return act()
        except (OperationalError, InterfaceError):
            if time.monotonic() > until:
                raise
            close_old_connections()
            time.sleep(0.5)
