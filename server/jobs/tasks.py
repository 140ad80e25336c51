"""Celery's side of the queue: one task, and a sweep that lives with the worker."""

from __future__ import annotations

import threading

from celery import shared_task
from celery.signals import worker_ready, worker_shutting_down
from django.db import close_old_connections

from jobs import queue, work
from jobs.queue import TASK

#: How often a message that finds its row taken looks for another.
_LOOKS = 4


@shared_task(name=TASK)
def do(pk: int) -> None:
    close_old_connections()
    # Another worker may take the same row in the same moment: the message stands for the next.
    for _ in range(_LOOKS):
        if work.work(queue.retry_while_away(lambda: queue.next_in_turn(pk))):
            return


@worker_shutting_down.connect
def _ending(**_kwargs: object) -> None:
    """What is being worked on goes back to the queue within a second."""
    work.ending.set()


@worker_ready.connect
def _sweep(**_kwargs: object) -> None:
    threading.Thread(target=work.sweep_forever, name="sweep", daemon=True).start()
