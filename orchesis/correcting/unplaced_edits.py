"""Edits of what has no place on the bars since the pulse was corrected: put back, or dropped."""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar, Literal

from orchesis.correcting.stroke_edits import put_at
from orchesis.errors import BadEdit
from orchesis.score import Cue, Score, UnplacedWords
from orchesis.score.edit import Bar, Edit, Id, Place, must_have_bar


class PutBack(Edit):
    """id, bar, place: a stroke that was set aside returns to a place."""

    words: ClassVar[str] = "stroke put back"
    operation: Literal["put_back"] = "put_back"
    id: Id
    bar: Bar
    place: Place

    def apply(self, score: Score) -> Score:
        stroke = next((a.stroke for a in score.aside if a.stroke.id == self.id), None)
        if stroke is None:
            raise BadEdit("That stroke is not set aside.")
        rest = tuple(a for a in score.aside if a.stroke.id != self.id)
        return put_at(replace(score, aside=rest), stroke, self.bar, self.place)


class DropAside(Edit):
    """id: a stroke that was set aside is given up."""

    words: ClassVar[str] = "stroke given up"
    operation: Literal["drop_aside"] = "drop_aside"
    id: Id

    def apply(self, score: Score) -> Score:
        rest = tuple(a for a in score.aside if a.stroke.id != self.id)
        if len(rest) == len(score.aside):
            raise BadEdit("That stroke is not set aside.")
        return replace(score, aside=rest)


class PutBackWords(Edit):
    """A note, or the words of a cue, that were set aside join those of a bar."""

    words: ClassVar[str] = "words put back"
    operation: Literal["put_back_words"] = "put_back_words"
    id: Id
    bar: Bar

    def apply(self, score: Score) -> Score:
        must_have_bar(score, self.bar)
        words = _words_aside(score, self.id)
        rest = replace(score, aside_words=tuple(w for w in score.aside_words if w != words))
        if words.kind == "note":
            text = "; ".join(t for t in (score.notes.get(self.bar), words.text) if t)
            return replace(rest, notes={**score.notes, self.bar: text})
        cue = score.cues.get(self.bar, Cue())
        text = "; ".join(t for t in (cue.words, words.text) if t)
        return replace(rest, cues={**score.cues, self.bar: replace(cue, words=text)})


class DropAsideWords(Edit):
    """Words that were set aside are given up."""

    words: ClassVar[str] = "words given up"
    operation: Literal["drop_aside_words"] = "drop_aside_words"
    id: Id

    def apply(self, score: Score) -> Score:
        words = _words_aside(score, self.id)
        return replace(score, aside_words=tuple(w for w in score.aside_words if w != words))


def _words_aside(score: Score, wanted: str) -> UnplacedWords:
    words = next((w for w in score.aside_words if w.id == wanted), None)
    if words is None:
        raise BadEdit("Those words are not set aside.")
    return words
