"""Players' links: made, changed and revoked by the owner of the song; opened by whoever has the
address."""

from __future__ import annotations

from typing import Any

from config import addresses
from config.answers import answered, read
from config.files import attachment
from config.open_view import OpenView
from config.rates import Limit
from django.db.models import QuerySet
from django.http import FileResponse, Http404, HttpResponse
from django.http.response import HttpResponseBase
from django.utils import timezone
from django.utils.decorators import method_decorator
from django.views.decorators.gzip import gzip_page
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from library import sound
from library.models import Take
from people.access import EDIT
from rest_framework.exceptions import Throttled, ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_arrangement, read_arrangement
from transcription.models import Arrangement

from orchesis.formats.file_names import file_name
from orchesis.score.edit import printable_text
from practice import clips, lesson, link_answers
from practice.models import PlayerLink, PlayerProgress
from practice.rhythm_views import said_aloud

_MOST_LINKS, _MOST_PLAYERS, _MOST_BARS = 60, 200, 32
#: Players who are new at a link: a class behind one address, and all who have it.
_NEW_OF_ADDRESS, _NEW_OF_LINK = Limit("new_player", "40/hour"), Limit("new_players", "150/hour")


def _told(link: PlayerLink) -> dict[str, Any]:
    """passages: in the bars of today's part, for the teacher who looks at it."""
    changes = lesson.changes(link)
    return {
        "id": link.pk,
        "title": link.title,
        "words": link.words,
        "address": f"/p/{link.token}",
        "passages": changes.passages,
        "whole": not link.passages,
        "with_recording": link.with_recording,
        "is_old": link.version != link.arrangement.version,
        "changes": changes.says,
        "progress": [
            {
                "name": p.name,
                "minutes": round(p.minutes, 1),
                "at": p.at.isoformat(),
                "stages": p.stages,
            }
            for p in link.progress.all()
        ],
    }


def _own_links(request: Request) -> QuerySet[PlayerLink]:
    """The links of songs that the asker may change: what players told is their teacher's."""
    return PlayerLink.objects.visible_to(request.user, may=EDIT)


def _must_be_allowed_to_sound(arrangement: Arrangement, wished: bool) -> None:
    if wished and arrangement.take.rights == Take.PRIVATE:
        raise ValidationError(
            "This recording is noted as being for private study; where it is yours or licensed, "
            "say so in Take in, then others may hear it."
        )


class LinksView(APIView):
    """The links that a song has given out, and a new one."""

    @extend_schema(responses=link_answers.Links)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = asked_arrangement(
            request, pk, EDIT
        )  # it tells what players told their teacher
        links = arrangement.player_links.filter(revoked=None).prefetch_related("progress")
        return answered(link_answers.Links, links=[_told(link) for link in links])

    @extend_schema(request=link_answers.LinkRequest, responses=link_answers.Link)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(link_answers.LinkRequest, request.data, "link")
        arrangement = read_arrangement(request, pk)
        if arrangement.player_links.filter(revoked=None).count() >= _MOST_LINKS:
            raise ValidationError(
                f"A song gives out {_MOST_LINKS} links at most; revoke one first."
            )
        _must_be_allowed_to_sound(arrangement, asked.with_recording)
        link = PlayerLink.objects.create(
            arrangement=arrangement,
            title=printable_text(asked.title),
            version=arrangement.version,
            words=printable_text(asked.words),
            with_recording=asked.with_recording,
            passages=_passages(asked, arrangement),
        )
        return answered(link_answers.Link, **_told(link))


def _passages(asked: link_answers.LinkRequest, arrangement: Arrangement) -> list[dict[str, Any]]:
    """The passages asked for, as a link keeps them; told where one is none of the song."""
    for p in asked.passages:
        if not p.first <= p.last <= arrangement.score.bar_count or p.last - p.first >= _MOST_BARS:
            raise ValidationError(
                f"Bars {p.first} to {p.last} are no passage: 1 to {_MOST_BARS} bars of the song's "
                f"{arrangement.score.bar_count}, the first before the last."
            )
    return [{**p.model_dump(), "words": printable_text(p.words)} for p in asked.passages]


