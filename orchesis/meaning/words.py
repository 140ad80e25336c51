"""Findings in words: the one place where what was found out becomes sentences."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction
from typing import Any

import numpy as np

from orchesis.meaning import passages
from orchesis.meaning.alike import Offer
from orchesis.meaning.form_events import FormEvent
from orchesis.meaning.kick_and_bass import KickAndBass
from orchesis.meaning.kit_sounds import Sound
from orchesis.meaning.other_takes import Tally
from orchesis.meaning.reuse import Passage, Return, Reuse
from orchesis.meaning.review import Doubt
from orchesis.score import KIT, Meter, Score, Stroke
from orchesis.score.counting import place_text
from orchesis.score.decision import Decision
from orchesis.score.difference import Difference
from orchesis.score.feel import Feel, Placement, Swing
from orchesis.score.fill import Cell, Fill
from orchesis.score.groove import Groove, Option, Phrase, Relation, Spot

_MOST_NAMED = 8  # bars, after which there are only dots


def _label(part: str) -> str:
    return KIT[part].label.lower()


def _called(part: str, ghost: bool) -> str:
    return f"ghost {_label(part)}" if ghost else _label(part)


def _spot(s: Spot, meter: Meter) -> str:
    return f"{_called(s.part, s.ghost)} on {place_text(s.place, meter)}"


def _bars(bars: Sequence[int]) -> str:
    """“bar 5”, “3 bars”."""
    return f"bar {bars[0]}" if len(bars) == 1 else f"{len(bars)} bars"


# -- the form


def form_event(e: FormEvent) -> str:
    """What happens in the form at a bar."""
    match e.kind:
        case "enters" | "leaves":
            return f"{e.layer} {e.kind}"
        case "surface":
            by = " and ".join(f"a {x}" for x in e.by)
            how = f", announced by {by}" if by else ", without announcement"
            return f"{e.before} to {e.after}{how}"
        case "rest":
            return f"{e.bars} bar{'s' if e.bars > 1 else ''} of rest"
        case "meter":
            return e.meter
        case "disagrees":
            return "confirmed, but the sound lies elsewhere now"
        case "build":
            return f"builds by {e.rise:.0f} dB up to bar {e.last}"
        case "fade":
            return "fades out from here"
    raise ValueError(f"No words for {e.kind}.")


# -- bars against each other


def _stroke(s: Stroke) -> str:
    return _called(s.part, s.dynamic == "ghost")


def difference(d: Difference, meter: Meter) -> str:
    """One difference; "" for a stroke that is the same."""
    x, y = d.a, d.b
    if x is None or y is None:
        own = x or y
        assert own is not None
        return f"{_stroke(own)} on {place_text(own.place, meter)} is {'new' if y else 'gone'}"
    at = place_text(x.place, meter)
    match d.kind:
        case "moved":
            way = "later" if y.place > x.place else "earlier"
            return f"{_stroke(x)} moves from {at} to {place_text(y.place, meter)} ({way})"
        case "part":
            return f"on {at} {_stroke(y)} instead of {_stroke(x)}"
        case "louder" | "softer":
            to = "an accent" if y.dynamic == "accent" else y.dynamic
            now = f", now {to}" if x.dynamic != y.dynamic else ""
            return f"{_label(x.part)} on {at} is {d.kind}{now}"
        case "ornament":
            return (
                f"{_stroke(x)} on {at} is now {y.ornament or ('choked' if y.choked else 'plain')}"
            )
        case "limb":
            return f"{_stroke(x)} on {at} with {y.limb} instead of {x.limb}"
    return ""


def differences(found: Iterable[Difference], meter: Meter) -> list[str]:
    """What differs, in sentences; what happens alike at several places is said once."""
    groups: dict[tuple[str, str, str], list[Difference]] = {}
    for d in found:
        if d.kind in ("part", "added", "removed"):
            key = (d.kind, _stroke(d.a) if d.a else "", _stroke(d.b) if d.b else "")
        else:
            key = (d.kind, difference(d, meter), "")
        if d.kind != "same":
            groups.setdefault(key, []).append(d)
    told = []
    for (kind, was, now), own in groups.items():
        strokes = [d.a or d.b for d in own]
        places = ", ".join(place_text(s.place, meter) for s in strokes if s is not None)
        if len(own) == 1:
            told.append(difference(own[0], meter))
        elif kind == "part":
            told.append(f"{now} instead of {was} on {places}")
        else:
            told.append(f"{was or now} on {places} {'are new' if kind == 'added' else 'are gone'}")
    return told


def offer(o: Offer) -> str:
    """What an edit did that would fit other bars too."""
    return "; ".join(differences(o.differences, o.meter))


# -- grooves


_PATTERNS: dict[str, Callable[[Option], str]] = {
    "only": lambda o: f"only in bar {o.bars[0]}",
    "every_fourth": lambda o: "in every fourth bar",
    "fourth": lambda o: "in fourth bars",
    "second": lambda o: "in second bars",
    "first": lambda o: "in first bars",
    "second_half": lambda o: "in the second half",
    "first_half": lambda o: "in the first half",
    "few": lambda o: f"in bars {', '.join(map(str, o.bars))}",
    "scattered": lambda o: "here and there",
}


def option_pattern(o: Option) -> str:
    """Where in the stretch an option's bars lie."""
    return _PATTERNS[o.pattern](o)


