"""What was changed in one bar, offered to the bars that had the same reading.

A transcriber who finds a ghost in bar 3 looks whether the other bars of that groove have it
too. After an edit the bars are found in which the same change is possible and the rest reads
alike; ``spread`` makes it there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from orchesis.errors import BadEdit
from orchesis.reading.compare import compare, words
from orchesis.score import Score, Stroke
from orchesis.score.edits import given

_LIKE = 0.6  # least share of the other strokes that two bars have in common
_MOST = 32  # changes; more is another bar, not a correction
#: What a change carries to another bar.
_CARRIED = ("part", "place", "limb", "dynamic", "loudness", "ornament", "choked", "doubt", "reason")


def offer(old: Score, new: Score) -> dict[str, Any] | None:
    """{bar, bars, changes, says} of an edit that changed strokes of one bar, or None where it
    did anything else or no other bar reads alike.

    bars: those where the change would fit, the likest first; changes: [{was, now}] for
    ``spread``; says: what the edit did, in words.
    """
    if old.meters != new.meters:
        return None
    ids = [
        k
        for k in {**old.strokes, **new.strokes}
        if _differs(old.strokes.get(k), new.strokes.get(k))
    ]
    pairs = [(old.strokes.get(k), new.strokes.get(k)) for k in ids]
    bars = {s.bar for pair in pairs for s in pair if s is not None}
    if len(bars) != 1 or not 0 < len(pairs) <= _MOST:
        return None
    [bar] = bars
    changes = [{"was": _told(was), "now": _told(now)} for was, now in pairs]
    by_bar = old.by_bar()
    touched = {s.place for pair in pairs for s in pair if s is not None}
    own = _rest(by_bar.get(bar, []), touched)
    found = []
    for other in range(1, old.bar_count + 1):
        is_free = other != bar and other not in old.confirmed
        if is_free and old.meters[other - 1] == old.meters[bar - 1]:
            strokes = by_bar.get(other, [])
            rest = _rest(strokes, touched)
            like = len(own & rest) / len(own | rest) if own | rest else 0.0
            if like >= _LIKE and all(_fits(strokes, was, now) for was, now in pairs):
                found.append((-like, other))
    if not found:
        return None
    told = compare([a for a, _ in pairs if a], [b for _, b in pairs if b], old.meters[bar - 1])
    return {
        "bar": bar,
        "bars": [other for _, other in sorted(found)],
        "changes": changes,
        "says": "; ".join(words(told, old.meters[bar - 1])),
    }


def _differs(a: Stroke | None, b: Stroke | None) -> bool:
    if a is None or b is None:
        return a is not b
    return a.bar != b.bar or any(getattr(a, k) != getattr(b, k) for k in _CARRIED)


def _told(s: Stroke | None) -> dict[str, Any] | None:
    if s is None:
        return None
    data = s.to_json()
    return {"id": s.id, **{k: data[k] for k in _CARRIED}}


def _rest(strokes: Sequence[Stroke], touched: set) -> set[tuple[str, str]]:
    """What a bar reads beside the places that were touched."""
    return {(s.part, str(s.place)) for s in strokes if s.place not in touched}


def _fits(strokes: Sequence[Stroke], was: Stroke | None, now: Stroke | None) -> bool:
    """Whether a bar has what was changed, as it was, and room for what it became."""
    if was is not None:
        own = next((s for s in strokes if (s.part, s.place) == (was.part, was.place)), None)
        if own is None or (now is not None and not _differs_there(own, now)):
            return False
        if now is not None and was.dynamic != now.dynamic and own.dynamic != was.dynamic:
            return False
    if now is not None and (was is None or (was.part, was.place) != (now.part, now.place)):
        return all((s.part, s.place) != (now.part, now.place) for s in strokes)
    return True


def _differs_there(own: Stroke, now: Stroke) -> bool:
    carried = [k for k in _CARRIED if k != "loudness"]
    return any(getattr(own, k) != getattr(now, k) for k in carried) or (
        abs(own.loudness - now.loudness) > 0.02
    )


def spread(score: Score, args: Mapping[str, Any]) -> Score:
    """bars, changes (as ``offer`` gives them): the same change in other bars, as one edit.

    Bars in which it does not fit stay as they are; BadEdit if it fits in none.
    """
    bars, changes = given(args, "bars", list), given(args, "changes", list)
    strokes = dict(score.strokes)
    by_bar = score.by_bar()
    for bar in bars:
        if not isinstance(bar, int) or not 1 <= bar <= score.bar_count:
            raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
        own = {(s.part, s.place): s for s in by_bar.get(bar, [])}
        for change in changes:
            was, now = (_stroke(change.get(k), bar) for k in ("was", "now"))
            met = own.get((was.part, was.place)) if was is not None else None
            if was is not None and met is None:
                continue
            made = now and _changed(met, was, now)
            if made and (other := own.get((made.part, made.place))) and other is not met:
                continue
            if made and made.place < score.meters[bar - 1].beats:
                strokes[made.id] = made
            elif met is not None and now is None:
                strokes.pop(met.id, None)
    if strokes == score.strokes:
        raise BadEdit("That change fits in none of these bars any more.")
    return replace(score, strokes=strokes)


def _changed(met: Stroke | None, was: Stroke | None, now: Stroke) -> Stroke:
    """The stroke of another bar after the change; a new one where there was none."""
    if met is None or was is None:
        return replace(now, id=f"{now.id}b{now.bar}")
    carried = {k: getattr(now, k) for k in _CARRIED if getattr(was, k) != getattr(now, k)}
    return replace(met, **carried, origin="written")


def _stroke(data: Any, bar: int) -> Stroke | None:
    if data is None:
        return None
    if not isinstance(data, Mapping):
        raise BadEdit("A change is told by what was and what is now.")
    return Stroke.from_json({**data, "bar": bar, "origin": "written"})
