"""What the API takes and gives of players' links, for the teacher and for the player."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated

from config.answers import Answer, one_of
from pydantic import BaseModel, ConfigDict, Field

from orchesis import play_along
from orchesis.score.document import Stroke
from orchesis.sounding import part
from practice.answers import Judged, Order, Stage

Mix = one_of(play_along.MIXES)
ClickParts = one_of(part.CLICKS)
SoundFormat = one_of(play_along.FORMATS)
_Bar = Annotated[int, Field(ge=1, le=100_000)]


class LessonPassage(BaseModel):
    """Bars that are learned, in an order, with the teacher's words."""

    model_config = ConfigDict(extra="forbid", strict=True)
    first: _Bar
    last: _Bar
    order: Order = "computed"
    words: Annotated[str, Field(max_length=1000)] = ""


class LinkRequest(BaseModel):
    """passages: none: the whole song, section by section."""

    model_config = ConfigDict(extra="forbid", strict=True)
    title: Annotated[str, Field(min_length=1, max_length=120)]
    words: Annotated[str, Field(max_length=2000)] = ""
    passages: Annotated[list[LessonPassage], Field(max_length=24)] = []
    with_recording: bool = False


class StageTold(BaseModel):
    model_config = ConfigDict(extra="forbid")
    title: Annotated[str, Field(max_length=200)]
    tempo: Annotated[float, Field(ge=0, le=500)]
    goal: Annotated[float, Field(ge=0, le=500)]
    is_learned: bool


class Progress(Answer):
    name: str
    minutes: float
    at: str
    stages: list[StageTold]


class Link(Answer):
    """address: on this server. whole: it holds the whole song. passages: in the bars of the part as
    it is now. is_old: players see an earlier version; changes: what is otherwise since, a sentence
    each."""

    id: int
    title: str
    words: str
    address: str
    passages: list[LessonPassage]
    whole: bool
    with_recording: bool
    is_old: bool
    changes: list[str]
    progress: list[Progress]


class Links(Answer):
    links: list[Link]


class ProgressRequest(BaseModel):
    """device: a word that the page drew at random; name: that the player wants to be known by."""

    model_config = ConfigDict(extra="forbid")
    device: Annotated[str, Field(min_length=8, max_length=40, pattern=r"^[\w-]+$")]
    name: Annotated[str, Field(min_length=1, max_length=60)]
    minutes: Annotated[float, Field(ge=0, le=100_000)]
    stages: Annotated[list[StageTold], Field(max_length=400)]


class GivenPassage(Answer):
    """first, last: bars of the song. hardest: bar and beat. why: as in Stages."""

    title: str
    words: str
    first: int
    last: int
    order: Order
    hardest: list[int]
    stages: list[Stage]
    why: str


class GivenSection(Answer):
    name: str
    first: int
    last: int


class GivenLesson(Answer):
    """What a player's page shows. meters, pulse, swing: as a score has them. strokes: of the
    whole song where
    the link holds it. pages: of the chart. duration: seconds. sound: whether the recording may
    sound."""

    title: str
    song: str
    artist: str
    words: str
    tempo: float
    period: float
    meters: list[str]
    pulse: list[float]
    swing: list[str | float]
    counting: str
    sections: list[GivenSection]
    passages: list[GivenPassage]
    strokes: list[Stroke]
    pages: int
    duration: float
    sound: bool


class PlayAlongRequest(BaseModel):
    """Files to play along with. first, last: bars that go round; 0: the whole song. shares: of
    its tempo. mute: limbs and layers that the player plays. stages: each stage of the bars as a
    file, too. counted: a school to count aloud in, or empty."""

    model_config = ConfigDict(extra="forbid", strict=True)
    first: Annotated[int, Field(ge=0, le=100_000)] = 0
    last: Annotated[int, Field(ge=0, le=100_000)] = 0
    shares: Annotated[list[float], Field(min_length=1, max_length=8)] = [1.0]
    mixes: Annotated[list[Mix], Field(max_length=8)] = ["drums away and click"]
    mute: Annotated[list[str], Field(max_length=16)] = []
    stages: bool = False
    order: Order = "computed"
    click: ClickParts = "quarters"
    counted: Annotated[str, Field(max_length=60)] = ""
    form: SoundFormat = "ogg"
    loops: Annotated[int, Field(ge=1, le=32)] = 4


class LongWork(Answer):
    """As the queue tells it: state, what it is doing, its share, what went wrong."""

    model_config = ConfigDict(extra="ignore")
    id: int
    state: str
    step_name: str
    share: float
    message: str


class PlayAlong(Answer):
    """names: of the files in the zip. is_old: the part was changed since."""

    id: int
    names: list[str]
    is_ready: bool
    is_old: bool
    wish: PlayAlongRequest
    job: LongWork | None


class PlayAlongs(Answer):
    made: list[PlayAlong]


class PractisedSound(Answer):
    """A recording of practice. judged: null until it was heard; factor: by which it was played
    faster than the stage's tempo."""

    id: int
    judged: Judged | None
    factor: float | None
    job: LongWork | None
