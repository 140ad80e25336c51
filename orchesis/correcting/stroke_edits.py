"""Edits of single strokes, and many of them done as one."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from orchesis.errors import BadEdit
from orchesis.hands import with_limbs
from orchesis.score.edit import (
    Bar,
    DoubtName,
    DynamicName,
    Edit,
    Id,
    LimbName,
    OrnamentName,
    Part,
    Place,
    Reason,
    Share,
    must_hold,
)
from orchesis.score.kit import part
from orchesis.score.song import Score
from orchesis.score.stroke import CLASS_LOUDNESS, Stroke, class_of

_MOST_AT_ONCE = 2000


class Strokes:
    """The strokes of a score while they are changed; one lookup a change."""

    def __init__(self, score: Score) -> None:
        self.score = score
        self.by_id = dict(score.strokes)
        #: Ids by place and part of each bar that was asked for; the others are as before.
        self._taken: dict[int, dict[tuple[Fraction, str], str]] = {}
        #: Bars in which a limb was chosen: what the program chose there is solved again round it.
        self.stuck: set[int] = set()

    def _bar(self, bar: int) -> dict[tuple[Fraction, str], str]:
        if bar not in self._taken:
            self._taken[bar] = {(s.place, s.part): s.id for s in self.score.strokes_of(bar)}
        return self._taken[bar]

    def get(self, wanted: str) -> Stroke:
        """The stroke of that id; BadEdit where it is gone."""
        stroke = self.by_id.get(wanted)
        if stroke is None:
            raise BadEdit("That stroke is no longer there; somebody removed it meanwhile.")
        return stroke

    def put(self, stroke: Stroke) -> None:
        """Sets a stroke; BadEdit where its part is struck at its place already."""
        there, spot = self._bar(stroke.bar), (stroke.place, stroke.part)
        if there.get(spot, stroke.id) != stroke.id:
            raise BadEdit(f"There is a {part(stroke.part).label.lower()} at that place already.")
        self.drop(stroke.id)
        self.by_id[stroke.id] = stroke
        there[spot] = stroke.id

    def drop(self, key: str) -> None:
        """Takes a stroke away, if it is there."""
        gone = self.by_id.get(key)
        if gone is not None:
            self._bar(gone.bar).pop((gone.place, gone.part), None)
            del self.by_id[key]

    def done(self) -> Score:
        """The score with the strokes as they are now."""
        changed = replace(self.score, strokes=self.by_id)
        if not self.stuck:
            return changed
        # Only the bars that were asked for are read anew: an edit of one bar costs one bar.
        return with_limbs(changed.sharing_bars(self.score, set(self._taken)), bars=self.stuck)


class StrokeEdit(Edit):
    """An edit of one stroke; it can be done together with others."""

    id: Id

    def apply(self, score: Score) -> Score:
        strokes = Strokes(score)
        self.change(strokes)
        return strokes.done()

    def change(self, strokes: Strokes) -> None:
        """Does the edit among strokes that other edits may have changed before."""
        strokes.put(self.changed(strokes.get(self.id)))

    def changed(self, stroke: Stroke) -> Stroke:
        """The stroke after the edit."""
        return stroke


class AddStroke(StrokeEdit):
    """A stroke that nobody had written there."""

    words: ClassVar[str] = "stroke written"
    operation: Literal["add_stroke"] = "add_stroke"
    bar: Bar
    place: Place
    part: Part
    limb: LimbName
    dynamic: DynamicName = "normal"
    loudness: Share | None = None
    ornament: OrnamentName | None = None
    choked: bool = False

    def change(self, strokes: Strokes) -> None:
        if self.id in strokes.by_id:
            raise BadEdit("That stroke has been added already.")
        must_hold(strokes.score, self.bar, self.place)
        usual = CLASS_LOUDNESS[self.dynamic]
        strokes.put(
            Stroke(
                id=self.id,
                bar=self.bar,
                place=self.place,
                part=self.part,
                limb=self.limb,
                dynamic=self.dynamic,
                loudness=usual if self.loudness is None else self.loudness,
                ornament=self.ornament,
                choked=self.choked,
                placed_by="person",
                limb_by="person",
            )
        )


class RemoveStroke(StrokeEdit):
    """A stroke goes for good; one that was heard but is not played is left out instead."""

    words: ClassVar[str] = "stroke removed"
    operation: Literal["remove_stroke"] = "remove_stroke"

    def change(self, strokes: Strokes) -> None:
        strokes.get(self.id)
        strokes.drop(self.id)


class MoveStroke(StrokeEdit):
    """To another place; what was measured of it stays with it."""

    words: ClassVar[str] = "stroke moved"
    operation: Literal["move_stroke"] = "move_stroke"
    bar: Bar
    place: Place

    def change(self, strokes: Strokes) -> None:
        must_hold(strokes.score, self.bar, self.place)
        super().change(strokes)

    def changed(self, stroke: Stroke) -> Stroke:
        return stroke.changed(bar=self.bar, place=self.place, placed_by="person")


class SetPart(StrokeEdit):
    """Another part of the kit."""

    words: ClassVar[str] = "part changed"
    operation: Literal["set_part"] = "set_part"
    part: Part

    def changed(self, stroke: Stroke) -> Stroke:
        return stroke.changed(part=self.part, placed_by="person")


class SetLimb(StrokeEdit):
    """Another limb; who placed the stroke, and how sure it is, stays as it was. The bar's other
    strokes, but those whose limb a person chose, are given to the limbs anew."""

    words: ClassVar[str] = "limb changed"
    operation: Literal["set_limb"] = "set_limb"
    limb: LimbName

    def change(self, strokes: Strokes) -> None:
        super().change(strokes)
        strokes.stuck.add(strokes.get(self.id).bar)

    def changed(self, stroke: Stroke) -> Stroke:
        return stroke.changed(limb=self.limb, limb_by="person")


class SetDynamic(StrokeEdit):
    """Ghost, normal or accent, at the loudness that stands for it."""

    words: ClassVar[str] = "loudness changed"
    operation: Literal["set_dynamic"] = "set_dynamic"
    dynamic: DynamicName

    def changed(self, stroke: Stroke) -> Stroke:
        loudness = CLASS_LOUDNESS[self.dynamic]
        return stroke.changed(dynamic=self.dynamic, loudness=loudness, placed_by="person")


class SetLoudness(StrokeEdit):
    """Any loudness; its class follows."""

    words: ClassVar[str] = "loudness changed"
    operation: Literal["set_loudness"] = "set_loudness"
    loudness: Share

    def changed(self, stroke: Stroke) -> Stroke:
        dynamic = class_of(self.loudness)
        return stroke.changed(loudness=self.loudness, dynamic=dynamic, placed_by="person")


class SetOrnament(StrokeEdit):
    """An ornament, or none."""

    words: ClassVar[str] = "ornament changed"
    operation: Literal["set_ornament"] = "set_ornament"
    ornament: OrnamentName | None

    def changed(self, stroke: Stroke) -> Stroke:
        return stroke.changed(ornament=self.ornament, placed_by="person")


class SetChoked(StrokeEdit):
    """Stopped at once by hand or foot, or left to ring."""

    words: ClassVar[str] = "choke changed"
    operation: Literal["set_choked"] = "set_choked"
    choked: bool

    def changed(self, stroke: Stroke) -> Stroke:
        return stroke.changed(choked=self.choked, placed_by="person")


class SetDoubt(StrokeEdit):
    """What a person says of a stroke; saying that it is in no doubt makes it sure."""

    words: ClassVar[str] = "doubt answered"
    operation: Literal["set_doubt"] = "set_doubt"
    doubt: DoubtName
    reason: Reason = ""

    def changed(self, stroke: Stroke) -> Stroke:
        sure = stroke.confidence if self.doubt else 1.0
        return stroke.changed(doubt=self.doubt, reason=self.reason, confidence=sure)


AnyStrokeEdit = Annotated[
    AddStroke
    | RemoveStroke
    | MoveStroke
    | SetPart
    | SetLimb
    | SetDynamic
    | SetLoudness
    | SetOrnament
    | SetChoked
    | SetDoubt,
    Field(discriminator="operation"),
]


class Many(Edit):
    """Edits of strokes done as one, all or none, and taken back as one."""

    words: ClassVar[str] = "strokes changed"
    operation: Literal["many"] = "many"
    edits: Annotated[list[AnyStrokeEdit], Field(min_length=1, max_length=_MOST_AT_ONCE)]

    def apply(self, score: Score) -> Score:
        strokes = Strokes(score)
        for edit in self.edits:
            edit.change(strokes)
        return strokes.done()


def put_at(score: Score, stroke: Stroke, bar: int, place: Fraction) -> Score:
    """The score with a stroke at a place; BadEdit where it can't stand there."""
    must_hold(score, bar, place)
    strokes = Strokes(score)
    strokes.put(stroke.changed(bar=bar, place=place, placed_by="person"))
    return strokes.done()
