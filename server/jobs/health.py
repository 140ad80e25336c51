"""Whether this house is well: for whoever keeps it up, not for the page.

/health: this process answers. /ready: it can do its work too: database, broker, store. /metrics:
figures for Prometheus; both of the latter tell nothing of anybody's songs.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterator
from typing import Any

from celery import current_app
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection
from django.db.models import Count, Min
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, generate_latest, multiprocess
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.registry import REGISTRY, Collector

from jobs.models import Job

_LEAST_FREE = 512 * 2**20  # bytes of disk below which nothing can be taken in


def health(_request: HttpRequest) -> HttpResponse:
    return JsonResponse({"well": True})


def _database() -> str:
    connection.ensure_connection()
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return ""


def _broker() -> str:
    with current_app.connection_for_read() as link:
        link.ensure_connection(max_retries=1, timeout=2)
    return ""


def _store() -> str:
    default_storage.exists("ready")
    free = shutil.disk_usage(settings.VAR).free
    return "" if free > _LEAST_FREE else f"only {free // 2**20} MB of disk are left"


_PARTS: dict[str, Callable[[], str]] = {"database": _database, "broker": _broker, "store": _store}


def ready(_request: HttpRequest) -> HttpResponse:
    """200 where everything that is needed answers, 503 with what does not."""
    states: dict[str, str] = {}
    for name, ask in _PARTS.items():
        try:
            states[name] = ask()
        except Exception as problem:
            states[name] = f"away ({type(problem).__name__})"
    missing = {name: why for name, why in states.items() if why}
    return JsonResponse({"ready": not missing, "missing": missing}, status=503 if missing else 200)


class _Queue(Collector):
    """What waits and runs, and since when the oldest one waits."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        jobs = GaugeMetricFamily("orchesis_jobs", "Jobs that are open.", labels=["kind", "state"])
        rows = Job.objects.filter(state__in=Job.OPEN).values("kind", "state")
        for row in rows.annotate(n=Count("pk")).order_by():
            jobs.add_metric([row["kind"], row["state"]], row["n"])
        yield jobs
        oldest = Job.objects.filter(state=Job.QUEUED).aggregate(at=Min("created"))["at"]
        waits = (timezone.now() - oldest).total_seconds() if oldest else 0.0
        yield GaugeMetricFamily(
            "orchesis_oldest_wait_seconds", "How long the oldest job waits.", value=waits
        )


def metrics(request: HttpRequest) -> HttpResponse:
    """For this machine alone, unless the setting METRICS opens it to the network."""
    came = request.META.get("REMOTE_ADDR", "")
    is_ours = came in ("127.0.0.1", "::1", "") and "HTTP_X_FORWARDED_FOR" not in request.META
    if not (is_ours or settings.METRICS_ARE_OPEN):
        return HttpResponse(status=404)
    registry: Any = REGISTRY
    if "PROMETHEUS_MULTIPROC_DIR" in os.environ:  # several processes serve: their sum
        registry = CollectorRegistry()
        multiprocess.MultiProcessCollector(registry)
    queue = CollectorRegistry()
    queue.register(_Queue())
    content = generate_latest(registry) + generate_latest(queue)
    return HttpResponse(content, content_type=CONTENT_TYPE_LATEST)
