"""The views of hands and arrangements: who plays what, how hard it is, what else can be played."""

from __future__ import annotations

from typing import Any

from config.answers import answered, read
from config.errors import Conflict, StillAtIt
from config.open_view import OpenView
from django.db import IntegrityError, transaction
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis import explanations
from orchesis.correcting.arranging_edits import TakeBars
from orchesis.errors import BadEdit, BadScore
from orchesis.grooves.compare import compare
from orchesis.grooves.levels import at_level
from orchesis.hands.arranging import arranged
from orchesis.score import Score, counting
from orchesis.score.patches import touched
from orchesis.score.pitch import NOTE_NAMES
from orchesis.score.player import READS, Player
from transcription import hand_answers, hand_findings, log
from transcription.differences import differing
from transcription.models import Arrangement, Preferences
from transcription.reckoning import in_time
from transcription.views import arrangements_of, asked_bar, read_arrangement

_ARRANGING_SECONDS = 25.0  # for a whole part played another way


class HandsView(APIView):
    """What of a song its player can't play, and how hard it is."""

    @extend_schema(responses=hand_answers.Hands)
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        told = hand_findings.hands_of(found)
        return answered(hand_answers.Hands, version=found.version, **told)


class StickingsView(APIView):
    """Other ways of sticking a bar."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, required=True)], responses=hand_answers.Stickings
    )
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        told = hand_findings.stickings_of(found, asked_bar(request, found.score))
        return answered(hand_answers.Stickings, version=found.version, **told)


class ProposalsView(APIView):
    """What would make the part, or one bar of it, playable or easier."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, description="of one bar only")],
        responses=hand_answers.Proposals,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        bars = [asked_bar(request, found.score)] if "bar" in request.query_params else None
        told = hand_findings.proposals_of(found, bars)
        return answered(hand_answers.Proposals, version=found.version, proposals=told)


# -- arrangements side by side


def _behind(found: Arrangement, recorded: Arrangement, differs: list[int]) -> list[int]:
    """Bars of the recorded part that were changed since an arrangement was last brought up to it,
    where it has them otherwise."""
    newer = recorded.edits.filter(version__gt=found.based)
    changed: set[int] = set()
    for patch, inverse in newer.values_list("patch", "inverse"):
        changed |= touched(patch, inverse).bars
    return [b for b in differs if b in changed]


def _told(found: Arrangement, recorded: Arrangement) -> dict[str, Any]:
    differs = [] if found.is_recorded else differing(found.score, recorded.score)
    return {
        "id": found.pk,
        "name": found.name,
        "is_recorded": found.is_recorded,
        "differs": differs,
        "behind": _behind(found, recorded, differs) if differs else [],
        "hard": _hard(found),
    }


def _hard(found: Arrangement) -> float | None:
    try:
        return float(hand_findings.hands_of(found)["song"]["total"])
    except StillAtIt:
        return None  # nothing else waits for it


class ArrangementsView(APIView):
    """The arrangements of a song, what each has otherwise; a new one."""

    @extend_schema(responses=hand_answers.Arrangements)
    def get(self, request: Request, pk: int) -> Response:
        rows = list(arrangements_of(request, pk))
        recorded = get_object_or_404(arrangements_of(request, pk), name=Arrangement.RECORDED)
        return answered(hand_answers.Arrangements, arrangements=[_told(a, recorded) for a in rows])

    @extend_schema(request=hand_answers.NewArrangement, responses={201: hand_answers.Arrangement})
    def post(self, request: Request, pk: int) -> Response:
        asked = read(hand_answers.NewArrangement, request.data, "arrangement")
        rows = arrangements_of(request, pk)
        recorded = get_object_or_404(rows, name=Arrangement.RECORDED)
        source = get_object_or_404(rows, pk=asked.of) if asked.of else recorded
        score = source.score
        bars = asked.bars or list(range(1, score.bar_count + 1))
        if max(bars) > score.bar_count:
            raise ValidationError(f"Name bars of the song (1 to {score.bar_count}).")

        def changed() -> Score:
            made = score if asked.level is None else at_level(score, asked.level)
            return made if asked.way is None else arranged(made, asked.way, bars)

        score = in_time(_ARRANGING_SECONDS, changed)
        try:
            with transaction.atomic():
                made = source.copy(asked.name, score)
        except IntegrityError:
            raise Conflict(f"There is an arrangement called “{asked.name}” already.") from None
        return answered(hand_answers.Arrangement, status=201, **_told(made, recorded))


