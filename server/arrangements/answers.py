"""What the API takes and gives of a transcription, made from the core's data types."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated, Literal

from config.answers import Answer
from pydantic import BaseModel, ConfigDict, Field

from orchesis.editing import AnyEdit
from orchesis.form import SectionFacts
from orchesis.score.document import Doubtful, Dynamic, Limb, Ornament, Part, Patch, Score, Stroke

# -- what is asked


class StepRequest(BaseModel):
    """base: the version the page shows; key: its own name for what it sends, done once."""

    model_config = ConfigDict(extra="ignore", strict=True)
    base: Annotated[int, Field(ge=0, le=2**31)]
    key: Annotated[str, Field(max_length=40)] = ""


class EditRequest(StepRequest):
    """over: also where somebody else changed the same thing since ``base``."""

    over: bool = False
    edit: AnyEdit


# -- the song at a glance


class Tempo(Answer):
    bpm: float
    low: float
    high: float
    steady: bool
    confidence: float
    alternatives: list[float]


class FormEvent(Answer):
    bar: int
    kind: str
    says: str


class Form(Answer):
    """confidence: of the pulse, a value a bar. disagree: confirmed bars whose strokes lie
    elsewhere. states: a value a bar."""

    sections: list[SectionFacts]
    events: list[FormEvent]
    confidence: list[float]
    disagree: list[int]
    states: list[Literal["heard", "review", "confirmed"]]


class Fill(Answer):
    bar: int
    start: float
    end: float


class Hit(Answer):
    time: float
    part: str
    loudness: float
    confidence: float


class Glance(Answer):
    """What follows from a score. undoes, redoes: what the user's next undo takes back and the
    next redo brings again, in words; empty: nothing."""

    version: int
    tempo: Tempo
    fills: list[Fill]
    form: Form
    undoes: str
    redoes: str


class Transcription(Glance):
    """arrangement: its name. hits: what was heard, whatever became of it."""

    take: int
    arrangement: str
    duration: float
    score: Score
    hits: list[Hit]


class OfferedStroke(Answer):
    """What a change carries of a stroke to another bar."""

    id: str
    part: Part
    place: str
    limb: Limb
    dynamic: Dynamic
    loudness: float
    ornament: Ornament | None
    choked: bool
    doubt: Doubtful
    reason: str


class OfferedChange(Answer):
    was: OfferedStroke | None
    now: OfferedStroke | None


class Offer(Answer):
    """An edit that would fit other bars too; see orchesis/checks/alike.py."""

    bar: int
    bars: list[int]
    changes: list[OfferedChange]
    says: str


class EditResult(Glance):
    """patches: what leads from ``base`` to ``version``."""

    patches: list[Patch]
    alike: Offer | None


# -- the Bench


class Difference(Answer):
    kind: str
    a: str | None
    b: str | None
    says: str


class Comparison(Answer):
    """The bar asked for (b), what it is compared with (a), and what leads from a to b."""

    a: list[Stroke]
    b: list[Stroke]
    differences: list[Difference]
    says: list[str]


class Doubt(Answer):
    """sound: the number of the sound that is asked about; examples: moments (seconds) of it."""

    key: str
    kind: Literal["sound", "unsure", "marked", "missing", "perhaps", "echo", "hands"]
    part: Part
    place: str
    limb: Limb
    bars: list[int]
    strokes: list[str]
    perhaps: list[str]
    weight: float
    sound: int | None
    examples: list[float]
    can_split: bool
    says: str


class Review(Answer):
    version: int
    minutes: float
    doubts: list[Doubt]


class CountText(Answer):
    version: int
    text: str
