"""What was changed in one bar, done in others that read alike (see orchesis/checks/alike.py)."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from orchesis.errors import BadEdit
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
    must_have_bar,
)
from orchesis.score.song import Score
from orchesis.score.stroke import CARRIED, Stroke


class CarriedStroke(BaseModel):
    """What a change carries of a stroke to another bar."""

    model_config = ConfigDict(frozen=True, extra="ignore", strict=True, allow_inf_nan=False)
    id: Id
    part: Part
    place: Place
    limb: LimbName
    dynamic: DynamicName
    loudness: Share
    ornament: OrnamentName | None = None
    choked: bool = False
    doubt: DoubtName = ""
    reason: Reason = ""

    def fields(self) -> dict[str, object]:
        return {k: getattr(self, k) for k in CARRIED}


class StrokeChange(BaseModel):
    """A stroke as it was and as it is now; null: none."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)
    was: CarriedStroke | None
    now: CarriedStroke | None


class Spread(Edit):
    """The same changes in other bars, as one edit.

    Bars in which they do not fit stay as they are; BadEdit if they fit in none.
    """

    words: ClassVar[str] = "spread to bars alike"
    operation: Literal["spread"] = "spread"
    bars: Annotated[list[Bar], Field(min_length=1, max_length=3000)]
    changes: Annotated[list[StrokeChange], Field(min_length=1, max_length=200)]

    def apply(self, score: Score) -> Score:
        strokes = dict(score.strokes)
        by_bar = score.by_bar()
        for bar in self.bars:
            must_have_bar(score, bar)
            there = {(s.part, s.place): s for s in by_bar.get(bar, [])}
            for change in self.changes:
                was, now = change.was, change.now
                met = there.get((was.part, was.place)) if was is not None else None
                if was is not None and met is None:
                    continue
                stroke = now and _changed(met, was, now, bar)
                if (
                    stroke
                    and (other := there.get((stroke.part, stroke.place)))
                    and other is not met
                ):
                    continue
                if stroke and stroke.place < score.meters[bar - 1].beats:
                    strokes[stroke.id] = stroke
                elif met is not None and now is None:
                    strokes.pop(met.id, None)
        if strokes == score.strokes:
            raise BadEdit("That change fits in none of these bars any more.")
        return replace(score, strokes=strokes)


def _changed(met: Stroke | None, was: CarriedStroke | None, now: CarriedStroke, bar: int) -> Stroke:
    """The stroke of another bar after the change; a new one where there was none."""
    if met is None or was is None:
        new = now.fields()
        return Stroke(id=f"{now.id}b{bar}", bar=bar, placed_by="person", limb_by="person", **new)  # type: ignore[arg-type]
    changed = {k: v for k, v in now.fields().items() if v != getattr(was, k)}
    if "limb" in changed:
        changed["limb_by"] = "person"
    if changed.keys() - {"limb", "limb_by"}:
        changed["placed_by"] = "person"
    return replace(met, **changed)  # type: ignore[arg-type]
