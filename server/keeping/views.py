"""Songs in and out as files; a whole account taken along, or ended."""

from __future__ import annotations

import tempfile
from typing import Any

from config.answers import Answer, answered, read
from config.errors import Conflict
from config.files import attachment
from django.conf import settings
from django.db import transaction
from django.http import Http404
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from jobs import queue
from jobs.models import Job
from jobs.serializers import JobSerializer
from library import quota
from library.access import must_be_allowed
from library.models import Song
from people.access import EDIT, OWN
from people.answers import PasswordAgain
from people.group_views import leave_all
from people.session_views import me, must_be_password
from practice.link_answers import LongWork
from rest_framework import serializers
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from keeping import backing_up, songs
from keeping.models import Backup
from orchesis.formats import package_parts
from orchesis.formats.file_names import file_name

_BIGGEST_PACKAGE, _BIGGEST_SCORE = 1024 * 2**20, 8 * 2**20


class BroughtIn(Answer):
    """A song that came as a file. lost: what of the file could not be kept."""

    song: int
    title: str
    has_part: bool
    lost: list[str]


class Account(Answer):
    """used, most: megabytes of recordings. backup: the newest one, where there is one."""

    name: str
    used: float
    most: int
    songs: int
    in_bin: int
    backup_ready: bool
    backup_made: str | None
    job: LongWork | None


class PackageSerializer(serializers.Serializer):
    file = serializers.FileField(
        allow_empty_file=True, max_length=255, error_messages={"required": "Choose a file."}
    )


def _as_file(content: Any, name: str, ending: str) -> HttpResponseBase:
    return attachment(content, "application/zip", file_name(name, ending=ending))


class SongPackageView(APIView):
    """A song as one file: everything of it, with its recordings where they are wanted."""

    @extend_schema(
        parameters=[OpenApiParameter("sound", bool, description="with the recordings")],
        responses={(200, "application/zip"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        song = get_object_or_404(Song.objects.visible_to(request.user), pk=pk)
        with_sound = request.query_params.get("sound") in ("1", "true")
        must_be_allowed(request, song, OWN if with_sound else EDIT)
        file = tempfile.TemporaryFile()  # noqa: SIM115 (the answer closes it)
        songs.pack(song, file, with_sound=with_sound)
        file.seek(0)
        return _as_file(file, song.title, package_parts.ENDING)


class PackagesView(APIView):
    """A song comes as a file: a song package, or a score in any format we read."""

    parser_classes = [MultiPartParser]

    @extend_schema(request={"multipart/form-data": PackageSerializer}, responses={201: BroughtIn})
    def post(self, request: Request) -> Response:
        given = PackageSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        file = given.validated_data["file"]
        if file.size == 0:
            raise ValidationError(f"“{file.name}” is empty; choose the file again.")
        is_package = file.name.lower().endswith(package_parts.ENDING)
        most = _BIGGEST_PACKAGE if is_package else _BIGGEST_SCORE
        if file.size > most:
            raise ValidationError(
                f"“{file.name}” has {file.size / 2**20:.0f} MB; {most // 2**20} MB is the most."
            )
        if is_package:
            song, lost = songs.unpack(file, me(request))
        else:
            song, lost = songs.from_score(file.name, file.read(), me(request))
        return answered(
            BroughtIn,
            status=201,
            song=song.pk,
            title=song.title,
            has_part=song.arrangements.exists(),
            lost=lost,
        )


class AccountView(APIView):
    """One's own account: what it holds, and how far its backup is."""

    @extend_schema(responses=Account)
    def get(self, request: Request) -> Response:
        return _account(request)


class AccountEndView(APIView):
    @extend_schema(request=PasswordAgain, responses={204: None})
    def post(self, request: Request) -> Response:
        """The account and all its songs are gone at once; groups get another owner."""
        given = read(PasswordAgain, request.data, "end of an account")
        user = me(request)
        must_be_password(user, given.password, "That is not your password; nothing was deleted.")
        with transaction.atomic():
            leave_all(user)
            for song in songs.each_of(user):
                song.delete()
            for backup in Backup.objects.filter(user=user):
                backup.delete()
            user.delete()
        request._request.session.flush()
        return Response(status=204)


def _newest(request: Request) -> tuple[Backup | None, Job | None]:
    backup = Backup.objects.filter(user=me(request)).order_by("-pk").first()
    if backup is None:
        return None, None
    job = Job.objects.filter(kind=backing_up.BACKUP, subject=backup.pk).order_by("-pk").first()
    return backup, job


def _account(request: Request) -> Response:
    user = me(request)
    backup, job = _newest(request)
    songs_of_user = Song.objects.filter(owner=user)
    return answered(
        Account,
        name=user.username,
        used=round(quota.used_by(user) / 2**20, 1),
        most=settings.QUOTA_MB,
        songs=songs_of_user.filter(removed=None).count(),
        in_bin=songs_of_user.exclude(removed=None).count(),
        backup_ready=bool(backup and backup.file),
        backup_made=backup.created.isoformat() if backup and backup.file else None,
        job=JobSerializer(job).data if job else None,
    )


class BackupView(APIView):
    """All of an account as one file."""

    @extend_schema(responses={(200, "application/zip"): OpenApiTypes.BINARY})
    def get(self, request: Request) -> HttpResponseBase:
        backup, _ = _newest(request)
        if backup is None or not backup.file:
            raise Http404("There is no backup yet; ask for one first.")
        name = f"{backup.user.username} {backup.created:%Y-%m-%d}"
        return _as_file(backup.file.open("rb"), name, ".orchesis-account")

    @extend_schema(request=None, responses=Account)
    def post(self, request: Request) -> Response:
        """A new backup, made by a worker; the one before gives way."""
        _, job = _newest(request)
        if job is not None and job.is_open:
            raise Conflict("Your backup is being made already.")
        with transaction.atomic():
            for old in Backup.objects.filter(user=me(request)):
                old.delete()
            backup = Backup.objects.create(user=me(request))
            queue.start(backing_up.BACKUP, None, backup.pk, me(request))
        return _account(request)
