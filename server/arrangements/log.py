"""Edits of an arrangement: applied by the core, kept as an append-only log."""

from __future__ import annotations

from typing import Any, NamedTuple

from config.errors import Clash, Conflict
from config.time_limits import in_time
from django.db import transaction
from transcription.models import Arrangement, Edit

from orchesis import editing
from orchesis.errors import BadEdit, BadScore
from orchesis.hands import with_limbs
from orchesis.score import Score
from orchesis.score.patches import (
    Touched,
    decides,
    difference,
    inverse_of,
    patched,
    patched_document,
    taken_back,
    touched,
)

_EDIT_SECONDS = 25.0  # seconds of an edit of a whole song: its limbs are chosen anew
#: The operation of a line that brought an earlier version back.
BROUGHT_BACK = "bring_back"
#: That of a line with the limbs of a long score that came from outside.
LIMBS_CHOSEN = "choose_limbs"


def _locked(arrangement: Arrangement) -> Arrangement:
    rows = Arrangement.objects.select_for_update().select_related("song")
    return rows.get(pk=arrangement.pk)


class Done(NamedTuple):
    """An edit in the log, and the score before and behind it."""

    line: Edit
    old: Score
    new: Score


def _clash(both: Touched, score: Score) -> Clash:
    """What is told where somebody else changed the same bar, section or words."""
    names = {s.id: s.name for s in score.sections}
    bars, sections = sorted(both.bars), [s for s in names if s in both.sections]
    if bars:
        which = f"Bar{'s' if len(bars) > 1 else ''} {', '.join(map(str, bars))}"
    elif sections:
        which = f"“{names[sections[0]]}”"
    else:
        which = f"The {sorted(both.whole or {'form'})[0]} of the song"
    says = f"{which} changed in another window meanwhile; choose which stays."
    return Clash(says, bars, sections)


def edit(
    arrangement: Arrangement,
    author: Any,
    change: editing.Edit,
    *,
    base: int | None = None,
    key: str | None = None,
) -> Done:
    """Apply one edit to the newest version and log it.

    base: the version it was made on; Clash if what it changes was changed since. Edits of
    different bars, sections and words merge. key: the page's name for what it sent; what was
    done under it is not done again.
    """
    with transaction.atomic():
        current = _locked(arrangement)
        old = current.score
        if line_of_key := _known(current, key):
            return Done(line_of_key, old, old)
        score, patch, inverse = in_time(_EDIT_SECONDS, lambda: editing.apply(old, change))
        if base is not None and base < current.version:
            both = _since(current, base) & touched(patch, inverse)
            if both:
                raise _clash(both, old)
        line = Edit.objects.create(
            arrangement=current,
            version=current.version + 1,
            kind=Edit.DO,
            author=author,
            operation=change.operation,
            args=change.model_dump(mode="json", exclude={"operation"}),
            patch=patch,
            inverse=inverse,
            key=key or None,
            decides=decides(patch, inverse),
            undo=current.version + 1,
            under=_top(current, author)[0],
            says=editing.described(change.operation, patch, inverse)[:120],
        )
        current.keep(score, line.version, old)
        return Done(line, old, score)


def bring_back(arrangement: Arrangement, author: Any, version: int, name: str) -> Edit:
    """The score as it was at a version becomes the newest one: a line like any other, which
    its author can undo. name: what that version is called."""
    with transaction.atomic():
        current = _locked(arrangement)
        old, new = current.score, current.score_at(version)
        patch = difference(old, new)
        if not patch:
            raise Conflict(f"Nothing was changed since “{name}”.")
        inverse = inverse_of(old, patch)
        line = Edit.objects.create(
            arrangement=current,
            version=current.version + 1,
            kind=Edit.DO,
            author=author,
            operation=BROUGHT_BACK,
            args={"version": version},
            patch=patch,
            inverse=inverse,
            decides=decides(patch, inverse),
            undo=current.version + 1,
            under=_top(current, author)[0],
            says=f"“{name}” brought back"[:120],
        )
        current.keep(patched(old, patch), line.version)
        return line


def choose_limbs(arrangement: Arrangement) -> None:
    """The limbs of a score that came from outside, where choosing them took too long for the
    answer: a line of nobody's. What people changed meanwhile stays as they have it."""
    solved = with_limbs(arrangement.score).strokes  # takes long, and holds up no edit
    with transaction.atomic():
        current = _locked(arrangement)
        old = current.score
        new = old.with_strokes(
            s.changed(limb=solved[key].limb)
            if key in solved and s.limb_by == "program" and s.part == solved[key].part
            else s
            for key, s in old.strokes.items()
        )
        if not (patch := difference(old, new)):
            return
        line = Edit.objects.create(
            arrangement=current,
            version=current.version + 1,
            kind=Edit.DO,
            operation=LIMBS_CHOSEN,
            args={},
            patch=patch,
            inverse=inverse_of(old, patch),
            undo=current.version + 1,
            says="limbs chosen",
        )
        current.keep(patched(old, patch), line.version)