def option_company(o: Option, meter: Meter) -> str:
    """What an option comes with or instead of; "" where it goes alone."""
    told = [f"with {_spot(s, meter)}" for s in o.beside]
    return ", ".join([*told, *(f"instead of {_spot(s, meter)}" for s in o.instead)])


_TONES = ("C", "C sharp", "D", "E flat", "E", "F", "F sharp", "G", "A flat", "A", "B flat", "B")


def phrase(p: Phrase) -> str:
    """What a phrase of a vocabulary goes with."""
    told = []
    if p.followed_by is not None:
        told.append(f"mostly followed by phrase {chr(65 + p.followed_by)}")
    if p.of_four is not None:
        told.append(f"in bar {p.of_four} of the four")
    if p.tone is not None:
        told.append(f"where the band is on {_TONES[p.tone]}")
    if p.louder is not None:
        word = "louder" if p.louder > 0 else "softer"
        told.append(f"where the song is {word} ({p.louder:+.0f} dB)")
    return "; ".join(told)


def groove(g: Groove) -> str:
    """What kind a groove is."""
    unit = {1: "one bar", 2: "two bars", 4: "four bars"}.get(g.length, f"{g.length} bars")
    match g.kind:
        case "silent":
            return "The drums are silent."
        case "stops":
            return "Stops: hits, and bars of silence between them."
        case "fixed":
            return f"Fixed: {unit}, the same all through."
        case "options":
            if not g.options:
                return f"A core of {unit}, with single departures."
            return f"A core of {unit} with {len(g.options)} option{'s' * (len(g.options) != 1)}."
        case "thinned":
            of = f"bar {g.fullest}" if g.fullest else "one bar"
            return f"One fullest bar: the others are {of}, thinned."
        case "vocabulary":
            free = f" The feet choose for themselves among {len(g.feet)} patterns."
            what = f"The {g.over} goes on" if g.over else "No core"
            many = f"{len(g.phrases)} phrases" if g.phrases else "phrases"
            return f"{what}: {many} are woven.{free if g.feet_are_free else ''}"
        case "skeleton":
            return f"Ad lib round a skeleton of {len(g.core)} strokes."
    return "Through-composed: hardly a bar comes back."


def groove_differences(g: Groove, meter: Meter) -> list[str]:
    """How each later bar of the unit differs from its first."""
    told = []
    for n, row in enumerate(g.differences, 2):
        lead = "The second bar" if n == 2 else f"Bar {n}"
        said = differences(row, meter)
        told.append(f"{lead}: {'; '.join(said)}" if said else f"{lead} is the first again")
    return told


