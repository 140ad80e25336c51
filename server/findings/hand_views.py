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
        arrangement = read_arrangement(request, pk)
        findings = hands.hands_of(arrangement)
        return answered(hand_answers.Hands, version=arrangement.version, **findings)


class StickingsView(APIView):
    """Other ways of sticking a bar."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, required=True)], responses=hand_answers.Stickings
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        findings = hands.stickings_of(arrangement, asked_bar(request, arrangement.score))
        return answered(hand_answers.Stickings, version=arrangement.version, **findings)


class ProposalsView(APIView):
    """What would make the part, or one bar of it, playable or easier."""

    @extend_schema(
        parameters=[OpenApiParameter("bar", int, description="of one bar only")],
        responses=hand_answers.Proposals,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        bars = [asked_bar(request, arrangement.score)] if "bar" in request.query_params else None
        proposals = hands.proposals_of(arrangement, bars)
        return answered(hand_answers.Proposals, version=arrangement.version, proposals=proposals)
