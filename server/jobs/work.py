"""One attempt at a job: the heartbeat beside it, its files, and how it ends.

The heart beats in a thread of its own, so that a silent step (fitting a take, drawing pages)
loses no lease; it is also what hears of a cancellation. It stops the work by a signal to the
main thread, in the middle of whatever that does, except while the result is kept.
"""

from __future__ import annotations

import errno
import logging
import multiprocessing
import shutil
import signal
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

from config.errors import DISK_FULL
from django.db import close_old_connections, connection, transaction
from django.utils import timezone
from library import trash

from jobs import queue
from jobs.kinds import KINDS, share_of
from jobs.models import Job
from orchesis.errors import Cancelled, OrchesisError

log = logging.getLogger(__name__)
#: Seconds between two heartbeats: a cancellation is heard of within that time.
BEAT = 0.4
_SIGNAL = signal.SIGUSR1
_EMPTIES = 3600.0  # seconds between two looks into the bin

#: Set when this worker is told to end; its processes share it.
ending = multiprocessing.Event()


class Superseded(Exception):
    """Another attempt has taken the job over."""


class Interrupted(Exception):
    """This worker ends; another one will do the job."""


class Work:
    """What a kind's ``run`` is given: the job, a folder for its files, and the way to tell."""

    def __init__(self, job: Job, folder: Path) -> None:
        self.job, self.folder = job, folder
        self._at = ("", 0.0)
        self._stop: Exception | None = None
        self._is_keeping = self.was_stopped = False

    def tell(self, step: str, share: float) -> None:
        """How far it is: a step of the kind, and its share (0 to 1). Raises what stops the work
        where it was cancelled, taken over, or this worker ends."""
        self._at = (step, share)
        if ending.is_set():
            raise Interrupted
        if self._stop is not None:
            raise self._stop

    def finish(self, keep: Callable[[], list[str]]) -> None:
        """Keeps the result and the job's end in one transaction, or nothing of either.

        keep: writes the result; returns what is to be said to the user beside it. Raises
        Superseded where another attempt holds the job by now, and whatever ``keep`` raises.
        """
        self._is_keeping = True  # and stays so: what is done is not stopped any more
        try:
            queue.retry_while_away(lambda: self._finish(keep))
        except BaseException:
            self._is_keeping = False
            raise

    def _finish(self, keep: Callable[[], list[str]]) -> None:
        with transaction.atomic():
            if not queue.held(self.job).select_for_update().exists():
                raise Superseded
            notes = keep()
            queue.held(self.job).update(
                state=Job.DONE, share=1.0, notes=notes, finished=timezone.now()
            )

    # -- the heart

    def beat(self) -> None:
        """One heartbeat: renews the lease, writes how far it is, hears what was asked."""
        step, share = self._at
        holds = queue.held(self.job).update(
            step=step,
            share=share_of(self.job.kind, step, share),
            lease_until=timezone.now() + queue.lease(),
        )
        if ending.is_set():
            self._stop = Interrupted()
        elif not holds:
            self._stop = Superseded()
        elif Job.objects.filter(pk=self.job.pk, cancel_asked=True).exists():
            self._stop = Cancelled("This was cancelled.")

    def interrupt(self, _number: int, _frame: FrameType | None) -> None:
        """In the main thread: ends what it does there, unless the result is being kept."""
        if self._stop is not None and not self._is_keeping and not self.was_stopped:
            self.was_stopped = True
            raise self._stop


@contextmanager
def _heart(work: Work) -> Iterator[None]:
    """Lets the heart beat beside a piece of work."""
    is_over = threading.Event()
    main = threading.main_thread()
    can_interrupt = threading.current_thread() is main

    def beating() -> None:
        try:
            while not is_over.wait(BEAT) and not work.was_stopped:
                try:
                    work.beat()
                except Exception:  # a database that restarts; the lease runs on meanwhile
                    connection.close()
                    continue
                if work._stop is not None and can_interrupt and not is_over.is_set():
                    signal.pthread_kill(main.ident or 0, _SIGNAL)
        finally:
            connection.close()

    before = signal.signal(_SIGNAL, work.interrupt) if can_interrupt else None
    thread = threading.Thread(target=beating, name="heart", daemon=True)
    thread.start()
    try:
        yield
    finally:
        # A last signal may still be on its way while the heart is stopped: it finds nothing to do.
        work._is_keeping = True
        is_over.set()
        thread.join()
        if can_interrupt:
            signal.signal(_SIGNAL, before or signal.SIG_IGN)


def work(pk: int) -> bool:
    """Does one job; whether it was there to be done. Safe to be called any number of times."""
    job = queue.retry_while_away(lambda: queue.claim(pk))
    if job is None:
        return False
    state, message = _attempt(job)
    if not connection.in_atomic_block:
        connection.close()  # it may have been stopped in the middle of an answer
    if state == Job.QUEUED:
        queue.retry_while_away(lambda: queue.give_back(job))
    elif state:
        queue.retry_while_away(lambda: queue.end(job, state, message))
    return True


def _attempt(job: Job) -> tuple[str, str]:
    """How an attempt ended: the state to be written, with a sentence; "" where nothing is."""
    kind, folder = KINDS[job.kind], queue.folder_of(job)
    try:
        folder.mkdir(parents=True)
        attempt = Work(job, folder)
        with _heart(attempt):
            kind.run(attempt)
    except Superseded:
        log.warning("Job %s was taken over.", job.pk)
    except Interrupted:
        log.warning("Job %s goes back to the queue: this worker ends.", job.pk)
        return Job.QUEUED, ""
    except Cancelled:
        return Job.CANCELLED, ""
    except OrchesisError as problem:
        return Job.REFUSED, str(problem)
    except OSError as problem:
        log.exception("Job %s failed.", job.pk)
        return Job.REFUSED, DISK_FULL if problem.errno == errno.ENOSPC else kind.unreadable
    except Exception:
        log.exception("Job %s failed.", job.pk)
        return Job.REFUSED, kind.failed
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    return "", ""


def sweep_forever(pause: float = 3.0) -> None:
    """Clears what dead workers left and sends what nobody works on, every few seconds; empties the
    bin now and then."""
    emptied = float("-inf")
    while True:
        try:
            close_old_connections()
            queue.clear_leftovers()
            queue.send_waiting()
            if time.monotonic() - emptied > _EMPTIES:
                emptied = time.monotonic()
                trash.empty()
        except Exception:
            log.warning("The sweep for waiting jobs did not run.")
        time.sleep(pause)
