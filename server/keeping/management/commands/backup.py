"""Writes everything of an account into one file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError, CommandParser

from keeping import accounts


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help="whose account")
        parser.add_argument("file", type=Path)
        parser.add_argument("--without-sound", action="store_true")

    def handle(self, *, name: str, file: Path, without_sound: bool, **_options: Any) -> None:
        owner = User.objects.filter(username=name).first()
        if owner is None:
            raise CommandError(f"There is no account “{name}”.")
        part = file.with_name(file.name + ".part")  # never half a backup under its name
        accounts.back_up(owner, part, with_sound=not without_sound)
        part.replace(file)
        self.stdout.write(f"{file}: {file.stat().st_size / 2**20:.1f} MB")
