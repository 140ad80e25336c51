"""Grooves: the core that is always there and the options a drummer adds and takes away.

The bars of a section, fills aside, are read as units of one, two or four bars
(orchesis/grooves/length.py). A stroke that nearly all bars have is core; one that comes
in some of them is an option, told with how often, where, and what it comes with or instead of.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import combinations
from math import log
from typing import Any

from orchesis import fills, form
from orchesis.form.surface import surface_of
from orchesis.grooves import across, relations, vocabulary
from orchesis.grooves.compare import compare
from orchesis.grooves.length import Bar, Key, bars_of, parts_of, phased, unit_of
from orchesis.grooves.named_patterns import figures
from orchesis.hands import rules as limb_rules
from orchesis.score import KIT, Score, Section, Stroke
from orchesis.score.difference import Difference
from orchesis.score.groove import Groove, Option, Spot
from orchesis.score.kit import MAIN_WAY
from orchesis.score.limb_rule import LimbRule
from orchesis.score.verdict import GrooveVerdict, of_music

THRESHOLD = 0.75
_FACTOR_WHERE_HEARD = (
    0.8  # of the threshold, where bars are as heard: one stroke in five may be missing
)
_FACTOR_WHERE_TWINS_HAVE_IT = (
    0.6  # the same, for strokes that the other sections of the same music have
)
_NEARLY, _NOW_AND_THEN = 0.6, 0.25  # shares of an even grid, and of the bars at one of its places
_GRIDS = (Fraction(1), Fraction(1, 2), Fraction(1, 3), Fraction(1, 4))
_MAX_CHANGE_OF_FIXED = 0.06  # mean share of strokes that differ from the core in a fixed part
_CORE = 0.7  # share of all strokes that the core explains in a part of core and options
_SKELETON = 0.3
_MIN_SHARE_UNEXPLAINED = (
    0.5  # share of strokes that differ from the core in a bar that it does not explain
)
_MIN_SHARE_TOGETHER, _MIN_SHARE_INSTEAD = 0.75, 0.8
_MIN_CONFIDENCE = 0.6  # mean confidence of heard strokes that make an option
_MAX_SHARE_OF_COMPING = 0.4  # share of the other hand that the core tells, below which it comps
_MIN_STROKES_OF_PHRASES = 1.0  # such strokes a bar that make phrases
_HANDS = ("backbeat", "hand")
_STOPS, _FEW = 0.5, 4  # share of empty bars among so many at least that makes stops
_MIN_SHARE_THINNED = 0.8
_UNSURE, _EVIDENT = 2, 0.1  # bars of a stroke that may be an option; chance that is evidence
_RULES = 3  # between the limbs that are told
_FULL_BAR, _WAYS = 6, 3  # strokes of a bar that others are thinned from; in how many ways they are


def grooves(
    score: Score,
    threshold: float = THRESHOLD,
    levels: Sequence[Sequence[float]] = (),
    tones: Sequence[int | None] = (),
) -> list[Groove]:
    """The grooves of a score, in order, each related to the earlier one that is likest.

    threshold: share of the bars from which on a stroke is core; in bars that nobody has confirmed
    yet a little less will do, for hearing loses strokes. levels: of the whole and of
    the drums each second, in dB (the analysis file's), and tones: the pitch class that the band
    plays most in each bar, for what a phrase goes with.
    """
    score = score.played()
    spans = fills.find(score)
    placed: dict[tuple[str, object], list[tuple[int, Bar]]] = defaultdict(list)
    parts: list[tuple[Section, list[Bar]]] = []
    for section in score.sections:
        bars = bars_of(score, spans, section.first_bar, section.last_bar)
        for part in parts_of(bars, section.first_bar):
            if part:
                parts.append((section, part))
                bars_of_music = placed[section.label, score.meters[part[0].number - 1]]
                bars_of_music += [(b.number - part[0].number, b) for b in part]
        if not bars:
            parts.append((section, []))
    verdicts = {s.label: of_music(score.groove_verdicts, s.label) for s in score.sections}
    units = {
        music: _unit(bars_of_music, verdicts[music[0]]) for music, bars_of_music in placed.items()
    }
    spots_by_music: dict[tuple[str, object], dict[tuple[Key, int, int], float]] = defaultdict(dict)
    spots: relations.Known = {}
    grooves_found: list[Groove] = []
    for section, bars in parts:
        if not bars:
            grooves_found.append(
                replace(_silent(section, threshold), name=verdicts[section.label].name)
            )
            continue
        unit = units[section.label, score.meters[bars[0].number - 1]]
        rows = [p for s, p in parts if s is section]
        first = section.first_bar if bars is rows[0] else bars[0].number
        follows = rows.index(bars) + 1
        last = rows[follows][0].number - 1 if follows < len(rows) else section.last_bar
        music = placed[section.label, score.meters[bars[0].number - 1]]
        own_said = verdicts[section.label]
        shares = spots_by_music[section.label, score.meters[bars[0].number - 1]]
        reader = _Reader(
            score, section, bars, first, last, unit, music, threshold, own_said, shares
        )
        groove = reader.groove(spans, levels, tones)
        grooves_found.append(relations.related(groove, grooves_found, score, spots))
    return grooves_found


def _unit(placed: Sequence[tuple[int, Bar]], verdict: GrooveVerdict) -> tuple[int, set[Key]]:
    """The unit that the bars tell, or as long a one as a person says."""
    if not verdict.length:
        return unit_of(placed)
    return verdict.length, phased(placed, verdict.length)[1]


def _silent(section: Section, threshold: float) -> Groove:
    return Groove(
        section.id,
        section.first_bar,
        section.bars,
        1,
        threshold,
        (),
        (),
        "silent",
    )


@dataclass
class _Reader:
    """One stretch of bars with its unit: (length, keys that differ within the unit); music: all
    bars of the song that play the same, with their index; said: what a person says of it;
    shares: how often strokes come in all that music, as far as it was asked before."""

    score: Score
    section: Section
    bars: Sequence[Bar]
    first: int
    last: int
    unit: tuple[int, set[Key]]
    music: Sequence[tuple[int, Bar]]
    threshold: float
    said: GrooveVerdict
    shares: dict[tuple[Key, int, int], float]

    def __post_init__(self) -> None:
        span = self.last - self.first + 1
        self.length = max(n for n in (1, 2, 4) if n <= max(1, min(self.unit[0], span)))
        self.meter = self.score.meters[self.bars[0].number - 1]
        self.keys: Counter[Key] = Counter(k for b in self.bars for k in b.strokes)
        self.as_heard = {
            b.number
            for b in self.bars
            if b.number not in self.score.confirmed
            and any(s.placed_by == "heard" for s in b.strokes.values())
        }
        self.phase = {b.number: (b.number - self.first) % self.length for b in self.bars}

    def seen(self, key: Key, phase: int) -> tuple[list[Bar], list[Bar]]:
        """(bars that have the stroke, bars that could have it) at a bar of the unit."""
        pooled = self.length == 1 or key not in self.unit[1]
        could = [b for b in self.bars if b.tells(key) and (pooled or self.phase[b.number] == phase)]
        return [b for b in could if key in b.strokes], could

    def elsewhere(self, key: Key, phase: int) -> float:
        """Share of all bars of this music, also in other sections, that have a stroke."""
        pooled = self.length == 1 or key not in self.unit[1]
        asked = (key, self.length, -1 if pooled else phase)
        share = self.shares.get(asked)
        if share is None:
            could = [
                b for i, b in self.music if (pooled or i % self.length == phase) and b.tells(key)
            ]
            having = sum(key in b.strokes for b in could)
            share = self.shares[asked] = having / len(could) if could else 0.0
        return share

    def is_core(self, key: Key, phase: int) -> bool | None:
        """What a person says of a stroke at a bar of the unit; None where nothing."""
        spots = {(n, key.place, key.part, key.soft) for n in (0, phase + 1)}
        return next((is_core for spot, is_core in self.said.core if spot in spots), None)

    def _evened(self, core: Mapping[tuple[int, Key], Stroke]) -> dict[tuple[int, Key], Stroke]:
        """What a time hand that plays nearly all of an even grid must play besides.

        In bars as heard, drums hide cymbals: a place of the grid at which the hand is heard now
        and then is taken for one that it always plays. Confirmed bars are taken at their word.
        """
        evened: dict[tuple[int, Key], Stroke] = {}
        if any(b.number in self.score.confirmed for b in self.bars):
            return evened
        if not any(s.placed_by == "heard" for b in self.bars for s in b.strokes.values()):
            return evened
        for phase in range(self.length):
            time_keys = [k for p, k in core if p == phase and KIT[k.part].role == "time"]
            for part in {k.part for k in time_keys}:
                places = {k.place for k in time_keys if k.part == part}
                for step in _GRIDS:
                    grid = {step * n for n in range(int(self.meter.beats / step))}
                    if not places <= grid or len(places) < _NEARLY * len(grid):
                        continue
                    for place in grid - {k.place for k in time_keys}:
                        key = Key(place.numerator, place.denominator, part, False)
                        having, could = self.seen(key, phase)
                        is_said_not = self.is_core(key, phase) is False
                        if could and len(having) >= _NOW_AND_THEN * len(could) and not is_said_not:
                            strokes = [b.strokes[key] for b in having]
                            evened[phase, key] = _typical(strokes, phase + 1)
                    break
        return evened

    def needed(self, bars: Sequence[Bar], elsewhere: float) -> float:
        """The threshold for strokes of these bars; what the music has elsewhere too needs less."""
        heard = sum(b.number in self.as_heard for b in bars)
        least = (
            _FACTOR_WHERE_TWINS_HAVE_IT
            if elsewhere >= self.threshold * _FACTOR_WHERE_HEARD
            else _FACTOR_WHERE_HEARD
        )
        return self.threshold * (1 - (1 - least) * heard / len(bars))

    def groove(
        self,
        spans: Sequence,
        levels: Sequence[Sequence[float]],
        tones: Sequence[int | None],
    ) -> Groove:
        core: dict[tuple[int, Key], Stroke] = {}
        options: list[Option] = []
        unsure: list[Option] = []
        chance: dict[tuple[int, Key], float] = {}
        once: dict[int, list[Stroke]] = defaultdict(list)
        order = {name: n for n, name in enumerate(KIT)}
        for phase in range(self.length):
            for key in sorted(self.keys, key=lambda k: (k.above / k.below, order[k.part], k.soft)):
                having, could = self.seen(key, phase)
                share = len(having) / len(could) if could else 0.0
                chance[phase, key] = share
                verdict = self.is_core(key, phase)
                enough = could and share >= self.needed(could, self.elsewhere(key, phase))
                if having and (enough if verdict is None else verdict):
                    core[phase, key] = _typical([b.strokes[key] for b in having], phase + 1)
                elif verdict is None and not self._stands(key, having):
                    if len(having) >= _UNSURE and (phase == 0 or key in self.unit[1]):
                        option = self._option(key, phase, having, could)
                        unsure.append(replace(option, heard=self._heard(key, could)))
                elif len(having) >= 2 and (phase == 0 or key in self.unit[1]):
                    options.append(self._option(key, phase, having, could))
                elif len(having) == 1:
                    once[having[0].number].append(having[0].strokes[key])
        evened = self._evened(core)
        core |= evened
        options = [
            o
            for o in options
            if not any(
                o.bar in (0, p + 1) and (o.place, o.part) == (k.place, k.part) for p, k in evened
            )
        ]
        off = {b.number: self._unlike(b, core) for b in self.bars}
        unexplained = tuple(b for b, share in off.items() if share > _MIN_SHARE_UNEXPLAINED)
        told_fills = tuple(
            sorted(
                {
                    b
                    for s in spans
                    for b in range(s.bar, s.last_bar + 1)
                    if self.first <= b <= self.last
                }
            )
        )
        typical, fullest, thinned = self._examples(chance, set(unexplained))
        comps = self._comps(core)
        woven = [self._without(b, core) for b in self.bars] if comps else self.bars
        phrases = vocabulary.read(self.score, woven, levels, tones)
        is_same = not options and not once and sum(off.values()) <= _MAX_CHANGE_OF_FIXED * len(off)
        kind = self._kind(core, is_same, phrases is not None, comps)
        one = self._one_bar()
        free = ("skeleton", "vocabulary", "through")
        has_time = any(KIT[k.part].role == "time" for k in self.keys)
        # With a time hand, what comes and goes over it is told as core and options.
        if one[1] >= _MIN_SHARE_THINNED and (kind in free or (kind == "options" and not has_time)):
            kind = "thinned"
        kind = self.said.kind or kind
        if kind == "thinned":
            fullest, thinned = one
        options = self._together(options, core) if kind == "options" else []
        strokes = [x for b in self.bars for x in b.strokes.values()]
        whole = self.score.by_bar()
        every = [x for b in range(self.first, self.last + 1) for x in whole.get(b, [])]
        crashes = sorted({x.bar for x in every if KIT[x.part].is_crash})
        return Groove(
            section=self.section.id,
            first_bar=self.first,
            bars=self.last - self.first + 1,
            length=self.length,
            threshold=self.threshold,
            core=tuple(core.values()),
            options=tuple(options),
            kind=kind,
            once=_once(once) if kind == "options" else (),
            fills=told_fills,
            unexplained=unexplained,
            typical=typical,
            fullest=fullest
            if thinned >= _MIN_SHARE_THINNED and (options or kind == "thinned")
            else 0,
            thinned=thinned,
            differences=self._differences(core),
            phrases=phrases.phrases if phrases and kind == "vocabulary" else (),
            feet=phrases.feet if phrases and kind == "vocabulary" else (),
            feet_are_free=bool(phrases and kind == "vocabulary" and phrases.feet_are_free),
            over=surface_of([list(core.values())]) if comps and kind == "vocabulary" else "",
            never=tuple(form.never({s.part for s in strokes and every}, told_fills, crashes)),
            figures=tuple(figures(list(core.values()), self.meter, self.length, self.score.swing))
            if self.said.figures is None
            else self.said.figures,
            unsure=tuple(unsure),
            name=self.said.name,
            note=self.said.note,
            cells=tuple(across.figures(self.score, self.first, self.last)),
            rules=self._rules(set(unexplained) | set(told_fills)),
            said=self.said.told,
        )

    def _heard(self, key: Key, bars: Sequence[Bar]) -> int:
        """In how many bars the onset model heard something of a stroke's kind at its place."""
        at = (self.score.evidence.sure(self.score, b.number, key.part, key.place) for b in bars)
        return sum(chance >= _EVIDENT for chance in at)

    def _option(self, key: Key, phase: int, having: Sequence[Bar], could: Sequence[Bar]) -> Option:
        first = _typical([b.strokes[key] for b in having], phase + 1)
        bars = tuple(b.number for b in having)
        pooled = self.length == 1 or key not in self.unit[1]
        return Option(
            0 if pooled and self.length > 1 else phase + 1,
            key.place,
            key.part,
            first.limb,
            first.dynamic,
            bars,
            len(could),
            self._pattern(bars),
            sure=sum(b.strokes[key].confidence for b in having) / len(having),
        )

    def _pattern(self, bars: Sequence[int]) -> str:
        """How some bars lie in the stretch, of PATTERNS."""
        index = [b - self.first for b in bars]
        span = self.last - self.first + 1
        if len(bars) == 1:
            return "only"
        if all(i % 4 == 3 for i in index):
            return "every_fourth" if len(bars) >= span // 4 else "fourth"
        if all(i % 2 == 1 for i in index):
            return "second"
        if all(i % 2 == 0 for i in index):
            return "first"
        if span >= 8 and min(index) >= span / 2:
            return "second_half"
        if span >= 8 and max(index) < span / 2:
            return "first_half"
        return "few" if len(bars) <= 3 else "scattered"

    def _together(
        self, options: Sequence[Option], core: Mapping[tuple[int, Key], Stroke]
    ) -> list[Option]:
        """The options with what they come with or instead of, three of both at the most."""
        company: dict[int, list[tuple[str, Spot]]] = defaultdict(list)
        for (i, a), (j, b) in combinations(enumerate(options), 2):
            one, two = set(a.bars), set(b.bars)
            both, either = len(one & two), len(one | two)
            if min(len(one), len(two)) < 2:
                continue
            how = ""
            if both / either >= _MIN_SHARE_TOGETHER:
                how = "beside"
            elif both == 0 and either >= _MIN_SHARE_INSTEAD * max(a.of, b.of) and self._rival(a, b):
                how = "instead"
            if how:
                company[i].append((how, b.spot))
                company[j].append((how, a.spot))
        numbers = {b.number: b for b in self.bars}
        for i, option in enumerate(options):
            for (phase, key), stroke in core.items():
                if option.bar not in (0, phase + 1) or stroke.limb != option.limb:
                    continue
                bars = [numbers[b] for b in option.bars if numbers[b].tells(key)]
                without = [b for b in bars if key not in b.strokes]
                if (
                    bars
                    and len(without) >= _MIN_SHARE_INSTEAD * len(bars)
                    and abs(key.place - option.place) <= 1
                ):
                    company[i].append(("instead", Spot(stroke.part, key.place)))
        return [
            replace(
                o,
                beside=tuple(x for how, x in company[i][:3] if how == "beside"),
                instead=tuple(x for how, x in company[i][:3] if how == "instead"),
            )
            for i, o in enumerate(options)
        ]

    def _rival(self, a: Option, b: Option) -> bool:
        return a.limb == b.limb or a.place == b.place

    def _unlike(self, bar: Bar, core: Mapping[tuple[int, Key], Stroke]) -> float:
        """Share of strokes by which a bar differs from the core."""
        wanted = {k for p, k in core if p == self.phase[bar.number] and bar.tells(k)}
        keys = set(bar.strokes)
        return len(wanted ^ keys) / max(1, len(wanted | keys))

    def _stands(self, key: Key, having: Sequence[Bar]) -> bool:
        """Whether what only some bars have can be told: in bars as heard, if the model was sure."""
        strokes = [b.strokes[key] for b in having]
        is_confirmed = any(b.number in self.score.confirmed for b in having)
        sure = sum(s.confidence for s in strokes) / max(1, len(strokes))
        return (
            is_confirmed or any(s.placed_by != "heard" for s in strokes) or sure >= _MIN_CONFIDENCE
        )

    def _comps(self, core: Mapping[tuple[int, Key], Stroke]) -> bool:
        """Whether the time goes on while what the other hand plays changes from bar to bar."""
        keeps = any(KIT[k.part].role == "time" for _, k in core)
        free = [(b, k) for b in self.bars for k in b.strokes if KIT[k.part].role in _HANDS]
        hits = sum((self.phase[b.number], k) in core for b, k in free)
        return (
            keeps
            and len(free) >= _MIN_STROKES_OF_PHRASES * len(self.bars)
            and hits < _MAX_SHARE_OF_COMPING * len(free)
        )

    def _without(self, bar: Bar, core: Mapping[tuple[int, Key], Stroke]) -> Bar:
        """A bar with what stands over the core only."""
        more = {k: s for k, s in bar.strokes.items() if (self.phase[bar.number], k) not in core}
        return replace(bar, strokes={k: s for k, s in more.items() if not _is_time(k)})

    def _kind(
        self,
        core: Mapping[tuple[int, Key], Stroke],
        is_same: bool,
        has_vocabulary: bool,
        comps: bool,
    ) -> str:
        """What kind the part is; options and single departures are told of a core alone."""
        span = self.last - self.first + 1
        if span >= _FEW and span - len(self.bars) >= _STOPS * span:
            return "stops"
        total = sum(len(b.strokes) for b in self.bars)
        hits = sum((self.phase[b.number], k) in core for b in self.bars for k in b.strokes)
        share = hits / max(1, total)
        if is_same:
            return "fixed"
        if share >= _CORE and not comps:
            return "options"
        if has_vocabulary:
            return "vocabulary"
        if share >= _SKELETON and len(core) >= 2 * self.length:
            return "skeleton"
        return "through"

    def _examples(
        self, chance: Mapping[tuple[int, Key], float], unlike: set[int]
    ) -> tuple[int, int, float]:
        """(first bar of the most probable whole unit, of the fullest, share of bars that are
        the fullest one thinned)."""
        whole = {
            b.number: b
            for b in self.bars
            if b.until >= self.score.meters[b.number - 1].beats and b.number not in unlike
        }
        likely: list[tuple[float, int]] = []
        full: list[tuple[int, int]] = []
        for start in range(self.first, self.last + 2 - self.length, self.length):
            unit = [whole.get(start + k) for k in range(self.length)]
            if any(b is None for b in unit):
                continue
            value = 0.0
            for phase, bar in enumerate(unit):
                assert bar is not None
                for key in self.keys:
                    p = min(max(chance[phase, key], 0.02), 0.98)
                    value += log(p) if key in bar.strokes else log(1 - p)
            likely.append((-value, start))
            full.append((-sum(len(b.strokes) for b in unit if b), start))
        if not likely:
            return 0, 0, 0.0
        fullest = min(full)[1]
        others = [b for b in whole.values() if not fullest <= b.number < fullest + self.length]
        within = [
            set(b.strokes) <= set(whole[fullest + self.phase[b.number]].strokes) for b in others
        ]
        return min(likely)[1], fullest, sum(within) / len(within) if within else 0.0

    def _rules(self, apart: set[int]) -> tuple[LimbRule, ...]:
        """The rules between the limbs over the bars that the groove tells."""
        bars = [b.number for b in self.bars if b.number not in apart]
        units = [
            (b, b + 1) for b in bars if self.length == 2 and not self.phase[b] and b + 1 in bars
        ]
        return tuple(limb_rules.between(self.score, bars, units[0] if units else ())[:_RULES])

    def _one_bar(self) -> tuple[int, float]:
        """(the bar with most strokes, share of the others that play some of it and nothing else);
        (0, 0) where it is no bar that could be thinned in several ways."""
        whole = {
            b.number: frozenset((k.place, MAIN_WAY[k.part]) for k in b.strokes)
            for b in self.bars
            if b.until >= self.score.meters[b.number - 1].beats
        }
        if not whole:
            return 0, 0.0
        number, most = max(whole.items(), key=lambda x: (len(x[1]), -x[0]))
        others = [strokes_of_bar for bar, strokes_of_bar in whole.items() if bar != number]
        if len(most) < _FULL_BAR or len({*others}) < _WAYS or not others:
            return 0, 0.0
        return number, sum(strokes_of_bar <= most for strokes_of_bar in others) / len(others)

    def _differences(
        self, core: Mapping[tuple[int, Key], Stroke]
    ) -> tuple[tuple[Difference, ...], ...]:
        """How the later bars of the unit differ from its first."""
        rows = [
            [replace(s, bar=1) for (p, _), s in core.items() if p == phase]
            for phase in range(self.length)
        ]
        return tuple(tuple(compare(rows[0], row)) for row in rows[1:])


def _is_time(key: Key) -> bool:
    return KIT[key.part].role in ("time", "left_foot")


def _once(
    strokes_by_bar: Mapping[int, Sequence[Stroke]],
) -> tuple[tuple[int, tuple[Spot, ...]], ...]:
    """Strokes that come in one bar only, bar by bar."""
    return tuple(
        (bar, tuple(dict.fromkeys(Spot(s.part, s.place) for s in strokes)))
        for bar, strokes in sorted(strokes_by_bar.items())
    )


def _typical(strokes: Sequence[Stroke], bar: int) -> Stroke:
    """One stroke that stands for many: their usual limb, class, ornament and mean loudness."""
    first = strokes[0]

    def most(values: list) -> Any:
        return Counter(values).most_common(1)[0][0]

    return replace(
        first,
        id=f"g{bar}-{first.part}-{first.place}-{first.dynamic}",
        bar=bar,
        limb=most([s.limb for s in strokes]),
        dynamic=most([s.dynamic for s in strokes]),
        ornament=most([s.ornament for s in strokes]),
        choked=bool(most([s.choked for s in strokes])),
        loudness=round(sum(s.loudness for s in strokes) / len(strokes), 4),
        confidence=1.0,
        measured=None,
        placed_by="rule",
        doubt="",
        reason="",
    )


def at(groove: Groove, bar: int) -> list[Stroke]:
    """The core as it would stand in a bar of the song."""
    phase = (bar - groove.first_bar) % groove.length + 1
    return [replace(s, bar=bar, id=f"{s.id}@{bar}") for s in groove.core if s.bar == phase]
