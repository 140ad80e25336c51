"""The arrangement that a request asks for, where the asker may have it."""

from __future__ import annotations

from django.db.models import QuerySet
from library.access import must_be_allowed
from library.models import Song
from rest_framework.exceptions import ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request

from orchesis.errors import BadScore
from orchesis.score import Score
from orchesis.score.untrusted import read_whole
from transcription.models import Arrangement


def asked_arrangement(request: Request, pk: int, may: str | None = None) -> Arrangement:
    """What is played in a song that the asker sees: as it was recorded, or the arrangement that
    the request names by its number; 404 where there is none, 403 where they may not do that.

    may: of people.access; where it is not said, what the request's method wants.
    """
    arrangement = _asked(request, pk)
    must_be_allowed(request, arrangement.song, may)
    return arrangement


def _asked(request: Request, pk: int) -> Arrangement:
    rows = Arrangement.objects.visible_to(request.user).select_related("song", "take")
    if number := request.query_params.get("arrangement"):
        try:
            wanted = read_whole(number, 1, 2**31, "An arrangement")
        except BadScore as problem:
            raise ValidationError(str(problem)) from None
        return get_object_or_404(rows, song=pk, pk=wanted)
    return get_object_or_404(rows, song=pk, name=Arrangement.RECORDED)


def read_arrangement(request: Request, pk: int, may: str | None = None) -> Arrangement:
    """The arrangement asked for, with its score read."""
    # The documents are fetched only where the score is not at hand.
    arrangement = asked_arrangement(request, pk, may)
    try:
        arrangement.score  # noqa: B018 (read once, and kept)
    except BadScore:
        arrangement.mark_broken()
        raise
    return arrangement


def arrangements_of(request: Request, pk: int, may: str | None = None) -> QuerySet[Arrangement]:
    """All arrangements of a song; as asked_arrangement has it where the asker may not."""
    must_be_allowed(request, get_object_or_404(Song.objects.visible_to(request.user), pk=pk), may)
    return Arrangement.objects.filter(song=pk).select_related("song", "take")


def asked_bar(request: Request, score: Score, name: str = "bar") -> int:
    """The bar that a request names; told in one sentence where the song has none such."""
    try:
        return read_whole(request.query_params.get(name, ""), 1, score.bar_count, "A bar")
    except BadScore:
        raise ValidationError(f"Name bars of the song (1 to {score.bar_count}).") from None
