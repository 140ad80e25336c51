"""The analysis file (docs/analysis-file.md) by its types: what is believed of one from outside."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from orchesis.document import must_be
from orchesis.score import part


class _Some(BaseModel):
    """A part of the file of which we read these; files of other versions have more, or less."""

    model_config = ConfigDict(extra="allow")


_Share = Annotated[float, Field(ge=0, le=1)]
_Seconds = Annotated[float, Field(ge=-86_400, le=86_400)]
_Whole = Annotated[int, Field(ge=0, le=1_000_000)]
_Pair = Annotated[list[float], Field(min_length=2, max_length=2)]


class _Audio(_Some):
    duration: _Seconds
    sample_rate: _Whole


class _Tempo(_Some):
    bpm: Annotated[float, Field(gt=0, le=2000)]
    low: float
    high: float
    steady: bool
    confidence: float
    alternatives: list[float] = []


class _Meter(_Some):
    bar: _Whole
    beats: _Whole
    unit: _Whole


class _Beat(_Some):
    time: _Seconds
    bar: _Whole
    beat: _Whole


class _Hit(_Some):
    time: _Seconds
    part: Annotated[str, AfterValidator(lambda name: part(name).name)]
    loudness: float
    confidence: float = 1.0
    state: str = "written"


class _WrittenHit(_Hit):
    loudness: _Share
    confidence: _Share = 1.0
    state: Literal["written", "perhaps"] = "written"
    bar: _Whole = 1
    position: str = "0/1"
    ghost: bool = False
    accent: bool = False
    ornament: str | None = None
    limb: str = "RH"
    level: float | None = None
    openness: float | None = None
    sound: _Whole = 0
    half: _Whole = 0


class _Bar(_Some):
    chroma: list[float] = []


class _Section(_Some):
    label: str
    name: str = ""
    first_bar: _Whole
    bars: _Whole


class _Swing(_Some):
    level: str = "none"
    ratio: float = 0.5


class _Feel(_Some):
    swing: _Swing = _Swing()


class _Sound(_Some):
    sound: _Whole
    part: str
    picture: str
    first_half: str
    second_half: str


class _File(_Some):
    """What is read of an analysis file after its song is on a shelf."""

    audio: _Audio | None = None
    tempo: _Tempo | None = None
    meter: list[_Meter] = []
    beats: list[_Beat] = []
    hits: list[_Hit] = []
    levels: list[_Pair] = []
    bars: list[_Bar] = []


class _ScoreFile(_File):
    """What a score is made of."""

    hits: list[_WrittenHit] = []  # type: ignore[assignment]
    sections: list[_Section] = []
    feel: _Feel = _Feel()
    ones: list[_Pair] = []
    sounding: _Pair | None = None
    evidence: list[dict[str, str]] = []
    sounds: list[_Sound] = []
    title: str = ""
    artist: str = ""


def must_be_score(data: Any, what: str) -> None:
    """Raises BadScore, as must_be_analysis, where no score can be made of an analysis."""
    must_be(_ScoreFile, data, what)


def must_be_analysis(data: Any, what: str) -> None:
    """Raises BadScore, with the place of the first wrong value, where a document is none that we
    can go by. what: its name, for the sentence."""
    must_be(_File, data, what)
