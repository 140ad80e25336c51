"""What the API takes and gives of what the strokes mean: grooves, fills, feel, search, evidence."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from config.answers import Answer, model_from
from pydantic import AfterValidator, BaseModel, Field

from orchesis.checks import kit_sounds
from orchesis.score import feel
from orchesis.score.document import Stroke
from orchesis.score.edit import printable_text

Words = Annotated[str, Field(max_length=300), AfterValidator(printable_text)]


class KeepRequest(BaseModel):
    """fill: its number in the song's list, from 0."""

    song: Annotated[int, Field(ge=0, le=2**31)]
    fill: Annotated[int, Field(ge=0, le=2**31)]
    note: Words = ""


class NoteRequest(BaseModel):
    note: Words


class Option(Answer):
    """bar: of the unit, from 1; 0: in any of its bars."""

    bar: int
    place: str
    part: str
    limb: str
    dynamic: str
    share: float
    bars: list[int]
    of: int
    sure: float
    heard: int
    where: str
    goes: str


class Phrase(Answer):
    bar: int
    bars: list[int]
    share: float
    says: str


class BassNote(Answer):
    """pitch: a MIDI key."""

    bar: int
    place: str
    pitch: int


class CueText(Answer):
    bar: int
    text: str


class KickAndBass(Answer):
    """cues: the bass's rhythm, bar by bar, as the text of a cue lane."""

    version: int
    notes: list[BassNote]
    together: int
    of_bass: int
    of_kick: int
    says: list[str]
    cues: list[CueText]


class PlaceRef(Answer):
    bar: int
    place: str


class Cell(Answer):
    bar: int
    place: str
    strokes: int
    steps: int
    grid: str
    beat_steps: int
    by: str
    figure: list[str]
    crosses: bool
    turns: int
    of: str = "all"
    starts: list[PlaceRef]


class Groove(Answer):
    section: str
    first_bar: int
    bars: int
    length: int
    threshold: float
    kind: str
    says: str
    typical: int
    fullest: int
    thinned: float
    relation: str
    to: int | None
    once: list[str]
    fills: list[int]
    unexplained: list[int]
    difference: list[str]
    never: list[str]
    related: list[str]
    figures: list[str]
    name: str
    said: list[str]
    learn: str
    returns: list[str]
    core: list[Stroke]
    options: list[Option]
    phrases: list[Phrase]
    feet: list[Phrase]
    cells: list[Cell]
    across: list[str]
    rules: list[str]
    unsure: list[Option]
    note: str


class Passage(Answer):
    """Some bars that stand for others. covers: what it tells that none before it does; share: of
    the bars that are played."""

    bar: int
    bars: int
    covers: list[int]
    share: float
    says: str


class GrooveBook(Answer):
    """passages: those that tell the song, the one that tells most first."""

    version: int
    threshold: float
    grooves: list[Groove]
    passages: list[Passage]


class Elsewhere(Answer):
    """Another song of the shelf that plays the kick and snare of a groove, and its first bar there.

    groove: its number in the groove book, from 0."""

    groove: int
    song: int
    title: str
    bar: int
    bars: int


class ElsewhereList(Answer):
    version: int
    elsewhere: list[Elsewhere]


Sound = model_from(kit_sounds.Sound, "Sound", says=str)


class Sounds(Answer):
    version: int
    sounds: list[Sound]


class TallyCount(Answer):
    take: str
    count: int
    of: int


class Tally(Answer):
    section: str
    part: str
    place: str
    ghost: bool
    bars: list[int]
    here: int
    of: int
    says: str
    there: list[TallyCount]


class Evidence(Answer):
    version: int
    takes: list[str]
    tallies: list[Tally]


class Path(Answer):
    part: str
    strokes: int


class Like(Answer):
    fill: int
    how: Literal["same", "near", "rhythm"]


class ToldFill(Answer):
    bar: int
    place: str
    last_bar: int
    end_place: str
    start: float
    end: float
    strokes: list[str]
    beats: float
    subdivisions: list[str]
    cells: list[Cell]
    path: list[Path]
    linear: bool
    accents: int
    ornaments: list[str]
    rudiments: list[str]
    starts: str
    resolves: str
    difficulty: float
    like: list[Like]
    marked: bool = False
    hard_by: str = ""


class DeniedFill(Answer):
    """A stretch of which a person says that it is no fill."""

    bar: int
    place: str
    last_bar: int
    end_place: str
    start: float
    end: float


class FillList(Answer):
    version: int
    fills: list[ToldFill]
    denied: list[DeniedFill]


class KeptDocument(Answer):
    fill: ToldFill
    strokes: list[Stroke]
    meters: list[str]


class KeptFill(Answer):
    """song: null when it has left the shelf."""

    id: int
    song: int | None
    title: str
    bar: int
    tempo: float
    note: str
    document: KeptDocument
    created: datetime


class KeptFills(Answer):
    fills: list[KeptFill]


SectionFeel = model_from(feel.Feel, "SectionFeel", says=list[str])


class Feel(Answer):
    """feels: of the whole song first, then of its sections. shifts: seconds by which the song's
    feel moves each stroke."""

    version: int
    feels: list[SectionFeel]
    shifts: dict[str, float]


class Match(Answer):
    song: int
    title: str
    bar: int
    place: str
    start: float
    how: Literal["same", "near", "moved", "faster", "slower"]
    by: str
    likeness: float
    more: int
    less: int


class Matches(Answer):
    version: int
    matches: list[Match]


class Decision(Answer):
    stroke: str
    bars: list[int]
    place: str
    part: str
    doubt: str
    reason: str
    who: str
    when: str
    says: str


class Decisions(Answer):
    version: int
    decisions: list[Decision]
