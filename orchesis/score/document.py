"""The score's JSON document by its types: what the API tells, and what is believed of a file."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Any, Literal

from orchesis.document import Document, model_from, must_be, one_of, partial_of
from orchesis.errors import BadScore
from orchesis.score import candidate, kit_sound, on_paper, player, song, stroke
from orchesis.score.kit import KIT

Part, Limb, Dynamic = one_of(KIT), one_of(stroke.LIMBS), one_of(stroke.DYNAMICS)
Ornament, Doubtful = one_of(stroke.ORNAMENTS), one_of(stroke.DOUBTS)

_STROKE = {
    "place": str,
    "part": Part,
    "limb": Limb,
    "dynamic": Dynamic,
    "ornament": Ornament | None,
    "placed_by": one_of(stroke.PLACERS),
    "limb_by": one_of(stroke.CHOOSERS),
    "doubt": Doubtful,
}
Stroke = model_from(stroke.Stroke, "Stroke", **_STROKE)
#: A stroke that has no place on the bars now, and the moment (seconds) it belongs to.
UnplacedStroke = model_from(stroke.Stroke, "UnplacedStroke", **_STROKE, moment=float)


class UnplacedWords(Document):
    """A note, or the words of a cue, that share their bar with others now."""

    id: str
    moment: float
    kind: Literal["note", "cue"]
    text: str


Section = model_from(song.Section, "Section")


CandidateHit = model_from(candidate.CandidateHit, "CandidateHit", part=Part)
KitSound = model_from(kit_sound.KitSound, "KitSound", part=Part, answer=one_of(kit_sound.ANSWERS))


class Cue(Document):
    places: list[str]
    words: str
    pitches: list[int] = []


class FillVerdict(Document):
    """What a person says of a stretch (seconds)."""

    start: float
    end: float
    is_fill: bool


class CoreSpot(Document):
    """bar: of the groove's unit, from 1; 0: each."""

    bar: int
    place: str
    part: str
    ghost: bool
    is_core: bool


class GrooveVerdict(Document):
    label: str
    name: str
    note: str
    length: int
    kind: str
    figures: list[str] | None
    core: list[CoreSpot]


Player = model_from(
    player.Player,
    "Player",
    hand=one_of(player.HANDS),
    school=one_of(player.SCHOOLS),
    plan=list[list[str | float]],
)


OnPaper = model_from(on_paper.OnPaper, "OnPaper")


class Frame(Document):
    """Everything of a score but its strokes and its names."""

    meters: list[str]
    pulse: list[float]
    swing: list[str | float]
    sections: list[Section]
    locked: list[list[float]]
    confirmed: list[int]
    aside: list[UnplacedStroke]
    aside_words: list[UnplacedWords]
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
    perhaps: list[CandidateHit]


#: What an edit changed of a score: strokes, written and perhaps, by id (null: gone), and other
#: keys whole.
Patch = partial_of(
    Frame, "Patch", strokes=dict[str, Stroke | None], perhaps=dict[str, CandidateHit | None]
)


_MOST_BARS = 20_000


def read(document: Any, what: str) -> song.Score:
    """The score of a document from outside: every value of its kind, every bar within the song.

    what: the document's name, for the sentence. Raises BadScore with the place of what is wrong.
    """
    if not isinstance(document, dict):
        raise BadScore(f"{what} is no score.")
    score = song.Score.from_json(document)
    must_hold(score, what)
    return score


def must_hold(score: song.Score, what: str) -> None:
    """Raises BadScore where a value of a score is of another kind than it should be, or a bar
    outside of it. what: the name of its document."""
    # As it is read, so that documents of earlier versions, which lack some of it, are whole.
    fields = score.to_json()
    must_be(Score, {k: v for k, v in fields.items() if k != "evidence"}, what)
    last = score.bar_count
    named = (
        *((s.first_bar, s.bars) for s in score.sections),
        *((b, 1) for b in score.confirmed),
        *((b, 1) for b in (*score.notes, *score.cues)),
        *((s.bar, 1) for s in score.strokes.values()),
    )
    if any(not (1 <= first <= last and 1 <= bars <= last) for first, bars in named):
        raise BadScore(f"{what} names bars that the song has not; it has {last}.")
