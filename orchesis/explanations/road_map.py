"""The road map of a song, by rules: what a substitute needs of each section and nothing more.

A section is told by its groove once (where an earlier one plays the same music: by its name), by
how many bars it has, loudly where phrases of four do not fill it, by its rests, stops, fills and
what comes in some bars only, and by what the band does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from orchesis import grooves
from orchesis.explanations.common import bars_text, spot_text
from orchesis.explanations.fills import fill_resolution
from orchesis.explanations.form import form_event
from orchesis.fills import fill_facts
from orchesis.form import form_events
from orchesis.score import KIT, Meter, Score, Section, Stroke
from orchesis.score.counting import place_text
from orchesis.score.fill import Fill
from orchesis.score.groove import Groove
from orchesis.score.untrusted import printable

_MOST_BARS = 4  # of a groove's unit that are shown
_MOST_OPTIONS = 3
_STOP = 3  # strokes up to which a bar of hits without time is a stop
_PHRASE = 4  # bars of a usual phrase


@dataclass(frozen=True)
class Rhythm:
    """A rhythm to be drawn. places: felt beats from the start of a bar of this meter. goes_on: the
    time goes on under it. pitches: of what one sings, one a place, where they are known."""

    places: tuple[Fraction, ...]
    meter: Meter
    goes_on: bool
    pitches: tuple[int, ...] = ()


@dataclass(frozen=True)
class RoadLine:
    """One thing said of a section. is_loud: what one must not miss. rhythm: of the hits it
    tells."""

    text: str
    is_loud: bool = False
    rhythm: Rhythm | None = None


@dataclass(frozen=True)
class RoadSection:
    """bars: how many. shape: how they divide where that is unusual ("4 + 3"), "". like: the
    section whose groove it has, "". core: strokes of its groove, bars counted from 1 in its unit;
    length: of the unit. lines: what else is said."""

    name: str
    first_bar: int
    seconds: float
    bars: int
    shape: str
    like: str
    core: tuple[Stroke, ...]
    length: int
    lines: tuple[RoadLine, ...]


def road_map(score: Score) -> list[RoadSection]:
    """The sections of a song as it is played, in order. The score as it is counted."""
    played = score.played()
    read = grooves.grooves(score)
    fills = fill_facts.describe_fills(score)
    events = form_events.events(played, {f.span.bar for f in fills})
    sections: list[RoadSection] = []
    for section in played.sections:
        grooves_here = [g for g in read if section.first_bar <= g.first_bar <= section.last_bar]
        main = max(grooves_here, key=lambda g: g.bars, default=None)
        like = _like(main, sections, section, played)
        lines = [
            *_words(section),
            *_stops(played, section),
            *_rests(events, section),
            *_fills(fills, played, section),
            *_options(main, played),
            *_cues(played, section),
            *_ending(played, section, events),
        ]
        core = () if like or main is None else tuple(s for s in main.core if s.bar <= _MOST_BARS)
        length = min(main.length, _MOST_BARS) if main is not None else 1
        sections.append(
            RoadSection(
                printable(section.name),
                section.first_bar,
                played.seconds(section.first_bar),
                section.bars,
                _shape(section.bars),
                like,
                core,
                length,
                tuple(lines),
            )
        )
    return sections


def _like(g: Groove | None, before: Sequence[RoadSection], section: Section, score: Score) -> str:
    """The earlier section that plays the same groove, by its name."""
    if g is None or g.relation is None or g.relation.how != "same":
        return ""
    of = g.relation.of or next(
        (s.name for s in score.sections if s.label == section.label and s.id != section.id), ""
    )
    names = [r.name for r in before if r.name == of] or [
        r.name for r in before if r.first_bar <= g.relation.bar < r.first_bar + r.bars
    ]
    return names[0] if names else ""


def _shape(bars: int) -> str:
    """How an unusual number of bars divides."""
    if bars % _PHRASE == 0 or bars < _PHRASE:
        return ""
    whole, rest = divmod(bars, _PHRASE)
    return (
        " + ".join([str(_PHRASE)] * whole + [str(rest)]) if whole < 5 else f"{whole} x 4 + {rest}"
    )


def _words(section: Section) -> list[RoadLine]:
    sentences = [section.note] if section.note else []
    sentences += [f"{key}: {text}" for key, text in section.sound.items() if text]
    return [RoadLine(printable(t)) for t in sentences]


def _stops(score: Score, section: Section) -> list[RoadLine]:
    """Bars of a few hits without time, where the section has time elsewhere."""

    bars = range(section.first_bar, section.last_bar + 1)
    if sum(_has_time(score, bar) for bar in bars) < section.bars / 2:
        return []
    stops = []
    for bar in bars:
        hits = sorted({s.place for s in score.strokes_of(bar)})
        is_end = bar == score.bar_count and len(hits) == 1  # told as the ending
        if hits and len(hits) <= _STOP and not _has_time(score, bar) and not is_end:
            meter = score.meters[bar - 1]
            at = " ".join(place_text(p, meter) for p in hits)
            stops.append(
                RoadLine(
                    f"stop, bar {_within(bar, section)}: {at}",
                    True,
                    Rhythm(tuple(hits), meter, False),
                )
            )
    return stops


def _has_time(score: Score, bar: int) -> bool:
    return any(KIT[s.part].role == "time" for s in score.strokes_of(bar))


def _within(bar: int, section: Section) -> int:
    """A bar's number in its section: how a band counts."""
    return bar - section.first_bar + 1


