"""What a person may change of a score: small named operations, each a pure function.

An operation takes (score, arguments) and gives the new score, or raises BadEdit with one
sentence. Undo needs no operation of its own: see ``orchesis.score.patches``.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from fractions import Fraction
from typing import Any

from orchesis.errors import BadEdit, BadScore
from orchesis.score.kit import part
from orchesis.score.notation import in_notation
from orchesis.score.song import SOUND_KEYS, Score, Section
from orchesis.score.stroke import CLASS_LOUDNESS, Stroke, class_of
from orchesis.score.untrusted import read_place, shown, unprintable

Args = Mapping[str, Any]
Operation = Callable[[Score, Args], Score]
_MOST_AT_ONCE = 2000


def given(args: Args, name: str, kind: type) -> Any:
    """The argument of that name and kind; BadEdit if it is missing or another."""
    value = args.get(name)
    if not isinstance(value, kind) or isinstance(value, bool) is not (kind is bool):
        raise BadEdit(f"The edit needs “{name}” ({kind.__name__}), not “{shown(value)}”.")
    return value


def _stroke(score: Score, args: Args) -> Stroke:
    found = score.strokes.get(given(args, "id", str))
    if found is None:
        raise BadEdit("That stroke is no longer there; somebody removed it meanwhile.")
    return found


def _section(score: Score, args: Args) -> Section:
    wanted = given(args, "id", str)
    found = next((s for s in score.sections if s.id == wanted), None)
    if found is None:
        raise BadEdit("That section is no longer there; somebody removed it meanwhile.")
    return found


def place_of(score: Score, args: Args) -> tuple[int, Fraction]:
    """The arguments bar and place as a place of the score; BadEdit outside of it."""
    bar, text = given(args, "bar", int), given(args, "place", str)
    try:
        place = read_place(text)
    except BadScore as problem:
        raise BadEdit(str(problem)) from None
    if not 1 <= bar <= score.bar_count:
        raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
    if not 0 <= place < score.meters[bar - 1].beats:
        raise BadEdit(f"The place {text} lies outside bar {bar} ({score.meters[bar - 1]}).")
    return bar, place


def put(score: Score, stroke: Stroke) -> Score:
    """The score with a stroke; BadEdit where its part is struck already."""
    for other in score.strokes.values():
        if other.id != stroke.id and (other.bar, other.place, other.part) == (
            stroke.bar,
            stroke.place,
            stroke.part,
        ):
            raise BadEdit(f"There is a {part(stroke.part).label.lower()} at that place already.")
    return replace(score, strokes={**score.strokes, stroke.id: stroke})


def add_stroke(score: Score, args: Args) -> Score:
    """id, bar, place, part, limb; optionally dynamic, loudness, ornament, choked."""
    name = given(args, "id", str)
    if name in score.strokes:
        raise BadEdit("That stroke has been added already.")
    bar, place = place_of(score, args)
    dynamic = args.get("dynamic", "normal")
    stroke = _valid(
        lambda: Stroke(
            id=name,
            bar=bar,
            place=place,
            part=given(args, "part", str),
            limb=given(args, "limb", str),
            dynamic=dynamic,
            loudness=_share(args, "loudness", CLASS_LOUDNESS.get(dynamic, 0.7)),
            ornament=args.get("ornament"),
            choked=args.get("choked") is True,
            time=None,
            origin="written",
        )
    )
    return put(score, stroke)


def remove_stroke(score: Score, args: Args) -> Score:
    """id"""
    gone = _stroke(score, args)
    return replace(score, strokes={k: s for k, s in score.strokes.items() if k != gone.id})


def move_stroke(score: Score, args: Args) -> Score:
    """id, bar, place. The measured time stays with the stroke."""
    bar, place = place_of(score, args)
    return put(score, _stroke(score, args).changed(bar=bar, place=place, origin="written"))


def set_part(score: Score, args: Args) -> Score:
    """id, part"""
    stroke, name = _stroke(score, args), given(args, "part", str)
    return put(score, _valid(lambda: stroke.changed(part=name, origin="written")))


def set_limb(score: Score, args: Args) -> Score:
    """id, limb"""
    stroke, limb = _stroke(score, args), given(args, "limb", str)
    return put(score, _valid(lambda: stroke.changed(limb=limb, origin="written")))


def set_dynamic(score: Score, args: Args) -> Score:
    """id, dynamic (ghost, normal, accent)"""
    stroke, dynamic = _stroke(score, args), given(args, "dynamic", str)
    loudness = CLASS_LOUDNESS.get(dynamic, 0.7)
    changed = _valid(lambda: stroke.changed(dynamic=dynamic, loudness=loudness, origin="written"))
    return put(score, changed)


def set_loudness(score: Score, args: Args) -> Score:
    """id, loudness (0 to 1); its class follows."""
    loudness = _share(args, "loudness")
    return put(
        score,
        _stroke(score, args).changed(
            loudness=loudness, dynamic=class_of(loudness), origin="written"
        ),
    )


def set_ornament(score: Score, args: Args) -> Score:
    """id, ornament (null: none)"""
    stroke, name = _stroke(score, args), args.get("ornament")
    return put(score, _valid(lambda: stroke.changed(ornament=name, origin="written")))


def set_choked(score: Score, args: Args) -> Score:
    """id, choked"""
    return put(
        score, _stroke(score, args).changed(choked=given(args, "choked", bool), origin="written")
    )


def set_doubt(score: Score, args: Args) -> Score:
    """id, doubt (empty, assumed, doubtful, left_out); optionally reason. Saying that a
    stroke is in no doubt makes it sure."""
    stroke, doubt = _stroke(score, args), given(args, "doubt", str)
    reason = _words(args, "reason", 120) if args.get("reason") is not None else ""
    sure = stroke.confidence if doubt else 1.0
    return put(score, _valid(lambda: stroke.changed(doubt=doubt, reason=reason, confidence=sure)))


def _share(args: Args, name: str, usual: float | None = None) -> float:
    value = args.get(name, usual)
    if not isinstance(value, (int, float)) or isinstance(value, bool) or not 0 <= value <= 1:
        raise BadEdit(f"The edit needs “{name}” as a number from 0 to 1, not “{shown(value)}”.")
    return float(value)


def many(score: Score, args: Args) -> Score:
    """edits: a list of {operation, args} on strokes, done as one: all or none."""
    edits = given(args, "edits", list)
    if not 1 <= len(edits) <= _MOST_AT_ONCE:
        raise BadEdit(f"One edit changes 1 to {_MOST_AT_ONCE} strokes, not {len(edits)}.")
    for edit in edits:
        name = edit.get("operation") if isinstance(edit, Mapping) else None
        own = edit.get("args", {}) if isinstance(edit, Mapping) else None
        if name not in STROKE_OPERATIONS or not isinstance(own, Mapping):
            raise BadEdit(f"“{shown(name)}” can't be done together with others.")
        score = STROKE_OPERATIONS[name](score, own)
    return score


def _valid(make: Callable[[], Stroke]) -> Stroke:
    try:
        return make()
    except BadScore as problem:
        raise BadEdit(str(problem)) from None


def rename_section(score: Score, args: Args) -> Score:
    """id, name"""
    section, name = _section(score, args), _words(args, "name", 60)
    if not name:
        raise BadEdit("A section's name has 1 to 60 letters.")
    return replace(
        score,
        sections=tuple(replace(s, name=name) if s.id == section.id else s for s in score.sections),
    )


def move_border(score: Score, args: Args) -> Score:
    """id (the section behind the border), first_bar."""
    section, first = _section(score, args), given(args, "first_bar", int)
    index = score.sections.index(section)
    if index == 0:
        raise BadEdit("The first section begins with the song; its border can't be moved.")
    before = score.sections[index - 1]
    if not before.first_bar < first <= section.last_bar:
        raise BadEdit(
            f"The border of “{section.name}” must lie between bar {before.first_bar + 1} "
            f"and bar {section.last_bar}."
        )
    made = list(score.sections)
    made[index - 1] = replace(before, bars=first - before.first_bar)
    made[index] = replace(section, first_bar=first, bars=section.last_bar - first + 1)
    return replace(score, sections=tuple(made))


def _with_sections(score: Score, sections: list[Section]) -> Score:
    return replace(score, sections=tuple(sections))


def split_section(score: Score, args: Args) -> Score:
    """id, bar (the first of the new section), new (its id). It takes a label of its own."""
    section, bar = _section(score, args), given(args, "bar", int)
    name = given(args, "new", str)
    if not section.first_bar < bar <= section.last_bar:
        raise BadEdit(
            f"“{section.name}” can be split from bar {section.first_bar + 1} "
            f"to bar {section.last_bar}."
        )
    if any(s.id == name for s in score.sections):
        raise BadEdit("That section has been split already.")
    at = score.sections.index(section)
    made = list(score.sections)
    made[at] = replace(section, bars=bar - section.first_bar)
    label = _new_label(score)
    made.insert(at + 1, Section(name, label, label, bar, section.last_bar - bar + 1))
    return _with_sections(score, made)


def _new_label(score: Score) -> str:
    taken = {s.label for s in score.sections}
    letters = (chr(65 + k % 26) * (1 + k // 26) for k in range(26 * 9))
    return next(x for x in letters if x not in taken)


def merge_section(score: Score, args: Args) -> Score:
    """id: the section becomes part of the one before it."""
    section = _section(score, args)
    at = score.sections.index(section)
    if at == 0:
        raise BadEdit("The first section has none before it to be merged with.")
    before = score.sections[at - 1]
    note = "; ".join(n for n in (before.note, section.note) if n)
    made = list(score.sections)
    made[at - 1 : at + 1] = [replace(before, bars=before.bars + section.bars, note=note)]
    return _with_sections(score, made)


def link_section(score: Score, args: Args) -> Score:
    """id, like (the id of the section it is the same music as)."""
    section, like = _section(score, args), _section(score, {"id": args.get("like")})
    if section.id == like.id:
        raise BadEdit("A section is always the same as itself; choose another one.")
    made = [replace(s, label=like.label) if s.id == section.id else s for s in score.sections]
    return _with_sections(score, made)


def unlink_section(score: Score, args: Args) -> Score:
    """id: the section is music of its own from now on."""
    section = _section(score, args)
    if sum(s.label == section.label for s in score.sections) == 1:
        raise BadEdit(f"“{section.name}” is linked to no other section.")
    label = _new_label(score)
    made = [replace(s, label=label) if s.id == section.id else s for s in score.sections]
    return _with_sections(score, made)


def note_section(score: Score, args: Args) -> Score:
    """id, note (empty: none)."""
    section, note = _section(score, args), _words(args, "note", 400)
    made = [replace(s, note=note) if s.id == section.id else s for s in score.sections]
    return _with_sections(score, made)


def note_bar(score: Score, args: Args) -> Score:
    """bar, note (empty: none)."""
    bar, note = given(args, "bar", int), _words(args, "note", 400)
    if not 1 <= bar <= score.bar_count:
        raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
    notes = {**score.notes, bar: note}
    return replace(score, notes={b: n for b, n in notes.items() if n})


def note_sound(score: Score, args: Args) -> Score:
    """key (of SOUND_KEYS), note (empty: none); id: of the section, not given: of the song."""
    key, note = given(args, "key", str), _words(args, "note", 120)
    if key not in SOUND_KEYS:
        raise BadEdit(f"“{key}” is no sound note; there are {', '.join(SOUND_KEYS)}.")

    def noted(sound: dict[str, str]) -> dict[str, str]:
        return {k: v for k, v in {**sound, key: note}.items() if v}

    if args.get("id") is None:
        return replace(score, sound=noted(score.sound))
    section = _section(score, args)
    made = [replace(s, sound=noted(s.sound)) if s.id == section.id else s for s in score.sections]
    return _with_sections(score, made)


def _words(args: Args, name: str, longest: int) -> str:
    text = given(args, name, str).strip()
    if len(text) > longest:
        raise BadEdit(f"That is too long; the most is {longest} letters.")
    if sign := unprintable(text):
        raise BadEdit(f"That holds a sign that can't be printed ({sign}); take it out.")
    return text


def set_notation(score: Score, args: Args) -> Score:
    """notation: how the song is written, of orchesis/score/notation.py."""
    name = given(args, "notation", str)
    try:
        in_notation(score, name)
    except BadScore as problem:
        raise BadEdit(str(problem)) from None
    return replace(score, notation=name or "counted")


def confirm_bars(score: Score, args: Args) -> Score:
    """bar, last, confirmed (true or false)."""
    bar, last = given(args, "bar", int), given(args, "last", int)
    if not 1 <= bar <= last <= score.bar_count:
        raise BadEdit(f"The bars {bar} to {last} are not all in the song.")
    bars = frozenset(range(bar, last + 1))
    is_so = given(args, "confirmed", bool)
    return replace(score, confirmed=score.confirmed | bars if is_so else score.confirmed - bars)


#: Operations on single strokes.
STROKE_OPERATIONS: dict[str, Operation] = {
    f.__name__: f
    for f in (
        add_stroke, remove_stroke, move_stroke, set_part, set_limb, set_dynamic, set_loudness,
        set_ornament, set_choked, set_doubt,
    )
}  # fmt: skip
#: Operations that need no re-reading of the sound.
OPERATIONS: dict[str, Operation] = STROKE_OPERATIONS | {
    f.__name__: f
    for f in (
        many,
        rename_section,
        move_border,
        split_section,
        merge_section,
        link_section,
        unlink_section,
        note_section,
        note_bar,
        note_sound,
        set_notation,
        confirm_bars,
    )
}
