"""Files to play along with: asked for, listed, fetched."""

from __future__ import annotations

from typing import Any

from config.answers import answered, read
from config.files import attachment
from django.db import transaction
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from jobs.models import Job
from jobs.serializers import JobSerializer
from people.access import SEE
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_arrangement, read_arrangement

from orchesis.formats.file_names import file_name
from practice import exporting, link_answers
from practice.models import PlayAlong


def _told(play_along: PlayAlong, job: Job | None) -> dict[str, Any]:
    return {
        "id": play_along.pk,
        "names": play_along.names,
        "is_ready": bool(play_along.file),
        "is_old": play_along.version != play_along.arrangement.version,
        "wish": play_along.wish,
        "job": JobSerializer(job).data if job else None,
    }


class PlayAlongsView(APIView):
    """The zips of a song, and a new one."""

    @extend_schema(responses=link_answers.PlayAlongs)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = asked_arrangement(request, pk)
        play_alongs = list(arrangement.play_alongs.select_related("arrangement"))
        jobs = {
            j.subject: j
            for j in Job.objects.filter(
                kind=exporting.PLAY_ALONG, subject__in=[m.pk for m in play_alongs]
            ).order_by("id")
        }
        return answered(
            link_answers.PlayAlongs, made=[_told(m, jobs.get(m.pk)) for m in play_alongs]
        )

    @extend_schema(request=link_answers.PlayAlongRequest, responses=link_answers.PlayAlong)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(link_answers.PlayAlongRequest, request.data, "wish")
        arrangement = read_arrangement(request, pk, SEE)
        with transaction.atomic():
            play_along, job = exporting.ask(arrangement, asked.model_dump(), request.user)
        return answered(link_answers.PlayAlong, **_told(play_along, job))


class PlayAlongFileView(APIView):
    @extend_schema(responses={(200, "application/zip"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        play_alongs = PlayAlong.objects.visible_to(request.user).exclude(file="")
        play_along = get_object_or_404(play_alongs.select_related("arrangement__song"), pk=pk)
        name = file_name(play_along.arrangement.song.title, "play along", ending=".zip")
        return attachment(play_along.file.open("rb"), "application/zip", name)
