"""Edits of a transcription: applied by the core, kept as an append-only log."""

from __future__ import annotations

from typing import Any, NamedTuple

from config.errors import Conflict
from django.db import transaction

from orchesis import editing
from orchesis.errors import BadEdit, BadScore
from orchesis.score import Score
from orchesis.score.patches import Touched, patched_document, taken_back, touched
from transcription.models import Edit, Transcription


def _locked(transcription: Transcription) -> Transcription:
    rows = Transcription.objects.select_for_update().select_related("song")
    return rows.defer("document", "analysis").get(pk=transcription.pk)


class Done(NamedTuple):
    """An edit in the log, and the score before and behind it."""

    line: Edit
    old: Score
    new: Score


class Clash(Conflict):
    """Somebody else changed the same bar, section or words since the version of an edit."""

    default_code = "clash"

    def __init__(self, both: Touched, score: Score) -> None:
        names = {s.id: s.name for s in score.sections}
        self.bars = sorted(both.bars)
        self.sections = [s for s in names if s in both.sections]
        if self.bars:
            which = f"Bar{'s' if len(self.bars) > 1 else ''} {', '.join(map(str, self.bars))}"
        elif self.sections:
            which = f"“{names[self.sections[0]]}”"
        else:
            which = f"The {sorted(both.whole or {'form'})[0]} of the song"
        super().__init__(f"{which} changed in another window meanwhile; choose which stays.")


def edit(
    transcription: Transcription, author, change: editing.Edit,
    *, base: int | None = None, key: str | None = None,
) -> Done:  # fmt: skip
    """Apply one edit to the newest version and log it.

    base: the version it was made on; Clash if what it changes was changed since. Edits of
    different bars, sections and words merge. key: the page's name for what it sent; what was
    done under it is not done again.
    """
    with transaction.atomic():
        current = _locked(transcription)
        old = current.score
        if known := _known(current, key):
            return Done(known, old, old)
        score, patch, inverse = editing.apply(old, change)
        if base is not None and base < current.version:
            both = _since(current, base) & touched(patch, inverse)
            if both:
                raise Clash(both, old)
        line = Edit.objects.create(
            transcription=current, version=current.version + 1, kind=Edit.DO, author=author,
            operation=change.operation, args=change.model_dump(mode="json", exclude={"operation"}),
            patch=patch, inverse=inverse, key=key or None,
            says=editing.described(change.operation, patch, inverse)[:120],
        )  # fmt: skip
        current.keep(score, line.version, patched_document(current.kept_document(), patch))
        return Done(line, old, score)


def _known(transcription: Transcription, key: str | None) -> Edit | None:
    return transcription.edits.filter(key=key).first() if key else None


def _since(transcription: Transcription, base: int) -> Touched:
    """All that was changed since a version."""
    newer = transcription.edits.filter(version__gt=base).values_list("patch", "inverse")
    changed = Touched()
    for patch, inverse in newer:
        changed |= touched(patch, inverse)
    return changed


def stacks(transcription: Transcription, author) -> tuple[list[int], list[int]]:
    """Versions that a person can undo and redo, the next one last: everybody takes back what
    they did themselves."""
    undo: list[int] = []
    redo: list[int] = []
    lines = transcription.edits.filter(author=author)
    for version, kind in lines.values_list("version", "kind"):
        if kind == Edit.DO:
            undo.append(version)
            redo.clear()
        elif kind == Edit.UNDO:
            redo.append(undo.pop())
        else:
            undo.append(redo.pop())
    return undo, redo


def steps(transcription: Transcription, author) -> tuple[str, str]:
    """What undo would take back and redo bring again for a person, in words; "" for nothing."""

    def told(stack: list[int]) -> str:
        if not stack:
            return ""
        line = transcription.edits.only("says", "operation").get(version=stack[-1])
        return line.says or editing.described(line.operation, {}, {})

    undo, redo = stacks(transcription, author)
    return told(undo), told(redo)


def step_back(transcription: Transcription, author, key: str | None = None) -> Edit:
    return _step(transcription, author, Edit.UNDO, key)


def step_forward(transcription: Transcription, author, key: str | None = None) -> Edit:
    return _step(transcription, author, Edit.REDO, key)


def _step(transcription: Transcription, author, kind: str, key: str | None) -> Edit:
    """Works on the document, so that a song that can't be read any more can be undone too."""
    with transaction.atomic():
        current = _locked(transcription)
        if known := _known(current, key):
            return known
        undo, redo = stacks(current, author)
        stack = undo if kind == Edit.UNDO else redo
        if not stack:
            word = "undo" if kind == Edit.UNDO else "redo"
            raise Conflict(f"There is nothing of yours to {word}.")
        done = current.edits.get(version=stack[-1])
        last = _last_line_of(current, done)
        patch, inverse = last.patch, last.inverse
        try:
            document = current.kept_document()
            back = taken_back(document, patch, inverse)
            new = patched_document(document, back)
            names = {"title": current.song.title, "artist": current.song.artist}
            score = Score.from_json({**new, **names})
        except (BadEdit, BadScore) as problem:
            raise Conflict(str(problem)) from None
        line = Edit.objects.create(
            transcription=current, version=current.version + 1, kind=kind, author=author,
            operation=done.operation, args=done.args, patch=back,
            inverse=_there_and_back(document, back), of=done.version, key=key or None,
            says=done.says,
        )  # fmt: skip
        current.keep(score, line.version, new)
        return line


def _last_line_of(transcription: Transcription, done: Edit) -> Edit:
    """The newest line that did, took back or brought again an edit."""
    again = transcription.edits.filter(of=done.version).order_by("version").last()
    return again or done


def _there_and_back(document: dict[str, Any], patch: dict[str, Any]) -> dict[str, Any]:
    """The inverse of a patch on a document."""
    now = {s["id"]: s for s in document["strokes"]}
    made = {k: document.get(k) for k in patch if k != "strokes"}
    if "strokes" in patch:
        made["strokes"] = {key: now.get(key) for key in patch["strokes"]}
    return made


def repair(transcription: Transcription) -> int:
    """Takes back what made a song unreadable, newest first; how many edits that were.

    Raises BadScore where not even the song as it was heard can be read.
    """
    with transaction.atomic():
        current = _locked(transcription)
        document, lines = current.document, []
        for line in current.edits.order_by("-version"):
            try:
                score = Score.from_json(document)
                break
            except BadScore:
                document = patched_document(document, line.inverse)
                lines.append(line)
        else:
            score = Score.from_json(document)
        for line in lines:
            kind = Edit.REDO if line.kind == Edit.UNDO else Edit.UNDO
            current.version += 1
            Edit.objects.create(
                transcription=current, version=current.version, kind=kind, author=line.author,
                operation=line.operation, args=line.args, patch=line.inverse, inverse=line.patch,
                of=line.of or line.version,
            )  # fmt: skip
        if lines:
            current.keep(score, current.version)
        return len(lines)
