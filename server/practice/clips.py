"""Clips of the teacher's, attached to stages: kept, played, taken away."""

from __future__ import annotations

from typing import IO, Any

from config.answers import answered
from django.core.files import File
from django.db import transaction
from django.http import FileResponse, Http404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from library import store
from library.quota import room_for
from people.access import EDIT
from rest_framework import serializers
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import read_arrangement
from transcription.models import Arrangement

from orchesis.errors import BadScore
from orchesis.score.untrusted import printable
from practice import answers
from practice.models import Clip

BIGGEST = 40 * 1024 * 1024
_MAX_CLIPS = 60  # of a song's part
_LOOKED = 1 << 16  # bytes in which a container says what it holds
#: How a container begins (at which byte), what it is served as, its ending, and by which word it
#: tells that it holds a picture; None: it never does.
_KINDS: tuple[tuple[int, bytes, str, str, bytes | None], ...] = (
    (0, b"OggS", "ogg", "ogg", b"theora"),
    (0, b"fLaC", "flac", "flac", None),
    (0, b"RIFF", "wav", "wav", None),
    (0, b"ID3", "mpeg", "mp3", None),
    (0, b"\xff\xfb", "mpeg", "mp3", None),
    (0, b"\x1a\x45\xdf\xa3", "webm", "webm", b"V_"),
    (4, b"ftyp", "mp4", "mp4", b"vide"),
)


def kind_of(file: IO[bytes]) -> tuple[str, str]:
    """(what a clip is served as, its ending), by what it holds and never by its name. Raises
    BadScore where it is no sound and no video that browsers play."""
    file.seek(0)
    head = file.read(_LOOKED)
    file.seek(max(0, file.seek(0, 2) - _LOOKED))
    tail = file.read()
    file.seek(0)
    for at, begins, kind, ending, picture in _KINDS:
        if head[at : at + len(begins)] == begins:
            seen = picture is not None and (picture in head or picture in tail)
            return f"{'video' if seen else 'audio'}/{kind}", ending
    raise BadScore("A clip is a sound or a video: WebM, MP4, OGG, MP3, FLAC or WAV.")


def attach(part: Arrangement, file: IO[bytes], name: str, **where: Any) -> Clip:
    """Keeps a clip at a stage (first, last, order, stage). Raises BadScore; OutOfRoom where the
    account may keep no more."""
    size = file.seek(0, 2)
    if part.clips.count() >= _MAX_CLIPS:
        raise BadScore(f"A part holds {_MAX_CLIPS} clips; take one away first.")
    kind, ending = kind_of(file)
    shown = printable(name)[:120] or "clip"
    clip = Clip(arrangement=part, name=shown, kind=kind, size=size, **where)
    with room_for(part.song.owner, size):
        clip.file.save(f"clip.{ending}", File(file), save=False)
        store.note_new(str(clip.file.name))
        try:
            with transaction.atomic():
                clip.save()
        except BaseException:
            clip.file.storage.delete(str(clip.file.name))
            raise
    return clip


def served(clip: Clip) -> FileResponse:
    return FileResponse(
        clip.file.open("rb"),
        content_type=clip.kind,
        headers={"Content-Disposition": "inline", "Cache-Control": "private, max-age=86400"},
    )


class _Upload(serializers.Serializer):
    file = serializers.FileField(max_length=255)
    first = serializers.IntegerField(min_value=1, max_value=100_000)
    last = serializers.IntegerField(min_value=1, max_value=100_000)
    order = serializers.CharField(max_length=20)
    stage = serializers.CharField(max_length=120)


class ClipsView(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(request=_Upload, responses=answers.Clip)
    def post(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        asked = _Upload(data=request.data)
        asked.is_valid(raise_exception=True)
        given = dict(asked.validated_data)
        file = given.pop("file")
        if file.size > BIGGEST:
            raise ValidationError(
                f"A clip may have {BIGGEST // 2**20} MB; this one has {file.size / 2**20:.0f}. "
                "Make it shorter, or smaller."
            )
        return answered(answers.Clip, **attach(arrangement, file, file.name or "", **given).told())


class ClipView(APIView):
    @extend_schema(responses={(200, "video/webm"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> FileResponse:
        return served(get_object_or_404(Clip.objects.visible_to(request.user), pk=pk))

    @extend_schema(request=None, responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        get_object_or_404(Clip.objects.visible_to(request.user, may=EDIT), pk=pk).delete()
        return Response(status=204)


def given(part: Arrangement, passages: list[dict[str, Any]], pk: int) -> FileResponse:
    """A clip of a player's link: of its passages, or of the whole song."""
    clip = get_object_or_404(part.clips.all(), pk=pk)
    spans = {(p["first"], p["last"], p["order"]) for p in passages}
    if passages and (clip.first, clip.last, clip.order) not in spans:
        raise Http404("This clip is not part of the lesson.")
    return served(clip)
