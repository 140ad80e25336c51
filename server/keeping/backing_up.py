"""Making a backup of an account, as a kind of long work."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.core.files import File
from django.utils import timezone
from jobs.kinds import Kind
from jobs.work import Work
from library import quota

from keeping import accounts
from keeping.models import Backup
from orchesis.errors import Cancelled

BACKUP = "backup"


def make(work: Work) -> None:
    """Raises Cancelled where it is not wanted any more."""
    backup = Backup.objects.select_related("user").filter(pk=work.job.subject).first()
    if backup is None:
        raise Cancelled("This backup is not wanted any more.")
    out = work.folder / "account"
    accounts.back_up(backup.user, out, with_sound=backup.with_sound, tell=work.tell)
    size = out.stat().st_size
    quota.must_fit(size)

    def keep() -> list[str]:
        with out.open("rb") as file:
            backup.file.save("account", File(file), save=False)
        Backup.objects.filter(pk=backup.pk).update(file=backup.file.name, size=size)
        return []

    work.finish(keep)


def forget_old() -> None:
    """Backups are fetched soon or made anew: those of long ago go."""
    before = timezone.now() - timedelta(days=settings.BACKUP_DAYS)
    for old in Backup.objects.filter(created__lt=before)[:200]:
        old.delete()


KIND = Kind(
    BACKUP,
    make,
    (("packing", "Packing your songs", 1.0),),
    doing="Your backup is being made already.",
    done="Your backup has been made already.",
    failed="The backup failed for a reason of ours. Try again.",
    unreadable="A recording of yours can't be read; the backup can't be made.",
)
