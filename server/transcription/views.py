from __future__ import annotations

from typing import Any

from config.errors import Conflict
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from library.models import Song
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis import engraving
from orchesis.formats import midi, musicxml
from orchesis.reading import form
from orchesis.reading.fills import fill_bars
from orchesis.score import Score, notation
from transcription import jobs, log
from transcription.models import HearingJob, Transcription
from transcription.serializers import (
    ChartSerializer,
    EditRequestSerializer,
    EditResultSerializer,
    JobSerializer,
    StepRequestSerializer,
    TranscriptionSerializer,
)

SAME_TEMPO = 0.04


def _own(request: Request, pk: int) -> Transcription:
    songs = Song.objects.filter(owner=request.user.pk, removed=None)
    song = get_object_or_404(songs, pk=pk)
    return get_object_or_404(Transcription.objects.select_related("song", "take"), song=song)


def _findings(found: Transcription) -> dict[str, Any]:
    """What follows from the score as it now is: tempo, fills, and what can be undone."""
    score, heard = found.score, found.analysis["tempo"]
    bpm, low, high = (round(x, 2) for x in score.pulse.tempo())
    undo, redo = log.stacks(found)
    rivals = [round(bpm / 2, 1), round(bpm * 2, 1)]
    for other in (heard["bpm"], *heard["alternatives"]):
        if all(abs(other / known - 1) > SAME_TEMPO for known in (bpm, *rivals)):
            rivals.append(other)
    return {
        "tempo": {
            "bpm": bpm,
            "low": low,
            "high": high,
            "steady": heard["steady"],
            "confidence": heard["confidence"],
            "alternatives": sorted(rivals),
        },
        "fills": [
            {"bar": bar, "start": _at(score, bar, beat), "end": score.seconds(bar + 1)}
            for bar, beat in fill_bars(score)
        ],
        "form": form.facts(score, found.analysis.get("levels", [])),
        "can_undo": bool(undo),
        "can_redo": bool(redo),
    }


def _at(score: Score, bar: int, beat: int) -> float:
    return score.pulse.seconds(score.bar_beats()[bar - 1] + beat)


class TranscriptionView(APIView):
    @extend_schema(responses=TranscriptionSerializer)
    def get(self, request: Request, pk: int) -> Response:
        found = _own(request, pk)
        return Response({
            "version": found.version,
            "take": found.take_id,
            "duration": found.take.duration,
            "score": found.score.to_json(),
            **_findings(found),
        })  # fmt: skip


class EditsView(APIView):
    """One edit; the answer holds every change since the page's version."""

    @extend_schema(request=EditRequestSerializer, responses=EditResultSerializer)
    def post(self, request: Request, pk: int) -> Response:
        given = EditRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        found = _own(request, pk)
        log.edit(found, request.user, asked["operation"], asked["args"])
        return _since(found, asked["base"])


class _StepView(APIView):
    @extend_schema(request=StepRequestSerializer, responses=EditResultSerializer)
    def post(self, request: Request, pk: int) -> Response:
        given = StepRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = _own(request, pk)
        self.step(found, request.user)
        return _since(found, given.validated_data["base"])


class UndoView(_StepView):
    step = staticmethod(log.step_back)


class RedoView(_StepView):
    step = staticmethod(log.step_forward)


def _since(transcription: Transcription, base: int) -> Response:
    found = Transcription.objects.select_related("song").get(pk=transcription.pk)
    newer = found.edits.filter(version__gt=base, version__lte=found.version)
    return Response({
        "version": found.version,
        "patches": list(newer.values_list("patch", flat=True)),
        **_findings(found),
    })  # fmt: skip


class ChartView(APIView):
    @extend_schema(responses=ChartSerializer)
    def get(self, request: Request, pk: int) -> Response:
        found = _own(request, pk)
        written = notation.as_written(found.score)
        return Response({
            "version": found.version,
            "pages": engraving.svg_pages(written),
            "bars": [written.seconds(b) for b in range(1, written.bar_count + 2)],
            "notation": found.score.notation,
            "notations": notation.possible(found.score),
        })  # fmt: skip


_WRITERS = {
    "pdf": ("application/pdf", engraving.pdf),
    "musicxml": ("application/vnd.recordare.musicxml+xml", musicxml.write),
    "mid": ("audio/midi", midi.write),
}


class ChartFileView(APIView):
    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int, ending: str) -> HttpResponse:
        found = _own(request, pk)
        kind, write = _WRITERS[ending]
        name = "".join(c if c.isalnum() or c in " -" else "_" for c in found.song.title)
        return HttpResponse(
            write(notation.as_written(found.score)),
            content_type=kind,
            headers={"Content-Disposition": f'attachment; filename="{name}.{ending}"'},
        )


class JobActionView(APIView):
    """Cancel a hearing, or hear again what was cancelled or refused."""

    @extend_schema(request=None, responses=JobSerializer)
    def post(self, request: Request, pk: int, act: str) -> Response:
        own = HearingJob.objects.filter(take__song__owner=request.user.pk)
        job = get_object_or_404(own.select_related("take"), pk=pk)
        if act == "cancel":
            job = self._cancel(job)
        elif job.is_open:
            raise Conflict("This recording is being heard already.")
        elif job.state == HearingJob.DONE:
            raise Conflict("This recording has been heard already.")
        else:
            job = jobs.start_hearing(job.take)
        return Response(JobSerializer(job).data)

    @staticmethod
    def _cancel(job: HearingJob) -> HearingJob:
        waiting = HearingJob.objects.filter(pk=job.pk, state=HearingJob.QUEUED)
        if not waiting.update(state=HearingJob.CANCELLED):
            HearingJob.objects.filter(pk=job.pk).update(cancel_asked=True)
        job.refresh_from_db()
        return job
