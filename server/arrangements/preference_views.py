"""The views of what a person owns and prefers: kit, keys, counting."""

from __future__ import annotations

from config.answers import answered, read
from config.open_view import OpenView
from drf_spectacular.utils import extend_schema
from rest_framework.exceptions import ValidationError
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from transcription.models import Preferences

from arrangements import preference_answers
from orchesis.errors import BadScore
from orchesis.score import counting
from orchesis.score.pitch import NOTE_NAMES
from orchesis.score.player import READS, Player


class KeysOfMineView(APIView):
    """The keys that a person chose in the place of the usual ones."""

    @extend_schema(responses=preference_answers.KeysOfMine)
    def get(self, request: Request) -> Response:
        preferences = Preferences.objects.filter(user=request.user.pk).first()
        return answered(preference_answers.KeysOfMine, keys=preferences.keys if preferences else {})

    @extend_schema(request=preference_answers.KeysOfMine, responses=preference_answers.KeysOfMine)
    def put(self, request: Request) -> Response:
        asked = read(preference_answers.KeysOfMine, request.data, "choice of keys")
        Preferences.objects.update_or_create(
            user_id=int(request.user.pk or 0), defaults={"keys": asked.keys}
        )
        return answered(preference_answers.KeysOfMine, keys=asked.keys)


class KitOfMineView(APIView):
    """What a person owns and how they count; new songs of theirs start with it."""

    @extend_schema(responses=preference_answers.KitOfMine)
    def get(self, request: Request) -> Response:
        preferences = Preferences.objects.filter(user=request.user.pk).first()
        return _kit_of(preferences or Preferences())

    @extend_schema(request=preference_answers.KitOfMine, responses=preference_answers.KitOfMine)
    def put(self, request: Request) -> Response:
        asked = read(preference_answers.KitOfMine, request.data, "kit")
        player = Player.from_json(asked.model_dump()["player"])
        for value, allowed in (
            (asked.reads, READS),
            (asked.note_names, NOTE_NAMES),
        ):
            if value not in allowed:
                raise ValidationError(f"There is no “{value}”; there are {', '.join(allowed)}.")
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

    @extend_schema(responses=preference_answers.CountingRows)
    def get(self, request: Request, school: str) -> Response:
        rows = _rows(school)
        return answered(
            preference_answers.CountingRows, simple=rows["simple"], compound=rows["compound"]
        )


def _rows(school: str) -> dict[str, dict[str, tuple[str, ...]]]:
    try:
        return counting.rows(school)
    except BadScore as problem:
        raise ValidationError(str(problem)) from None


def _kit_of(preferences: Preferences) -> Response:
    return answered(
        preference_answers.KitOfMine,
        player=preferences.as_player.to_json(),
        counting=preferences.counting,
        reads=preferences.reads,
        note_names=preferences.note_names,
    )