def _known(arrangement: Arrangement, key: str | None) -> Edit | None:
    return arrangement.edits.filter(key=key).first() if key else None


def _since(arrangement: Arrangement, base: int) -> Touched:
    """All that was changed since a version."""
    newer = arrangement.edits.filter(version__gt=base).values_list("patch", "inverse")
    changed = Touched()
    for patch, inverse in newer:
        changed |= touched(patch, inverse)
    return changed


def _top(arrangement: Arrangement, author: Any) -> tuple[int | None, int | None]:
    """The versions that a person can undo and redo next: everybody takes back what they did
    themselves."""
    lines = arrangement.edits.filter(author=author, version__lte=arrangement.version)
    return lines.order_by("-version").values_list("undo", "redo").first() or (None, None)


def steps(arrangement: Arrangement, author: Any, last: Edit | None = None) -> tuple[str, str]:
    """What undo would take back and redo bring again for a person, in words; "" for nothing.

    last: the newest line of the log, where it is at hand and the person's own.
    """
    is_newest = last is not None and last.version == arrangement.version
    top = (last.undo, last.redo) if last and is_newest else _top(arrangement, author)
    lines = arrangement.edits.filter(version__in=[v for v in top if v is not None])
    line_by_version = {line.version: line for line in lines.only("version", "says", "operation")}

    def words(version: int | None) -> str:
        if version is None:
            return ""
        line = line_by_version[version]
        return line.says or editing.described(line.operation, {}, {})

    return words(top[0]), words(top[1])


def step_back(arrangement: Arrangement, author: Any, key: str | None = None) -> Edit:
    return _step(arrangement, author, Edit.UNDO, key)


def step_forward(arrangement: Arrangement, author: Any, key: str | None = None) -> Edit:
    return _step(arrangement, author, Edit.REDO, key)


def _step(arrangement: Arrangement, author: Any, kind: str, key: str | None) -> Edit:
    """Works on the document, so that a song that can't be read any more can be undone too."""
    with transaction.atomic():
        current = _locked(arrangement)
        if line_of_key := _known(current, key):
            return line_of_key
        undo, redo = _top(current, author)
        version = undo if kind == Edit.UNDO else redo
        if version is None:
            raise Conflict(f"There is nothing of yours to {kind}.")
        done = current.edits.get(version=version)
        last = _last_line_of(current, done)
        patch, inverse = last.patch, last.inverse
        try:
            document, was = current.document, _readable(current)
            back = taken_back(document, patch, inverse)
            new = patched_document(document, back)
            names = {"title": current.song.title, "artist": current.song.artist}
            score = Score.from_json({**new, **names})
        except (BadEdit, BadScore) as problem:
            raise Conflict(str(problem)) from None
        line = Edit.objects.create(
            arrangement=current,
            version=current.version + 1,
            kind=kind,
            author=author,
            operation=done.operation,
            args=done.args,
            patch=back,
            inverse=(inverse := _there_and_back(document, back)),
            of=done.version,
            key=key or None,
            says=done.says,
            decides=decides(back, inverse),
            **(
                {"undo": done.under, "redo": done.version, "under": redo}
                if kind == Edit.UNDO
                else {"undo": done.version, "redo": last.under}
            ),
        )
        current.keep(score, line.version, was)
        return line


def _readable(arrangement: Arrangement) -> Score | None:
    """The score as it is; None where it can't be read any more."""
    try:
        return arrangement.score
    except BadScore:
        return None


def _last_line_of(arrangement: Arrangement, done: Edit) -> Edit:
    """The newest line that did, took back or brought again an edit."""
    again = arrangement.edits.filter(of=done.version).order_by("version").last()
    return again or done


def _there_and_back(document: dict[str, Any], patch: dict[str, Any]) -> dict[str, Any]:
    """The inverse of a patch on a document."""
    now = {s["id"]: s for s in document["strokes"]}
    before = {k: document.get(k) for k in patch if k != "strokes"}
    if "strokes" in patch:
        before["strokes"] = {key: now.get(key) for key in patch["strokes"]}
    return before


def repair(arrangement: Arrangement) -> int:
    """Takes back what made a song unreadable, newest first; how many edits that were.

    Raises BadScore where not even the song as it was heard can be read.
    """
    with transaction.atomic():
        current = _locked(arrangement)
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
            current.version += 1
            before = current.edits.filter(author=line.author, version__lt=line.version)
            undo, redo = before.order_by("-version").values_list("undo", "redo").first() or (
                None,
                None,
            )
            Edit.objects.create(
                arrangement=current,
                version=current.version,
                author=line.author,
                kind=Edit.REDO if line.kind == Edit.UNDO else Edit.UNDO,
                operation=line.operation,
                args=line.args,
                patch=line.inverse,
                inverse=line.patch,
                of=line.of or line.version,
                undo=undo,
                redo=redo,
                decides=line.decides,
            )
        if lines:
            current.keep(score, current.version)
        return len(lines)
