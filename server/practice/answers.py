"""What the API takes and gives of practising."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated

from config.answers import Answer, chosen, one_of
from pydantic import BaseModel, ConfigDict, Field

from orchesis.score.document import Part, Stroke
from orchesis.teaching import ladder, limits, stages

Order = one_of(stages.SCHOOLS)
HearingRule = one_of(tuple(limits.RULES))


class Rung(Answer):
    """Where a player stands on a ladder. clean: relaxed loops in a row."""

    tempo: float
    clean: int
    is_learned: bool


class Clip(Answer):
    """kind: what it is served as, "video/webm" or the like."""

    id: int
    name: str
    kind: str


class Stage(Answer):
    """strokes: of the stage, on the song's own bars. words: of the teacher. rungs: beats a minute
    of its ladder; run: clean loops before a step. with_song: the recording can be played along
    with. checks: what was done beside it and it ran all the same; climb: days ago and beats a
    minute of each loop; days_left: to the top, at that pace (none of these for whoever has no
    account). first_beat, beats: what of the bars goes round, in beats from their start."""

    title: str
    plays: str
    strokes: list[Stroke]
    rungs: list[float]
    run: int
    rung: Rung
    says: str
    words: str
    with_song: bool
    checks: list[str]
    climb: list[list[float]]
    days_left: float | None
    clips: list[Clip]
    first_beat: int
    beats: int


class StageStaff(Answer):
    """The notes of a stage, engraved: one SVG."""

    svg: str


class Stages(Answer):
    """tempo: the song's. period: seconds of a beat of the stages at that tempo. hardest: the bar
    and the beat (from 1) that is hardest. why: there is only one stage; empty where there are
    more."""

    version: int
    first: int
    last: int
    order: Order
    tempo: float
    period: float
    hardest: list[int]
    recurs: list[str]
    dropped: list[str]
    stages: list[Stage]
    why: str


class StageNote(BaseModel):
    """A stage of the plan, in its place, with the teacher's words."""

    model_config = ConfigDict(extra="forbid", strict=True)
    title: Annotated[str, Field(max_length=200)]
    words: Annotated[str, Field(max_length=1000)] = ""


class StagesRequest(BaseModel):
    """What a teacher makes of a plan. stages: in the order wished; dropped: titles that are left
    out."""

    model_config = ConfigDict(extra="forbid", strict=True)
    first: Annotated[int, Field(ge=1, le=100_000)]
    last: Annotated[int, Field(ge=1, le=100_000)]
    order: Order = "computed"
    stages: Annotated[list[StageNote], Field(max_length=60)]
    dropped: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=60)] = []


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


Judgement = one_of(tuple(ladder.JUDGED))


class LoopRequest(BaseModel):
    """Loops of a stage (its number, from 0) that were judged. seconds: how long was played;
    tempo: beats a minute. beside: what was done beside
    it, at the top of the ladder."""

    model_config = ConfigDict(extra="forbid", strict=True)
    first: Annotated[int, Field(ge=1, le=100_000)]
    last: Annotated[int, Field(ge=1, le=100_000)]
    order: Order = "computed"
    stage: Annotated[int, Field(ge=0, le=100)]
    judgement: chosen(ladder.JUDGED)
    seconds: Annotated[float, Field(ge=0, le=3600)]
    tempo: Annotated[float, Field(ge=10, le=400)]
    note: Annotated[str, Field(max_length=400)] = ""
    beside: chosen(("", *ladder.CHECKS)) = ""


class LoopLogged(Answer):
    """rung: where the ladder stands now. says: what is worth a calm word."""

    rung: Rung
    says: list[str]


class Today(Answer):
    minutes: float
    loops: int
    ears_minutes_left: int
    says: list[str]


class Day(Answer):
    day: str
    minutes: float


class PractisedPassage(Answer):
    """days: since it was played last. is_back: it was learned, and is due again. due_in: days
    until the song is needed."""

    song: int
    arrangement: int
    title: str
    first: int
    last: int
    order: Order
    learned: int
    stages: int
    tempo: float
    days: float
    is_back: bool
    due_in: int | None


class PracticeLimits(Answer):
    """level: dB(A) at the ear; protection: dB that it takes away; minutes: a day's goal."""

    level: float
    protection: float
    rule: HearingRule
    minutes: int


class PracticeLog(Answer):
    today: Today
    days: list[Day]
    passages: list[PractisedPassage]
    care: PracticeLimits


class CareRequest(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)
    level: Annotated[float, Field(ge=40, le=130)]
    protection: Annotated[float, Field(ge=0, le=45)]
    rule: chosen(limits.RULES)
    minutes: Annotated[int, Field(ge=5, le=240)]


class PlanBlock(Answer):
    """kind: warm-up, returns, weak spot, stage, run through or break; song and the others: where
    it is, null
    where it is nowhere."""

    kind: str
    minutes: float
    says: str
    song: int | None
    arrangement: int | None
    first: int | None
    last: int | None
    order: str | None


class PracticePlan(Answer):
    blocks: list[PlanBlock]


class QuestionOption(Answer):
    says: str
    bar: int


class Question(Answer):
    """start, end: seconds of the recording that are played. options: words, or bars to show.
    answer: number of
    the right one. level: at which it was asked. clicks: seconds at which it clicks, where the 1
    is asked for."""

    kind: str
    asks: str
    start: float
    end: float
    clicks: list[float]
    options: list[QuestionOption]
    answer: int
    because: str
    level: int


class LimbHabits(BaseModel):
    """A simulated player's limb. late, spread: ms; missed, extra: shares of its strokes."""

    model_config = ConfigDict(extra="forbid")
    late: Annotated[float, Field(ge=-80, le=80)] = 0.0
    spread: Annotated[float, Field(ge=0, le=60)] = 3.0
    missed: Annotated[float, Field(ge=0, le=1)] = 0.0
    extra: Annotated[float, Field(ge=0, le=1)] = 0.0


class SimulateRequest(BaseModel):
    """The stage as a simulated player plays it, looped. limbs: habits by limb. ghosts: dB by
    which ghosts come
    out too loud; rush: percent by which it runs away."""

    model_config = ConfigDict(extra="forbid")
    first: Annotated[int, Field(ge=1, le=100_000)]
    last: Annotated[int, Field(ge=1, le=100_000)]
    order: Order = "computed"
    stage: Annotated[int, Field(ge=0, le=100)]
    share: Annotated[float, Field(ge=0.2, le=2)] = 1.0
    loops: Annotated[int, Field(ge=1, le=64)] = 8
    limbs: dict[str, LimbHabits] = {}
    ghosts: Annotated[float, Field(ge=-12, le=18)] = 0.0
    rush: Annotated[float, Field(ge=-4, le=4)] = 0.0


class Simulated(Answer):
    played: list[PlayedStroke]


class LimbJudged(Answer):
    offset_ms: float
    spread_ms: float
    missed: float
    extra: float
    level_db: float
    strokes: int


class StrokeJudged(Answer):
    """An expected stroke over all loops, on the song's own bars."""

    bar: int
    place: str
    limb: str
    offsets_ms: list[float]
    missed: int


class Judged(Answer):
    """judgement: what the ladder makes of it. tempo: of a recording, in a sentence, else empty."""

    limbs: dict[str, LimbJudged]
    rush_percent: float
    ghosts_db: float | None
    advice: str
    judgement: Judgement
    strokes: list[StrokeJudged]
    tempo: str