def _rests(events: Sequence[form_events.FormEvent], section: Section) -> list[RoadLine]:
    return [
        RoadLine(f"{form_event(e)} from bar {_within(e.bar, section)}", True)
        for e in events
        if e.kind == "rest" and section.first_bar <= e.bar <= section.last_bar
    ]


def _fills(fills: Sequence[Fill], score: Score, section: Section) -> list[RoadLine]:
    """Fills as a word and a rhythm; alike ones together."""
    groups: dict[str, list[int]] = {}
    for f in fills:
        if not section.first_bar <= f.span.bar <= section.last_bar:
            continue
        groups.setdefault(_fill(f, score), []).append(_within(f.span.bar, section))
    return [RoadLine(f"fill, {bars_text(bars)}: {text}") for text, bars in groups.items()]


def _fill(f: Fill, score: Score) -> str:
    meter = score.meters[f.span.bar - 1]
    strokes = [score.strokes[i] for i in f.strokes if score.strokes[i].bar == f.span.bar]
    places = sorted({s.place for s in strokes})
    behind = min(f.span.last_bar + 1, len(score.meters))
    rhythm = "on " + " ".join(place_text(p, meter) for p in places)
    if len(places) > 8:
        rhythm = f"from {place_text(f.span.place, meter)}"
    played = ", ".join(f"{name}s" for name in f.subdivisions)
    return f"{played} {rhythm}; {fill_resolution(f, score.meters[behind - 1])}"


def _options(g: Groove | None, score: Score) -> list[RoadLine]:
    if g is None:
        return []
    options = []
    for o in sorted(g.options, key=lambda o: -o.share)[:_MOST_OPTIONS]:
        meter = score.meters[g.first_bar - 1]
        options.append(RoadLine(f"sometimes {spot_text(o.spot, meter)}"))
    return options


def _cues(score: Score, section: Section) -> list[RoadLine]:
    cues = []
    for bar in range(section.first_bar, section.last_bar + 1):
        cue = score.cues.get(bar)
        if cue is None:
            continue
        meter = score.meters[bar - 1]
        says = [f"“{cue.words}”"] if cue.words else []
        says += [" ".join(place_text(p, meter) for p in cue.places)] if cue.places else []
        hits = None
        if cue.places:
            hits = Rhythm(cue.places, meter, _has_time(score, bar), cue.pitches)
        cues.append(RoadLine(f"band, bar {_within(bar, section)}: {' '.join(says)}", rhythm=hits))
    return cues


def _ending(
    score: Score, section: Section, events: Sequence[form_events.FormEvent]
) -> list[RoadLine]:
    """How the song ends: a fade, a last hit, or the groove to the last bar."""
    if section.last_bar < score.bar_count:
        return []
    if any(e.kind == "fade" for e in events):
        return [RoadLine("fades out", True)]
    last = max((b for b in score.by_bar() if score.strokes_of(b)), default=score.bar_count)
    places = sorted({s.place for s in score.strokes_of(last)})
    if len(places) == 1:
        at = place_text(places[0], score.meters[last - 1])
        return [RoadLine(f"ends on {at} of bar {_within(last, section)}", True)]
    beats = score.meters[last - 1].beats
    if places and places[-1] >= Fraction(beats - 1):
        return [RoadLine("plays to the last bar's end", True)]
    return (
        [
            RoadLine(
                f"last bar: {' '.join(place_text(p, score.meters[last - 1]) for p in places)}", True
            )
        ]
        if places
        else []
    )
