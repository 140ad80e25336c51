"""Files that are given out by a name of ours, and files that go with the row that names them."""

from __future__ import annotations

from typing import Any

from django.db import models, transaction
from django.db.models.signals import post_delete
from django.http import FileResponse, HttpResponse
from django.utils.http import content_disposition_header


def attachment(content: Any, kind: str, name: str) -> HttpResponse | FileResponse:
    """A download under a name (orchesis.formats.file_names). content: bytes, or an open file, which
    is closed when it was sent."""
    if isinstance(content, bytes | str):
        header = content_disposition_header(as_attachment=True, filename=name) or "attachment"
        return HttpResponse(content, content_type=kind, headers={"Content-Disposition": header})
    # By itself it would go out under the name that it is kept by.
    return FileResponse(content, content_type=kind, as_attachment=True, filename=name)


def measure(kind: Any, field: str, size: str) -> None:
    """Writes down how big the files of a model are (for migrations)."""
    for row in kind.objects.exclude(**{field: ""}):
        file = getattr(row, field)
        if file.storage.exists(file.name):
            kind.objects.filter(pk=row.pk).update(**{size: file.storage.size(file.name)})


def goes_with_its_row(field: str, *kinds: type[models.Model]) -> None:
    """Has the file of a field removed when its row is, once that stands."""

    def free(instance: Any, **_more: Any) -> None:
        file = getattr(instance, field)
        if file:
            stored, name = file.storage, str(file.name)
            transaction.on_commit(lambda: stored.delete(name))

    for kind in kinds:
        post_delete.connect(free, sender=kind, weak=False, dispatch_uid=f"{kind.__name__}.{field}")
