"""The views of arrangements side by side: what each has otherwise than the recorded part."""

from __future__ import annotations

from typing import Any

from config.answers import answered, read
from config.errors import Conflict, StillAtIt
from config.time_limits import in_time
from django.db import IntegrityError, transaction
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from findings import hands
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import arrangements_of
from transcription.models import Arrangement

from arrangements import log, side_answers
from arrangements.differences import differing
from orchesis import explanations
from orchesis.correcting.arranging_edits import TakeBars
from orchesis.errors import BadEdit, BadScore
from orchesis.grooves.compare import compare
from orchesis.grooves.levels import at_level
from orchesis.hands.arranging import arranged
from orchesis.score import Score
from orchesis.score.patches import touched

_ARRANGING_SECONDS = 25.0  # for a whole part played another way


def _behind(arrangement: Arrangement, recorded: Arrangement, differs: list[int]) -> list[int]:
    """Bars of the recorded part that were changed since an arrangement was last brought up to it,
    where it has them otherwise."""
    newer = recorded.edits.filter(version__gt=arrangement.based)
    changed: set[int] = set()
    for patch, inverse in newer.values_list("patch", "inverse"):
        changed |= touched(patch, inverse).bars
    return [b for b in differs if b in changed]


def _told(arrangement: Arrangement, recorded: Arrangement) -> dict[str, Any]:
    differs = [] if arrangement.is_recorded else differing(arrangement.score, recorded.score)
    return {
        "id": arrangement.pk,
        "name": arrangement.name,
        "is_recorded": arrangement.is_recorded,
        "differs": differs,
        "behind": _behind(arrangement, recorded, differs) if differs else [],
        "hard": _hard(arrangement),
    }


def _hard(arrangement: Arrangement) -> float | None:
    try:
        return float(hands.hands_of(arrangement)["song"]["total"])
    except StillAtIt:
        return None  # nothing else waits for it


class ArrangementsView(APIView):
    """The arrangements of a song, what each has otherwise; a new one."""

    @extend_schema(responses=side_answers.Arrangements)
    def get(self, request: Request, pk: int) -> Response:
        rows = list(arrangements_of(request, pk))
        recorded = get_object_or_404(arrangements_of(request, pk), name=Arrangement.RECORDED)
        return answered(side_answers.Arrangements, arrangements=[_told(a, recorded) for a in rows])

    @extend_schema(request=side_answers.NewArrangement, responses={201: side_answers.Arrangement})
    def post(self, request: Request, pk: int) -> Response:
        asked = read(side_answers.NewArrangement, request.data, "arrangement")
        rows = arrangements_of(request, pk)
        recorded = get_object_or_404(rows, name=Arrangement.RECORDED)
        source = get_object_or_404(rows, pk=asked.of) if asked.of else recorded
        score = source.score
        bars = asked.bars or list(range(1, score.bar_count + 1))
        if max(bars) > score.bar_count:
            raise ValidationError(f"Name bars of the song (1 to {score.bar_count}).")

        def changed() -> Score:
            simplified = score if asked.level is None else at_level(score, asked.level)
            return simplified if asked.way is None else arranged(simplified, asked.way, bars)

        score = in_time(_ARRANGING_SECONDS, changed)
        try:
            with transaction.atomic():
                arrangement = source.copy(asked.name, score)
        except IntegrityError:
            raise Conflict(f"There is an arrangement called “{asked.name}” already.") from None
        return answered(side_answers.Arrangement, status=201, **_told(arrangement, recorded))


class ArrangementView(APIView):
    """One arrangement: another name; gone."""

    def _own(self, request: Request, pk: int, number: int) -> Arrangement:
        arrangement = get_object_or_404(arrangements_of(request, pk), pk=number)
        if arrangement.is_recorded:
            raise ValidationError("The recorded part keeps its name and stays with its song.")
        return arrangement

    @extend_schema(request=side_answers.NameRequest, responses=side_answers.Arrangement)
    def patch(self, request: Request, pk: int, number: int) -> Response:
        arrangement = self._own(request, pk, number)
        arrangement.name = read(side_answers.NameRequest, request.data, "arrangement").name
        try:
            with transaction.atomic():
                arrangement.save(update_fields=["name"])
        except IntegrityError:
            raise Conflict(
                f"There is an arrangement called “{arrangement.name}” already."
            ) from None
        return answered(side_answers.Arrangement, **_told(arrangement, arrangement.recorded))

    @extend_schema(responses={204: OpenApiTypes.NONE})
    def delete(self, request: Request, pk: int, number: int) -> Response:
        self._own(request, pk, number).delete()
        return Response(status=204)


class ArrangementDifferencesView(APIView):
    """What an arrangement has otherwise than the recorded part, bar by bar."""

    @extend_schema(responses=side_answers.ArrangementDifferences)
    def get(self, request: Request, pk: int, number: int) -> Response:
        arrangement = get_object_or_404(arrangements_of(request, pk), pk=number)
        a, b = arrangement.recorded.score, arrangement.score
        differences = [
            {
                "bar": bar,
                "says": explanations.differences(
                    compare(a.strokes_of(bar), b.strokes_of(bar)), b.meters[bar - 1]
                ),
            }
            for bar in differing(a, b)
        ]
        return answered(side_answers.ArrangementDifferences, bars=differences)


class ArrangementUpdateView(APIView):
    """What was changed in the recorded part is taken over into an arrangement, or is not."""

    @extend_schema(request=side_answers.BarsRequest, responses=side_answers.Arrangement)
    def post(self, request: Request, pk: int, number: int) -> Response:
        asked = read(side_answers.BarsRequest, request.data, "request")
        arrangement = get_object_or_404(arrangements_of(request, pk), pk=number)
        recorded = arrangement.recorded
        if asked.take:
            score = recorded.score
            strokes = [s.to_json() for b in set(asked.take) for s in score.strokes_of(b)]
            try:
                log.edit(arrangement, request.user, TakeBars(bars=asked.take, strokes=strokes))
            except BadScore as problem:
                raise BadEdit(str(problem)) from None
        Arrangement.objects.filter(pk=arrangement.pk).update(based=recorded.version)
        arrangement = get_object_or_404(arrangements_of(request, pk), pk=number)
        return answered(side_answers.Arrangement, **_told(arrangement, recorded))