def once(g: Groove, meter: Meter) -> list[str]:
    """Strokes that come in one bar only, bar by bar."""
    return [
        f"bar {bar}: {', '.join(_spot(s, meter) for s in spots[:4])}{' ...' * (len(spots) > 4)}"
        for bar, spots in g.once
    ]


_FAR = {
    Fraction(1, 4): "a 16th", Fraction(1, 2): "an 8th", Fraction(3, 4): "a dotted 8th",
    Fraction(1): "a beat", Fraction(1, 3): "a triplet 8th", Fraction(2): "two beats",
}  # fmt: skip


def relation(r: Relation | None) -> str:
    """How a groove is related to an earlier one; "" where it is not."""
    if r is None:
        return ""
    of = r.of or f"bar {r.bar}"
    match r.how:
        case "same":
            return f"The same as in {of}"
        case "stripped":
            return f"{of} stripped down"
        case "moved":
            far = _FAR.get(abs(r.moved), f"{abs(r.moved)} beats")
            return f"{of} moved {far} {'later' if r.moved > 0 else 'earlier'}"
        case "surface":
            told = [f"on the {r.surface[1]} instead of the {r.surface[0]}"] if r.surface else []
            told += [f"in {r.fineness[1]} instead of {r.fineness[0]}"] if r.fineness else []
            return f"As in {of}, but {', '.join(told)}{'; and' if r.rest else ''}"
    return f"As in {of}, but"


def related(r: Relation | None, meter: Meter) -> list[str]:
    """What else differs from the earlier groove."""
    if r is None:
        return []
    return [
        (f"bar {bar}: " if r.unit > 1 else "") + "; ".join(differences(row, meter))
        for bar, row in r.rest
    ]


_WHOSE = {"all": "hands and kick", "hands": "hands", "kick": "kick", "time": "time hand"}


def across(c: Cell, meter: Meter) -> str:
    """A figure that runs across the bars, and when it comes out on the 1 again."""
    period = Fraction(c.steps, c.beat_steps)
    bars = (meter.beats / period).denominator
    what = (
        f"a stroke every {c.steps} {c.grid}s" if c.strokes == 1
        else f"{c.strokes} strokes in {c.steps} {c.grid}s" if c.strokes != c.steps
        else f"a figure of {c.strokes} {c.grid}s"
    )  # fmt: skip
    return (
        f"The {_WHOSE[c.of]} run{'' if c.of in ('all', 'hands') else 's'} across the bars from bar "
        f"{c.bar} on: {what}, on the 1 again after {bars} bars."
    )


# -- fills


def fill_entry(f: Fill, meter: Meter) -> str:
    """Where a fill begins."""
    if f.entry is None:
        return ""
    if f.entry.place == 0:
        return "with the bar"
    at = f"on {place_text(f.entry.place, meter)}"
    if f.entry.after is None:
        return at
    return f"{at}, after the backbeat on {place_text(f.entry.after, meter)}"


def fill_resolution(f: Fill, meter: Meter) -> str:
    """What stands on the first place behind a fill. meter: of that bar."""
    r = f.resolution
    where = place_text(r.place, meter)
    match r.kind:
        case "silence":
            return "into silence"
        case "open":
            return f"open: nothing on {where}"
        case "crash":
            return f"{_label(r.part)}{' and kick' if r.kick else ''} on {where}"
        case "time":
            return f"back to the {_label(r.part)} on {where}, no crash"
    return f"{_label(r.part)} on {where}, no crash"


# -- doubts, decisions, other takes


def doubt(d: Doubt, score: Score) -> str:
    """What is asked, with its evidence."""
    return "; ".join(
        [_asked(d, score), *(f"{name} has it in {n} of {of}" for name, n, of in d.takes)]
    )


