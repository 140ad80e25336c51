"""Bars written by typing count text, or by playing along with the recording."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any

from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count
from orchesis.reading import quantise
from orchesis.score import KIT, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.edits import given
from orchesis.score.stroke import class_of
from orchesis.score.untrusted import is_moment

_MOST_MOMENTS = 5000  # taps or strokes of one edit: four a second for twenty minutes
_ROUND = 0.5  # seconds round a bar in which a moment may still be written on it


def write_bars(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, text (lanes of count text), new (the stem of new ids); optionally bars (1).

    The bars hold what the text says and nothing else. A stroke that was there on its place
    keeps what was measured of it; what was left out stays left out. BadEdit names line and
    column of what can't be read.
    """
    first, text, stem = given(args, "bar", int), given(args, "text", str), given(args, "new", str)
    size = given(args, "bars", int) if args.get("bars") is not None else 1
    last = first + size - 1
    if not 1 <= first <= last <= score.bar_count:
        raise BadEdit(f"The bars {first} to {last} are not all in the song.")
    try:
        meters = score.meters[first - 1 : last]
        read, cues = count.read_bars(text, meters), count.read_cues(text, meters)
    except BadScore as problem:
        raise BadEdit(str(problem)) from None
    old = {(s.bar, s.part, s.place): s for s in score.strokes.values() if first <= s.bar <= last}
    strokes = {
        k: s
        for k, s in score.strokes.items()
        if not first <= s.bar <= last or s.doubt == "left_out"
    }
    for k, bar in enumerate(read):
        for n, stroke in enumerate(bar):
            stroke = stroke.changed(bar=first + k)
            own = old.get((stroke.bar, stroke.part, stroke.place))
            made = stroke.changed(id=f"{stem}-{k}-{n}") if own is None else _kept(own, stroke)
            strokes[made.id] = made
    kept = {b: c for b, c in score.cues.items() if not first <= b <= last}
    new = {first + k - 1: c for k, c in cues.items() if k <= size}
    return replace(score, strokes=strokes, cues={**kept, **new})


def cue_text(score: Score, bar: int, moments: Sequence[float]) -> str:
    """The moments (seconds, rising) that fall on a bar, written on its grid as a cue's text."""
    meter, start = score.meters[bar - 1], score.bar_beats()[bar - 1]
    lo, hi = score.seconds(bar) - _ROUND, score.seconds(bar + 1) + _ROUND
    near = moments[bisect_left(moments, lo) : bisect_right(moments, hi)]
    positions = [score.pulse.beat(t) for t in near]
    inside = [p for p in positions if start - 0.12 <= p < start + meter.beats - 0.12]
    if not inside:
        return ""
    period = (score.seconds(bar + 1) - score.seconds(bar)) / meter.beats
    written = quantise.places(inside, [period] * len(inside), [bar] * len(inside), score.swing)
    places = sorted({max(p - start, Fraction(0)) for p in written})
    return " ".join(place_text(p, meter) for p in places if p < meter.beats)


def set_cue(score: Score, args: Mapping[str, Any]) -> Score:
    """bar, text: the lane cue of count text, places and words in quotes (empty: none)."""
    bar, text = given(args, "bar", int), given(args, "text", str)
    if not 1 <= bar <= score.bar_count:
        raise BadEdit(f"There is no bar {bar}; the song has bars 1 to {score.bar_count}.")
    try:
        found = count.read_cues(f"cue: {text}", score.meters[bar - 1 : bar])
    except BadScore as problem:
        raise BadEdit(str(problem)) from None
    cues = {b: c for b, c in score.cues.items() if b != bar}
    return replace(score, cues={**cues, bar: found[1]} if 1 in found else cues)


