"""Every kind of edit, and what one changed: the one way a score is altered."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from typing import Annotated, Any, get_args

from pydantic import Field, TypeAdapter, ValidationError

from orchesis.correcting import (
    arranging_edits,
    finding_edits,
    form_edits,
    limb_edits,
    pulse_edits,
    sound_edits,
    spreading,
    stroke_edits,
    unplaced_edits,
    writing,
)
from orchesis.errors import BadEdit, OrchesisError
from orchesis.score import Score
from orchesis.score.edit import Edit, malformed
from orchesis.score.patches import difference, inverse_of, patched, touched

_FEW_BARS = 3  # that are named where an edit is told
MOST_BARS = 3000  # 20 minutes in bars of 0.4 s
MOST_STROKES = 40_000  # 20 minutes of 33 strokes a second
STROKES_A_BEAT = 64  # 32nds of four limbs at 30 beats a minute, twice

AnyEdit = Annotated[
    stroke_edits.AddStroke
    | stroke_edits.RemoveStroke
    | stroke_edits.MoveStroke
    | stroke_edits.SetPart
    | stroke_edits.SetLimb
    | stroke_edits.SetDynamic
    | stroke_edits.SetLoudness
    | stroke_edits.SetOrnament
    | stroke_edits.SetChoked
    | stroke_edits.SetDoubt
    | stroke_edits.Many
    | form_edits.RenameSection
    | form_edits.MoveBorder
    | form_edits.SplitSection
    | form_edits.MergeSection
    | form_edits.LinkSection
    | form_edits.UnlinkSection
    | form_edits.NoteSection
    | form_edits.NoteBar
    | form_edits.NoteSound
    | form_edits.SetNotation
    | form_edits.SetBreak
    | form_edits.SetHowTo
    | form_edits.SetSpoken
    | form_edits.SetOnPaper
    | form_edits.ConfirmBars
    | form_edits.Settle
    | pulse_edits.HalveTempo
    | pulse_edits.DoubleTempo
    | pulse_edits.Retime
    | pulse_edits.ShiftOne
    | pulse_edits.ShiftHalf
    | pulse_edits.SetOne
    | pulse_edits.SetMeter
    | pulse_edits.InsertBeat
    | pulse_edits.RemoveBeat
    | pulse_edits.DragBeat
    | pulse_edits.Tap
    | pulse_edits.Lock
    | pulse_edits.Unlock
    | unplaced_edits.PutBack
    | unplaced_edits.DropAside
    | unplaced_edits.PutBackWords
    | unplaced_edits.DropAsideWords
    | sound_edits.NameSound
    | sound_edits.DismissSound
    | sound_edits.SplitSound
    | sound_edits.JoinSounds
    | sound_edits.WritePerhaps
    | sound_edits.DropPerhaps
    | finding_edits.MarkFill
    | finding_edits.DenyFill
    | finding_edits.ForgetFill
    | finding_edits.JudgeGroove
    | finding_edits.SetCore
    | finding_edits.ForgetGroove
    | finding_edits.SetSwing
    | limb_edits.SetPlayer
    | limb_edits.SetSchool
    | limb_edits.StickAs
    | limb_edits.StickBar
    | limb_edits.FreeLimbs
    | limb_edits.SetLayer
    | arranging_edits.Arrange
    | arranging_edits.Simplify
    | arranging_edits.TakeBars
    | spreading.Spread
    | writing.WriteBars
    | writing.PlayIn
    | writing.SetCue
    | writing.SetCues
    | writing.TapCue,
    Field(discriminator="operation"),
]
_reader: TypeAdapter[Edit] = TypeAdapter(AnyEdit)
#: Every kind of edit by its name.
EDITS: dict[str, type[Edit]] = {
    kind.model_fields["operation"].default: kind for kind in get_args(get_args(AnyEdit)[0])
}


def edit_of(data: Mapping[str, Any]) -> Edit:
    """The edit that JSON describes; MalformedEdit in one sentence where it describes none."""
    try:
        return _reader.validate_python(dict(data))
    except ValidationError as problem:
        raise malformed(problem) from None


def described(operation: str, patch: Mapping[str, Any], inverse: Mapping[str, Any]) -> str:
    """An edit in a few words, by its name and what it changed: “stroke moved, bar 5”."""
    bars = sorted(touched(patch, inverse).bars)
    kind = EDITS.get(operation)
    words = kind.words if kind else operation
    if not bars or len(bars) > _FEW_BARS:
        return words
    return f"{words}, bar{'' if len(bars) == 1 else 's'} {', '.join(map(str, bars))}"


def apply(score: Score, edit: Edit) -> tuple[Score, dict[str, Any], dict[str, Any]]:
    """(new score, what changed, what would change it back); BadEdit in one sentence."""
    new = edit.apply(score)
    patch = difference(score, new)
    _must_fit(new, patch)
    try:
        loaded = patched(score, patch)  # what is kept is what will be loaded again
    except OrchesisError as problem:
        raise BadEdit(f"This would leave a song that can't be read ({problem})") from None
    return loaded, patch, inverse_of(score, patch)


def _must_fit(new: Score, patch: Mapping[str, Any]) -> None:
    """Bounds that no song needs to pass, so that no edit makes every later step slow."""
    if new.bar_count > MOST_BARS:
        raise BadEdit(f"A song has {MOST_BARS} bars at the most; this would make {new.bar_count}.")
    added = {s["bar"] for s in patch.get("strokes", {}).values() if s is not None}
    if not added:
        return
    if len(new.strokes) > MOST_STROKES:
        raise BadEdit(f"A song has {MOST_STROKES} strokes at the most.")
    for bar, count in Counter(s.bar for s in new.strokes.values() if s.bar in added).items():
        most = STROKES_A_BEAT * new.meters[bar - 1].beats if bar <= new.bar_count else 0
        if count > most:
            raise BadEdit(f"Bar {bar} would hold more than {most} strokes; that can't be played.")
