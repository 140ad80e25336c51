"""A form by which people without an account ask for songs, and vote for what others asked."""

# Types that are made from lists of words: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from datetime import date
from typing import Annotated, Any

from config import addresses
from config.answers import Answer, answered, chosen, one_of, read
from config.errors import Conflict
from config.open_view import OpenView
from config.rates import Limit, Rate, RateOfAddress
from django.db import transaction
from django.db.models import F
from django.http import Http404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from library.models import RequestForm, Song, Vote
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.exceptions import Throttled, ValidationError
from rest_framework.generics import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from orchesis.score.edit import printable_text

_MOST_ASKED = 300  # songs that wait on a form; more are a joke or an attack
_Strict = ConfigDict(extra="forbid", strict=True)
_Device = Annotated[str, Field(min_length=8, max_length=40, pattern=r"^[\w-]+$")]
Depth = chosen(key for key, _ in Song.DEPTHS)


class FormTold(Answer):
    """address: behind the name of the house; "" before there is one, or where it is closed."""

    title: str
    words: str
    address: str
    is_open: bool


class FormRequest(BaseModel):
    model_config = _Strict
    title: Annotated[str, Field(min_length=1, max_length=120)]
    words: Annotated[str, Field(max_length=600)] = ""
    is_open: bool = True


class AskedSong(Answer):
    """state: asked, on the desk, done."""

    id: int
    title: str
    artist: str
    votes: int
    state: one_of(["asked", "on the desk", "done"])


class AskedSongs(Answer):
    title: str
    words: str
    songs: list[AskedSong]


class SongRequest(BaseModel):
    """due: like 2026-12-24, or "". device: a word that the page drew at random."""

    model_config = _Strict
    title: Annotated[str, Field(min_length=1, max_length=200)]
    artist: Annotated[str, Field(max_length=200)] = ""
    name: Annotated[str, Field(min_length=1, max_length=120)]
    due: Annotated[str, Field(max_length=10)] = ""
    depth: Depth = Song.OUTLINE
    device: _Device


class VoteRequest(BaseModel):
    model_config = _Strict
    song: int
    device: _Device


class RequestFormView(APIView):
    """One's own form: its address, its words, whether it takes requests."""

    @extend_schema(responses=FormTold)
    def get(self, request: Request) -> Response:
        return _form_told(RequestForm.objects.filter(owner=request.user.pk).first())

    @extend_schema(request=FormRequest, responses=FormTold)
    def put(self, request: Request) -> Response:
        asked = read(FormRequest, request.data, "form")
        kept, _ = RequestForm.objects.update_or_create(
            owner_id=int(request.user.pk or 0),
            defaults={
                "title": printable_text(asked.title),
                "words": printable_text(asked.words),
                "closed": None if asked.is_open else timezone.now(),
            },
        )
        return _form_told(kept)


def _form_told(form: RequestForm | None) -> Response:
    if form is None:
        return answered(FormTold, title="", words="", address="", is_open=False)
    return answered(
        FormTold,
        title=form.title,
        words=form.words,
        address=f"/r/{form.token}",
        is_open=form.closed is None,
    )


class _AskRate(Rate):
    limit = Limit("asking", "30/hour")


class _AskRateHere(RateOfAddress):
    limit = Limit("asking_here", "100/hour")


#: New votes for a song from one address: a hall full of people may share one.
_VOTES = Limit("voting", "30/day")


def _opened(token: str) -> RequestForm:
    form = RequestForm.objects.filter(token=token, closed=None).first()
    if form is None:
        raise Http404("This address takes no requests any more: ask whoever gave it to you.")
    return form


def _told(form: RequestForm) -> dict[str, Any]:
    rows = form.songs.filter(removed=None).prefetch_related("arrangements")
    songs = []
    for song in rows.order_by("-votes", "created"):
        arrangement = next(iter(song.arrangements.all()), None)
        done = arrangement is not None and arrangement.is_done
        songs.append(
            {
                "id": song.pk,
                "title": song.title,
                "artist": song.artist,
                "votes": song.votes,
                "state": "done" if done else "asked" if arrangement is None else "on the desk",
            }
        )
    return {"title": form.title, "words": form.words, "songs": songs}


class AskedSongsView(OpenView):
    """What was asked for at an address, the most wanted first; one song more."""

    def get_throttles(self) -> list[Any]:
        if self.request.method != "POST":
            return super().get_throttles()
        return [_AskRate(), _AskRateHere()]

    @extend_schema(responses=AskedSongs)
    def get(self, request: Request, token: str) -> Response:
        return answered(AskedSongs, **_told(_opened(token)))

    @extend_schema(request=SongRequest, responses={201: AskedSongs})
    def post(self, request: Request, token: str) -> Response:
        asked, form = read(SongRequest, request.data, "request"), _opened(token)
        try:
            due = date.fromisoformat(asked.due) if asked.due else None
        except ValueError:
            raise ValidationError("Write the due date like 2026-12-24.") from None
        title, artist = printable_text(asked.title).strip(), printable_text(asked.artist).strip()
        same = form.songs.filter(title__iexact=title, artist__iexact=artist, removed=None).first()
        if same is not None:
            _vote(same, asked.device, _of(request))
        else:
            with transaction.atomic():
                _make_room(form)
                song = Song.objects.create(
                    owner=form.owner,
                    form=form,
                    title=title,
                    artist=artist,
                    due=due,
                    asked_by=printable_text(asked.name),
                    depth=asked.depth,
                )
                _vote(song, asked.device, _of(request))
        return answered(AskedSongs, status=201, **_told(form))


class VotesView(OpenView):
    @extend_schema(request=VoteRequest, responses=AskedSongs)
    def post(self, request: Request, token: str) -> Response:
        """One vote a device for a song; again, it is taken back."""
        asked, form = read(VoteRequest, request.data, "vote"), _opened(token)
        song = get_object_or_404(form.songs.filter(removed=None), pk=asked.song)
        if not _vote(song, asked.device, _of(request)):
            with transaction.atomic():
                gone, _ = song.voters.filter(device=asked.device).delete()
                Song.objects.filter(pk=song.pk).update(votes=F("votes") - min(gone, 1))
        return answered(AskedSongs, **_told(form))


def _of(request: Request) -> str:
    return addresses.of(request._request)


def _make_room(form: RequestForm) -> None:
    """On a full form the oldest song gives way which nobody but one wants and which was not begun:
    it goes into the bin. Raises Conflict where there is none."""
    waiting = form.songs.filter(removed=None)
    if waiting.count() < _MOST_ASKED:
        return
    oldest = waiting.filter(votes__lte=1, takes=None).order_by("created", "pk").first()
    if oldest is None:
        raise Conflict("As many songs wait here as can wait; ask for yours in person.")
    Song.objects.filter(pk=oldest.pk).update(removed=timezone.now())


def _vote(song: Song, device: str, address: str) -> bool:
    """Whether this is a new vote. Raises Throttled where an address gives more than a hall does."""
    if song.voters.filter(device=device).exists():
        return False
    if not _VOTES.use(f"{song.pk}:{address}"):
        raise Throttled(_VOTES.left)
    with transaction.atomic():
        _, is_new = Vote.objects.get_or_create(song=song, device=device)
        if is_new:
            Song.objects.filter(pk=song.pk).update(votes=F("votes") + 1)
    return is_new