def _asked(d: Doubt, score: Score) -> str:
    if d.heard is not None:
        return _asked_of_sound(d.heard)
    name = _called(d.part, d.ghost)
    name = name[0].upper() + name[1:]
    at = place_text(d.place, score.meters[d.bars[0] - 1])
    section = d.section or "the song"
    match d.kind:
        case "marked":
            why = f" ({d.reason})" if d.reason else ""
            return f"{name} on {at} in bar {d.bars[0]}, marked as doubtful{why}"
        case "unsure":
            sure = f"{name} on {at} in {_bars(d.bars)} of {section}: {round(100 * d.sure)} % sure"
            return f"{sure}; {d.having} other bars have it surely" if d.having else sure
        case "perhaps":
            where = f"on {at} in {_bars(d.bars)} of {section}"
            sure = f"Perhaps a {_label(d.part)} {where}, not written: {round(100 * d.sure)} % sure"
            return f"{sure}; {d.having} other bars have it" if d.having else sure
        case "missing":
            bars = f"{'bar' if len(d.bars) == 1 else 'bars'} {', '.join(map(str, d.bars[:6]))}"
            have = f"{d.having} of {d.of} bars of {section} have it"
            return f"No {_label(d.part)} on {at} in {bars}; {have}"
        case "hands":
            parts = ", ".join(_label(p) for p in d.parts)
            return (
                f"{parts} together on {at} in {_bars(d.bars)}: no two hands play that; a layered "
                f"recording, or one is not there (the {_label(d.part)} is least sure)"
            )
    e = d.echo
    assert e is not None
    told = (
        f"An echo? {len(e.pairs)} of {e.could} loud {_label(e.part)} strokes are followed "
        f"by a soft one after {1000 * e.delay:.0f} ms (spread {1000 * e.spread:.1f} ms), "
        f"{e.below:.0f} dB below; they come late and loud when their strokes do"
    )
    return told if d.alike is None else f"{told}; their spectra are alike ({d.alike:.2f})"


def _asked_of_sound(s: Sound) -> str:
    count = f"{s.written} strokes sound alike and are written as {_label(s.part)}"
    if s.doubt and s.doubt != "no drum":
        return f"{count}; many were heard as {_label(s.doubt)}. What are they?"
    if KIT[s.part].layer == "toms" and s.sure >= 0.5:
        return f"{count}. Is it that tom?"
    return f"{count}, {round(100 * s.sure)} % sure. What are they?"


_DECIDED = {"assumed": "assumed", "doubtful": "doubtful", "left_out": "heard, but left out"}


def decision(d: Decision, score: Score) -> str:
    """What was decided of some strokes, why, by whom and when."""
    named = ", ".join(map(str, d.bars[:_MOST_NAMED]))
    where = f"Bar {named}" if len(d.bars) == 1 else f"Bars {named}"
    where += " ..." if len(d.bars) > _MOST_NAMED else ""
    at = place_text(d.place, score.meters[d.bars[0] - 1])
    says = f"{where}, {_called(d.part, d.ghost)} on {at}: {_DECIDED[d.doubt]}"
    says += f" ({d.reason})" if d.reason else ""
    return f"{says}. {d.who}, {d.when}" if d.who else says


def tally(t: Tally) -> str:
    """How many bars have a stroke here, and in the other takes."""
    others = "; ".join(f"{n} of {of} in {name}" for name, n, of in t.there)
    return f"{t.here} of {t.of} bars here, {others}"


# -- what comes back


def returned(r: Return) -> str:
    """Where some beats come from."""
    a, b = r.where, r.source
    if a.bar == b.bar and a.beats == b.beats == 1 and r.how == "moved":
        return f"The figure of {b.beat} comes back on {a.beat}."
    source = f"{_beats(b)} of bar {b.bar}"
    if a.beat == 1 and a.beats == 1 and r.how == "moved":
        return f"Bar {a.bar} opens with {source}, nothing new."
    how = {"drums": " on other drums", "faster": " twice as fast"}.get(r.how, "")
    where = _beats(a)
    is_ = "is" if a.beats == 1 else "are"
    return f"{where[0].upper()}{where[1:]} of bar {a.bar} {is_} {source}{how}."


