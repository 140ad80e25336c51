"""What the API takes and gives of set lists and of what is left to do."""

# Types that are made from lists of words: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from datetime import date
from typing import Annotated

from config.answers import Answer, chosen, one_of
from practice.link_answers import LongWork
from pydantic import BaseModel, ConfigDict, Field

from planning.models import SetList

Kind = chosen(SetList.KINDS)
_Strict = ConfigDict(extra="forbid")


class ItemRequest(BaseModel):
    """lesson: of the song, instead of all of it; null: the song. due: of a class plan."""

    model_config = _Strict
    song: int
    lesson: int | None = None
    due: date | None = None
    note: Annotated[str, Field(max_length=300)] = ""


class SetListRequest(BaseModel):
    """group: with whom it is shared; null: with nobody. is_given: whether players open it by an
    address of its own."""

    model_config = _Strict
    title: Annotated[str, Field(min_length=1, max_length=120)]
    kind: Kind = SetList.KINDS[0]
    words: Annotated[str, Field(max_length=2000)] = ""
    due: date | None = None
    group: int | None = None
    is_given: bool = False
    items: Annotated[list[ItemRequest], Field(max_length=120)] = []


class Item(Answer):
    """seconds: of the recording; null before there is one. is_ready: there is a part to chart.
    confirmed: share of its bars. address: of the player's page, "" where none is given out."""

    song: int
    title: str
    artist: str
    lesson: int | None
    lesson_title: str
    due: str | None
    note: str
    seconds: float | None
    tempo: float | None
    is_ready: bool
    confirmed: float
    address: str


class SetListTold(Answer):
    """may: see, edit or own. seconds: of all recordings there are. address: of the whole list for
    players, "" where none is given out. paper: none, ready, old (songs changed since)."""

    id: int
    title: str
    kind: Kind
    words: str
    due: str | None
    group: int | None
    of: str
    may: one_of(["see", "edit", "own"])
    items: list[Item]
    seconds: float
    address: str
    paper: one_of(["none", "ready", "old"])
    job: LongWork | None


class SetLists(Answer):
    lists: list[SetListTold]


class GivenItem(Answer):
    title: str
    artist: str
    note: str
    due: str | None
    seconds: float | None
    tempo: float | None
    address: str


class GivenList(Answer):
    """A list as players open it."""

    title: str
    kind: Kind
    words: str
    due: str | None
    seconds: float
    items: list[GivenItem]


class Lesson(Answer):
    """A lesson as a thing of its own: passages of a song, with words, which players open."""

    id: int
    song: int
    song_title: str
    title: str
    words: str
    passages: int
    players: int
    address: str


class Lessons(Answer):
    lessons: list[Lesson]


class Left(Answer):
    """Minutes of work: likely, and between which they lie four times in five."""

    song: int
    spent: float
    likely: float
    low: float
    high: float


class Forecasts(Answer):
    """finished: songs it was learned from. says: of all that is wanted, in one sentence."""

    finished: int
    songs: list[Left]
    says: str


class MinutesRequest(BaseModel):
    """Work away from the desk (listening on the tram): minutes that are added to a song's."""

    model_config = _Strict
    minutes: Annotated[float, Field(ge=-600, le=600)]
