"""Set lists and class plans; lessons as things of their own; how much is left to do."""

from __future__ import annotations

import secrets
from typing import Any

from config.answers import answered, read
from config.files import attachment
from config.open_view import OpenView
from django.db import transaction
from django.db.models import Count, F, Q
from django.http import Http404
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from jobs.models import Job
from jobs.serializers import JobSerializer
from library.access import must_be_allowed
from library.models import Song
from people.access import EDIT, OWN, SEE, not_enough
from people.models import Group
from practice.models import PlayerLink
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.models import Arrangement

from orchesis.formats.file_names import file_name
from orchesis.score.edit import printable_text
from planning import answers, effort, paper
from planning.models import SetItem, SetList


def _rows(request: Request, may: str = SEE) -> Any:
    lists = SetList.objects.visible_to(request.user, may=may).select_related("owner")
    return lists.prefetch_related("items__song__arrangements__take", "items__lesson", "items__link")


def _recorded(song: Song) -> Arrangement | None:
    return next((a for a in song.arrangements.all() if a.is_recorded), None)


def _shared_by(owner: Any) -> set[int]:
    """The songs that somebody may give out, as of now."""
    return set(Song.objects.visible_to(owner, may=EDIT).values_list("pk", flat=True))


def _item_told(item: SetItem, shared: set[int]) -> dict[str, Any]:
    """shared: the songs that the list's owner may give out; the links of others stay closed."""
    arrangement = _recorded(item.song)
    link = item.lesson or item.link
    is_open = link is not None and link.revoked is None and item.song_id in shared
    return {
        "song": item.song_id,
        "title": item.song.title,
        "artist": item.song.artist,
        "lesson": item.lesson_id,
        "lesson_title": item.lesson.title if item.lesson else "",
        "due": item.due and item.due.isoformat(),
        "note": item.note,
        "seconds": arrangement.take.duration if arrangement else None,
        "tempo": arrangement.tempo if arrangement else None,
        "is_ready": arrangement is not None,
        "confirmed": arrangement.confirmed / arrangement.bars
        if arrangement and arrangement.bars
        else 0.0,
        "address": f"/p/{link.token}" if link and is_open else "",
    }


def _told(set_list: SetList, request: Request, edited: set[int]) -> dict[str, Any]:
    seen = set(
        Song.objects.visible_to(request.user)
        .filter(pk__in=[i.song_id for i in set_list.items.all()])
        .values_list("pk", flat=True)
    )
    shared = _shared_by(set_list.owner)
    items = [_item_told(i, shared) for i in set_list.items.all() if i.song_id in seen]
    job = Job.objects.filter(kind=paper.PAPER, subject=set_list.pk).order_by("-pk").first()
    is_mine = set_list.owner_id == request.user.pk
    ready = (
        "none"
        if not set_list.pdf
        else "ready"
        if set_list.pdf_of == paper.made_of(set_list)
        else "old"
    )
    return {
        "id": set_list.pk,
        "title": set_list.title,
        "kind": set_list.kind,
        "words": set_list.words,
        "due": set_list.due and set_list.due.isoformat(),
        "group": set_list.group_id,
        "of": set_list.owner.username,
        "may": OWN if is_mine else EDIT if set_list.pk in edited else SEE,
        "items": items,
        "seconds": sum(i["seconds"] or 0.0 for i in items),
        "address": f"/l/{set_list.token}" if set_list.token else "",
        "paper": ready,
        "job": JobSerializer(job).data if job else None,
    }


def _edited(request: Request) -> set[int]:
    lists = SetList.objects.visible_to(request.user, may=EDIT)
    return set(lists.values_list("pk", flat=True))


def _one(request: Request, pk: int, may: str) -> SetList:
    set_list: SetList = get_object_or_404(_rows(request), pk=pk)
    allowed = SetList.objects.visible_to(request.user, may=may).filter(pk=pk)
    if may != SEE and not allowed.exists():
        raise not_enough(set_list.title, may)
    return set_list


