"""The views of practising: the stages of some bars, and what was played in."""

from __future__ import annotations

from dataclasses import replace

from config.answers import answered
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.views import asked_bar, own_arrangement, read

from orchesis.score import PulseMap, Score
from orchesis.teaching import judging, stages
from orchesis.teaching.ladder import ladder
from practice import answers

_MOST = 32  # bars that are learned at once


def _bars(first: int, last: int, score: Score) -> range:
    if not 1 <= first <= last <= score.bar_count or last - first >= _MOST:
        raise ValidationError(f"Stages are made of 1 to {_MOST} bars, the first before the last.")
    return range(first, last + 1)


class StagesView(APIView):
    """The stage plan of some bars, by a school."""

    @extend_schema(
        parameters=[
            *(OpenApiParameter(k, int, required=True) for k in ("first", "last")),
            OpenApiParameter("order", str, enum=stages.SCHOOLS),
        ],
        responses=answers.Stages,
    )
    def get(self, request: Request, pk: int) -> Response:
        found = own_arrangement(request, pk)
        score = found.score.played()
        first, last = (asked_bar(request, score, k) for k in ("first", "last"))
        bars = _bars(first, last, score)
        order = request.query_params.get("order", stages.SCHOOLS[0])
        at = stages.hardest(score, bars)
        told = []
        for s in stages.plan(score, bars, order):
            own = [score.strokes[i].changed(ornament=x.ornament)
                   for i, x in s.score.strokes.items()]  # fmt: skip
            own.sort(key=lambda x: (x.bar, x.place))
            rungs = ladder(score, own, bars)
            told.append({
                "title": s.title, "plays": s.plays, "strokes": [x.to_json() for x in own],
                "tempo": s.tempo, "step": rungs.step, "goal": s.goal, "run": rungs.run,
                "says": s.says, "with_song": s.with_song,
            })  # fmt: skip
        return answered(
            answers.Stages, version=found.version, first=first, last=last, order=order,
            tempo=round(score.pulse.tempo()[0], 1), hardest=[at.bar, int(at.place) + 1],
            stages=told,
        )  # fmt: skip


class JudgeView(APIView):
    """What was played in, against a stage."""

    @extend_schema(request=answers.JudgeRequest, responses=answers.Judged)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.JudgeRequest, request.data, "performance")
        found = own_arrangement(request, pk)
        score = found.score.played()
        bars = _bars(asked.first, asked.last, score)
        plan = stages.plan(score, bars, asked.order)
        at = len(plan) - 1 if asked.stage is None else min(asked.stage, len(plan) - 1)
        part = plan[at].score
        slow = PulseMap.of([t / asked.share for t in part.pulse.times])
        played = [judging.Played(p.time, p.part, p.loudness) for p in asked.played]
        told = judging.judge(_at(part, slow), played, asked.latency)
        return answered(answers.Judged, **told.to_json())


def _at(score: Score, pulse: PulseMap) -> Score:

    return replace(score, pulse=pulse)
