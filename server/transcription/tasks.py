"""Celery's side of hearing: one task, and a sweep that lives with the worker."""

from __future__ import annotations

import logging
import threading
import time

from celery import shared_task
from celery.signals import worker_ready, worker_shutting_down
from django.db import close_old_connections

from transcription import jobs

_SWEEP_EVERY = 3.0


@shared_task(name="transcription.hear")
def hear(pk: int) -> None:
    close_old_connections()
    jobs.work(pk)


@worker_shutting_down.connect
def _ending(**_kwargs: object) -> None:
    """What is being heard goes back to the queue within a second."""
    jobs.ending.set()


@worker_ready.connect
def _sweep(**_kwargs: object) -> None:
    def forever() -> None:
        while True:
            try:
                close_old_connections()
                jobs.clear_leftovers()
                jobs.send_waiting()
            except Exception:
                logging.getLogger(__name__).warning("The sweep for waiting jobs did not run.")
            time.sleep(_SWEEP_EVERY)

    threading.Thread(target=forever, name="sweep", daemon=True).start()