def _answer(request: Request, pk: int, status: int = 200) -> Response:
    set_list = _one(request, pk, SEE)
    answer = _told(set_list, request, _edited(request))
    return answered(answers.SetListTold, status=status, **answer)


def _fill(set_list: SetList, asked: answers.SetListRequest, request: Request) -> None:
    """What was asked for becomes what the list is. Raises ValidationError where it names songs,
    lessons or groups that the asker does not have."""
    if set_list.pk and asked.group != set_list.group_id and set_list.owner_id != request.user.pk:
        raise not_enough(set_list.title, OWN)
    if asked.group is not None and asked.group != set_list.group_id:
        groups = Group.objects.visible_to(request.user)
        if not groups.filter(pk=asked.group).exists():
            raise ValidationError("You are in no such group.")
    seen = set(Song.objects.visible_to(request.user).values_list("pk", flat=True))
    kept = {i.song_id for i in set_list.items.all()} if set_list.pk else set()
    wanted = {i.song for i in asked.items}
    if wanted - seen - kept:
        raise ValidationError("A list holds songs of your shelf; one of these is none.")
    lessons = {i.lesson: i.song for i in asked.items if i.lesson is not None}
    # A list gives its lessons out: who may not do that puts none into it. What is there stays.
    rows = PlayerLink.objects.visible_to(request.user, may=EDIT).filter(
        pk__in=lessons, revoked=None
    )
    there = dict(rows.values_list("pk", "arrangement__song"))
    there |= (
        {i.lesson_id: i.song_id for i in set_list.items.all() if i.lesson_id} if set_list.pk else {}
    )
    if any(there.get(pk) != song for pk, song in lessons.items()):
        raise ValidationError("A lesson in a list is one of its song's; this one is none any more.")
    set_list.title, set_list.words = printable_text(asked.title), printable_text(asked.words)
    set_list.kind, set_list.due, set_list.group_id = asked.kind, asked.due, asked.group
    if asked.is_given and not set_list.token:
        set_list.token = secrets.token_urlsafe(18)
    elif not asked.is_given:
        set_list.token = ""
    set_list.save()
    links = {i.song_id: i.link_id for i in set_list.items.all() if i.link_id}
    set_list.items.all().delete()
    SetItem.objects.bulk_create(
        SetItem(
            set_list=set_list,
            place=place,
            song_id=i.song,
            lesson_id=i.lesson,
            due=i.due,
            note=printable_text(i.note),
            link_id=links.get(i.song),
        )
        for place, i in enumerate(asked.items, 1)
    )
    if set_list.token:
        _give_links(set_list, request)


def _give_links(set_list: SetList, request: Request) -> None:
    """Every song of a list that is given out gets a player's link, where whoever gives the list
    may give out the song."""
    allowed = _shared_by(request.user)
    for item in set_list.items.select_related("song", "link").filter(lesson=None):
        arrangement = _recorded(item.song)
        if item.song_id not in allowed or arrangement is None:
            continue
        if item.link and item.link.revoked is None:
            # Given again: its players see the song as it is now.
            item.link.version = item.link.arrangement.version
            item.link.save(update_fields=["version"])
            continue
        item.link = PlayerLink.objects.create(
            arrangement=arrangement, title=item.song.title[:120], version=arrangement.version
        )
        item.save(update_fields=["link"])


class SetListsView(APIView):
    @extend_schema(operation_id="set_lists_list", responses=answers.SetLists)
    def get(self, request: Request) -> Response:
        edited = _edited(request)
        lists = [_told(set_list, request, edited) for set_list in _rows(request)]
        return answered(answers.SetLists, lists=lists)

    @extend_schema(request=answers.SetListRequest, responses={201: answers.SetListTold})
    def post(self, request: Request) -> Response:
        asked = read(answers.SetListRequest, request.data, "list")
        with transaction.atomic():
            set_list = SetList(owner_id=int(request.user.pk or 0))
            _fill(set_list, asked, request)
        return _answer(request, set_list.pk, 201)


