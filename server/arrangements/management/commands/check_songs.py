"""Finds songs that can't be read any more; with --repair, takes back what made them so."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError
from transcription.models import Arrangement

from arrangements import log
from orchesis.errors import BadScore


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--repair", action="store_true", help="take back what broke a song")

    def handle(self, *, repair: bool = False, **_options: Any) -> None:
        broken = 0
        for arrangement in Arrangement.objects.select_related("song").iterator(chunk_size=1):
            try:
                arrangement.score  # noqa: B018 (reading it is the check)
            except BadScore as problem:
                broken += 1
                arrangement.mark_broken()
                self.stdout.write(
                    f"Song {arrangement.song_id} “{arrangement.song.title}”: {problem}"
                )
                if repair:
                    self._repair(arrangement)
                    broken -= 1
        if broken:
            raise CommandError(f"{broken} songs can't be read; run it again with --repair.")
        self.stdout.write("All songs can be read.")

    def _repair(self, arrangement: Arrangement) -> None:
        try:
            undone = log.repair(arrangement)
        except BadScore as problem:
            raise CommandError(
                f"Song {arrangement.song_id} can't be read even as it was heard ({problem}); "
                "hear its recording again."
            ) from None
        self.stdout.write(f"  {undone} edits were taken back; it can be read again.")