class LinkView(APIView):
    """One link: what it holds, which is today's part from then on; revoked, its address is dead
    at once."""

    @extend_schema(request=link_answers.LinkRequest, responses=link_answers.Link)
    def put(self, request: Request, pk: int) -> Response:
        asked = read(link_answers.LinkRequest, request.data, "link")
        link = get_object_or_404(_own_links(request), pk=pk, revoked=None)
        link.title, link.words = printable_text(asked.title), printable_text(asked.words)
        _must_be_allowed_to_sound(link.arrangement, asked.with_recording)
        link.with_recording = asked.with_recording
        link.passages = _passages(asked, link.arrangement)
        link.version = link.arrangement.version
        link.save(update_fields=["title", "words", "with_recording", "passages", "version"])
        return answered(link_answers.Link, **_told(link))

    @extend_schema(request=None, responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        link = get_object_or_404(_own_links(request), pk=pk)
        PlayerLink.objects.filter(pk=link.pk, revoked=None).update(revoked=timezone.now())
        return Response(status=204)


class LinkUpdateView(APIView):
    """A link that was given shows its players today's part; its passages follow their bars."""

    @extend_schema(request=None, responses=link_answers.Link)
    def post(self, request: Request, pk: int) -> Response:
        link = get_object_or_404(_own_links(request), pk=pk, revoked=None)
        moved = lesson.changes(link).passages
        if link.passages and not moved:
            raise ValidationError(
                "None of the lesson's bars is in the song any more; choose others for it."
            )
        link.passages, link.version = moved, link.arrangement.version
        link.save(update_fields=["passages", "version"])
        return answered(link_answers.Link, **_told(link))


class LinkSheetView(APIView):
    """What a link holds, on paper: the excerpt sheet of a lesson, the chart of a whole song."""

    @extend_schema(responses={(200, "application/pdf"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        links = _own_links(request).select_related("arrangement__song")
        link = get_object_or_404(links, pk=pk, revoked=None)
        name = file_name(link.arrangement.song.title, link.title, ending=".pdf")
        return attachment(lesson.sheet_pdf(link), "application/pdf", name)


def _opened(token: str) -> PlayerLink:
    links = PlayerLink.objects.open_to(token).select_related(
        "arrangement__song", "arrangement__take"
    )
    link = links.first()
    if link is None:
        raise Http404("This address holds nothing any more: ask whoever gave it to you.")
    return link


@method_decorator(gzip_page, name="dispatch")
class GivenLessonView(OpenView):
    @extend_schema(responses=link_answers.GivenLesson)
    def get(self, request: Request, token: str) -> Response:
        return answered(link_answers.GivenLesson, **lesson.given(_opened(token)))


@method_decorator(gzip_page, name="dispatch")
class GivenPageView(OpenView):
    @extend_schema(responses={(200, "image/svg+xml"): OpenApiTypes.STR})
    def get(self, request: Request, token: str, number: int) -> HttpResponse:
        pages = lesson.pages(_opened(token))
        if not 1 <= number <= len(pages):
            raise Http404("There is no such page.")
        return HttpResponse(pages[number - 1], content_type="image/svg+xml")


class GivenSoundView(OpenView):
    """The recording in pieces of ten seconds, where its owner lets it sound."""

    @extend_schema(
        parameters=[OpenApiParameter("drums", str, enum=list(sound.BALANCES))],
        responses={(200, "audio/flac"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, token: str, number: int) -> HttpResponse:
        link = _opened(token)
        balance = request.query_params.get("drums", "recorded")
        if not link.sounds or balance not in sound.BALANCES:
            raise Http404("The recording does not sound here.")
        content = sound.piece(link.arrangement.take, number, balance)
        if content is None:
            return HttpResponse(status=404)
        kept = {"Cache-Control": "private, max-age=86400"}
        return HttpResponse(content, content_type="audio/flac", headers=kept)


class GivenClipView(OpenView):
    """A clip of the teacher's at one of the lesson's stages."""

    @extend_schema(responses={(200, "video/webm"): OpenApiTypes.BINARY})
    def get(self, request: Request, token: str, number: int) -> FileResponse:
        link = _opened(token)
        return clips.given(link.arrangement, link.passages, number)


class GivenWordView(OpenView):
    """A word of the lesson's own counting, said aloud."""

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request, token: str, word: str) -> HttpResponse:
        if word not in lesson.words(_opened(token)):
            raise Http404("Nobody says that in this lesson.")
        return said_aloud(word)


class GivenProgressView(OpenView):
    """What a player who agreed to it tells the teacher."""

    @extend_schema(request=link_answers.ProgressRequest, responses={204: None})
    def post(self, request: Request, token: str) -> Response:
        asked = read(link_answers.ProgressRequest, request.data, "progress")
        link = _opened(token)
        if not link.progress.filter(device=asked.device).exists():
            self._make_room(link, addresses.of(request._request))
        PlayerProgress.objects.update_or_create(
            link=link,
            device=asked.device,
            defaults={
                "name": printable_text(asked.name),
                "minutes": asked.minutes,
                "stages": [s.model_dump() for s in asked.stages],
            },
        )
        return Response(status=204)

    @staticmethod
    def _make_room(link: PlayerLink, address: str) -> None:
        """For a player more: whoever told nothing for longest gives way. Raises Throttled where
        one address, or all of them together, brings players as no class does."""
        for limit, who in ((_NEW_OF_ADDRESS, f"{link.pk}:{address}"), (_NEW_OF_LINK, link.pk)):
            if not limit.use(who):
                raise Throttled(limit.left)
        latest = link.progress.order_by("-at", "-pk").values_list("pk", flat=True)
        link.progress.filter(pk__in=list(latest[_MOST_PLAYERS - 1 :])).delete()

    @extend_schema(
        parameters=[OpenApiParameter("device", str, required=True)], responses={204: None}
    )
    def delete(self, request: Request, token: str) -> Response:
        _opened(token).progress.filter(device=request.query_params.get("device", "")).delete()
        return Response(status=204)
