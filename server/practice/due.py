"""By when a person needs a song: whoever knows of a date says so here."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from typing import Any

from django.utils import timezone
from library.models import Song

#: A person -> dates by song.
Source = Callable[[Any], dict[int, date]]


def _asked(user: Any) -> dict[int, date]:
    """Dates of requests."""
    songs = Song.objects.visible_to(user).values_list("pk", "due")
    return {pk: due for pk, due in songs if due is not None}


SOURCES: list[Source] = [_asked]


def by_song(user: Any) -> dict[int, date]:
    """The nearest date of each song that has one to come."""
    today = timezone.localdate()
    made: dict[int, date] = {}
    for source in SOURCES:
        for song, due in source(user).items():
            if due >= today:
                made[song] = min(due, made.get(song, due))
    return made
