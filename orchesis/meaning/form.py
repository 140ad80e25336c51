"""What a drummer says of the form: each section's surface, level, fills, twins and odd lengths.

The rules of the trade: the time surface is the part that most beats of a section sound on;
a section is told by what it does and by what it never does; an odd length is worth a flag;
a change of surface is announced by a fill before it or a crash on it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np

from orchesis.meaning import review
from orchesis.meaning.fills import fill_bars
from orchesis.score import KIT, Score, Section, Stroke

#: Families in which a time surface is told.
_SURFACES = {
    "hat_closed": "hat", "hat_half": "half-open hat", "hat_open": "open hat", "ride": "ride",
    "ride_bell": "ride bell", "crash": "crash", "crash_2": "crash", "china": "china",
    "tom_floor": "floor tom", "tom_low": "low tom", "tom_mid": "mid tom", "snare": "snare",
    "cowbell": "cowbell", "shaker": "shaker", "tambourine": "tambourine",
}  # fmt: skip
_CRASHES = ("crash", "crash_2", "splash", "china")
_LAYERS = {
    "kick": ("kick",),
    "snare": ("snare", "rimshot", "cross_stick"),
    "hat": ("hat_closed", "hat_half", "hat_open"),
    "ride": ("ride", "ride_bell"),
    "foot hat": ("hat_foot",),
    "toms": ("tom_high", "tom_mid", "tom_low", "tom_floor"),
    "percussion": ("shaker", "tambourine", "cowbell", "block", "clap"),
}
_ENTER = 6  # bars without a layer that make its return an entry
_BUILD = 4.0  # dB that a section grows by to be a build
_FADE = 10.0  # dB that a fade-out loses
_USUAL_LENGTHS = (4, 8, 12, 16, 24, 32, 2)


def surface(strokes: Sequence[Stroke]) -> str:
    """The time surface of some bars in a word; "" where nothing keeps time."""
    count: Counter[str] = Counter()
    for s in strokes:
        if s.part in _SURFACES and s.dynamic != "ghost":
            weight = 1.0 if KIT[s.part].role == "time" else 0.55
            count[_SURFACES[s.part]] += weight  # type: ignore[assignment]
    if not count:
        return ""
    name, most = count.most_common(1)[0]
    if name == "hat" and count["open hat"] > most:
        name = "open hat"
    return name


def pattern(strokes: Sequence[Stroke]) -> frozenset[tuple[str, str]]:
    """What a bar is compared by: part and place, ghosts left out."""
    return frozenset((s.part, str(s.place)) for s in strokes if s.dynamic != "ghost")


def alike(a: Sequence[Stroke], b: Sequence[Stroke]) -> float:
    """Likeness 0..1 of two bars: strokes they share of all they have."""
    x, y = pattern(a), pattern(b)
    return len(x & y) / len(x | y) if x or y else 1.0


def facts(
    score: Score,
    levels: Sequence[Sequence[float]] = (),
    filled: Sequence[tuple[int, int]] | None = None,
) -> dict[str, Any]:
    """Facts of every section, events of the form by bar, and how sure the pulse is by bar.

    levels: of the whole and of the drums each second, in dB (the analysis file's). filled: the
    bars of fills, where they are known already (``fill_bars``).
    """
    states = review.states(score)
    score = score.played()
    bars = score.by_bar()
    fills = {bar for bar, _ in (fill_bars(score) if filled is None else filled)}
    proposed = names(score, levels)
    sections = []
    for n, s in enumerate(score.sections):
        own = range(s.first_bar, s.last_bar + 1)
        strokes = [x for b in own for x in bars.get(b, [])]
        twin = next((t for t in score.sections[:n] if t.label == s.label), None)
        unlike = []
        if twin is not None:
            for k in range(min(s.bars, twin.bars)):
                if alike(bars.get(s.first_bar + k, []), bars.get(twin.first_bar + k, [])) < 0.7:
                    unlike.append(k + 1)
        crashes = sorted({x.bar for x in strokes if x.part in _CRASHES})
        sections.append({
            "id": s.id,
            "surface": surface([x for b in own if b not in fills for x in bars.get(b, [])]),
            "level": level_of(score, s, levels),
            "fills": [b for b in own if b in fills],
            "crashes": crashes,
            "rests": [b for b in own if not bars.get(b)],
            "twin": twin.id if twin else None,
            "unlike": unlike,
            "never": never(strokes, [b for b in own if b in fills], crashes),
            "odd": s.bars % 4 != 0 and s.bars not in _USUAL_LENGTHS,
            "proposed": proposed[n],
        })  # fmt: skip
    return {
        "sections": sections,
        "events": events(score, levels, fills),
        "disagree": disagreeing(score),
        "states": states,
        "confidence": pulse_confidence(score),
    }


def never(strokes: Sequence[Stroke], fills: Sequence[int], crashes: Sequence[int]) -> list[str]:
    if not strokes:
        return []
    parts = {s.part for s in strokes}
    told = []
    if not fills:
        told.append("no fill")
    if not crashes:
        told.append("no crash")
    if "hat_closed" in parts and not parts & {"hat_open", "hat_half"}:
        told.append("the hat stays shut")
    if not parts & {"snare", "rimshot", "cross_stick", "clap"}:
        told.append("no backbeat")
    if "kick" not in parts:
        told.append("no kick")
    return told


def level_of(score: Score, section: Section, levels: Sequence[Sequence[float]]) -> float | None:
    """Mean level of a section in dB against the loudest second; None if unknown."""
    a, b = score.seconds(section.first_bar), score.seconds(section.last_bar + 1)
    inside = [pair[0] for pair in levels[max(0, int(a)) : max(int(b), int(a) + 1)]]
    if not inside:
        return None
    return round(float(10 * np.log10(np.mean(10 ** (np.array(inside) / 10)))), 1)


def names(score: Score, levels: Sequence[Sequence[float]] = ()) -> list[str]:
    """A name proposed for every section: intro, verse, chorus, bridge, breakdown, outro.

    The chorus is the repeated section that is loudest and densest, the verse the repeated
    one that comes first; what opens or closes the song and never returns is its intro or
    outro; what stands alone in the middle is a bridge, or a breakdown if it is thin.
    """
    bars = score.by_bar()
    sections = score.sections
    if len(sections) == 1:
        return ["Song"]
    power: dict[str, float] = {}
    count = Counter(s.label for s in sections)
    first: dict[str, int] = {}
    for n, s in enumerate(sections):
        density = float(np.mean([len(bars.get(b, [])) for b in range(s.first_bar, s.last_bar + 1)]))
        crashes = sum(
            x.part in _CRASHES for b in range(s.first_bar, s.last_bar + 1) for x in bars.get(b, [])
        )
        own = (level_of(score, s, levels) or 0.0) + 0.15 * density + 4.0 * crashes / s.bars
        power[s.label] = max(power.get(s.label, -1e9), own)
        first.setdefault(s.label, n)
    repeated = [label for label in first if count[label] > 1]
    # A few bars that open and close the song are no chorus, however loud.
    longest = {x: max(s.bars for s in sections if s.label == x) for x in repeated}
    long = [x for x in repeated if longest[x] > 4] or repeated
    chorus = max(long, key=lambda x: power[x]) if len(repeated) > 1 and len(long) > 1 else None
    verses = [label for label in long if label != chorus]
    verse = min(verses, key=lambda x: first[x]) if verses else None
    opening = sections[0]
    is_verse = opening.bars >= 8 and opening.label not in repeated
    if chorus is None and len(long) == 1 and is_verse and power[opening.label] < power[long[0]]:
        # Eight bars that open below the one part that returns are its verse, not an intro.
        verse, chorus = opening.label, long[0]
    usual = float(np.median([len(bars.get(b, [])) for b in range(1, score.bar_count + 1)]))
    kinds = []
    for n, s in enumerate(sections):
        density = float(np.mean([len(bars.get(b, [])) for b in range(s.first_bar, s.last_bar + 1)]))
        if s.label == verse:
            kinds.append("Verse")
        elif s.label == chorus:
            kinds.append("Chorus")
        elif n == 0:
            kinds.append("Intro")
        elif n == len(sections) - 1:
            kinds.append("Outro")
        elif density < 0.5 * usual:
            kinds.append("Breakdown")
        elif s.label in repeated:
            kinds.append("Turn" if s.bars <= 4 else "Pre-chorus")
        else:
            kinds.append("Bridge")
    total, seen = Counter(kinds), Counter[str]()
    made = []
    for kind in kinds:
        seen[kind] += 1
        made.append(kind if total[kind] == 1 else f"{kind} {seen[kind]}")
    return made


def events(
    score: Score, levels: Sequence[Sequence[float]], fills: set[int]
) -> list[dict[str, Any]]:
    """What a drummer marks on the way: layers that enter or leave, changes of surface and how
    they are announced, bars of rest, meters that change, a fade-out."""
    bars = score.by_bar()
    told: list[dict[str, Any]] = []

    def tell(bar: int, kind: str, says: str) -> None:
        told.append({"bar": bar, "kind": kind, "says": says})

    has = {
        layer: [
            any(s.part in parts for s in bars.get(b, [])) for b in range(1, score.bar_count + 1)
        ]
        for layer, parts in _LAYERS.items()
    }
    for layer, present in has.items():
        played = [b for b, is_so in enumerate(present, 1) if is_so]
        if len(played) < 4:
            continue
        last = None
        for b in played:
            if (last is None and b > 2) or (last is not None and b - last > _ENTER):
                tell(b, "enters", f"{layer} enters")
            if last is not None and b - last > _ENTER:
                tell(last + 1, "leaves", f"{layer} leaves")
            last = b
        if last is not None and score.bar_count - last > _ENTER:
            tell(last + 1, "leaves", f"{layer} leaves")
    before = ""
    for s in score.sections:
        own = [
            x for b in range(s.first_bar, s.last_bar + 1) if b not in fills for x in bars.get(b, [])
        ]
        now = surface(own)
        if before and now and now != before:
            by = ["a fill"] if s.first_bar - 1 in fills else []
            if any(x.part in _CRASHES and x.place == 0 for x in bars.get(s.first_bar, [])):
                by.append("a crash")
            how = f", announced by {' and '.join(by)}" if by else ", without announcement"
            tell(s.first_bar, "surface", f"{before} to {now}{how}")
        before = now or before
    run = 0
    for b in range(1, score.bar_count + 2):
        empty = b <= score.bar_count and not bars.get(b)
        if empty:
            run += 1
        elif run:
            tell(b - run, "rest", f"{run} bar{'s' if run > 1 else ''} of rest")
            run = 0
    for b in range(2, score.bar_count + 1):
        if score.meters[b - 1] != score.meters[b - 2]:
            tell(b, "meter", str(score.meters[b - 1]))
    for b in disagreeing(score):
        tell(b, "disagrees", "confirmed, but the sound lies elsewhere now")
    for s in score.sections:
        rise = build(score, s, levels)
        if rise is not None:
            tell(s.first_bar, "build", f"builds by {rise:.0f} dB up to bar {s.last_bar}")
    fade = fade_out(levels)
    if fade is not None:
        bar = next((b for b in range(score.bar_count, 0, -1) if score.seconds(b) <= fade), 1)
        tell(bar, "fade", "fades out from here")
    return sorted(told, key=lambda e: e["bar"])


def build(score: Score, section: Section, levels: Sequence[Sequence[float]]) -> float | None:
    """By how many decibels a section of four bars or more grows louder, evenly, up to its end;
    None if it does not."""
    loud = []
    for bar in range(section.first_bar, section.last_bar + 1):
        a, b = score.seconds(bar), score.seconds(bar + 1)
        inside = [pair[0] for pair in levels[max(0, round(a)) : max(round(b), round(a) + 1)]]
        if inside:
            loud.append(float(np.mean(inside)))
    if len(loud) < 4:
        return None
    slope, _ = np.polyfit(np.arange(len(loud)), loud, 1)
    rise = float(slope * (len(loud) - 1))
    even = float(np.corrcoef(np.arange(len(loud)), loud)[0, 1]) if np.std(loud) > 0 else 0.0
    return rise if rise >= _BUILD and even > 0.8 else None


def fade_out(levels: Sequence[Sequence[float]]) -> float | None:
    """The second from which the song fades out; None if it ends.

    A fade falls evenly for at least six seconds, ten decibels or more, while drums go on.
    """
    loud = np.array([pair[0] for pair in levels])
    if len(loud) < 14:
        return None
    smooth = np.convolve(loud, np.ones(3) / 3, "same")
    end = len(smooth) - 2
    start = end
    while start > 1 and max(smooth[start - 2 : start]) > smooth[start] + 0.2:
        start -= 1
    fallen = smooth[start] - smooth[end]
    steps = np.diff(smooth[start : end + 1])
    if end - start >= 6 and fallen >= _FADE and (len(steps) == 0 or steps.min() > -0.5 * fallen):
        return float(start)
    return None


def disagreeing(score: Score) -> list[int]:
    """Confirmed bars whose strokes sound elsewhere than on their places by now: most of them by
    more than a thirtieth of a second and an eighth of a beat."""
    found = []
    bars = score.by_bar()
    for bar in sorted(score.confirmed):
        beat = (score.seconds(bar + 1) - score.seconds(bar)) / score.meters[bar - 1].beats
        off = [
            abs(s.time - score.seconds(bar, s.place))
            for s in bars.get(bar, [])
            if s.time is not None
        ]
        if off and float(np.median(off)) > max(0.033, beat / 8):
            found.append(bar)
    return found


def pulse_confidence(score: Score) -> list[float]:
    """How well the strokes of each bar lie on its beats, 0..1; 0.5 where nothing sounds.

    From the strokes on the beats and half-beats, and from how much the tempo jumps there.
    """
    times = np.array(score.pulse.times)
    period = np.diff(times)
    jump = np.abs(np.diff(np.log(period), prepend=np.log(period[0])))
    starts = score.bar_beats()
    bars = score.by_bar()
    made = []
    for bar in range(1, score.bar_count + 1):
        off = [
            abs(s.time - score.seconds(bar, s.place))
            for s in bars.get(bar, [])
            if s.place.denominator == 1 and s.time is not None
        ]
        inside = slice(starts[bar - 1], starts[bar])
        near = float(np.mean(np.array(off) < 0.035)) if off else 0.5
        struck = min(1.0, len(off) / max(1, score.meters[bar - 1].beats))
        calm = float(np.exp(-8 * jump[inside].max()))
        made.append(round(calm * (0.5 + (near - 0.5) * struck if off else 0.5), 2))
    return made
