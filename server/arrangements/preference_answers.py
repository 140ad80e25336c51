"""What the API takes and gives of a person's kit, keys and counting."""

# Types that are made from the core's: a checker of types can't read them.
# mypy: disable-error-code="valid-type"

from __future__ import annotations

from typing import Annotated

from config.answers import Answer, one_of
from pydantic import Field

from orchesis.score import counting
from orchesis.score.document import Player
from orchesis.score.pitch import NOTE_NAMES
from orchesis.score.player import READS

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
