"""Loads the demo once: people, songs whose recordings are heard like any upload, requests, a set
list."""

from __future__ import annotations

from datetime import date, timedelta

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone
from library import store
from library.models import RequestForm, Song, Take
from people.models import EDITOR, OWNER, PLAYER, Group
from planning.models import SetItem, SetList
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


#: Title -> tags of the demo's songs.
TAGS = {
    "Copper Weather": ["lesson"],
    "Late Tram, Lower Deck": ["trio", "swing"],
    "Northline": ["harbour"],
    "Glass Orchard": ["harbour"],
    "Square at Noon": ["corps", "march"],
}


class Command(BaseCommand):
    help = __doc__

    def handle(self, **_options: object) -> None:
        if User.objects.filter(username=NAME).exists():
            return
        with transaction.atomic():
            owner = User.objects.create_user(NAME, password=PASSWORD)
            bo = User.objects.create_user("bo", password=PASSWORD)
            ilka = User.objects.create_user("ilka", password=PASSWORD)
            trio = self._group("The trio", "band", owner, {bo: EDITOR})
            lessons = self._group("Thursday lessons", "class", owner, {ilka: PLAYER})
            form = RequestForm.objects.create(
                owner=owner,
                title="What shall we play?",
                words="Tin Meridian at the harbour, every last Friday.",
            )
            songs = {}
            for title, artist, asked_by, days, depth, recording in SONGS:
                song = songs[title] = Song.objects.create(
                    owner=owner,
                    title=title,
                    artist=artist,
                    asked_by=asked_by,
                    due=_in(days),
                    depth=depth,
                    tags=TAGS.get(title, []),
                )
                if recording:
                    self._take(song, recording, bo)
            songs["Late Tram, Lower Deck"].groups.add(trio)
            songs["Copper Weather"].groups.add(lessons)
            for title, votes in (("Sleeper to Vell", 5), ("Two Rivers, One Coat", 2)):
                Song.objects.filter(title=title, owner=owner).update(form=form, votes=votes)
            evening = SetList.objects.create(
                owner=owner,
                title="Friday at the harbour",
                due=_in(12),
                group=trio,
                words="Two sets, the second one louder. Load-in by six.",
            )
            run = ("Late Tram, Lower Deck", "Northline", "Glass Orchard", "Copper Weather")
            for place, title in enumerate(run, 1):
                SetItem.objects.create(set_list=evening, place=place, song=songs[title])

    @staticmethod
    def _group(name: str, kind: str, owner: User, others: dict[User, str]) -> Group:
        group = Group.objects.create(name=name, kind=kind)
        for who, role in {owner: OWNER, **others}.items():
            group.members.create(user=who, role=role)
        return group

    def _take(self, song: Song, recording: str, who: User) -> None:
        """Heard in somebody else's turn: what the demo's user adds first is heard next."""
        path = settings.ROOT / "demo" / "songs" / f"{recording}.ogg"
        with path.open("rb") as file:
            digest = store.digest_of(file)
            stored = store.keep(file, "ogg", digest)
        take = Take.objects.create(
            song=song, name=path.name, digest=digest, original=stored.name, rights=Take.OWN_RIGHT
        )
        start_hearing(take, who)


def _in(days: int | None) -> date | None:
    return None if days is None else timezone.now().date() + timedelta(days=days)
