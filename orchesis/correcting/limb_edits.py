"""Edits of who plays: the player and the kit, schools, limbs by name of a rudiment, layers."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

from pydantic import AfterValidator, Field

from orchesis.correcting.form_edits import changed_section
from orchesis.errors import BadEdit, BadScore
from orchesis.hands import with_limbs
from orchesis.hands.alternatives import chosen, stick_as
from orchesis.hands.rudiments import NAMES
from orchesis.score import counting
from orchesis.score.edit import Bar, Edit, Id, Part, must_have_bar, section_of
from orchesis.score.player import MAY_LACK, Player
from orchesis.score.song import Score
from orchesis.score.untrusted import shown

SchoolName = Literal["natural", "alternating", "lead", "fewest", "open"]
Reach = Annotated[float, Field(ge=-3, le=3)]
Piece = Annotated[str, Field(max_length=20)]


#: A piece that stands elsewhere than usual: its name, how far to the right, how far away.
Spot = Annotated[list[Piece | Reach], Field(min_length=3, max_length=3)]


def _rudiment(name: str) -> str:
    if name not in NAMES:
        raise ValueError(f"There is no rudiment “{shown(name)}”; docs/meaning.md lists them all.")
    return name


def _counted_in(school: str) -> str:
    try:
        counting.said_in(school or counting.SCHOOLS[0])
    except BadScore as problem:
        raise ValueError(str(problem)) from None
    return school


#: A school to count in (orchesis/score/counting.py), or none.
School = Annotated[str, Field(max_length=counting.LONGEST_SCHOOL), AfterValidator(_counted_in)]


class SetPlayer(Edit):
    """Who plays the song, and on which kit: all limbs that no person chose are solved anew. What
    is not given stays as it was. plan: the pieces that stand elsewhere than usual, all of them.
    counting, reads, note_names: for this song; empty: as whoever looks at it likes it."""

    words: ClassVar[str] = "player"
    operation: Literal["set_player"] = "set_player"
    hand: Literal["right", "left"] | None = None
    school: SchoolName | None = None
    pedals: Literal[1, 2] | None = None
    lacks: Annotated[list[Piece], Field(max_length=len(MAY_LACK))] | None = None
    plan: Annotated[list[Spot], Field(max_length=30)] | None = None
    counting: School | None = None
    reads: Literal["", "staff", "limbs", "spine"] | None = None
    note_names: Literal["", "letters", "h", "syllables"] | None = None

    def apply(self, score: Score) -> Score:
        given: dict[str, Any] = {
            name: getattr(self, name)
            for name in ("hand", "school", "pedals", "counting", "reads", "note_names")
        }
        if self.lacks is not None:
            given["lacks"] = list(dict.fromkeys(self.lacks))
        if self.plan is not None:
            given["plan"] = self.plan
        changes = {k: v for k, v in given.items() if v is not None}
        try:
            player = Player.from_json(score.player.to_json() | changes)
        except BadScore as problem:
            raise BadEdit(str(problem)) from None
        changed = replace(score, player=player)
        return changed if player.plain == score.player.plain else with_limbs(changed)


class SetSchool(Edit):
    """The school of one section; empty: the player's."""

    words: ClassVar[str] = "school of a section"
    operation: Literal["set_school"] = "set_school"
    id: Id
    school: Literal["", "natural", "alternating", "lead", "fewest", "open"]

    def apply(self, score: Score) -> Score:
        section = section_of(score, self.id)
        changed = changed_section(score, section, school=self.school)
        return with_limbs(changed, bars=range(section.first_bar, section.last_bar + 1))


class _Bars(Edit):
    """An edit of some bars."""

    first: Bar
    last: Bar

    def bars(self, score: Score) -> range:
        must_have_bar(score, self.first)
        must_have_bar(score, self.last)
        if self.last < self.first:
            raise BadEdit("The first bar comes before the last one.")
        return range(self.first, self.last + 1)


class StickAs(_Bars):
    """The hands of some bars by a rudiment: chosen by a person from then on."""

    words: ClassVar[str] = "stuck as a rudiment"
    operation: Literal["stick_as"] = "stick_as"
    rudiment: Annotated[str, AfterValidator(_rudiment)]

    def apply(self, score: Score) -> Score:
        bars = self.bars(score)
        limbs = stick_as(score, bars, self.rudiment)
        if not limbs:
            raise BadEdit(
                f"There is no row of single hand strokes here that could be stuck as a "
                f"{self.rudiment}."
            )
        return with_limbs(chosen(score, limbs), bars=bars)


class StickBar(Edit):
    """The limbs of a bar's hand strokes as one of the alternatives has them."""

    words: ClassVar[str] = "another sticking"
    operation: Literal["stick_bar"] = "stick_bar"
    bar: Bar
    limbs: Annotated[
        dict[Annotated[str, Field(max_length=80)], Literal["RH", "LH"]], Field(max_length=400)
    ]

    def apply(self, score: Score) -> Score:
        must_have_bar(score, self.bar)
        strokes_of_bar = {s.id for s in score.strokes_of(self.bar)}
        if not set(self.limbs) <= strokes_of_bar:
            raise BadEdit("Some of these strokes are no longer there; look at the bar again.")
        return with_limbs(chosen(score, dict(self.limbs)), bars=[self.bar])


class FreeLimbs(_Bars):
    """Limbs that a person chose in some bars are the program's again."""

    words: ClassVar[str] = "limbs set free"
    operation: Literal["free_limbs"] = "free_limbs"

    def apply(self, score: Score) -> Score:
        bars = self.bars(score)
        freed = {
            s.id: s.changed(limb_by="program")
            for b in bars
            for s in score.strokes_of(b)
            if s.limb_by == "person"
        }
        changed = score.with_strokes({**score.strokes, **freed}.values())
        return with_limbs(changed.sharing_bars(score, set(bars)), bars=bars)


class SetLayer(_Bars):
    """Whether a part of some bars is a layer of the recording (a sampled shaker, a loop): it
    sounds, but no limb plays it."""

    words: ClassVar[str] = "layer of the recording"
    operation: Literal["set_layer"] = "set_layer"
    part: Part
    is_layer: bool

    def apply(self, score: Score) -> Score:
        bars = self.bars(score)
        was, now = ("", "layer") if self.is_layer else ("layer", "")
        moved = {
            s.id: s.changed(doubt=now)
            for b in bars
            for s in score.strokes_of(b)
            if s.part == self.part and (s.doubt == was or (self.is_layer and s.doubt != "left_out"))
        }
        if not moved:
            raise BadEdit("That part does not sound in these bars.")
        changed = score.with_strokes({**score.strokes, **moved}.values())
        return with_limbs(changed.sharing_bars(score, set(bars)), bars=bars)
