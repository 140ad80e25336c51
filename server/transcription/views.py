from __future__ import annotations

from typing import Any

from config.errors import Conflict
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from library import sound
from library.models import Song, Take
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis import engraving
from orchesis.formats import counted, midi, musicxml
from orchesis.reading import alike, evidence, form, review
from orchesis.reading.compare import compare, words
from orchesis.reading.fills import fill_bars
from orchesis.reading.writing import cue_text
from orchesis.score import Score, notation
from transcription import findings, jobs, log
from transcription.models import HearingJob, Transcription
from transcription.serializers import (
    ChartSerializer,
    ComparisonSerializer,
    CountTextSerializer,
    EditRequestSerializer,
    EditResultSerializer,
    JobSerializer,
    ReviewSerializer,
    StepRequestSerializer,
    TranscriptionSerializer,
)

SAME_TEMPO = 0.04


def own_transcription(request: Request, pk: int) -> Transcription:
    """The transcription of a song of the asker's; 404 where there is none."""
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
        found = own_transcription(request, pk)
        return Response({
            "version": found.version,
            "take": found.take_id,
            "duration": found.take.duration,
            "score": found.score.to_json(),
            "hits": [
                {k: h[k] for k in ("time", "part", "loudness", "confidence")}
                for h in found.analysis.get("hits", [])
            ],
            **_findings(found),
        })  # fmt: skip


class EditsView(APIView):
    """One edit; the answer holds every change since the page's version."""

    @extend_schema(request=EditRequestSerializer, responses=EditResultSerializer)
    def post(self, request: Request, pk: int) -> Response:
        given = EditRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        asked = given.validated_data
        found = own_transcription(request, pk)
        base = None if asked["over"] else asked["base"]
        done = log.edit(found, request.user, asked["operation"], asked["args"], base=base)
        return _since(found, asked["base"], alike.offer(done.old, done.new))


class _StepView(APIView):
    @extend_schema(request=StepRequestSerializer, responses=EditResultSerializer)
    def post(self, request: Request, pk: int) -> Response:
        given = StepRequestSerializer(data=request.data)
        given.is_valid(raise_exception=True)
        found = own_transcription(request, pk)
        self.step(found, request.user)
        return _since(found, given.validated_data["base"])


class UndoView(_StepView):
    step = staticmethod(log.step_back)


class RedoView(_StepView):
    step = staticmethod(log.step_forward)


def _since(transcription: Transcription, base: int, offer: dict | None = None) -> Response:
    found = Transcription.objects.select_related("song").get(pk=transcription.pk)
    newer = found.edits.filter(version__gt=base, version__lte=found.version)
    return Response({
        "version": found.version,
        "patches": list(newer.values_list("patch", flat=True)),
        "alike": offer,
        **_findings(found),
    })  # fmt: skip


class CompareView(APIView):
    """What a bar has otherwise than another bar of the song, than was heard in it at first, or
    than another take has there."""

    @extend_schema(
        parameters=[
            OpenApiParameter("bar", int, required=True),
            OpenApiParameter(
                "with", str, required=True, description="a bar, “heard”, or “take” and its number"
            ),
        ],
        responses=ComparisonSerializer,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = own_transcription(request, pk)
        score = found.score
        bar, other = (request.query_params.get(k, "") for k in ("bar", "with"))
        is_take = other.startswith("take") and other[4:].isdigit()
        asked = [bar] if other == "heard" or is_take else [bar, other]
        if not all(n.isdigit() and 1 <= int(n) <= score.bar_count for n in asked):
            raise ValidationError(f"Name two bars of the song (1 to {score.bar_count}).")
        bars = score.by_bar()
        if is_take:
            takes = Take.objects.filter(song=found.song_id).exclude(heard={})
            a = evidence.strokes_of(
                findings.other(get_object_or_404(takes, pk=int(other[4:]))), score, int(bar)
            )
        else:
            a = found.heard_bar(int(bar)) if other == "heard" else bars.get(int(other), [])
        b = bars.get(int(bar), [])
        told = compare(a, b, score.meters[int(bar) - 1])
        return Response({
            "a": [s.to_json() for s in a],
            "b": [s.to_json() for s in b],
            "differences": [d.to_json() for d in told],
            "says": words(told, score.meters[int(bar) - 1]),
        })  # fmt: skip


class ReviewView(APIView):
    """The doubts that are open, those that settle most first."""

    @extend_schema(responses=ReviewSerializer)
    def get(self, request: Request, pk: int) -> Response:
        found = own_transcription(request, pk)
        doubts = findings.doubts(found)
        return Response({
            "version": found.version,
            "minutes": round(review.minutes(doubts), 1),
            "doubts": [d.to_json() for d in doubts],
        })  # fmt: skip


class CountTextView(APIView):
    """Some bars as count text."""

    @extend_schema(
        parameters=[OpenApiParameter(k, int, required=True) for k in ("first", "last")],
        responses=CountTextSerializer,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = own_transcription(request, pk)
        first, last = (request.query_params.get(k, "") for k in ("first", "last"))
        count = found.score.bar_count
        if not (first.isdigit() and last.isdigit() and 1 <= int(first) <= int(last) <= count):
            raise ValidationError(f"Name bars of the song (1 to {count}).")
        text = counted.write(found.score, int(first), int(last))
        return Response({"version": found.version, "text": text})


class BandView(APIView):
    """The rhythm of the rest of the band in a bar, as the text of a cue."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, required=True)], responses=CountTextSerializer
    )
    def get(self, request: Request, pk: int) -> Response:
        found = own_transcription(request, pk)
        score, asked = found.score, request.query_params.get("bar", "")
        if not (asked.isdigit() and 1 <= int(asked) <= score.bar_count):
            raise ValidationError(f"Name a bar of the song (1 to {score.bar_count}).")
        bar = int(asked)
        start, end = score.seconds(bar), score.seconds(bar + 1)
        moments = sound.band_onsets(found.take, start - 0.2, end + 0.1)
        text = cue_text(score, bar, moments)
        return Response({"version": found.version, "text": text})


class ChartView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter("footnotes", bool, description="print what was decided")],
        responses=ChartSerializer,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = own_transcription(request, pk)
        written = notation.as_written(found.score)
        told = findings.decisions(found)
        return Response({
            "version": found.version,
            "pages": engraving.svg_pages(
                written,
                engraving.footnotes(found.score, told) if _with_footnotes(request) else (),
            ),
            "decisions": [d.says for d in told],
            "bars": [written.seconds(b) for b in range(1, written.bar_count + 2)],
            "notation": found.score.notation,
            "notations": notation.possible(found.score),
        })  # fmt: skip


def _with_footnotes(request: Request) -> bool:
    return request.query_params.get("footnotes") in ("1", "true")


_WRITERS = {
    "pdf": ("application/pdf", engraving.pdf),
    "musicxml": ("application/vnd.recordare.musicxml+xml", musicxml.write),
    "mid": ("audio/midi", midi.write),
}


class ChartFileView(APIView):
    @extend_schema(responses={(200, "application/octet-stream"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int, ending: str) -> HttpResponse:
        found = own_transcription(request, pk)
        kind, write = _WRITERS[ending]
        written = notation.as_written(found.score)
        if ending == "pdf" and _with_footnotes(request):
            content = engraving.pdf(
                written, engraving.footnotes(found.score, findings.decisions(found))
            )
        else:
            content = write(written)
        name = "".join(c if c.isalnum() or c in " -" else "_" for c in found.song.title)
        return HttpResponse(
            content,
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
