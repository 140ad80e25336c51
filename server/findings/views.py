"""The views of what the strokes mean: groove book, fills, feel, search, evidence, decisions."""

from __future__ import annotations

from typing import Any

from config.answers import answered, read
from django.http import HttpResponse
from drf_spectacular.utils import OpenApiParameter, extend_schema
from people.access import SEE
from rest_framework.exceptions import NotFound, ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_bar, read_arrangement
from transcription.models import KeptFill

from findings import answers, readings
from findings.kept_answers import kept_answer
from orchesis import explanations
from orchesis.editing import MOST_BARS
from orchesis.errors import BadScore
from orchesis.grooves import THRESHOLD
from orchesis.score.untrusted import read_number, read_place, read_whole
from orchesis.search import SCOPES

_BASS_BARS = 16
_LOWEST, _HIGHEST = 0.3, 1.0  # of the groove book's threshold


class GroovesView(APIView):
    @extend_schema(
        parameters=[
            OpenApiParameter("threshold", float, description="share of the bars, 0.3 to 1")
        ],
        responses=answers.GrooveBook,
    )
    def get(self, request: Request, pk: int) -> HttpResponse:
        arrangement = read_arrangement(request, pk)
        asked = request.query_params.get("threshold", THRESHOLD)
        try:
            threshold = read_number(asked, _LOWEST, _HIGHEST, "The threshold")
        except BadScore:
            raise ValidationError("The threshold is a share of the bars, from 0.3 to 1.") from None
        return kept_answer(
            request,
            arrangement,
            answers.GrooveBook,
            lambda: {
                "threshold": threshold,
                "grooves": readings.groove_book(arrangement, threshold),
                "passages": readings.passages_of(arrangement),
            },
            round(threshold, 3),
        )


class ElsewhereView(APIView):
    """Which other songs of the shelf play this song's grooves, asked or not."""

    @extend_schema(responses=answers.ElsewhereList)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        return answered(
            answers.ElsewhereList,
            version=arrangement.version,
            elsewhere=readings.elsewhere(arrangement, request.user),
        )


