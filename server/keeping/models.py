"""Backups that were asked for on the page."""

from __future__ import annotations

import secrets

from config.files import goes_with_its_row
from django.conf import settings
from django.db import models
from django.utils import timezone


def _path(backup: Backup, _name: str) -> str:
    return f"backups/{backup.user_id}/{secrets.token_hex(16)}.orchesis-account"


class Backup(models.Model):
    """A whole account as one file, made by a worker; a newer one takes its place."""

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    with_sound = models.BooleanField(default=True)
    file = models.FileField(upload_to=_path, max_length=255, blank=True)
    size = models.BigIntegerField(default=0)
    created = models.DateTimeField(default=timezone.now)

    def __str__(self) -> str:
        return f"{self.user}, {self.created:%Y-%m-%d}"


goes_with_its_row("file", Backup)
