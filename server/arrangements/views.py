"""The views of a part: the transcription, its edits, its review, its bars as text."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from config.answers import answered, read
from django.http.response import HttpResponse
from drf_spectacular.utils import OpenApiParameter, extend_schema
from findings import readings
from findings.kept_answers import kept_answer
from library import sound
from library.models import Take
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_arrangement, asked_bar, read_arrangement
from transcription.models import Arrangement, Edit

from arrangements import answers, log
from orchesis import explanations
from orchesis.checks import alike, other_takes, review
from orchesis.correcting.writing import cue_text
from orchesis.explanations import summary
from orchesis.formats import count_writer
from orchesis.grooves.compare import compare
from orchesis.score import Stroke
from orchesis.score.untrusted import read_whole


def _findings(arrangement: Arrangement, user: Any, last: Edit | None = None) -> dict[str, Any]:
    """What follows from the score as it now is: tempo, fills, form, and what a user can undo."""
    return summary.summary(arrangement.score, readings.heard(arrangement)) | _steps(
        arrangement, user, last
    )


def _steps(arrangement: Arrangement, user: Any, last: Edit | None = None) -> dict[str, str]:
    undoes, redoes = log.steps(arrangement, user, last)
    return {"undoes": undoes, "redoes": redoes}


class TranscriptionView(APIView):
    @extend_schema(responses=answers.Transcription)
    def get(self, request: Request, pk: int) -> HttpResponse:
        arrangement = read_arrangement(request, pk)
        more = {
            "take": arrangement.take_id,
            "arrangement": arrangement.name,
            "duration": arrangement.take.duration,
        }
        steps = _steps(arrangement, request.user)

        def make() -> dict[str, Any]:
            return {
                # The page judges nothing by what was heard before it was judged.
                "score": {k: v for k, v in arrangement.score.to_json().items() if k != "evidence"},
                "hits": [
                    {k: h[k] for k in ("time", "part", "loudness", "confidence")}
                    for h in readings.heard(arrangement).get("hits", [])
                ],
                **more,
                **steps,
                **summary.summary(arrangement.score, readings.heard(arrangement)),
            }

        return kept_answer(request, arrangement, answers.Transcription, make, more, steps)


class EditsView(APIView):
    """One edit; the answer holds every change since the page's version."""

    @extend_schema(request=answers.EditRequest, responses=answers.EditResult)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.EditRequest, request.data)
        arrangement = asked_arrangement(request, pk)
        base = None if asked.over else asked.base
        done = log.edit(arrangement, request.user, asked.edit, base=base, key=asked.key)
        offer = alike.offer(done.old, done.new, done.line.patch.get("strokes", ()))
        return _since(done.line, request.user, asked.base, offer)


class _StepView(APIView):
    step: Callable[[Arrangement, Any, str | None], Edit]

    @extend_schema(request=answers.StepRequest, responses=answers.EditResult)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.StepRequest, request.data)
        # Also of a song that can't be read any more: undo may open it again.
        arrangement = asked_arrangement(request, pk)
        line = self.step(arrangement, request.user, asked.key)
        return _since(line, request.user, asked.base)


class UndoView(_StepView):
    step = staticmethod(log.step_back)


class RedoView(_StepView):
    step = staticmethod(log.step_forward)


def _since(line: Edit, user: Any, base: int, offer: alike.Offer | None = None) -> Response:
    """Every change since a version, up to the one that was just done."""
    arrangement = line.arrangement
    newer = arrangement.edits.filter(version__gt=base, version__lte=arrangement.version)
    return answered(
        answers.EditResult,
        **{
            "version": arrangement.version,
            "patches": list(newer.values_list("patch", flat=True)),
            "alike": explanations.told_offer(offer) if offer else None,
            **_findings(arrangement, user, line),
        },
    )


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
        responses=answers.Comparison,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        score = arrangement.score
        bar, other = asked_bar(request, score), request.query_params.get("with", "")
        a: Sequence[Stroke]
        if other.startswith("take"):
            takes = Take.objects.filter(song=arrangement.song_id).exclude(heard={})
            number = read_whole(other[4:], 1, 2**31, "A take")
            take = get_object_or_404(takes, pk=number)
            a = other_takes.strokes_of(readings.other(take), score, bar)
        elif other == "heard":
            a = arrangement.heard_bar(bar)
        else:
            a = score.strokes_of(asked_bar(request, score, "with"))
        b = score.strokes_of(bar)
        meter, differences = score.meters[bar - 1], compare(a, b)
        return answered(
            answers.Comparison,
            a=[s.to_json() for s in a],
            b=[s.to_json() for s in b],
            differences=[explanations.told_difference(d, meter) for d in differences],
            says=explanations.differences(differences, meter),
        )


class ReviewView(APIView):
    """The doubts that are open, those that settle most first."""

    @extend_schema(responses=answers.Review)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        doubts = readings.doubts(arrangement)
        arrangement.count_doubts(len(doubts))
        return answered(
            answers.Review,
            version=arrangement.version,
            minutes=round(review.minutes(doubts), 1),
            doubts=[
                {**d.to_json(), "says": explanations.doubt(d, arrangement.score)} for d in doubts
            ],
        )


class CountTextView(APIView):
    """Some bars as count text."""

    @extend_schema(
        parameters=[OpenApiParameter(k, int, required=True) for k in ("first", "last")],
        responses=answers.CountText,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        first, last = (asked_bar(request, arrangement.score, k) for k in ("first", "last"))
        if first > last:
            raise ValidationError("The first bar comes before the last one.")
        text = count_writer.write(arrangement.score, first, last)
        return answered(answers.CountText, version=arrangement.version, text=text)


class BandView(APIView):
    """The rhythm of the rest of the band in a bar, as the text of a cue."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, required=True)], responses=answers.CountText
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        score = arrangement.score
        bar = asked_bar(request, score)
        start, end = score.seconds(bar), score.seconds(bar + 1)
        moments = sound.band_onsets(arrangement.take, start - 0.2, end + 0.1)
        text = cue_text(score, bar, moments)
        return answered(answers.CountText, version=arrangement.version, text=text)