class ArrangementView(APIView):
    """One arrangement: another name; gone."""

    def _own(self, request: Request, pk: int, number: int) -> Arrangement:
        found = get_object_or_404(arrangements_of(request, pk), pk=number)
        if found.is_recorded:
            raise ValidationError("The recorded part keeps its name and stays with its song.")
        return found

    @extend_schema(request=hand_answers.NameRequest, responses=hand_answers.Arrangement)
    def patch(self, request: Request, pk: int, number: int) -> Response:
        found = self._own(request, pk, number)
        found.name = read(hand_answers.NameRequest, request.data, "arrangement").name
        try:
            with transaction.atomic():
                found.save(update_fields=["name"])
        except IntegrityError:
            raise Conflict(f"There is an arrangement called “{found.name}” already.") from None
        return answered(hand_answers.Arrangement, **_told(found, found.recorded))

    @extend_schema(responses={204: OpenApiTypes.NONE})
    def delete(self, request: Request, pk: int, number: int) -> Response:
        self._own(request, pk, number).delete()
        return Response(status=204)


class ArrangementDifferencesView(APIView):
    """What an arrangement has otherwise than the recorded part, bar by bar."""

    @extend_schema(responses=hand_answers.ArrangementDifferences)
    def get(self, request: Request, pk: int, number: int) -> Response:
        found = get_object_or_404(arrangements_of(request, pk), pk=number)
        a, b = found.recorded.score, found.score
        told = [
            {
                "bar": bar,
                "says": explanations.differences(
                    compare(a.strokes_of(bar), b.strokes_of(bar)), b.meters[bar - 1]
                ),
            }
            for bar in differing(a, b)
        ]
        return answered(hand_answers.ArrangementDifferences, bars=told)


class ArrangementUpdateView(APIView):
    """What was changed in the recorded part is taken over into an arrangement, or is not."""

    @extend_schema(request=hand_answers.BarsRequest, responses=hand_answers.Arrangement)
    def post(self, request: Request, pk: int, number: int) -> Response:
        asked = read(hand_answers.BarsRequest, request.data, "request")
        found = get_object_or_404(arrangements_of(request, pk), pk=number)
        recorded = found.recorded
        if asked.take:
            score = recorded.score
            strokes = [s.to_json() for b in set(asked.take) for s in score.strokes_of(b)]
            try:
                log.edit(found, request.user, TakeBars(bars=asked.take, strokes=strokes))
            except BadScore as problem:
                raise BadEdit(str(problem)) from None
        Arrangement.objects.filter(pk=found.pk).update(based=recorded.version)
        found = get_object_or_404(arrangements_of(request, pk), pk=number)
        return answered(hand_answers.Arrangement, **_told(found, recorded))


class KeysOfMineView(APIView):
    """The keys that a person chose in the place of the usual ones."""

    @extend_schema(responses=hand_answers.KeysOfMine)
    def get(self, request: Request) -> Response:
        found = Preferences.objects.filter(user=request.user.pk).first()
        return answered(hand_answers.KeysOfMine, keys=found.keys if found else {})

    @extend_schema(request=hand_answers.KeysOfMine, responses=hand_answers.KeysOfMine)
    def put(self, request: Request) -> Response:
        asked = read(hand_answers.KeysOfMine, request.data, "choice of keys")
        Preferences.objects.update_or_create(
            user_id=int(request.user.pk or 0), defaults={"keys": asked.keys}
        )
        return answered(hand_answers.KeysOfMine, keys=asked.keys)


class KitOfMineView(APIView):
    """What a person owns and how they count; new songs of theirs start with it."""

    @extend_schema(responses=hand_answers.KitOfMine)
    def get(self, request: Request) -> Response:
        found = Preferences.objects.filter(user=request.user.pk).first()
        return _kit_of(found or Preferences())

    @extend_schema(request=hand_answers.KitOfMine, responses=hand_answers.KitOfMine)
    def put(self, request: Request) -> Response:
        asked = read(hand_answers.KitOfMine, request.data, "kit")
        player = Player.from_json(asked.model_dump()["player"])
        for value, known in (
            (asked.reads, READS),
            (asked.note_names, NOTE_NAMES),
        ):
            if value not in known:
                raise ValidationError(f"There is no “{value}”; there are {', '.join(known)}.")
        _rows(asked.counting)
        kept, _ = Preferences.objects.update_or_create(
            user_id=int(request.user.pk or 0),
            defaults={
                "player": player.plain.to_json(),
                "counting": asked.counting,
                "reads": asked.reads,
                "note_names": asked.note_names,
            },
        )
        return _kit_of(kept)


class CountingView(OpenView):
    """What is said in a school of counting: for the page, which knows only the usual ones."""

    @extend_schema(responses=hand_answers.CountingRows)
    def get(self, request: Request, school: str) -> Response:
        told = _rows(school)
        return answered(hand_answers.CountingRows, simple=told["simple"], compound=told["compound"])


def _rows(school: str) -> dict[str, dict[str, tuple[str, ...]]]:
    try:
        return counting.rows(school)
    except BadScore as problem:
        raise ValidationError(str(problem)) from None


def _kit_of(found: Preferences) -> Response:
    return answered(
        hand_answers.KitOfMine,
        player=found.as_player.to_json(),
        counting=found.counting,
        reads=found.reads,
        note_names=found.note_names,
    )
