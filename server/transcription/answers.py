"""What the API takes and gives of a transcription, made from the core's data types."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated, Literal

from config.answers import Answer, made_of, one_of, partly
from pydantic import BaseModel, ConfigDict, Field

from orchesis.editing import AnyEdit
from orchesis.meaning.form import SectionFacts
from orchesis.score import kit_sound, on_paper, perhaps, player, song, stroke
from orchesis.score.kit import KIT

Part, Limb, Dynamic = one_of(KIT), one_of(stroke.LIMBS), one_of(stroke.DYNAMICS)
Ornament, Doubtful = one_of(stroke.ORNAMENTS), one_of(stroke.DOUBTS)

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


# -- the score

_STROKE = {
    "place": str, "part": Part, "limb": Limb, "dynamic": Dynamic, "ornament": Ornament | None,
    "placed_by": one_of(stroke.PLACERS), "limb_by": one_of(stroke.CHOOSERS), "doubt": Doubtful,
}  # fmt: skip
Stroke = made_of(stroke.Stroke, "Stroke", **_STROKE)
#: A stroke that has no place on the bars now, and the moment (seconds) it belongs to.
Aside = made_of(stroke.Stroke, "Aside", **_STROKE, moment=float)


class AsideWords(Answer):
    """A note, or the words of a cue, that share their bar with others now."""

    id: str
    moment: float
    kind: Literal["note", "cue"]
    text: str


Section = made_of(song.Section, "Section")


Perhaps = made_of(perhaps.Perhaps, "Perhaps", part=Part)
KitSound = made_of(kit_sound.KitSound, "KitSound", part=Part, answer=one_of(kit_sound.ANSWERS))


class Cue(Answer):
    places: list[str]
    words: str
    pitches: list[int] = []


class FillVerdict(Answer):
    """What a person says of a stretch (seconds)."""

    start: float
    end: float
    is_fill: bool


class CoreSpot(Answer):
    """bar: of the groove's unit, from 1; 0: each."""

    bar: int
    place: str
    part: str
    ghost: bool
    is_core: bool


class GrooveVerdict(Answer):
    label: str
    name: str
    note: str
    length: int
    kind: str
    figures: list[str] | None
    core: list[CoreSpot]


Player = made_of(
    player.Player, "Player", hand=one_of(player.HANDS), school=one_of(player.SCHOOLS),
    plan=list[list[str | float]],
)  # fmt: skip


OnPaper = made_of(on_paper.OnPaper, "OnPaper")


class Frame(Answer):
    """Everything of a score but its strokes and its names."""

    meters: list[str]
    pulse: list[float]
    swing: list[str | float]
    sections: list[Section]
    locked: list[list[float]]
    confirmed: list[int]
    aside: list[Aside]
    aside_words: list[AsideWords]
    notes: dict[str, str]
    sound: dict[str, str]
    notation: str
    settled: list[str]
    cues: dict[str, Cue]
    sounds: list[KitSound]
    fill_verdicts: list[FillVerdict]
    groove_verdicts: list[GrooveVerdict]
    swing_is_said: bool
    player: Player
    breaks: list[list[float | str]]
    how_to: dict[str, str]
    on_paper: dict[str, OnPaper]
    spoken: list[list[float | str]]


class Score(Frame):
    title: str
    artist: str
    ones: list[list[float]]
    sounding: list[float] | None
    strokes: list[Stroke]
    perhaps: list[Perhaps]


#: What an edit changed of a score: strokes, written and perhaps, by id (null: gone), and other
#: keys whole.
Patch = partly(Frame, "Patch", strokes=dict[str, Stroke | None], perhaps=dict[str, Perhaps | None])

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
    """An edit that would fit other bars too; see orchesis/meaning/alike.py."""

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


class ChartFile(Answer):
    """lost: what the format can't hold of this song."""

    ending: str
    name: str
    lost: list[str]


class LegendSign(Answer):
    """A sign of the pages and how the legend says it is played where its writer says nothing."""

    sign: str
    says: str


class SheetItem(Answer):
    """Something that stands on the pages, or was left out by hand. item: its key. words: the
    transcriber's, beside it."""

    item: str
    name: str
    shown: bool
    words: str


class Stretch(Answer):
    """A section, or a groove where it is most like itself. first, last: its bars."""

    name: str
    first: int
    last: int


class Chart(Answer):
    """signs: that occur on the pages. items: what may be left out there or said words on.
    stretches: what a limb chart may hold instead of the whole song. decisions: what was decided of
    single strokes, in words. bars: seconds of each written bar, and of the end. files: formats that
    it can be taken as, beside PDF."""

    version: int
    decisions: list[str]
    pages: list[str]
    signs: list[LegendSign]
    items: list[SheetItem]
    stretches: list[Stretch]
    bars: list[float]
    notation: str
    notations: list[str]
    files: list[ChartFile]
    breaks: dict[str, str]
