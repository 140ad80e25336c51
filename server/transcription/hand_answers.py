"""What the API takes and gives of hands and arrangements."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated, Literal

from config.answers import Answer, one_of
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from orchesis.hands.solver import REASONS
from orchesis.hands.ways import WAYS
from orchesis.score import counting
from orchesis.score.document import Player, Stroke
from orchesis.score.edit import printable_text
from orchesis.score.pitch import NOTE_NAMES
from orchesis.score.player import READS

Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(printable_text)]


class UnplayableStroke(Answer):
    stroke: str
    part: str
    bar: int
    place: str
    reason: one_of(REASONS)
    says: str


class Causes(Answer):
    """Their shares of the total."""

    speed: float
    independence: float
    moves: float
    dynamics: float
    changes: float


class Hard(Answer):
    """total: 0..10. hard_by: its first cause, in words."""

    total: float
    causes: Causes
    hard_by: str


class SectionHard(Hard):
    id: str
    name: str
    first_bar: int
    bars: int
    school: str


class BarHard(Answer):
    bar: int
    total: float


class Hands(Answer):
    """What no limb is left for, and how hard it is. chosen: strokes whose limb a person chose.
    layers: parts that are a layer of the recording."""

    version: int
    unplayable: list[UnplayableStroke]
    chosen: int
    layers: list[str]
    song: Hard
    sections: list[SectionHard]
    bars: list[BarHard]


class Alternative(Answer):
    """limbs: of the bar's hand strokes, by id; hands: the same as a row of R and L. cost: the
    solver's, to compare by."""

    name: str
    limbs: dict[str, str]
    hands: str
    cost: float
    is_now: bool
    says: list[str]


class Stickings(Answer):
    """heard: what the recording says of the hands. askable: rudiments that can be asked for.
    fastest: by limb, the tempo (beats a minute) up to which it stays inside its limits."""

    version: int
    alternatives: list[Alternative]
    heard: list[str]
    rudiments: list[str]
    askable: list[str]
    fastest: dict[str, float]
    harder_slow: bool
    hard: Hard


class Example(Answer):
    bar: int
    before: list[Stroke]
    after: list[Stroke]


class Proposal(Answer):
    """must: the part can't be played without it, or another like it."""

    way: one_of(WAYS)
    title: str
    bars: list[int]
    must: bool
    says: str
    example: Example


class Proposals(Answer):
    version: int
    proposals: list[Proposal]


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


#: Of counting.SCHOOLS, or words of one's own.
Counting = Annotated[str, Field(max_length=counting.LONGEST_SCHOOL)]
Reads = one_of(READS)
NoteNames = one_of(tuple(NOTE_NAMES))


_Key = Annotated[str, Field(min_length=1, max_length=24)]


class KeysOfMine(Answer):
    """Keys that a person chose, by rows of the page's table of keys."""

    keys: Annotated[
        dict[Annotated[str, Field(max_length=40)], Annotated[list[_Key], Field(max_length=40)]],
        Field(max_length=300),
    ]


class CountingRows(Answer):
    """What is said in a school, behind the beat's number: by the meter's kind and by the parts of a
    beat, one word a part."""

    simple: dict[str, list[str]]
    compound: dict[str, list[str]]


class KitOfMine(Answer):
    """What a person owns, how they count, what they read and what notes are called."""

    player: Player
    counting: Counting
    reads: Reads = "staff"
    note_names: NoteNames = "letters"
