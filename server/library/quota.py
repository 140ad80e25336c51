"""How much of the disk an account may fill: the one place that counts, and keeps room free.

Room is reserved before a file is written: two uploads at once see one another.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from config.errors import OutOfRoom
from django.conf import settings
from django.contrib.auth.models import User
from django.db import models, transaction
from django.utils import timezone

from library.models import Reserved, StoredFile, Take

#: A reservation whose process died is forgotten after so long.
_FORGOTTEN = timedelta(hours=2)


@dataclass(frozen=True)
class Counted:
    """Rows that hold a file each. owner: the way to whose it is; size: the column of its bytes."""

    kind: type[models.Model]
    owner: str
    size: str = "size"


_counted: list[Counted] = []


def count(kind: type[models.Model], owner: str, size: str = "size") -> None:
    """Has the files of a model counted; whoever keeps files says so once, at its start."""
    _counted.append(Counted(kind, owner, size))


def used_by(owner: Any) -> int:
    """Bytes that an account's files take: recordings, each file once, also those in its bin, what
    was made of them, and what other rows hold."""
    names: set[str] = set()
    for row in Take.objects.filter(song__owner=owner).values_list(*Take.FILES):
        names.update(n for n in row if n)
    taken = _sum(StoredFile.objects.filter(name__in=names), "size")
    for one in _counted:
        taken += _sum(one.kind._default_manager.filter(**{one.owner: owner}), one.size)
    return taken


def _sum(rows: Any, size: str) -> int:
    return rows.aggregate(all=models.Sum(size))["all"] or 0


@contextmanager
def room_for(owner: Any, more: int) -> Iterator[None]:
    """Keeps room for so many bytes more while they are written. Raises OutOfRoom."""
    with transaction.atomic():
        User.objects.select_for_update().get(pk=owner.pk)
        Reserved.objects.filter(made__lt=timezone.now() - _FORGOTTEN).delete()
        used = used_by(owner) + _sum(Reserved.objects.filter(owner=owner), "size")
        if used + more > settings.QUOTA_MB * 2**20:
            raise OutOfRoom(
                f"Recordings and files of this account take {used / 2**20:.0f} of "
                f"{settings.QUOTA_MB} MB; this needs {more / 2**20:.0f} more. Empty the bin, or "
                "take songs off the shelf."
            )
        held = Reserved.objects.create(owner=owner, size=more)
    try:
        yield
    finally:
        Reserved.objects.filter(pk=held.pk).delete()


def must_fit(size: int) -> None:
    """Raises OutOfRoom where a backup, which has as much room again, is too big."""
    if size > settings.QUOTA_MB * 2**20:
        raise OutOfRoom(
            f"This backup takes {size / 2**20:.0f} MB; {settings.QUOTA_MB} MB is the most. Empty "
            "the bin, or take songs off the shelf."
        )


def ending_of(name: str) -> str:
    """The ending that a file is kept with: a few plain signs of its name's, never a path."""
    ending = name.rsplit(".", 1)[-1].lower()[:8] if "." in name else ""
    return ending if ending.isascii() and ending.isalnum() else "sound"
