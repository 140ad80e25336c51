"""What the API takes and gives of comments, history and named versions."""

# Types that are made from lists of words: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated

from config.answers import Answer, one_of
from pydantic import BaseModel, ConfigDict, Field
from transcription.models import Edit

_Strict = ConfigDict(extra="ignore", strict=True)
_Words = Annotated[str, Field(min_length=1, max_length=1000)]


class CommentTold(Answer):
    """bar: 0 where it is of the whole song or of a section. author: "" whose account is gone.
    answers: the comment under which it stands, or null. may_change: whether the asker wrote it."""

    id: int
    bar: int
    section: str
    answers: int | None
    author: str
    words: str
    mentions: list[str]
    created: str
    resolved: str | None
    resolved_by: str
    may_change: bool


class Comments(Answer):
    """people: whom the asker can mention here: who shares the song."""

    comments: list[CommentTold]
    people: list[str]


class CommentRequest(BaseModel):
    """A comment on a bar (from 1), on a section by its id, under another comment, or on the whole
    song. “@name” mentions somebody who shares it."""

    model_config = _Strict
    words: _Words
    bar: Annotated[int, Field(ge=0, le=100_000)] = 0
    section: Annotated[str, Field(max_length=40)] = ""
    answers: int | None = None


class CommentChange(BaseModel):
    model_config = _Strict
    words: _Words | None = None
    resolved: bool | None = None


class Mention(Answer):
    """An open comment that asks somebody to look."""

    song: int
    title: str
    bar: int
    author: str
    words: str


class Mentions(Answer):
    mentions: list[Mention]


class HistoryLine(Answer):
    """What was done: by whom ("": the account is gone), when, in words."""

    version: int
    kind: one_of([Edit.DO, Edit.UNDO, Edit.REDO])
    by: str
    at: str
    says: str


class NamedVersionTold(Answer):
    id: int
    name: str
    version: int
    by: str
    at: str


class History(Answer):
    """Lines newest first, fifty at a time; is_all: whether older ones follow no more."""

    version: int
    lines: list[HistoryLine]
    is_all: bool
    named: list[NamedVersionTold]


class VersionRequest(BaseModel):
    """A name for a version; without a number, for the newest one."""

    model_config = _Strict
    name: Annotated[str, Field(min_length=1, max_length=80)]
    version: Annotated[int, Field(ge=0, le=2**31)] | None = None


class VersionBar(Answer):
    bar: int
    says: list[str]


class VersionDifferences(Answer):
    """bars: what they have otherwise now than at that version. form: whether pulse, meters or
    sections differ."""

    bars: list[VersionBar]
    form: bool


class BroughtBack(Answer):
    version: int
    says: str
