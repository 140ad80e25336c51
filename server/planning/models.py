"""Set lists and class plans: a run of songs and lessons, with when and in which order."""

from __future__ import annotations

import secrets
from datetime import date
from typing import Any

from config.files import goes_with_its_row
from django.conf import settings
from django.db import models
from django.utils import timezone
from library.models import Song
from people.access import OWN, SEE, groups_with
from people.models import Group
from practice.models import PlayerLink


class SetListQuerySet(models.QuerySet["SetList"]):
    def visible_to(self, user: Any, *, may: str = SEE) -> SetListQuerySet:
        """One's own, and those of groups in which one's role lets one do that."""
        whose = models.Q(owner=user.pk)
        if may != OWN:
            whose |= models.Q(group__in=groups_with(user, may))
        return self.filter(whose)

    def open_to(self, token: str) -> SetListQuerySet:
        """What an address that was given out holds."""
        return self.filter(token=token) if token else self.none()


def _pdf_path(set_list: SetList, _name: str) -> str:
    return f"set-lists/{set_list.pk}-{secrets.token_hex(8)}.pdf"


class SetList(models.Model):
    """A run of songs for an evening (a set list) or a term (a class plan).

    group: with whom it is shared. token: of the players' address, "" where none is given out.
    pdf: its road maps on paper, as they were when pdf_of was what they are made of.
    """

    KINDS = ("set list", "class plan")

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    group = models.ForeignKey(Group, on_delete=models.SET_NULL, null=True, related_name="set_lists")
    kind = models.CharField(max_length=12, choices=[(k, k) for k in KINDS], default=KINDS[0])
    title = models.CharField(max_length=120)
    words = models.CharField(max_length=2000, blank=True)
    due = models.DateField(null=True)
    token = models.CharField(max_length=40, blank=True, db_index=True)
    pdf = models.FileField(upload_to=_pdf_path, max_length=255, blank=True)
    pdf_size = models.BigIntegerField(default=0)
    pdf_of = models.CharField(max_length=64, blank=True)
    created = models.DateTimeField(default=timezone.now)

    objects = SetListQuerySet.as_manager()

    class Meta:
        ordering = ["due", "-created"]

    def __str__(self) -> str:
        return self.title


class SetItem(models.Model):
    """One song of a list, or one lesson of a song. link: by which players open it."""

    set_list = models.ForeignKey(SetList, on_delete=models.CASCADE, related_name="items")
    place = models.IntegerField()
    song = models.ForeignKey(Song, on_delete=models.CASCADE, related_name="set_items")
    lesson = models.ForeignKey(
        PlayerLink, on_delete=models.SET_NULL, null=True, related_name="set_items"
    )
    link = models.ForeignKey(PlayerLink, on_delete=models.SET_NULL, null=True, related_name="+")
    due = models.DateField(null=True)
    note = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["place", "id"]

    def __str__(self) -> str:
        return f"{self.place}: {self.song}"


goes_with_its_row("pdf", SetList)


def due_by_song(user: Any) -> dict[int, date]:
    """Dates of the lists that a person sees: of a song in one, else of the whole list."""
    items = SetItem.objects.filter(set_list__in=SetList.objects.visible_to(user))
    made: dict[int, date] = {}
    for song, alone, whole in items.values_list("song", "due", "set_list__due"):
        due = alone or whole
        if due is not None:
            made[song] = min(due, made.get(song, due))
    return made
