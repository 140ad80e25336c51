from __future__ import annotations

from django.http import FileResponse, HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from people.access import OWN
from rest_framework import serializers
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from library import sound
from library.access import must_be_allowed
from library.models import Take
from orchesis.errors import BadScore
from orchesis.hearing.excerpts import PICTURE_LONGEST
from orchesis.hearing.sound import MAX_SECONDS
from orchesis.score.untrusted import read_number


def _heard_take(request: Request, pk: int) -> Take:
    """A take that the asker sees and that was heard; 404 where there is none."""
    return get_object_or_404(Take.objects.visible_to(request.user).exclude(sound=""), pk=pk)


class RightsSerializer(serializers.Serializer):
    rights = serializers.ChoiceField(Take.RIGHTS)


class TakeRightsView(APIView):
    """By what right a recording is here."""

    @extend_schema(request=RightsSerializer, responses=RightsSerializer)
    def put(self, request: Request, pk: int) -> Response:
        take = get_object_or_404(Take.objects.visible_to(request.user), pk=pk)
        must_be_allowed(request, take.song, OWN)
        given = RightsSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        take.rights = given.validated_data["rights"]
        take.save(update_fields=["rights"])
        return Response(given.data)


class TakeSoundView(APIView):
    """The sound of a take, in pieces of ten seconds or as an outline."""

    @extend_schema(
        parameters=[OpenApiParameter("drums", str, enum=list(sound.BALANCES))],
        responses={(200, "audio/flac"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, pk: int, number: int) -> HttpResponse:
        balance = request.query_params.get("drums", "recorded")
        if balance not in sound.BALANCES:
            raise ValidationError(f"Drums are {', '.join(sound.BALANCES)}, not “{balance}”.")
        content = sound.piece(_heard_take(request, pk), number, balance)
        if content is None:
            return HttpResponse(status=404)
        return HttpResponse(
            content, content_type="audio/flac", headers={"Cache-Control": "private, max-age=86400"}
        )


class TakeOutlineView(APIView):
    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        content = sound.outline(_heard_take(request, pk))
        return HttpResponse(content, content_type="application/octet-stream")


class TakeOriginalView(APIView):
    """A take's own file, for the picture of a video."""

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> FileResponse:
        take = _heard_take(request, pk)
        return FileResponse(
            take.original.open("rb"),
            as_attachment=True,
            filename=take.name,
            content_type=sound.media_type(take.original.name or ""),
        )


class TakePictureView(APIView):
    """The spectrum of a stretch of a take."""

    @extend_schema(
        parameters=[
            OpenApiParameter("start", float, required=True, description="seconds"),
            OpenApiParameter("end", float, required=True, description="seconds"),
        ],
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, pk: int) -> HttpResponse:
        try:
            start, end = (
                read_number(request.query_params.get(k), -60, MAX_SECONDS + 60, "A second")
                for k in ("start", "end")
            )
        except BadScore:
            raise ValidationError("Say from which second to which (start, end).") from None
        if not 0 < end - start <= PICTURE_LONGEST:
            raise ValidationError(f"A stretch of up to {PICTURE_LONGEST:.0f} seconds can be shown.")
        return HttpResponse(
            sound.picture(_heard_take(request, pk), start, end),
            content_type="application/octet-stream",
            headers={"Cache-Control": "private, max-age=86400"},
        )
