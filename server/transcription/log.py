"""Edits of a transcription: applied by the core, kept as an append-only log."""

from __future__ import annotations

from typing import Any, NamedTuple

from config.errors import Conflict
from django.db import transaction

from orchesis import editing
from orchesis.score import Score
from transcription.models import Edit, Transcription


def _locked(transcription: Transcription) -> Transcription:
    return Transcription.objects.select_for_update().select_related("song").get(pk=transcription.pk)


class Done(NamedTuple):
    """An edit in the log, and the score before and behind it."""

    line: Edit
    old: Score
    new: Score


class SameBar(Conflict):
    """Somebody else changed the same bar since the version that an edit was made on."""

    default_code = "same_bar"

    def __init__(self, bars: list[int]) -> None:
        which = f"Bar {bars[0]}" if len(bars) == 1 else f"Bars {', '.join(map(str, bars))}"
        super().__init__(f"{which} changed in another window meanwhile; choose which stays.")
        self.bars = bars


def edit(
    transcription: Transcription, author, operation: str, args: dict[str, Any],
    *, base: int | None = None,
) -> Done:  # fmt: skip
    """Apply one named operation to the newest version and log it.

    base: the version it was made on; SameBar if a bar that it changes was changed since.
    Edits of different bars merge.
    """
    with transaction.atomic():
        current = _locked(transcription)
        old = current.score
        score, patch, inverse = editing.apply(old, operation, args)
        if base is not None and base < current.version:
            newer = current.edits.filter(version__gt=base).values_list("patch", "inverse")
            theirs = {bar for pair in newer for p in pair for bar in _bars(p)}
            both = sorted(theirs & {bar for p in (patch, inverse) for bar in _bars(p)})
            if both:
                raise SameBar(both)
        line = Edit.objects.create(
            transcription=current, version=current.version + 1, kind=Edit.DO, author=author,
            operation=operation, args=args, patch=patch, inverse=inverse,
        )  # fmt: skip
        current.keep(score, line.version)
        return Done(line, old, score)


def _bars(patch: dict[str, Any]) -> set[int]:
    """Bars of the strokes that a patch sets."""
    return {s["bar"] for s in patch.get("strokes", {}).values() if s is not None}


def stacks(transcription: Transcription) -> tuple[list[int], list[int]]:
    """Versions that can be undone and redone, the next one last."""
    undo: list[int] = []
    redo: list[int] = []
    for version, kind in transcription.edits.values_list("version", "kind"):
        if kind == Edit.DO:
            undo.append(version)
            redo.clear()
        elif kind == Edit.UNDO:
            redo.append(undo.pop())
        else:
            undo.append(redo.pop())
    return undo, redo


def step_back(transcription: Transcription, author) -> Edit:
    return _step(transcription, author, Edit.UNDO)


def step_forward(transcription: Transcription, author) -> Edit:
    return _step(transcription, author, Edit.REDO)


def _step(transcription: Transcription, author, kind: str) -> Edit:
    with transaction.atomic():
        current = _locked(transcription)
        undo, redo = stacks(current)
        stack = undo if kind == Edit.UNDO else redo
        if not stack:
            word = "undo" if kind == Edit.UNDO else "redo"
            raise Conflict(f"There is nothing to {word}.")
        done = current.edits.get(version=stack[-1])
        patch, inverse = done.patch, done.inverse
        if kind == Edit.UNDO:
            patch, inverse = inverse, patch
        line = Edit.objects.create(
            transcription=current, version=current.version + 1, kind=kind, author=author,
            operation=done.operation, args=done.args, patch=patch, inverse=inverse,
            of=done.version,
        )  # fmt: skip
        current.keep(editing.patched(current.score, patch), line.version)
        return line