def _beats(p: Passage) -> str:
    """“beat 3”, “beats 3 and 4”, “beats 1 to 4”; beats behind the bar's end count on."""
    last = p.beat + p.beats - 1
    if p.beats == 1:
        return f"beat {p.beat}"
    return f"beats {p.beat} {'and' if p.beats == 2 else 'to'} {last}"


def to_learn(r: Reuse) -> str:
    """What must be learned of a part."""
    count = len(r.figures)
    if not count:
        return "Nothing to learn but the time."
    what = "one figure" if count == 1 else f"{count} figures"
    strokes = f"{r.strokes} stroke{'s' * (r.strokes != 1)}"
    rest = f"; everything else is {'it' if count == 1 else 'one of them'} again"
    told = f"{what} of {strokes}{rest if r.returns else ''}."
    return told[0].upper() + told[1:]


def told_passage(p: passages.Passage) -> dict[str, Any]:
    """A passage of the song's cover with its words."""
    runs = passages.spans(p.covers)
    named = ", ".join(str(a) if a == b else f"{a}–{b}" for a, b in runs[:_MOST_NAMED])
    where = f"bar{'s' if len(p.covers) > 1 else ''} {named}{' …' * (len(runs) > _MOST_NAMED)}"
    return {
        "bar": p.bar, "bars": p.bars, "covers": list(p.covers), "share": round(p.share, 4),
        "says": f"tells {where}" + (f" ({', '.join(p.sections)})" if p.sections else ""),
    }  # fmt: skip


def kick_and_bass(k: KickAndBass, meter: Meter) -> list[str]:
    """How far the kick follows the bass, and where it does not."""
    if not k.of_bass:
        return ["No bass is heard here."]
    told = [f"The kick is on {k.together} of {k.of_bass} notes of the bass"]
    told[0] += f"; {k.together} of its {k.of_kick} strokes are with it." if k.of_kick else "."
    for name, own in (("The bass", k.bass_alone), ("The kick", k.kick_alone)):
        spots = ", ".join(f"{place_text(p, meter)} ({n}×)" for p, n in own[:4])
        if spots:
            told.append(f"{name} alone: on {spots}.")
    return told


# -- the sounds of the song


def sound(s: Sound) -> str:
    """What a person should know of a sound before naming it; "" where nothing speaks against it."""
    if s.answer == "named":
        return "named by you"
    if s.answer == "no_drum":
        return "no drum: nothing of it is written"
    if s.doubt == "no drum":
        return "perhaps no drum"
    if s.doubt:
        return f"many were heard as {_label(s.doubt)}"
    return f"{s.unsure} more are perhaps it" if s.unsure > 0.5 * s.written else ""


# -- feel


_LATE, _EARLY = 6.0, -5.0  # ms from which on a drummer calls it behind or ahead
_CALM = 1.5  # per cent of tempo in a fill that nobody calls a rush


def feel(f: Feel) -> list[str]:
    """A feel in plain sentences: “Backbeat 9 ms behind the pulse: laid back.”"""
    told = [_swing_says(f.swing)]
    told += [_place_says(p) for p in f.placement if p.voice in ("backbeat", "kick", "time hand")]
    for t in f.together:
        if (t.a, t.b) == ("backbeat", "time hand") and abs(t.ms) > max(t.off_by, 3.0):
            side = "after" if t.ms > 0 else "before"
            told.append(f"The backbeat sounds {abs(t.ms):.0f} ms {side} the time hand.")
    if f.gaps.get("ghost") is not None:
        told.append(f"Ghosts lie {abs(f.gaps['ghost'] or 0):.0f} dB below the backbeat.")
    on = [p.db for p in f.hand if Fraction(p.place).denominator == 1]
    off = [p.db for p in f.hand if Fraction(p.place).denominator == 2]
    if on and off and abs(np.mean(on) - np.mean(off)) >= 2:
        louder = "beats" if np.mean(on) > np.mean(off) else "“ands”"
        told.append(
            f"The time hand's {louder} are {abs(np.mean(on) - np.mean(off)):.0f} dB louder."
        )
    kick = next((x for x in f.levels if x.layer == "kick"), None)
    if kick is not None and kick.db <= -12:
        told.append("The kick is feathered: far below the backbeat, but there.")
    hasty = [r for r in f.rush if r.percent > _CALM]
    if hasty and len(hasty) * 2 > len(f.rush):
        told.append(f"Fills rush, by {np.mean([r.percent for r in hasty]):.0f} % of the tempo.")
    if abs(f.drift) >= 2:
        told.append(f"The tempo {'rises' if f.drift > 0 else 'falls'} by {abs(f.drift):.0f} %.")
    return [t for t in told if t]


