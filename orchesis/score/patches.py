"""What an edit changed, as data: made, applied, taken back beside later edits, and compared.

A patch holds what is otherwise after an edit: ``strokes`` and ``perhaps`` by id (null: gone), and
whole values of the other keys of a score's JSON. Patch and inverse together say what changed
from what.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from orchesis.errors import BadEdit
from orchesis.score.candidate import CandidateHit, numbered
from orchesis.score.song import FRAME, Score
from orchesis.score.stroke import Stroke

Patch = Mapping[str, Any]
#: Keys whose values are looked up by bar, by key of a sound note: changed entry by entry.
_BY_ENTRY = ("notes", "cues", "sound")
#: Keys of what has an id, and how it is read.
_BY_ID: dict[str, Callable[[dict[str, Any]], Stroke | CandidateHit]] = {
    "strokes": Stroke.from_json,
    "perhaps": CandidateHit.from_json,
}


def difference(old: Score, new: Score) -> dict[str, Any]:
    """What turns ``old`` into ``new``."""
    patch: dict[str, Any] = {}
    for key in _BY_ID:
        before, after = getattr(old, key), getattr(new, key)
        if before is after:
            continue
        before_of = before.get
        # Most are the very same object: identity is asked first.
        changed: dict[str, Any] = {
            k: s.to_json() for k, s in after.items() if (was := before_of(k)) is not s and was != s
        }
        changed |= dict.fromkeys(before.keys() - after.keys())
        if changed:
            patch[key] = changed
    for name, field in FRAME.items():
        was, now = getattr(old, name), getattr(new, name)
        if was is not now and (value := field.told(now)) != field.told(was):
            patch[name] = value
    return patch


def inverse_of(score: Score, patch: Patch) -> dict[str, Any]:
    """What takes a patch back from the score it leads away from."""
    inverse: dict[str, Any] = {}
    for key in _BY_ID.keys() & patch.keys():
        was = {k: getattr(score, key).get(k) for k in patch[key]}
        inverse[key] = {k: None if s is None else s.to_json() for k, s in was.items()}
    return inverse | {k: f.told(getattr(score, k)) for k, f in FRAME.items() if k in patch}


def patched(score: Score, patch: Patch) -> Score:
    """The score with a patch applied; BadScore where what comes out is none."""
    fields: dict[str, Any] = {}
    for name in _BY_ID.keys() & patch.keys():
        fields[name] = dict(getattr(score, name))
        for key, data in patch[name].items():
            if data is None:
                fields[name].pop(key, None)
            else:
                fields[name][key] = _BY_ID[name](data)
    # What the patch does not touch is kept to the digit.
    after = replace(score.changed_by(patch), **fields)
    changed = patch.get("strokes", {})
    bars = {s.bar for k in changed for s in (score.strokes.get(k), after.strokes.get(k)) if s}
    return after.sharing_bars(score, bars)


def patched_document(document: Mapping[str, Any], patch: Patch) -> dict[str, Any]:
    """The same on a score's JSON, also on one that can't be read any more."""
    document_after = {**document, **patch}
    for key in _BY_ID:
        entries = _entries(document, key) | dict(patch.get(key, {}))
        document_after[key] = [s for s in entries.values() if s is not None]
    return document_after


def _entries(document: Mapping[str, Any], key: str) -> dict[str, Any]:
    """What has an id in a score's JSON, by it."""
    rows = document.get(key, ())
    return {s["id"]: s for s in (numbered(rows) if key == "perhaps" else rows)}


@dataclass(frozen=True)
class Touched:
    """What an edit changed, by what a person would name: bars (strokes, notes, cues), sections
    by id, keys of the song's sound, and whether the pulse or another thing of the whole song."""

    bars: frozenset[int] = frozenset()
    sections: frozenset[str] = frozenset()
    whole: frozenset[str] = frozenset()

    def __and__(self, other: Touched) -> Touched:
        return Touched(
            self.bars & other.bars, self.sections & other.sections, self.whole & other.whole
        )

    def __or__(self, other: Touched) -> Touched:
        return Touched(
            self.bars | other.bars, self.sections | other.sections, self.whole | other.whole
        )

    def __bool__(self) -> bool:
        return bool(self.bars or self.sections or self.whole)


