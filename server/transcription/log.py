"""Edits of a transcription: applied by the core, kept as an append-only log."""

from __future__ import annotations

from typing import Any

from config.errors import Conflict
from django.db import transaction

from orchesis import editing
from transcription.models import Edit, Transcription


def _locked(transcription: Transcription) -> Transcription:
    return Transcription.objects.select_for_update().select_related("song").get(pk=transcription.pk)


def edit(transcription: Transcription, author, operation: str, args: dict[str, Any]) -> Edit:
    """Apply one named operation to the newest version and log it."""
    with transaction.atomic():
        current = _locked(transcription)
        score, patch, inverse = editing.apply(current.score, operation, args)
        line = Edit.objects.create(
            transcription=current, version=current.version + 1, kind=Edit.DO, author=author,
            operation=operation, args=args, patch=patch, inverse=inverse,
        )  # fmt: skip
        current.keep(score, line.version)
        return line


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
