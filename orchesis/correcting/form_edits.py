"""Edits of the form: sections, their borders, names, links, and words on them."""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import count
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from orchesis.errors import BadEdit, BadScore
from orchesis.score.edit import (
    Bar,
    Edit,
    Id,
    Note,
    Reason,
    SignName,
    SoundKey,
    must_have_bar,
    section_of,
)
from orchesis.score.notation import in_notation
from orchesis.score.on_paper import ITEM, USUAL, OnPaper
from orchesis.score.rhythm_text import spoken
from orchesis.score.section import Section
from orchesis.score.song import Score


def _with_sections(score: Score, sections: list[Section]) -> Score:
    return replace(score, sections=tuple(sections))


def changed_section(score: Score, section: Section, **fields: object) -> Score:
    return _with_sections(
        score,
        [replace(s, **fields) if s.id == section.id else s for s in score.sections],  # type: ignore[arg-type]
    )


def _new_label(score: Score) -> str:
    taken = {s.label for s in score.sections}
    letters = (chr(65 + k % 26) * (1 + k // 26) for k in range(26 * (len(taken) + 1)))
    return next(x for x in letters if x not in taken)


class RenameSection(Edit):
    """A name of 1 to 60 letters; all sections of the same music that bore the same name go with it,
    numbered where there are several."""

    words: ClassVar[str] = "section renamed"
    operation: Literal["rename_section"] = "rename_section"
    id: Id
    name: Annotated[Note, Field(max_length=60)]

    def apply(self, score: Score) -> Score:
        section = section_of(score, self.id)
        if not self.name:
            raise BadEdit("A section's name has 1 to 60 letters.")
        old, new = _NUMBER.sub("", section.name), _NUMBER.sub("", self.name) or self.name
        alike = [
            s for s in score.sections if s.label == section.label and _NUMBER.sub("", s.name) == old
        ]
        if len(alike) == 1:
            return changed_section(score, section, name=self.name)
        taken = {s.name for s in score.sections if s not in alike}
        numbered = (f"{new} {n}" for n in count(1))
        free = (name for name in numbered if name not in taken)
        names = {s.id: next(free) for s in alike}
        return replace(
            score,
            sections=tuple(replace(s, name=names.get(s.id, s.name)) for s in score.sections),
        )


#: The number behind a section's name.
_NUMBER = re.compile(r"\s+\d+$")


class MoveBorder(Edit):
    """The section begins with another bar; the one before it ends there."""

    words: ClassVar[str] = "border moved"
    operation: Literal["move_border"] = "move_border"
    id: Id
    first_bar: Bar

    def apply(self, score: Score) -> Score:
        section, first = section_of(score, self.id), self.first_bar
        index = score.sections.index(section)
        if index == 0:
            raise BadEdit("The first section begins with the song; its border can't be moved.")
        before = score.sections[index - 1]
        if not before.first_bar < first <= section.last_bar:
            raise BadEdit(
                f"The border of “{section.name}” must lie between bar {before.first_bar + 1} "
                f"and bar {section.last_bar}."
            )
        sections = list(score.sections)
        sections[index - 1] = replace(before, bars=first - before.first_bar)
        sections[index] = replace(section, first_bar=first, bars=section.last_bar - first + 1)
        return _with_sections(score, sections)


class SplitSection(Edit):
    """A new section begins with a bar, with a label of its own. new: its id."""

    words: ClassVar[str] = "section split"
    operation: Literal["split_section"] = "split_section"
    id: Id
    bar: Bar
    new: Id

    def apply(self, score: Score) -> Score:
        section, bar = section_of(score, self.id), self.bar
        if not section.first_bar < bar <= section.last_bar:
            raise BadEdit(
                f"“{section.name}” can be split from bar {section.first_bar + 1} "
                f"to bar {section.last_bar}."
            )
        if any(s.id == self.new for s in score.sections):
            raise BadEdit("That section has been split already.")
        at = score.sections.index(section)
        sections = list(score.sections)
        sections[at] = replace(section, bars=bar - section.first_bar)
        label = _new_label(score)
        sections.insert(at + 1, Section(self.new, label, label, bar, section.last_bar - bar + 1))
        return _with_sections(score, sections)


class MergeSection(Edit):
    """The section becomes part of the one before it."""

    words: ClassVar[str] = "sections joined"
    operation: Literal["merge_section"] = "merge_section"
    id: Id

    def apply(self, score: Score) -> Score:
        section = section_of(score, self.id)
        at = score.sections.index(section)
        if at == 0:
            raise BadEdit("The first section has none before it to be merged with.")
        before = score.sections[at - 1]
        note = "; ".join(n for n in (before.note, section.note) if n)
        sections = list(score.sections)
        sections[at - 1 : at + 1] = [replace(before, bars=before.bars + section.bars, note=note)]
        return _with_sections(score, sections)


class LinkSection(Edit):
    """The section is the same music as another one. like: the id of that one."""

    words: ClassVar[str] = "section linked"
    operation: Literal["link_section"] = "link_section"
    id: Id
    like: Id

    def apply(self, score: Score) -> Score:
        section, like = section_of(score, self.id), section_of(score, self.like)
        if section.id == like.id:
            raise BadEdit("A section is always the same as itself; choose another one.")
        return changed_section(score, section, label=like.label)


class UnlinkSection(Edit):
    """The section is music of its own from now on."""

    words: ClassVar[str] = "section unlinked"
    operation: Literal["unlink_section"] = "unlink_section"
    id: Id

    def apply(self, score: Score) -> Score:
        section = section_of(score, self.id)
        if sum(s.label == section.label for s in score.sections) == 1:
            raise BadEdit(f"“{section.name}” is linked to no other section.")
        label = _new_label(score)
        verdicts = [
            replace(v, label=label) for v in score.groove_verdicts if v.label == section.label
        ]
        unlinked = changed_section(score, section, label=label)
        return replace(unlinked, groove_verdicts=(*unlinked.groove_verdicts, *verdicts))


class NoteSection(Edit):
    """Words on a section; empty: none."""

    words: ClassVar[str] = "note on a section"
    operation: Literal["note_section"] = "note_section"
    id: Id
    note: Note

    def apply(self, score: Score) -> Score:
        return changed_section(score, section_of(score, self.id), note=self.note)


class NoteBar(Edit):
    """Words on a bar; empty: none."""

    words: ClassVar[str] = "note"
    operation: Literal["note_bar"] = "note_bar"
    bar: Bar
    note: Note

    def apply(self, score: Score) -> Score:
        must_have_bar(score, self.bar)
        notes = {**score.notes, self.bar: self.note}
        return replace(score, notes={b: n for b, n in notes.items() if n})


class NoteSound(Edit):
    """Words on the sound of a section (id) or of the song; empty: none."""

    words: ClassVar[str] = "sound note"
    operation: Literal["note_sound"] = "note_sound"
    key: SoundKey
    note: Reason
    id: Id | None = None

    def apply(self, score: Score) -> Score:
        def noted(sound: dict[str, str]) -> dict[str, str]:
            return {k: v for k, v in {**sound, self.key: self.note}.items() if v}

        if self.id is None:
            return replace(score, sound=noted(score.sound))
        section = section_of(score, self.id)
        return changed_section(score, section, sound=noted(section.sound))


class SetNotation(Edit):
    """How the song is written (orchesis/score/notation.py)."""

    words: ClassVar[str] = "way of writing"
    operation: Literal["set_notation"] = "set_notation"
    notation: Literal[
        "counted", "short", "long", "triplets", "compound", "swung_triplets", "swung_dotted"
    ]

    def apply(self, score: Score) -> Score:
        try:
            in_notation(score, self.notation)
        except BadScore as problem:
            raise BadEdit(str(problem)) from None
        return replace(score, notation=self.notation)


class SetBreak(Edit):
    """How a bar stands on the page; "found": as the rules have it."""

    words: ClassVar[str] = "page laid out"
    operation: Literal["set_break"] = "set_break"
    bar: Bar
    kind: Literal["line", "page", "joined", "found"]

    def apply(self, score: Score) -> Score:
        must_have_bar(score, self.bar)
        breaks_kept = {b: k for b, k in score.breaks_by_bar().items() if b != self.bar}
        if self.kind != "found":
            breaks_kept[self.bar] = self.kind
        breaks = tuple((round(score.seconds(b), 4), k) for b, k in sorted(breaks_kept.items()))
        return replace(score, breaks=breaks)


class SetHowTo(Edit):
    """How a sign is played, in its writer's words, as the legend says it; empty: in ours."""

    words: ClassVar[str] = "how a sign is played"
    operation: Literal["set_how_to"] = "set_how_to"
    sign: SignName
    text: Reason

    def apply(self, score: Score) -> Score:
        words = {**score.how_to, self.sign: self.text}
        return replace(score, how_to={s: text for s, text in words.items() if text})


class SetOnPaper(Edit):
    """Whether an item stands on its sheet, and the words beside it (score/on_paper.py)."""

    words: ClassVar[str] = "what stands on the sheet"
    operation: Literal["set_on_paper"] = "set_on_paper"
    item: Annotated[Reason, Field(pattern=f"^{ITEM.pattern}$")]
    shown: bool
    text: Reason

    def apply(self, score: Score) -> Score:
        on_paper = {**score.on_paper, self.item: OnPaper(self.shown, self.text)}
        return replace(score, on_paper={i: item for i, item in on_paper.items() if item != USUAL})


class SetSpoken(Edit):
    """Text that is spoken in the rhythm of a bar's figure, like “KET-tle a-WAKE”; empty: none."""

    words: ClassVar[str] = "rhythm words"
    operation: Literal["set_spoken"] = "set_spoken"
    bar: Bar
    text: Note

    def apply(self, score: Score) -> Score:
        must_have_bar(score, self.bar)
        words_by_bar = {b: text for b, text in score.spoken_by_bar().items() if b != self.bar}
        if self.text.strip():
            bar = score.played()
            try:
                spoken(self.text, bar.strokes_of(self.bar), score.meters[self.bar - 1])
            except BadScore as problem:
                raise BadEdit(str(problem)) from None
            words_by_bar[self.bar] = self.text.strip()
        by_moment = tuple(
            (round(score.seconds(b), 4), text) for b, text in sorted(words_by_bar.items())
        )
        return replace(score, spoken=by_moment)


class ConfirmBars(Edit):
    """Bars are right, or no longer said to be. last: the last of them."""

    words: ClassVar[str] = "confirmation"
    operation: Literal["confirm_bars"] = "confirm_bars"
    bar: Bar
    last: Bar
    confirmed: bool

    def apply(self, score: Score) -> Score:
        if not 1 <= self.bar <= self.last <= score.bar_count:
            raise BadEdit(f"The bars {self.bar} to {self.last} are not all in the song.")
        bars = frozenset(range(self.bar, self.last + 1))
        confirmed = score.confirmed | bars if self.confirmed else score.confirmed - bars
        return replace(score, confirmed=confirmed)


class Settle(Edit):
    """A question of the review is answered by leaving the bars as they are."""

    words: ClassVar[str] = "question settled"
    operation: Literal["settle"] = "settle"
    key: Annotated[str, Field(min_length=1, max_length=120)]

    def apply(self, score: Score) -> Score:
        return replace(score, settled=tuple(dict.fromkeys((*score.settled, self.key))))
