"""What the API takes and gives of practising."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated

from config.answers import Answer, one_of
from pydantic import BaseModel, ConfigDict, Field
from transcription.answers import Part, Stroke

from orchesis.teaching import stages

Order = one_of(stages.SCHOOLS)


class Stage(Answer):
    """strokes: of the stage, on the song's own bars. tempo, step, goal: beats a minute of its
    ladder; run: clean loops before a step. with_song: the recording can be played along with."""

    title: str
    plays: str
    strokes: list[Stroke]
    tempo: float
    step: float
    goal: float
    run: int
    says: str
    with_song: bool


class Stages(Answer):
    """tempo: the song's. hardest: the bar and the beat (from 1) that is hardest."""

    version: int
    first: int
    last: int
    order: Order
    tempo: float
    hardest: list[int]
    stages: list[Stage]


class PlayedStroke(BaseModel):
    """time: seconds from the first 1 of the loop, at the tempo it was played at."""

    model_config = ConfigDict(extra="forbid", strict=True)
    time: Annotated[float, Field(ge=-10, le=7200)]
    part: Part
    loudness: Annotated[float, Field(ge=0, le=1)]


class JudgeRequest(BaseModel):
    """share: of the song's tempo at which it was played. latency: seconds by which all comes in
    late. stage: its number in the plan of that order, from 0; null: the whole part."""

    model_config = ConfigDict(extra="forbid", strict=True)
    first: Annotated[int, Field(ge=1, le=100_000)]
    last: Annotated[int, Field(ge=1, le=100_000)]
    order: Order = "computed"
    stage: Annotated[int, Field(ge=0, le=100)] | None = None
    share: Annotated[float, Field(ge=0.2, le=2)] = 1.0
    latency: Annotated[float, Field(ge=-0.5, le=0.5)] = 0.0
    played: Annotated[list[PlayedStroke], Field(max_length=20_000)]


class LimbJudged(Answer):
    offset_ms: float
    spread_ms: float
    missed: float
    extra: float
    level_db: float
    strokes: int


class Judged(Answer):
    limbs: dict[str, LimbJudged]
    rush_percent: float
    ghosts_db: float | None
    advice: str