class BassView(APIView):
    """The bass line of some bars, sixteen at the most, and how the kick goes with it."""

    @extend_schema(
        parameters=[OpenApiParameter(k, int, required=True) for k in ("first", "last")],
        responses=answers.KickAndBass,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        first, last = (asked_bar(request, arrangement.score, k) for k in ("first", "last"))
        if not first <= last < first + _BASS_BARS:
            raise ValidationError(f"The bass is told of 1 to {_BASS_BARS} bars at a time.")
        return answered(
            answers.KickAndBass,
            version=arrangement.version,
            **readings.kick_and_bass_of(arrangement, first, last),
        )


class FillsView(APIView):
    @extend_schema(responses=answers.FillList)
    def get(self, request: Request, pk: int) -> HttpResponse:
        arrangement = read_arrangement(request, pk)
        return kept_answer(
            request,
            arrangement,
            answers.FillList,
            lambda: {
                "fills": readings.fill_list(arrangement),
                "denied": readings.denied_fills(arrangement),
            },
        )


class SoundsView(APIView):
    """The sounds of the song, as a person judges them."""

    @extend_schema(responses=answers.Sounds)
    def get(self, request: Request, pk: int) -> HttpResponse:
        arrangement = read_arrangement(request, pk)
        return kept_answer(
            request, arrangement, answers.Sounds, lambda: {"sounds": readings.sounds(arrangement)}
        )


class FeelView(APIView):
    @extend_schema(responses=answers.Feel)
    def get(self, request: Request, pk: int) -> HttpResponse:
        arrangement = read_arrangement(request, pk)
        return kept_answer(
            request, arrangement, answers.Feel, lambda: readings.feel_of(arrangement)
        )


class EvidenceView(APIView):
    """What the song's first take has and the others lack, summed over the bars of a music."""

    @extend_schema(responses=answers.Evidence)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        return answered(
            answers.Evidence,
            version=arrangement.version,
            takes=[o.name for o in readings.others(arrangement)],
            tallies=readings.tally(arrangement),
        )


class DecisionsView(APIView):
    @extend_schema(responses=answers.Decisions)
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        decisions = [
            {**d.to_json(), "says": explanations.decision(d, arrangement.score)}
            for d in readings.decisions(arrangement)
        ]
        return answered(answers.Decisions, version=arrangement.version, decisions=decisions)


class SearchView(APIView):
    """Where else a figure is played, in the song or over the whole shelf."""

    @extend_schema(
        parameters=[
            OpenApiParameter("bar", int, required=True),
            OpenApiParameter("scope", str, enum=list(SCOPES), required=True),
            OpenApiParameter("first", str, description="place in beats where the figure begins"),
            OpenApiParameter("length", str, description="beats; the whole bar if not given"),
            OpenApiParameter("over", str, enum=["song", "shelf"]),
        ],
        responses=answers.Matches,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        asked = request.query_params
        try:
            bar = read_whole(asked.get("bar", ""), 1, MOST_BARS, "A bar")
            first = read_place(asked.get("first") or "0")
            length = read_place(asked["length"]) if asked.get("length") else None
        except BadScore:
            raise ValidationError("Name a bar, and beats like 2 or 3/2.") from None
        if length == 0:
            raise ValidationError("A figure begins at 0 or later and has a length.")
        matches = readings.searched(
            arrangement,
            request.user,
            bar,
            asked.get("scope", ""),
            first,
            length,
            asked.get("over", "shelf") == "shelf",
        )
        return answered(answers.Matches, version=arrangement.version, matches=matches)


def _kept(fill: KeptFill) -> dict[str, Any]:
    """A kept fill as it is told; its song only while that stands on the shelf."""
    fields = ("id", "title", "bar", "tempo", "note", "document", "created")
    song = fill.song_id if fill.song and fill.song.removed is None else None
    return {**{k: getattr(fill, k) for k in fields}, "song": song}


class KeptFillsView(APIView):
    """The fills one has lifted out of songs, newest first."""

    @extend_schema(responses=answers.KeptFills)
    def get(self, request: Request) -> Response:
        fills = KeptFill.objects.visible_to(request.user).select_related("song")
        return answered(answers.KeptFills, fills=[_kept(fill) for fill in fills])

    @extend_schema(
        request=answers.KeepRequest,
        responses={200: answers.KeptFill, 201: answers.KeptFill},
    )
    def post(self, request: Request) -> Response:
        asked = read(answers.KeepRequest, request.data, "fill to be kept")
        arrangement = read_arrangement(request, asked.song, SEE)
        fill = readings.lifted(arrangement.song, arrangement, asked.fill)
        if fill is None:
            raise NotFound("There is no such fill in this song any more.")
        twin = (
            KeptFill.objects.visible_to(request.user)
            .filter(
                song=arrangement.song,
                bar=fill["bar"],
                document__strokes=fill["document"]["strokes"],
            )
            .first()
        )
        kept = twin or KeptFill.objects.create(
            owner_id=request.user.pk or 0, song=arrangement.song, note=asked.note, **fill
        )
        return answered(answers.KeptFill, status=200 if twin else 201, **_kept(kept))


class KeptFillView(APIView):
    @extend_schema(request=answers.NoteRequest, responses=answers.KeptFill)
    def patch(self, request: Request, pk: int) -> Response:
        kept = get_object_or_404(KeptFill.objects.visible_to(request.user), pk=pk)
        kept.note = read(answers.NoteRequest, request.data, "note").note
        kept.save(update_fields=["note"])
        return answered(answers.KeptFill, **_kept(kept))

    @extend_schema(request=None, responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        get_object_or_404(KeptFill.objects.visible_to(request.user), pk=pk).delete()
        return Response(status=204)