def tap_cue(score: Score, args: Mapping[str, Any]) -> Score:
    """moments: seconds of the recording at which the band's rhythm was tapped.

    Each bar that a tap falls in gets that rhythm as its cue; words that stand over it stay.
    """
    moments = given(args, "moments", list)
    if not moments or not all(is_moment(t) for t in moments):
        raise BadEdit("A tapped cue is a list of seconds.")
    if len(moments) > _MOST_MOMENTS:
        raise BadEdit(f"A cue is tapped with {_MOST_MOMENTS} taps at the most.")
    moments = sorted(float(t) for t in moments)
    cues = dict(score.cues)
    for bar in range(1, score.bar_count + 1):
        text = cue_text(score, bar, moments)
        if text:
            found = count.read_cues(f"cue: {text}", score.meters[bar - 1 : bar])
            words = score.cues[bar].words if bar in score.cues else ""
            cues[bar] = replace(found[1], words=words)
    if cues == score.cues:
        raise BadEdit("No tap falls on a bar of the song.")
    return replace(score, cues=cues)


def _kept(own: Stroke, said: Stroke) -> Stroke:
    """A stroke that was there already, as the text says it now."""
    fields: dict[str, Any] = {
        k: getattr(said, k)
        for k in ("limb", "dynamic", "ornament", "choked", "doubt")
        if getattr(said, k) != getattr(own, k)
    }
    is_set = said.loudness != count.CLASS_LOUDNESS[said.dynamic]
    if "dynamic" in fields or (is_set and abs(said.loudness - own.loudness) > 0.005):
        fields["loudness"] = said.loudness
    if own.doubt == "assumed" and said.doubt == "":
        fields.pop("doubt", None)
    return own.changed(**fields, origin="written") if fields else own


def play_in(score: Score, args: Mapping[str, Any]) -> Score:
    """hits: a list of {time (seconds of the recording), part, loudness}; new: the stem of ids.

    What was played along with the recording, written by the same reader as what was heard. A
    stroke that stands on its place already stays as it is.
    """
    hits, stem = given(args, "hits", list), given(args, "new", str)
    if len(hits) > _MOST_MOMENTS:
        raise BadEdit(f"At most {_MOST_MOMENTS} strokes are played in at once.")
    starts = score.bar_beats()
    kept = []
    for hit in hits:
        time = hit.get("time") if isinstance(hit, Mapping) else None
        loudness = hit.get("loudness", 0.7) if isinstance(hit, Mapping) else None
        if not is_moment(time) or not is_moment(loudness) or hit.get("part") not in KIT:
            raise BadEdit("What was played is a list of moments and parts of the kit.")
        position = score.pulse.beat(float(time))
        if -0.5 <= position < starts[-1]:
            kept.append((position, hit))
    if not kept:
        raise BadEdit("Nothing was played inside the bars of the song.")
    kept.sort(key=lambda pair: pair[0])
    positions = [p for p, _ in kept]
    beats = [min(max(int(p), 0), starts[-1] - 1) for p in positions]
    times = score.pulse.times
    periods = [times[k + 1] - times[k] for k in beats]
    bars = [bisect_right(starts, k) for k in beats]
    places = quantise.places(positions, periods, bars, score.swing)
    strokes = dict(score.strokes)
    taken = {(s.bar, s.place, s.part) for s in strokes.values()}
    for n, ((_, hit), beat) in enumerate(zip(kept, places, strict=True)):
        inside = max(beat, Fraction(0))
        bar = bisect_right(starts, int(inside))
        if bar > score.bar_count:
            continue
        loudness = min(max(float(hit.get("loudness", 0.7)), 0.05), 1.0)
        made = Stroke(
            id=f"{stem}-{n}", bar=bar, place=inside - starts[bar - 1], part=hit["part"],
            limb=count.default_limb(hit["part"]), loudness=loudness, dynamic=class_of(loudness),
        )  # fmt: skip
        if (made.bar, made.place, made.part) not in taken:
            taken.add((made.bar, made.place, made.part))
            strokes[made.id] = made
    return replace(score, strokes=strokes)
