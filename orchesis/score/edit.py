"""What an edit is: a typed command that turns one score into another.

Each kind is one class: its fields and their bounds, how it is told, and what it does. From
these come validation, the API's shape and the page's types. An edit is a pure function of the
score; what it changed, and how to take it back, is told by ``orchesis.score.patches``.
"""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from fractions import Fraction
from typing import Annotated, Any, ClassVar, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    InstanceOf,
    PlainSerializer,
    ValidationError,
    WithJsonSchema,
)

from orchesis.errors import BadEdit, BadScore, MalformedEdit
from orchesis.score.kit import KIT, part
from orchesis.score.section import SOUND_KEYS, Section
from orchesis.score.signs import SIGNS
from orchesis.score.song import Score
from orchesis.score.untrusted import read_place, shown, unprintable


class Edit(BaseModel, ABC):
    """One edit. words: what was done, in a few words, where it can be taken back."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, allow_inf_nan=False)
    words: ClassVar[str]
    #: Told apart by this name; every kind fixes it.
    operation: str

    @abstractmethod
    def apply(self, score: Score) -> Score:
        """The new score; BadEdit in one sentence where the edit does not fit this one."""


def _place(text: Any) -> Fraction:
    if isinstance(text, Fraction):
        return text
    try:
        return read_place(text)
    except BadScore as problem:
        raise ValueError(str(problem)) from None


def _checked(text: str) -> str:
    if sign := unprintable(text):
        raise ValueError(f"That holds a sign that can't be printed ({sign}); take it out.")
    return text


def printable_text(text: str) -> str:
    return _checked(text).strip()


def _part(name: str) -> str:
    try:
        return part(name).name
    except BadScore as problem:
        raise ValueError(str(problem)) from None


#: Name of a stroke or a section, or the stem of new ones.
Id = Annotated[str, Field(min_length=1, max_length=60), AfterValidator(printable_text)]
Bar = Annotated[int, Field(ge=1, le=100_000)]
Beat = Annotated[int, Field(ge=1, le=32)]
#: Felt beats from the bar's start, written as a fraction: “3/4”.
Place = Annotated[
    InstanceOf[Fraction],
    BeforeValidator(_place),
    PlainSerializer(str),
    WithJsonSchema({"type": "string", "description": "felt beats from the bar's start, like 3/4"}),
]
Seconds = Annotated[float, Field(ge=-86_400, le=86_400)]
Share = Annotated[float, Field(ge=0, le=1)]
Part = Annotated[str, AfterValidator(_part), WithJsonSchema({"type": "string", "enum": list(KIT)})]
LimbName = Literal["RH", "LH", "RF", "LF"]
DynamicName = Literal["ghost", "normal", "accent"]
OrnamentName = Literal["flam", "drag", "ruff", "buzz", "diddle", "drop"]
DoubtName = Literal["", "assumed", "doubtful", "left_out", "layer"]
SoundKey = Annotated[
    str,
    AfterValidator(lambda key: _sound_key(key)),
    WithJsonSchema({"type": "string", "enum": list(SOUND_KEYS)}),
]
SignName = Annotated[
    str,
    AfterValidator(lambda name: _sign(name)),
    WithJsonSchema({"type": "string", "enum": list(SIGNS)}),
]
Note = Annotated[str, Field(max_length=400), AfterValidator(printable_text)]
Reason = Annotated[str, Field(max_length=120), AfterValidator(printable_text)]
#: Count text: some lanes of it.
Text = Annotated[str, Field(max_length=50_000), AfterValidator(_checked)]


def _sign(name: str) -> str:
    if name not in SIGNS:
        raise ValueError(f"There is no sign “{shown(name)}”; there are {', '.join(SIGNS)}.")
    return name


def _sound_key(key: str) -> str:
    if key not in SOUND_KEYS:
        raise ValueError(f"“{shown(key)}” is no sound note; there are {', '.join(SOUND_KEYS)}.")
    return key


def malformed(problem: ValidationError, what: str = "edit") -> MalformedEdit:
    """The first thing that is wrong with an edit, or with something else, in one sentence."""
    error = problem.errors(include_url=False)[0]
    field = next((str(p) for p in reversed(error["loc"]) if isinstance(p, str)), what)
    kind, value = error["type"], error.get("input")
    if kind == "missing":
        return MalformedEdit(f"The {what} needs “{field}”.")
    if kind == "extra_forbidden":
        return MalformedEdit(f"The {what} has no “{shown(field)}”.")
    if kind in ("union_tag_invalid", "union_tag_not_found"):
        tag = error.get("ctx", {}).get("tag", "")
        return MalformedEdit(f"There is no edit called “{shown(tag)}”.")
    if kind == "string_unicode" and isinstance(value, str):
        sign = unprintable(value)
        return MalformedEdit(f"That holds a sign that can't be printed ({sign}); take it out.")
    if kind == "value_error":
        return MalformedEdit(str(error["ctx"]["error"]))
    says = _SUBJECT.sub("it", error["msg"]).replace(" after validation", "")
    return MalformedEdit(f"“{shown(value)}” can't be the “{shown(field)}” of the {what}: {says}.")


_SUBJECT = re.compile(r"^(Input|String|List|Value)")
# -- what many edits look up


def section_of(score: Score, wanted: str) -> Section:
    """The section of that id; BadEdit where it is gone."""
    section = next((s for s in score.sections if s.id == wanted), None)
    if section is None:
        raise BadEdit("That section is no longer there; somebody removed it meanwhile.")
    return section


def must_have_bar(score: Score, bar: int) -> None:
    """BadEdit where the song has no such bar."""
    if not 1 <= bar <= score.bar_count:
        raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")


def must_hold(score: Score, bar: int, place: Fraction) -> None:
    """BadEdit where a place lies outside of its bar, or the bar outside of the song."""
    must_have_bar(score, bar)
    if not 0 <= place < score.meters[bar - 1].beats:
        raise BadEdit(f"The place {place} lies outside bar {bar} ({score.meters[bar - 1]}).")
