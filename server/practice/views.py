"""The views of practising: the stages of some bars, and what was played in."""

from __future__ import annotations

from dataclasses import asdict, replace
from fractions import Fraction
from typing import Any

from config.answers import answered, read
from config.files import attachment
from django.http.response import HttpResponseBase
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from people.access import SEE
from rest_framework.exceptions import NotFound, ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_bar, read_arrangement
from transcription.models import Arrangement, Preferences

from orchesis import charting, engraving
from orchesis.formats.file_names import file_name
from orchesis.hands import difficulty
from orchesis.score import PulseMap, Score
from orchesis.score.edit import printable_text
from orchesis.score.untrusted import read_whole
from orchesis.teaching import judging, stages, which
from orchesis.teaching.simulated import Habits, perform
from orchesis.teaching.stages import Stage
from practice import answers, log
from practice.lesson import Planned, plan_of, stage_told
from practice.models import Loop, PracticeLimits, StageNotes

_MAX_BARS = 32  # bars that are learned at once


def _bars(first: int, last: int, score: Score) -> range:
    if not 1 <= first <= last <= score.bar_count or last - first >= _MAX_BARS:
        raise ValidationError(
            f"Stages are made of 1 to {_MAX_BARS} bars, the first before the last."
        )
    return range(first, last + 1)


_OF_STAGES = [
    *(OpenApiParameter(k, int, required=True) for k in ("first", "last")),
    OpenApiParameter("order", str, enum=stages.SCHOOLS),
]


def _planned(request: Request, pk: int) -> tuple[Arrangement, Score, Planned, range]:
    arrangement = read_arrangement(request, pk)
    score = arrangement.score.played()
    bars = _bars(asked_bar(request, score, "first"), asked_bar(request, score, "last"), score)
    order = request.query_params.get("order", stages.SCHOOLS[0])
    return arrangement, score, plan_of(arrangement, score, bars, order), bars


def _wish(request: Request, score: Score) -> charting.Wish:
    """Stages in the school that their reader counts in."""
    counting = Preferences.counting_of(request.user.pk, score.player)
    return charting.Wish("stages", counting=counting)


class StagesView(APIView):
    """The stage plan of some bars, by a school."""

    @extend_schema(
        parameters=_OF_STAGES,
        responses=answers.Stages,
    )
    def get(self, request: Request, pk: int) -> Response:
        arrangement = read_arrangement(request, pk)
        score = arrangement.score.played()
        first, last = (asked_bar(request, score, k) for k in ("first", "last"))
        bars = _bars(first, last, score)
        order = request.query_params.get("order", stages.SCHOOLS[0])
        at = stages.hardest(score, bars)
        plan = plan_of(arrangement, score, bars, order)
        standing = log.standings(request.user, arrangement, first, last, order, plan.stages)
        stages_told = [
            stage_told(s, stands, words, clips)
            for s, stands, words, clips in zip(
                plan.stages, standing, plan.words, plan.clips, strict=True
            )
        ]
        return answered(
            answers.Stages,
            version=arrangement.version,
            first=first,
            last=last,
            order=order,
            tempo=round(score.pulse.tempo()[0], 1),
            period=60 / plan.stages[0].score.pulse.tempo()[0],
            hardest=[at.bar, int(at.place) + 1],
            stages=stages_told,
            dropped=plan.dropped,
            recurs=stages.recurring(score, bars),
            why=stages.why_single(score, bars, order, plan.stages),
        )

    @extend_schema(request=answers.StagesRequest, responses={204: None})
    def put(self, request: Request, pk: int) -> Response:
        """What the teacher makes of the plan."""
        asked = read(answers.StagesRequest, request.data, "plan")
        arrangement = read_arrangement(request, pk)
        bars = _bars(asked.first, asked.last, arrangement.score.played())
        StageNotes.objects.update_or_create(
            arrangement=arrangement,
            first=bars[0],
            last=bars[-1],
            order=asked.order,
            defaults={
                "titles": [s.title for s in asked.stages],
                "dropped": asked.dropped,
                "words": {s.title: printable_text(s.words) for s in asked.stages if s.words},
            },
        )
        return Response(status=204)


