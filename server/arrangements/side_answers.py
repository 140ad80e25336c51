"""What the API takes and gives of arrangements side by side."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated, Literal

from config.answers import Answer, one_of
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from orchesis.hands.ways import WAYS
from orchesis.score.edit import printable_text

Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(printable_text)]


class Arrangement(Answer):
    """differs: bars that it has otherwise than the recorded part. behind: bars of the recorded
    part that were changed since, and that it has otherwise. hard: 0..10; null as
    long as a worker reads a long song."""

    id: int
    name: str
    is_recorded: bool
    differs: list[int]
    behind: list[int]
    hard: float | None


class Arrangements(Answer):
    arrangements: list[Arrangement]


class NewArrangement(BaseModel):
    """of: the arrangement it is made from, null: the recorded part. level: 1 to 4, at which it is
    simplified. way, bars: that are arranged at once."""

    model_config = ConfigDict(extra="forbid", strict=True)
    name: Name
    of: Annotated[int, Field(ge=1, le=2**31)] | None = None
    level: Literal[1, 2, 3, 4] | None = None
    way: one_of(WAYS) | None = None
    bars: Annotated[list[Annotated[int, Field(ge=1, le=100_000)]], Field(max_length=3000)] = []


class NameRequest(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)
    name: Name


class BarsRequest(BaseModel):
    """take: the bars whose recorded strokes are taken over; of all others it is said that they
    stay as they are."""

    model_config = ConfigDict(extra="forbid", strict=True)
    take: Annotated[list[Annotated[int, Field(ge=1, le=100_000)]], Field(max_length=3000)]


class BarDifference(Answer):
    bar: int
    says: list[str]


class ArrangementDifferences(Answer):
    bars: list[BarDifference]