class SetListView(APIView):
    @extend_schema(responses=answers.SetListTold)
    def get(self, request: Request, pk: int) -> Response:
        return _answer(request, pk)

    @extend_schema(request=answers.SetListRequest, responses=answers.SetListTold)
    def put(self, request: Request, pk: int) -> Response:
        asked = read(answers.SetListRequest, request.data, "list")
        with transaction.atomic():
            _fill(_one(request, pk, EDIT), asked, request)
        return _answer(request, pk)

    @extend_schema(responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        _one(request, pk, OWN).delete()
        return Response(status=204)


class SetListPaperView(APIView):
    """All road maps of a list as one PDF, made by a worker."""

    @extend_schema(responses={(200, "application/pdf"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        set_list = _one(request, pk, SEE)
        if not set_list.pdf:
            raise Http404("The pages of this list were not made yet.")
        return attachment(
            set_list.pdf.open("rb"),
            "application/pdf",
            file_name(set_list.title, "road maps", ending=".pdf"),
        )

    @extend_schema(request=None, responses=answers.SetListTold)
    def post(self, request: Request, pk: int) -> Response:
        set_list = _one(request, pk, SEE)
        if not any(_recorded(i.song) for i in set_list.items.all()):
            raise ValidationError("No song of this list has been heard yet; there is no page.")
        paper.ask(set_list, request.user)
        return _answer(request, pk)


class GivenListView(OpenView):
    @extend_schema(responses=answers.GivenList)
    def get(self, request: Request, token: str) -> Response:
        rows = SetList.objects.open_to(token).prefetch_related(
            "items__song__arrangements__take", "items__lesson", "items__link"
        )
        set_list = rows.first()
        if set_list is None:
            raise Http404("This address holds nothing any more: ask whoever gave it to you.")
        shared = _shared_by(set_list.owner)
        items = [_item_told(i, shared) for i in set_list.items.all() if i.song.removed is None]
        keys = ("title", "artist", "note", "due", "seconds", "tempo", "address")
        return answered(
            answers.GivenList,
            title=set_list.title,
            kind=set_list.kind,
            words=set_list.words,
            due=set_list.due and set_list.due.isoformat(),
            seconds=sum(i["seconds"] or 0.0 for i in items),
            items=[
                {**{k: i[k] for k in keys}, "title": i["lesson_title"] or i["title"]} for i in items
            ],
        )


class LessonsView(APIView):
    """All lessons of the songs one may change, newest first."""

    @extend_schema(responses=answers.Lessons)
    def get(self, request: Request) -> Response:
        rows = (
            PlayerLink.objects.visible_to(request.user, may=EDIT)
            .filter(revoked=None)
            .exclude(passages=[])
            .select_related("arrangement__song")
            .annotate(players=Count("progress"))
        )
        lessons = [
            {
                "id": link.pk,
                "song": link.arrangement.song_id,
                "song_title": link.arrangement.song.title,
                "title": link.title,
                "words": link.words,
                "passages": len(link.passages),
                "players": link.players,
                "address": f"/p/{link.token}",
            }
            for link in rows[:300]
        ]
        return answered(answers.Lessons, lessons=lessons)


class ForecastView(APIView):
    """How long the songs that are asked for will still take at one's own pace."""

    @extend_schema(responses=answers.Forecasts)
    def get(self, request: Request) -> Response:
        return answered(answers.Forecasts, **effort.told(request.user))


class MinutesView(APIView):
    @extend_schema(request=answers.MinutesRequest, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        """Minutes of work away from the desk."""
        asked = read(answers.MinutesRequest, request.data, "work")
        song = get_object_or_404(Song.objects.visible_to(request.user), pk=pk)
        must_be_allowed(request, song)
        rows = Arrangement.objects.filter(song=song, name=Arrangement.RECORDED)
        rows.filter(Q(minutes__gte=-asked.minutes)).update(minutes=F("minutes") + asked.minutes)
        return Response(status=204)