class StageStaffView(APIView):
    """A stage as notes."""

    @extend_schema(
        parameters=[*_OF_STAGES, OpenApiParameter("stage", int, description="from 0")],
        responses=answers.StageStaff,
    )
    def get(self, request: Request, pk: int) -> Response:
        _found, score, plan, _ = _planned(request, pk)
        number = read_whole(request.query_params.get("stage", "0"), 0, 100, "A stage's number")
        stage = plan.stages[min(number, len(plan.stages) - 1)]
        svg = charting.stage_staff(score, stage, _wish(request, score))
        return answered(answers.StageStaff, svg=svg)


class StageSheetView(APIView):
    """The stages of some bars on paper, as their teacher wants them."""

    @extend_schema(parameters=_OF_STAGES, responses={(200, "application/pdf"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponseBase:
        arrangement, score, plan, bars = _planned(request, pk)
        parts = [
            charting.StagePart(str(n), s, words)
            for n, (s, words) in enumerate(zip(plan.stages, plan.words, strict=True), 1)
        ]
        wish = _wish(request, score)
        page = charting.stage_sheet(score, parts, wish)
        pdf = engraving.pdf_of(engraving.svg_pages(page, wish.paper), wish.paper)
        title, span = arrangement.song.title, charting.bars_text(bars[0], bars[-1])
        name = file_name(title, span, "practice sheet", ending=".pdf")
        return attachment(pdf, "application/pdf", name)


class JudgeView(APIView):
    """What was played in, against a stage."""

    @extend_schema(request=answers.JudgeRequest, responses=answers.Judged)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.JudgeRequest, request.data, "performance")
        arrangement = read_arrangement(request, pk, SEE)
        score = arrangement.score.played()
        bars = _bars(asked.first, asked.last, score)
        stage = staged(arrangement, score, bars, asked.order, asked.stage)
        played = [judging.Played(p.time, p.part, p.loudness) for p in asked.played]
        judged = judging.judge(slower(stage.score, asked.share), played, asked.latency)
        return answered(answers.Judged, **in_the_song(judged, stage, score, asked.first))


def in_the_song(judged: judging.Judged, stage: Stage, score: Score, first: int) -> dict[str, Any]:
    """What was played of a stage, its strokes told by the song's bars."""
    answer = judged.to_json()
    for stroke_told, s in zip(answer["strokes"], judged.strokes, strict=True):
        bar, place = stages.on_song(stage, score.meters, first, s.bar, s.place)
        stroke_told["bar"], stroke_told["place"] = bar, str(place)
    return answer


def staged(
    arrangement: Arrangement, score: Score, bars: range, order: str, number: int | None
) -> Stage:
    """A stage of a plan by its number; the whole part where there is none."""
    if number is None:
        return stages.plan(score, bars, order)[-1]
    plan = plan_of(arrangement, score, bars, order).stages
    return plan[min(number, len(plan) - 1)]


def slower(score: Score, share: float) -> Score:
    """A score at a share of its tempo."""
    return replace(score, pulse=PulseMap.of([t / share for t in score.pulse.times]))


class LoopsView(APIView):
    """Loops that were played and judged: into the log, and up or down the ladder."""

    @extend_schema(request=answers.LoopRequest, responses=answers.LoopLogged)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.LoopRequest, request.data, "loop")
        arrangement = read_arrangement(request, pk, SEE)
        score = arrangement.score.played()
        bars = _bars(asked.first, asked.last, score)
        plan = plan_of(arrangement, score, bars, asked.order).stages
        stage = plan[min(asked.stage, len(plan) - 1)]
        [stands] = log.standings(
            request.user, arrangement, asked.first, asked.last, asked.order, [stage]
        )
        # What is tried at the top of a ladder moves nobody on it.
        after = stands.rung if asked.beside else stage.ladder.after(stands.rung, asked.judgement)
        Loop.objects.create(
            user_id=int(request.user.pk or 0),
            arrangement=arrangement,
            first=asked.first,
            last=asked.last,
            order=asked.order,
            stage=stage.title,
            stages=len(plan),
            hard=difficulty.of(score, bars).total,
            seconds=asked.seconds,
            tempo=asked.tempo,
            judgement=asked.judgement,
            rung_tempo=after.tempo,
            clean_loops=after.clean,
            is_learned=after.is_learned,
            note=printable_text(asked.note),
            beside=asked.beside,
        )
        says = log.told(request.user)["today"]["says"]
        return answered(answers.LoopLogged, rung=asdict(after), says=says)


class SimulateView(APIView):
    """A stage as a simulated player plays it, by the moments at which it strikes."""

    @extend_schema(request=answers.SimulateRequest, responses=answers.Simulated)
    def post(self, request: Request, pk: int) -> Response:
        asked = read(answers.SimulateRequest, request.data, "player")
        arrangement = read_arrangement(request, pk, SEE)
        score = arrangement.score.played()
        bars = _bars(asked.first, asked.last, score)
        part = slower(staged(arrangement, score, bars, asked.order, asked.stage).score, asked.share)
        limbs = asked.limbs.items()
        habits = Habits(
            late={limb: x.late for limb, x in limbs},
            spread={limb: x.spread for limb, x in limbs},
            missed={limb: x.missed for limb, x in limbs},
            extra={limb: x.extra for limb, x in limbs},
            ghosts=asked.ghosts,
            rush=asked.rush,
        )
        played = [
            {"time": p.time, "part": p.part, "loudness": p.loudness}
            for p in perform(part, habits, asked.loops)
        ]
        return answered(answers.Simulated, played=played)


class QuestionView(APIView):
    """A question to the ear about the song; 404 where there is none of that kind."""

    @extend_schema(
        parameters=[
            OpenApiParameter("level", int),
            OpenApiParameter("seed", int, required=True),
            OpenApiParameter("last", str, description="the last answers, 1 right, 0 wrong"),
            OpenApiParameter("kind", str, enum=which.KINDS),
        ],
        responses=answers.Question,
    )
    def get(self, request: Request, pk: int) -> Response:
        score = read_arrangement(request, pk).score.played()
        kind = request.query_params.get("kind")
        if kind is not None and kind not in which.KINDS:
            raise ValidationError(f"There is no question “{kind}”.")
        level, seed = (
            read_whole(request.query_params.get(name, "1"), 0, 1_000_000_000, f"A {name}")
            for name in ("level", "seed")
        )
        last = [c == "1" for c in request.query_params.get("last", "")[-3:]]
        level = which.next_level(level, last)
        asked = which.question(score, level, seed, kind)
        if asked is None:
            raise NotFound("Too little of this song is sure enough to be asked about.")
        meter = score.meters[asked.first - 1]
        beats = [asked.beat + k for k in range(asked.beats + 1)]
        moments = [
            score.seconds(asked.first + b // meter.beats, Fraction(b % meter.beats)) for b in beats
        ]
        return answered(
            answers.Question,
            kind=asked.kind,
            asks=asked.asks,
            start=moments[0],
            end=moments[-1],
            clicks=moments[:-1] if asked.kind == "one" else [],
            options=[asdict(o) for o in asked.options],
            answer=asked.answer,
            because=asked.because,
            level=level,
        )


class LogView(APIView):
    """A person's own practice: today, the last weeks, the passages, what they chose."""

    @extend_schema(responses=answers.PracticeLog)
    def get(self, request: Request) -> Response:
        return answered(answers.PracticeLog, **log.told(request.user))

    @extend_schema(request=answers.CareRequest, responses=answers.PracticeLog)
    def put(self, request: Request) -> Response:
        asked = read(answers.CareRequest, request.data, "choice")
        PracticeLimits.objects.update_or_create(
            user_id=int(request.user.pk or 0), defaults=asked.model_dump()
        )
        return answered(answers.PracticeLog, **log.told(request.user))


class PlanView(APIView):
    """What to do in the time there is."""

    @extend_schema(
        parameters=[OpenApiParameter("minutes", int, required=True)],
        responses=answers.PracticePlan,
    )
    def get(self, request: Request) -> Response:
        minutes = read_whole(request.query_params.get("minutes", ""), 1, 600, "A number of minutes")
        return answered(answers.PracticePlan, blocks=log.plan(request.user, minutes))
