"""Practice judged from a recording of it, as a kind of long work, and its views."""

from __future__ import annotations

from pathlib import Path

from config.answers import answered
from django.core.files import File
from django.db import transaction
from drf_spectacular.utils import extend_schema
from jobs import queue
from jobs.kinds import Kind
from jobs.models import Job
from jobs.serializers import JobSerializer
from jobs.work import Work
from library.quota import room_for
from people.access import SEE
from people.session_views import me
from rest_framework import serializers
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import read_arrangement

from orchesis import practice_take
from orchesis.errors import Cancelled
from orchesis.hearing import take_in
from orchesis.teaching import stages
from practice import link_answers
from practice.models import PractisedSound
from practice.views import in_the_song, slower, staged

BY_SOUND = "by_sound"
_BIGGEST = 40 * 1024 * 1024
_KEPT_RECORDINGS = 30  # recordings of a song; older ones make room


def hear(work: Work) -> None:
    """Hears one recording of practice and scores it. Raises BadSound, BadScore; Cancelled where
    it is gone."""
    practised = (
        PractisedSound.objects.select_related("arrangement").filter(pk=work.job.subject).first()
    )
    if practised is None:
        raise Cancelled("The recording is gone.")
    source = work.folder / ("own" + Path(practised.file.name or "").suffix)
    with practised.file.open("rb") as file, source.open("wb") as out:
        for chunk in File(file).chunks():
            out.write(chunk)
    score = practised.arrangement.score.played()
    bars = range(practised.first, min(practised.last, score.bar_count) + 1)
    stage = staged(practised.arrangement, score, bars, practised.order, practised.stage)
    intake = take_in(source, work.folder / "sound.flac", name=practised.name, report=work.tell)
    take = practice_take.judge_intake(intake, slower(stage.score, practised.share), work.tell)
    judged = in_the_song(take.judged, stage, score, practised.first)

    def keep() -> list[str]:
        PractisedSound.objects.filter(pk=practised.pk).update(
            judged=judged, factor=1 + take.alignment.percent / 100
        )
        return []

    work.finish(keep)


KIND = Kind(
    BY_SOUND,
    hear,
    practice_take.STEPS,
    doing="This recording is being heard already.",
    done="This recording has been heard already.",
    failed="Hearing failed for a reason of ours; the recording is kept. Try again.",
    unreadable="The recording's file can't be read; upload it again.",
)


class PractisedRecordingSerializer(serializers.Serializer):
    """A recording of practice: of which stage of which bars, at what share of the song's tempo."""

    file = serializers.FileField()
    first = serializers.IntegerField(min_value=1)
    last = serializers.IntegerField(min_value=1)
    order = serializers.CharField(max_length=20)
    stage = serializers.IntegerField(min_value=0, max_value=100)
    share = serializers.FloatField(min_value=0.2, max_value=2)


def _told(practised: PractisedSound) -> Response:
    job = Job.objects.filter(kind=BY_SOUND, subject=practised.pk).order_by("-id").first()
    return answered(
        link_answers.PractisedSound,
        id=practised.pk,
        judged=practised.judged,
        factor=practised.factor,
        job=JobSerializer(job).data if job else None,
    )


class PractisedSoundsView(APIView):
    """A recording of practice is given to be heard."""

    parser_classes = [MultiPartParser]

    @extend_schema(request=PractisedRecordingSerializer, responses=link_answers.PractisedSound)
    def post(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk, SEE)
        given = PractisedRecordingSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        if asked["order"] not in stages.SCHOOLS:
            raise ValidationError(f"There is no order “{asked['order']}”.")
        if not asked["first"] <= asked["last"] <= arrangement.score.bar_count:
            raise ValidationError(f"Name bars of the song (1 to {arrangement.score.bar_count}).")
        file = asked.pop("file")
        if file.size > _BIGGEST:
            raise ValidationError("A recording of practice may have 40 MB; save it as OGG or MP3.")
        with room_for(me(request), file.size), transaction.atomic():
            old = PractisedSound.objects.filter(arrangement=arrangement, user=request.user.pk)
            for extra in old[_KEPT_RECORDINGS - 1 :]:
                extra.delete()
            practised = PractisedSound.objects.create(
                user=me(request),
                arrangement=arrangement,
                file=file,
                size=file.size,
                name=file.name[:255],
                **asked,
            )
            queue.start(BY_SOUND, arrangement.song, practised.pk, request.user)
        return _told(practised)


class PractisedSoundView(APIView):
    """How far the hearing is, and what was judged."""

    @extend_schema(responses=link_answers.PractisedSound)
    def get(self, request: Request, pk: int) -> Response:
        sounds = PractisedSound.objects.visible_to(request.user).filter(user=request.user.pk)
        return _told(get_object_or_404(sounds, pk=pk))
