"""Files by their content: the same sound is kept once, whoever gave it, and goes with its last
take.

A row of StoredFile is the lock of a file: whoever keeps or frees it holds the row until their
transaction stands, so that nobody frees what somebody else just took up.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any, BinaryIO

from django.core.files import File
from django.core.files.storage import default_storage
from django.db import models, transaction
from django.db.models.signals import post_delete
from django.dispatch import receiver

from library.models import StoredFile, Take

_CHUNK = 1 << 20
_newly_kept: ContextVar[list[str] | None] = ContextVar("newly_kept", default=None)


@contextmanager
def all_or_nothing() -> Iterator[None]:
    """A transaction whose files go again where it fails: the disk knows no rollback."""
    names: list[str] = []
    before = _newly_kept.set(names)
    try:
        with transaction.atomic():
            yield
    except BaseException:
        for name in names:
            free(name)
        raise
    finally:
        _newly_kept.reset(before)


def note_new(name: str) -> None:
    """Tells of a file that was just kept beside the store: it goes with a failed all_or_nothing."""
    if (names := _newly_kept.get()) is not None:
        names.append(name)


def digest_of(file: BinaryIO) -> str:
    """SHA-256 of what a file holds; it is read from its start and left there."""
    file.seek(0)
    digest = hashlib.sha256()
    while chunk := file.read(_CHUNK):
        digest.update(chunk)
    file.seek(0)
    return digest.hexdigest()


def keep(file: BinaryIO, ending: str, digest: str = "") -> StoredFile:
    """Keeps a file under its content; to be called within the transaction of what refers to it.

    ending: without a dot. digest: where it is known already. Raises OSError where the disk is
    full; nothing is kept then.
    """
    digest = digest or digest_of(file)
    name = f"files/{digest[:2]}/{digest}.{ending}"
    StoredFile.objects.get_or_create(name=name)
    row = StoredFile.objects.select_for_update().get(name=name)
    if not default_storage.exists(name):
        file.seek(0)
        default_storage.save(name, File(file))
        note_new(name)
    size = default_storage.size(name)
    if size != row.size:
        row.size = size
        row.save(update_fields=["size"])
    return row


def free(name: str) -> None:
    """Removes a file that no take refers to any more."""
    with transaction.atomic():
        StoredFile.objects.get_or_create(name=name)
        row = StoredFile.objects.select_for_update().get(name=name)
        uses = models.Q()
        for field in Take.FILES:
            uses |= models.Q(**{field: name})
        if not Take.objects.filter(uses).exists():
            default_storage.delete(name)
            row.delete()


@receiver(post_delete, sender=Take)
def _free_files(instance: Take, **_more: Any) -> None:
    """A take that is deleted for good frees its files, once the deletion stands."""
    names = {str(getattr(instance, name)) for name in Take.FILES if getattr(instance, name)}

    def freed() -> None:
        for name in sorted(names):
            free(name)

    transaction.on_commit(freed)
