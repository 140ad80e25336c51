"""What a person may change of a score: small named operations, each a pure function.

An operation takes (score, arguments) and gives the new score, or raises BadEdit with one
sentence. Undo needs no operation of its own: ``difference`` tells what an edit changed,
``patched`` puts it back.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from fractions import Fraction
from typing import Any

from orchesis.errors import BadEdit, BadScore
from orchesis.score.kit import part
from orchesis.score.meter import Meter
from orchesis.score.pulse import PulseMap
from orchesis.score.song import Score, Section
from orchesis.score.stroke import CLASS_LOUDNESS, Stroke

Args = Mapping[str, Any]
Operation = Callable[[Score, Args], Score]


def _given(args: Args, name: str, kind: type) -> Any:
    value = args.get(name)
    if not isinstance(value, kind) or isinstance(value, bool) is not (kind is bool):
        raise BadEdit(f"The edit needs “{name}” ({kind.__name__}), not {value!r}.")
    return value


def _stroke(score: Score, args: Args) -> Stroke:
    found = score.strokes.get(_given(args, "id", str))
    if found is None:
        raise BadEdit("That stroke is no longer there; somebody removed it meanwhile.")
    return found


def _section(score: Score, args: Args) -> Section:
    wanted = _given(args, "id", str)
    found = next((s for s in score.sections if s.id == wanted), None)
    if found is None:
        raise BadEdit("That section is no longer there; somebody removed it meanwhile.")
    return found


def _place(score: Score, args: Args) -> tuple[int, Fraction]:
    bar, text = _given(args, "bar", int), _given(args, "place", str)
    try:
        place = Fraction(text)
    except (ValueError, ZeroDivisionError):
        raise BadEdit(f"“{text}” is not a place; give beats as a fraction like 3/4.") from None
    if not 1 <= bar <= score.bar_count:
        raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
    if not 0 <= place < score.meters[bar - 1].beats or place.denominator > 48:
        raise BadEdit(f"The place {text} lies outside bar {bar} ({score.meters[bar - 1]}).")
    return bar, place


def _put(score: Score, stroke: Stroke) -> Score:
    for other in score.strokes.values():
        if other.id != stroke.id and (other.bar, other.place, other.part) == (
            stroke.bar,
            stroke.place,
            stroke.part,
        ):
            raise BadEdit(f"There is a {part(stroke.part).label.lower()} at that place already.")
    return replace(score, strokes={**score.strokes, stroke.id: stroke})


def add_stroke(score: Score, args: Args) -> Score:
    """id, bar, place, part, limb; optionally dynamic."""
    name = _given(args, "id", str)
    if name in score.strokes:
        raise BadEdit("That stroke has been added already.")
    bar, place = _place(score, args)
    dynamic = args.get("dynamic", "normal")
    stroke = _valid(
        lambda: Stroke(
            id=name,
            bar=bar,
            place=place,
            part=_given(args, "part", str),
            limb=_given(args, "limb", str),
            dynamic=dynamic,
            loudness=CLASS_LOUDNESS.get(dynamic, 0.7),
            time=None,
            origin="written",
        )
    )
    return _put(score, stroke)


def remove_stroke(score: Score, args: Args) -> Score:
    """id"""
    gone = _stroke(score, args)
    return replace(score, strokes={k: s for k, s in score.strokes.items() if k != gone.id})


def move_stroke(score: Score, args: Args) -> Score:
    """id, bar, place. The measured time stays with the stroke."""
    bar, place = _place(score, args)
    return _put(score, _stroke(score, args).changed(bar=bar, place=place, origin="written"))


def set_part(score: Score, args: Args) -> Score:
    """id, part"""
    stroke, name = _stroke(score, args), _given(args, "part", str)
    return _put(score, _valid(lambda: stroke.changed(part=name, origin="written")))


def set_limb(score: Score, args: Args) -> Score:
    """id, limb"""
    stroke, limb = _stroke(score, args), _given(args, "limb", str)
    return _put(score, _valid(lambda: stroke.changed(limb=limb, origin="written")))


def set_dynamic(score: Score, args: Args) -> Score:
    """id, dynamic (ghost, normal, accent)"""
    stroke, dynamic = _stroke(score, args), _given(args, "dynamic", str)
    loudness = CLASS_LOUDNESS.get(dynamic, 0.7)
    changed = _valid(lambda: stroke.changed(dynamic=dynamic, loudness=loudness, origin="written"))
    return _put(score, changed)


def _valid(make: Callable[[], Stroke]) -> Stroke:
    try:
        return make()
    except BadScore as problem:
        raise BadEdit(str(problem)) from None


def rename_section(score: Score, args: Args) -> Score:
    """id, name"""
    section, name = _section(score, args), _given(args, "name", str).strip()
    if not 1 <= len(name) <= 60:
        raise BadEdit("A section's name has 1 to 60 letters.")
    return replace(
        score,
        sections=tuple(replace(s, name=name) if s.id == section.id else s for s in score.sections),
    )


def move_border(score: Score, args: Args) -> Score:
    """id (the section behind the border), first_bar."""
    section, first = _section(score, args), _given(args, "first_bar", int)
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


#: Operations that need no re-reading of the sound.
OPERATIONS: dict[str, Operation] = {
    f.__name__: f
    for f in (
        add_stroke,
        remove_stroke,
        move_stroke,
        set_part,
        set_limb,
        set_dynamic,
        rename_section,
        move_border,
    )
}


def difference(old: Score, new: Score) -> dict[str, Any]:
    """What turns ``old`` into ``new``: strokes by id (null: gone), and whatever else differs."""
    patch: dict[str, Any] = {}
    strokes: dict[str, Any] = {
        k: s.to_json() for k, s in new.strokes.items() if old.strokes.get(k) != s
    }
    strokes |= {k: None for k in old.strokes if k not in new.strokes}
    if strokes:
        patch["strokes"] = strokes
    before, after = _frame(old), _frame(new)
    patch |= {k: after[k] for k in after if after[k] != before[k]}
    return patch


def _frame(score: Score) -> dict[str, Any]:
    return {
        "meters": [str(m) for m in score.meters],
        "pulse": list(score.pulse.times),
        "swing": list(score.swing),
        "sections": [s.to_json() for s in score.sections],
    }


def patched(score: Score, patch: Args) -> Score:
    """The score with a difference applied."""
    strokes = dict(score.strokes)
    for key, data in patch.get("strokes", {}).items():
        if data is None:
            strokes.pop(key, None)
        else:
            strokes[key] = Stroke.from_json(data)
    frame = {**_frame(score), **{k: v for k, v in patch.items() if k != "strokes"}}
    return replace(
        score,
        meters=tuple(Meter.parse(m) for m in frame["meters"]),
        pulse=PulseMap.of(frame["pulse"]),
        swing=(frame["swing"][0], frame["swing"][1]),
        sections=tuple(Section.from_json(s) for s in frame["sections"]),
        strokes=strokes,
    )
