"""Bars written by typing count text, or by playing along with the recording."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from orchesis.errors import BadEdit, BadScore
from orchesis.formats import count_lanes
from orchesis.placing import quantise
from orchesis.score import KIT, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.edit import Bar, Edit, Id, Part, Seconds, Share, Text, must_have_bar
from orchesis.score.stroke import CLASS_LOUDNESS, class_of

_MOST_MOMENTS = 5000  # taps or strokes of one edit: four a second for twenty minutes
_ROUND = 0.5  # seconds round a bar in which a moment may still be written on it


class WriteBars(Edit):
    """Lanes of count text take the place of what bars held. new: the stem of new ids.

    The bars hold what the text says and nothing else. A stroke that was there on its place
    keeps what was measured of it; what was left out stays left out. BadEdit names line and
    column of what can't be read.
    """

    words: ClassVar[str] = "bars written as text"
    operation: Literal["write_bars"] = "write_bars"
    bar: Bar
    text: Text
    new: Id
    bars: Annotated[int, Field(ge=1, le=200)] = 1

    def apply(self, score: Score) -> Score:
        first, text, stem, size = self.bar, self.text, self.new, self.bars
        last = first + size - 1
        if not 1 <= first <= last <= score.bar_count:
            raise BadEdit(f"The bars {first} to {last} are not all in the song.")
        try:
            meters = score.meters[first - 1 : last]
            read, cues = count_lanes.read_bars(text, meters), count_lanes.read_cues(text, meters)
        except BadScore as problem:
            raise BadEdit(str(problem)) from None
        old = {
            (s.bar, s.part, s.place): s for s in score.strokes.values() if first <= s.bar <= last
        }
        strokes = {
            k: s
            for k, s in score.strokes.items()
            if not first <= s.bar <= last or s.doubt == "left_out"
        }
        for k, bar in enumerate(read):
            for n, stroke in enumerate(bar):
                stroke = stroke.changed(bar=first + k)
                before = old.get((stroke.bar, stroke.part, stroke.place))
                written = (
                    stroke.changed(id=f"{stem}-{k}-{n}")
                    if before is None
                    else _kept(before, stroke)
                )
                strokes[written.id] = written
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


class SetCue(Edit):
    """The lane cue of count text, places and words in quotes; empty: none."""

    words: ClassVar[str] = "cue"
    operation: Literal["set_cue"] = "set_cue"
    bar: Bar
    text: Text

    def apply(self, score: Score) -> Score:
        bar, text = self.bar, self.text
        must_have_bar(score, bar)
        try:
            read_cues = count_lanes.read_cues(f"cue: {text}", score.meters[bar - 1 : bar])
        except BadScore as problem:
            raise BadEdit(str(problem)) from None
        cues = {b: c for b, c in score.cues.items() if b != bar}
        return replace(score, cues={**cues, bar: read_cues[1]} if 1 in read_cues else cues)


class CueOfBar(BaseModel):
    """A bar and its lane cue, as SetCue takes it."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)
    bar: Bar
    text: Text


class SetCues(Edit):
    """The cues of several bars at once."""

    words: ClassVar[str] = "cues"
    operation: Literal["set_cues"] = "set_cues"
    cues: Annotated[list[CueOfBar], Field(min_length=1, max_length=64)]

    def apply(self, score: Score) -> Score:
        for entry in self.cues:
            score = SetCue(bar=entry.bar, text=entry.text).apply(score)
        return score


class TapCue(Edit):
    """The band's rhythm as it was tapped along with the recording (seconds).

    Each bar that a tap falls in gets that rhythm as its cue; words that stand over it stay.
    """

    words: ClassVar[str] = "cue tapped"
    operation: Literal["tap_cue"] = "tap_cue"
    moments: Annotated[list[Seconds], Field(min_length=1, max_length=_MOST_MOMENTS)]

    def apply(self, score: Score) -> Score:
        moments = sorted(self.moments)
        cues = dict(score.cues)
        for bar in range(1, score.bar_count + 1):
            text = cue_text(score, bar, moments)
            if text:
                read_cues = count_lanes.read_cues(f"cue: {text}", score.meters[bar - 1 : bar])
                words = score.cues[bar].words if bar in score.cues else ""
                cues[bar] = replace(read_cues[1], words=words)
        if cues == score.cues:
            raise BadEdit("No tap falls on a bar of the song.")
        return replace(score, cues=cues)


def _kept(before: Stroke, written: Stroke) -> Stroke:
    """A stroke that was there already, as the text says it now."""
    fields: dict[str, Any] = {
        k: getattr(written, k)
        for k in ("dynamic", "ornament", "choked", "doubt")
        if getattr(written, k) != getattr(before, k)
    }
    if written.limb != before.limb:
        fields |= {"limb": written.limb, "limb_by": "person"}
    is_set = written.loudness != CLASS_LOUDNESS[written.dynamic]
    if "dynamic" in fields or (is_set and abs(written.loudness - before.loudness) > 0.005):
        fields["loudness"] = written.loudness
    if before.doubt == "assumed" and written.doubt == "":
        fields.pop("doubt", None)
    if fields.keys() - {"limb", "limb_by"}:
        fields["placed_by"] = "person"
    return before.changed(**fields) if fields else before


class PlayedHit(BaseModel):
    """One stroke as it was played: seconds of the recording, part, loudness."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True, allow_inf_nan=False)
    time: Seconds
    part: Part
    loudness: Share = 0.7


class PlayIn(Edit):
    """What was played along with the recording, written as what was heard is. new: the stem of ids.

    A stroke that stands on its place already stays as it is.
    """

    words: ClassVar[str] = "strokes played in"
    operation: Literal["play_in"] = "play_in"
    hits: Annotated[list[PlayedHit], Field(min_length=1, max_length=_MOST_MOMENTS)]
    new: Id

    def apply(self, score: Score) -> Score:
        hits, stem = self.hits, self.new
        starts = score.bar_beats()
        kept = []
        for hit in hits:
            position = score.pulse.beat(hit.time)
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
            loudness = max(hit.loudness, 0.05)
            stroke = Stroke(
                id=f"{stem}-{n}",
                bar=bar,
                place=inside - starts[bar - 1],
                part=hit.part,
                limb=KIT[hit.part].limb,
                loudness=loudness,
                dynamic=class_of(loudness),
            )
            if (stroke.bar, stroke.place, stroke.part) not in taken:
                taken.add((stroke.bar, stroke.place, stroke.part))
                strokes[stroke.id] = stroke
        return replace(score, strokes=strokes)
