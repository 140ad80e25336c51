from __future__ import annotations

import hashlib

from config.errors import Conflict
from django.contrib.auth import authenticate, login, logout
from django.db import transaction
from django.http import FileResponse, HttpResponse
from django.utils import timezone
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import mixins, viewsets
from rest_framework.decorators import action
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.jobs import start_hearing

from library import sound
from library.models import Song, Take
from library.serializers import (
    CredentialsSerializer,
    SessionSerializer,
    SongSerializer,
    TakeSerializer,
    UploadSerializer,
)
from orchesis.errors import BadScore, BadSound
from orchesis.hearing.sound import BIGGEST, LONGEST
from orchesis.score.untrusted import printable, read_number


@method_decorator(csrf_protect, name="dispatch")  # also before anybody is logged in
class SessionView(APIView):
    """Who is logged in; log in; log out."""

    permission_classes = [AllowAny]

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        user = request.user
        return Response({"name": user.username if user.is_authenticated else None})

    @extend_schema(request=CredentialsSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        given = CredentialsSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        user = authenticate(
            request._request,
            username=given.validated_data["name"],
            password=given.validated_data["password"],
        )
        if user is None:
            return Response({"detail": "Name and password don't match."}, status=403)
        login(request, user)
        return Response({"name": user.username})

    @extend_schema(responses=SessionSerializer)
    def delete(self, request: Request) -> Response:
        logout(request)
        return Response({"name": None})


class SongViewSet(
    mixins.ListModelMixin,
    mixins.CreateModelMixin,
    mixins.RetrieveModelMixin,
    mixins.UpdateModelMixin,
    mixins.DestroyModelMixin,
    viewsets.GenericViewSet,
):
    """The shelf. A removed song can be brought back."""

    serializer_class = SongSerializer
    http_method_names = ["get", "post", "patch", "delete"]

    def get_queryset(self):
        own = Song.objects.visible_to(self.request.user, also_removed=self.action == "restore")
        # The shelf needs no score: what it shows of one is kept beside it.
        return (
            own.select_related("transcription")
            .defer("transcription__document", "transcription__analysis")
            .prefetch_related("takes__jobs")
        )

    def perform_create(self, serializer) -> None:
        serializer.save(owner=self.request.user)

    def perform_destroy(self, song: Song) -> None:
        song.removed = timezone.now()
        song.save(update_fields=["removed"])

    @extend_schema(request=None, responses=SongSerializer)
    @action(detail=True, methods=["post"])
    def restore(self, request: Request, pk: str) -> Response:
        song = self.get_object()
        song.removed = None
        song.save(update_fields=["removed"])
        return Response(SongSerializer(song).data)

    @extend_schema(
        request={"multipart/form-data": UploadSerializer}, responses={201: TakeSerializer}
    )
    @action(detail=True, methods=["post"], parser_classes=[MultiPartParser])
    def takes(self, request: Request, pk: str) -> Response:
        """Give the song its recording; hearing begins at once."""
        song = self.get_object()
        given = UploadSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        if file.size == 0:
            raise BadSound(f"“{file.name}” is empty; choose the recording again.")
        if file.size > BIGGEST:
            raise BadSound(
                f"“{file.name}” has {file.size / 2**20:.0f} MB; the most we take is 200 MB."
            )
        digest = hashlib.sha256()
        for chunk in file.chunks():
            digest.update(chunk)
        twin = (
            Take.objects.visible_to(request.user)
            .filter(digest=digest.hexdigest())
            .select_related("song")
            .first()
        )
        if twin is not None:
            raise Conflict(f"This recording is on the shelf already, as “{twin.song.title}”.")
        file.seek(0)
        with transaction.atomic():
            take = Take.objects.create(
                song=song, name=printable(file.name), digest=digest.hexdigest(), original=file
            )
            start_hearing(take)
        return Response(TakeSerializer(take).data, status=201)


class TakeSoundView(APIView):
    """The sound of a take, in pieces of ten seconds or as an outline."""

    def _take(self, request: Request, pk: int) -> Take:
        return get_object_or_404(Take.objects.visible_to(request.user).exclude(sound=""), pk=pk)

    @extend_schema(
        parameters=[OpenApiParameter("drums", str, enum=list(sound.BALANCES))],
        responses={(200, "audio/flac"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, pk: int, number: int) -> HttpResponse:
        balance = request.query_params.get("drums", "recorded")
        if balance not in sound.BALANCES:
            raise ValidationError(f"Drums are {', '.join(sound.BALANCES)}, not “{balance}”.")
        content = sound.piece(self._take(request, pk), number, balance)
        if content is None:
            return HttpResponse(status=404)
        return HttpResponse(
            content, content_type="audio/flac", headers={"Cache-Control": "private, max-age=86400"}
        )


class TakeOutlineView(TakeSoundView):
    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        content = sound.outline(self._take(request, pk))
        return HttpResponse(content, content_type="application/octet-stream")


class TakeOriginalView(TakeSoundView):
    """A take's own file, for the picture of a video."""

    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> FileResponse:
        take = self._take(request, pk)
        return FileResponse(
            take.original.open("rb"),
            as_attachment=True,
            filename=take.name,
            content_type=sound.media_type(take.original.name),
        )


class TakePictureView(TakeSoundView):
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
                read_number(request.query_params.get(k), -60, LONGEST + 60, "A second")
                for k in ("start", "end")
            )
        except BadScore:
            raise ValidationError("Say from which second to which (start, end).") from None
        if not 0 < end - start <= sound.PICTURE_LONGEST:
            raise ValidationError(
                f"A stretch of up to {sound.PICTURE_LONGEST:.0f} seconds can be shown."
            )
        return HttpResponse(
            sound.picture(self._take(request, pk), start, end),
            content_type="application/octet-stream",
            headers={"Cache-Control": "private, max-age=86400"},
        )
