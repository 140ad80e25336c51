"""Findings whose cost grows with a song: reckoned at once where that takes a moment, else by a
worker, whose result every process of the house then has.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import partial
from typing import Any, TypeVar

from config import time_limits
from config.errors import StillAtIt
from config.time_limits import TOO_LONG, TookTooLong, in_time, within
from django.core.cache import cache
from django.db import connection, transaction
from jobs import queue
from jobs.kinds import Kind
from jobs.models import Job
from jobs.work import Work
from redis.exceptions import RedisError
from transcription.models import Arrangement

from orchesis.errors import BadScore, Cancelled, OrchesisError

T = TypeVar("T")
RECKONING = "reckoning"
#: What is wanted of a score from outside whose limbs were not chosen at once.
LIMBS = "limbs"
_WORKER_SECONDS = 600.0
_KEPT_SECONDS, _REFUSED_SECONDS = (
    6 * 3600,
    3600,
)  # seconds that a result, and a refusal, are remembered
_MOST_WANTED = 24  # findings that a job is asked for at once
_SLOW = "This song is long, and this takes a while: {} % done."

#: Name of a finding -> what finds it, from an arrangement and what was asked.
FINDERS: dict[str, Callable[..., Any]] = {}
_is_patient: ContextVar[bool] = ContextVar("is_patient", default=False)


def found_in_time(
    arrangement: Arrangement,
    what: str,
    more: tuple[Any, ...],
    version: int,
    make: Callable[[], T],
    seconds: float | None = None,
) -> T:
    """What ``make`` finds of a version, in so many seconds (those of an answer where none are
    told). Raises StillAtIt where a worker is at it, BadScore where that took too long for a
    worker, too."""
    if what not in FINDERS or _is_patient.get():
        return make()
    wish = (what, more)
    try:
        value = _elsewhere(arrangement, wish, version)
    except RedisError:  # nobody can be told of it: it is found here, or not
        return in_time(time_limits.FILE_SECONDS, make)
    if value is not None:
        return value
    try:
        return within(time_limits.ANSWER_SECONDS if seconds is None else seconds, make)
    except TookTooLong:
        if not connection.in_atomic_block:
            connection.close()  # it may have been stopped in the middle of an answer
    ask(arrangement, wish)
    raise StillAtIt(_SLOW.format(0))


def _elsewhere(arrangement: Arrangement, wish: tuple[str, tuple[Any, ...]], version: int) -> Any:
    """What another process found; None where none did. Raises StillAtIt, BadScore."""
    key = _key(arrangement, *wish, version)
    value = cache.get(key)
    if value is None and cache.get(f"{key}:refused"):
        raise BadScore(TOO_LONG)
    if value is None and wish in cache.get(_wanted(arrangement), []):
        job = _open_job(arrangement)
        if job is not None:
            raise StillAtIt(_SLOW.format(round(100 * job.share)))
    return value


def _key(arrangement: Arrangement, what: str, more: tuple[Any, ...], version: int) -> str:
    song = arrangement.song  # its names stand on the pages
    named = (arrangement.pk, arrangement.created.isoformat(), version, song.title, song.artist)
    name = repr((what, *named, more))
    return f"finding:{hashlib.sha256(name.encode()).hexdigest()}"


def _wanted(arrangement: Arrangement) -> str:
    return f"wanted:{arrangement.pk}"


def _open_job(arrangement: Arrangement) -> Job | None:
    rows = Job.objects.filter(kind=RECKONING, subject=arrangement.pk, state__in=Job.OPEN)
    return rows.order_by("-pk").first()


def ask(arrangement: Arrangement, wish: tuple[str, tuple[Any, ...]]) -> None:
    """Has a worker find it: one of FINDERS, with what more is asked. One job an arrangement does
    all that is wanted."""
    with transaction.atomic():
        Arrangement.objects.select_for_update().get(pk=arrangement.pk)
        wanted = [w for w in cache.get(_wanted(arrangement), []) if w != wish]
        cache.set(_wanted(arrangement), [*wanted, wish][-_MOST_WANTED:], _KEPT_SECONDS)
        if _open_job(arrangement) is None:
            queue.start(RECKONING, arrangement.song, arrangement.pk)


@contextmanager
def patiently() -> Iterator[None]:
    """What is asked for within takes the time that it needs."""
    before = _is_patient.set(True)
    try:
        yield
    finally:
        _is_patient.reset(before)


def reckon(work: Work) -> None:
    """Finds all that is wanted of an arrangement's newest version. Raises BadScore where a song is
    too long for that; Cancelled where it is gone."""
    rows = Arrangement.objects.select_related("song", "take")
    arrangement = rows.filter(pk=work.job.subject).first()
    if arrangement is None:
        raise Cancelled("The song is gone.")
    done: list[Any] = []
    refused = False
    # Proposals weigh every way of playing every bar: what others wait for comes first.
    while left := sorted(
        (w for w in cache.get(_wanted(arrangement), []) if w not in done),
        key=lambda wish: wish[0] == "proposals",
    ):
        work.tell(RECKONING, len(done) / (len(done) + len(left)))
        arrangement = rows.get(pk=arrangement.pk)  # what was found may have made a new version
        what, more = left[0]
        done.append(left[0])
        key = _key(arrangement, what, more, arrangement.version)
        try:
            with patiently():
                value = within(_WORKER_SECONDS, partial(FINDERS[what], arrangement, *more))
            cache.set(key, value, _KEPT_SECONDS)
        except TookTooLong:
            refused = True
            cache.set(f"{key}:refused", True, _REFUSED_SECONDS)
        except OrchesisError:
            pass  # whoever asks again is told at once
    cache.delete(_wanted(arrangement))
    if refused:
        raise BadScore(TOO_LONG)
    work.finish(list)


KIND = Kind(
    RECKONING,
    reckon,
    ((RECKONING, "Reading this long song", 1.0),),
    doing="This song is being read already.",
    done="This song has been read already.",
    failed="Reading this song failed for a reason of ours. Try again.",
    unreadable="This song can't be read.",
)
