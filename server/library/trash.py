"""The bin: what was taken off the shelf rests there for a while, then goes for good."""

from __future__ import annotations

import logging
from collections.abc import Callable
from datetime import timedelta

from django.conf import settings
from django.utils import timezone

from library.models import Song

log = logging.getLogger(__name__)
#: What else goes by itself after a while; whoever keeps such things says so.
ALSO_EMPTIED: list[Callable[[], object]] = []


def empty() -> int:
    """Deletes what has rested long enough, with its recordings; how many songs went."""
    before = timezone.now() - timedelta(days=settings.BIN_DAYS)
    gone = 0
    for song in Song.objects.filter(removed__lt=before)[:200]:
        song.delete()
        gone += 1
    for other in ALSO_EMPTIED:
        other()
    if gone:
        log.info("%d songs left the bin for good.", gone)
    return gone
