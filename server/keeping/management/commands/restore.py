"""Brings an account back out of the file that the backup command, or the page, wrote."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from keeping import accounts
from orchesis.errors import OrchesisError


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--name", default="", help="of the account; else as it was")

    def handle(self, *, file: Path, name: str, **_options: Any) -> None:
        try:
            owner, lost = accounts.restore(file, name)
        except OrchesisError as problem:
            raise CommandError(str(problem)) from None
        for what in lost:
            self.stdout.write(f"not kept: {what}")
        self.stdout.write(f"“{owner.username}” is back.")
        if not owner.has_usable_password():
            self.stdout.write(f"It has no password yet: manage.py changepassword {owner.username}")
