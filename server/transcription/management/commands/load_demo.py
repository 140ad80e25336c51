"""Loads the demo once: a user, songs whose recordings are heard like any upload, requests."""

from __future__ import annotations

from datetime import timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone
from library import store
from library.models import Song, Take

from transcription.hearing import start_hearing

NAME, PASSWORD = "demo", "tin-meridian"
#: title, artist, asked by, due in days, depth, recording
SONGS = (
    ("Copper Weather", "Tin Meridian", "Ilka (Thursday lesson)", 3, "every_bar", "copper-weather"),
    ("Late Tram, Lower Deck", "Tin Meridian", "Bo, for the trio", 9, "every_bar", "late-tram"),
    ("Northline", "Juno Vantreight", "The Ferrymen", 16, "outline", "northline"),
    ("Sleeper to Vell", "Tin Meridian", "Ilka (Thursday lesson)", 24, "every_bar", None),
    ("Glass Orchard", "Odile Marrow", "Maarten", 30, "outline", "glass-orchard"),
    ("Two Rivers, One Coat", "The Ferrymen", "The Ferrymen", None, "outline", None),
    ("Square at Noon", "The Ferrymen", "The corps", 40, "every_bar", "square-at-noon"),
    ("Lantern Steps", "Juno Vantreight", "Maarten", 45, "every_bar", "lantern-steps"),
)


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_options: object) -> None:
        if User.objects.filter(username=NAME).exists():
            return
        with transaction.atomic():
            owner = User.objects.create_user(NAME, password=PASSWORD)
            for title, artist, asked_by, days, depth, recording in SONGS:
                due = None if days is None else timezone.now().date() + timedelta(days=days)
                song = Song.objects.create(
                    owner=owner, title=title, artist=artist, asked_by=asked_by, due=due,
                    depth=depth,
                )  # fmt: skip
                if recording:
                    self._take(song, recording)

    def _take(self, song: Song, recording: str) -> None:
        path = settings.ROOT / "demo" / "songs" / f"{recording}.ogg"
        with path.open("rb") as file:
            digest = store.digest_of(file)
            stored = store.keep(file, "ogg", digest)
        take = Take.objects.create(
            song=song, name=path.name, digest=digest, original=stored.name, rights=Take.OWN_RIGHT
        )
        start_hearing(take)
