"""The views of hands: who plays what, how hard it is, what would make it easier."""

from __future__ import annotations

from config.answers import answered
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_bar, read_arrangement

from findings import hand_answers, hands


class HandsView(APIView):
    """What of a song its player can't play, and how hard it is."""

    @extend_schema(responses=hand_answers.Hands)
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        told = hands.hands_of(found)
        return answered(hand_answers.Hands, version=found.version, **told)


class StickingsView(APIView):
    """Other ways of sticking a bar."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, required=True)], responses=hand_answers.Stickings
    )
    def get(self, request: Request, pk: int) -> Response:
        found = read_arrangement(request, pk)
        told = hands.stickings_of(found, asked_bar(request, found.score))
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
        told = hands.proposals_of(found, bars)
        return answered(hand_answers.Proposals, version=found.version, proposals=told)