def _swing_says(swings: Sequence[Swing]) -> str:
    every = [s for s in swings if s.who == "all"]
    names = {"eighth": "8ths", "sixteenth": "16ths"}
    claimed = [s for s in every if s.claimed]
    if claimed:
        s = claimed[0]
        near = " (triplets are 0.67)" if s.level == "eighth" and abs(s.ratio - 2 / 3) < 0.03 else ""
        other = [x for x in every if x.level != s.level]
        rest = f", {names[other[0].level]} straight" if other and not other[0].claimed else ""
        return f"{names[s.level]} swing, {s.ratio:.2f}{near}{rest}."
    if every:
        return f"{' and '.join(names[s.level] for s in every)} are straight."
    return ""


def _place_says(p: Placement) -> str:
    name = {"backbeat": "Backbeat", "kick": "Kick", "time hand": "Time hand"}[p.voice]
    if p.ms >= _LATE and p.is_sure:
        return f"{name} {p.ms:.0f} ms behind the pulse: laid back."
    if p.ms <= _EARLY and p.is_sure:
        return f"{name} {-p.ms:.0f} ms ahead of the pulse: it pushes."
    ms = round(p.ms)
    return f"{name} on top of the pulse ({'+' if ms > 0 else ''}{ms} ms)."


# -- findings as they are sent: their data with their words


def told_groove(g: Groove, meter: Meter) -> dict[str, Any]:
    """A groove with its words. meter: of its bars."""
    return {
        **g.to_json(),
        "says": groove(g),
        "difference": groove_differences(g, meter),
        "once": once(g, meter),
        "relation": relation(g.relation),
        "related": related(g.relation, meter),
        "options": [
            {**o.to_json(), "where": option_pattern(o), "goes": option_company(o, meter)}
            for o in g.options
        ],
        "phrases": [{**p.to_json(), "says": phrase(p)} for p in g.phrases],
        "feet": [{**p.to_json(), "says": phrase(p)} for p in g.feet],
        "across": [across(c, meter) for c in g.cells],
    }


_VOLUNTEERED = 5  # returns that are told unasked


def told_reuse(r: Reuse) -> dict[str, Any]:
    """What has to be learned of some bars, and what comes back at another place or otherwise: each
    source once, for what a bar repeats of another at its own place needs no telling."""
    told: dict[tuple[Passage, str], str] = {}
    for back in r.returns:
        if back.how != "same":
            told.setdefault((back.source, back.how), returned(back))
    return {"learn": to_learn(r), "returns": list(told.values())[:_VOLUNTEERED]}


def told_fill(f: Fill, score: Score) -> dict[str, Any]:
    """A fill with its words."""
    meters = score.meters
    behind = f.span.last_bar + (f.resolution.place < f.span.end)  # the bar that it leads into
    return {
        **f.to_json(),
        "starts": fill_entry(f, meters[f.span.bar - 1]),
        "resolves": fill_resolution(f, meters[min(behind, len(meters)) - 1]),
    }


def told_difference(d: Difference, meter: Meter) -> dict[str, Any]:
    """A difference with its words, its strokes by their ids."""
    return {
        "kind": d.kind, "a": d.a.id if d.a else None, "b": d.b.id if d.b else None,
        "says": difference(d, meter),
    }  # fmt: skip


def told_offer(o: Offer) -> dict[str, Any]:
    """An offer with its words."""
    return {"bar": o.bar, "bars": list(o.bars), "changes": list(o.changes), "says": offer(o)}