def touched(patch: Patch, inverse: Patch) -> Touched:
    """What an edit changed. Bars that were confirmed, doubts that were settled and locks
    are left out: two persons who set them do not contradict each other."""
    bars = {s["bar"] for p in (patch, inverse) for s in p.get("strokes", {}).values() if s}
    for key in ("notes", "cues"):
        bars |= {int(bar) for bar in _differing(patch.get(key), inverse.get(key))}
    sections = _differing(*(_by_id(p.get("sections")) for p in (patch, inverse)))
    whole = {f"sound {k}" for k in _differing(patch.get("sound"), inverse.get("sound"))}
    whole |= {
        f"kit sound {n}"
        for n in _differing(
            *({str(s["number"]): s for s in p.get("sounds", ())} for p in (patch, inverse))
        )
    }
    whole |= {k for k in ("pulse", "meters", "notation", "swing") if k in patch}
    return Touched(frozenset(bars), frozenset(sections), frozenset(whole))


def decides(patch: Patch, inverse: Patch) -> bool:
    """Whether an edit says something of a stroke's doubt, or takes back what was said of it."""
    return _said(patch) != _said(inverse)


def _said(patch: Patch) -> dict[str, tuple[str, str]]:
    return {
        key: (s.get("doubt", ""), s.get("reason", "")) if s else ("", "")
        for key, s in patch.get("strokes", {}).items()
    }


def _by_id(sections: Any) -> dict[str, Any] | None:
    return None if sections is None else {s["id"]: s for s in sections}


def _differing(a: Mapping[str, Any] | None, b: Mapping[str, Any] | None) -> set[str]:
    a, b = a or {}, b or {}
    return {k for k in {**a, **b} if a.get(k) != b.get(k)}


def taken_back(document: Mapping[str, Any], patch: Patch, inverse: Patch) -> dict[str, Any]:
    """The patch that takes an edit back from a score that others have edited since.

    What only the edit changed goes back, what others changed stays. Raises BadEdit where both
    changed the same thing, so that nobody's work is lost unasked.
    """
    patch_back: dict[str, Any] = {}
    for name in _BY_ID.keys() & patch.keys():
        now = _entries(document, name)
        for key, was in patch[name].items():
            if now.get(key) != was:
                raise BadEdit("A stroke of that change was changed again since; undo that first.")
        patch_back[name] = dict(inverse[name])
    for key, was in patch.items():
        if key in _BY_ID:
            continue
        before, current = inverse[key], document.get(key)
        if current == was:
            patch_back[key] = before
        elif key in _BY_ENTRY:
            patch_back[key] = _merged(current or {}, was, before)
        elif key == "confirmed":
            patch_back[key] = sorted(
                (set(current or ()) - (set(was) - set(before))) | (set(before) - set(was))
            )
        elif key == "sections" and [s["id"] for s in current or ()] == [s["id"] for s in was]:
            patch_back[key] = _merged_sections(current or [], was, before)
        else:
            raise BadEdit(f"The {_NAMES.get(key, key)} changed again since; undo that first.")
    return patch_back


_NAMES = {
    "sections": "form",
    "pulse": "pulse",
    "meters": "meters",
    "aside": "strokes set aside",
    "sounds": "sounds of the song",
}


def _merged(
    current: Mapping[str, Any], was: Mapping[str, Any], before: Mapping[str, Any]
) -> dict[str, Any]:
    merged = dict(current)
    for key in _differing(was, before):
        if current.get(key) != was.get(key):
            raise BadEdit("Those words were changed again since; undo that first.")
        if key in before:
            merged[key] = before[key]
        else:
            merged.pop(key, None)
    return merged


def _merged_sections(
    current: list[dict[str, Any]], was: list[dict[str, Any]], before: list[dict[str, Any]]
) -> list[dict[str, Any]]:
    if [s["id"] for s in was] != [s["id"] for s in before]:
        raise BadEdit("The form changed again since; undo that first.")
    return [_merged(c, w, b) for c, w, b in zip(current, was, before, strict=True)]
