"""Rhythm words: what is spoken in some bars, what could be, and the voice that says it."""

from __future__ import annotations

from typing import Annotated, Any

from config.answers import Answer, answered, read
from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.access import asked_bar, read_arrangement
from transcription.models import Preferences

from orchesis.errors import BadScore
from orchesis.score import Score
from orchesis.score.edit import printable_text
from orchesis.score.rhythm_text import as_words, spoken, syllables_of
from orchesis.sounding.speech import say
from orchesis.teaching import rhythm_words

_MAX_BARS = 32  # bars


class SpokenWord(Answer):
    """A word and the place (felt beats from the bar's start) on which it begins."""

    place: str
    word: str


class RhythmBar(Answer):
    """text: what is spoken in a bar, "" where nothing is; proposed: what could be. says: word by
    word; against: where its stresses are others than the figure's."""

    bar: int
    text: str
    proposed: str
    says: list[SpokenWord]
    against: list[str]


class RhythmWords(Answer):
    """mine: the words that one has collected; they are proposed first."""

    bars: list[RhythmBar]
    mine: list[str]


class MyWordsRequest(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)
    words: Annotated[
        list[Annotated[str, Field(min_length=1, max_length=60)]], Field(max_length=200)
    ]


class MyWords(Answer):
    words: list[str]


class RhythmWordsView(APIView):
    @extend_schema(
        parameters=[OpenApiParameter(k, int, required=True) for k in ("first", "last")],
        responses=RhythmWords,
    )
    def get(self, request: Request, pk: int) -> Response:
        score = read_arrangement(request, pk).score.played()
        first, last = (asked_bar(request, score, k) for k in ("first", "last"))
        mine = _mine(request.user).rhythm_words
        spoken = score.spoken_by_bar()
        bars = range(first, min(last, first + _MAX_BARS - 1) + 1)
        bars_told = [_told(score, bar, spoken.get(bar, ""), mine) for bar in bars]
        return answered(RhythmWords, bars=bars_told, mine=mine)


def _told(score: Score, bar: int, text: str, mine: list[str]) -> dict[str, Any]:
    strokes, meter = score.strokes_of(bar), score.meters[bar - 1]
    says, against = [], list[str]()
    try:
        proposed = rhythm_words.propose(strokes, mine)
    except BadScore:
        proposed = ""
    if text:
        try:
            words = as_words(text, spoken(text, strokes, meter))
            says = [{"place": str(own[0].place), "word": word} for word, own in words]
            against = rhythm_words.against(text, strokes, meter)
        except BadScore as problem:  # the bar was changed since
            against = [str(problem)]
    return {"bar": bar, "text": text, "proposed": proposed, "says": says, "against": against}


def _mine(user: Any) -> Preferences:
    return Preferences.objects.filter(user=user.pk).first() or Preferences(user_id=user.pk)


class MyWordsView(APIView):
    """The rhythm words that one collects."""

    @extend_schema(request=MyWordsRequest, responses=MyWords)
    def put(self, request: Request) -> Response:
        asked = read(MyWordsRequest, request.data, "collection")
        words = list(dict.fromkeys(printable_text(w.strip()) for w in asked.words if w.strip()))
        for word in words:
            syllables_of(word)
        Preferences.objects.update_or_create(
            user_id=int(request.user.pk or 0), defaults={"rhythm_words": words}
        )
        return answered(MyWords, words=words)


def said_aloud(word: str) -> HttpResponse:
    try:
        sound = say(word)
    except BadScore as problem:
        raise NotFound(str(problem)) from None
    kept = {"Cache-Control": "private, max-age=86400"}
    return HttpResponse(sound, content_type="audio/wav", headers=kept)


class SpokenWordView(APIView):
    """A word, said aloud."""

    @extend_schema(responses={(200, "audio/wav"): OpenApiTypes.BINARY})
    def get(self, request: Request, word: str) -> HttpResponse:
        return said_aloud(word)
