"""The score of one song: bars, pulse, sections, strokes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from itertools import accumulate
from typing import Any, NamedTuple

from orchesis.errors import BadScore
from orchesis.score.bar import NO_STROKES, Bar, of_bar
from orchesis.score.candidate import CandidateHit, numbered
from orchesis.score.cue import Cue
from orchesis.score.evidence import NO_EVIDENCE, Evidence
from orchesis.score.kit import KIT
from orchesis.score.kit_sound import KitSound
from orchesis.score.meter import Meter
from orchesis.score.on_paper import OnPaper, by_moments, read_items
from orchesis.score.player import RIGHT_HANDED, Player
from orchesis.score.pulse import PulseMap
from orchesis.score.section import Section, UnplacedStroke, UnplacedWords
from orchesis.score.signs import SIGNS
from orchesis.score.stroke import Stroke
from orchesis.score.swing import swung
from orchesis.score.untrusted import is_moment, shown
from orchesis.score.verdict import FillVerdict, GrooveVerdict

#: How a bar may stand on the page by a person's word: it begins a line or a page, or joins the line
#: before it.
BREAKS = ("line", "page", "joined")
_ORDER = {name: i for i, name in enumerate(KIT)}


@of_bar
def _has_left_out(strokes: Sequence[Stroke]) -> bool:
    return any(s.doubt == "left_out" for s in strokes)


def _in_order(strokes: Iterable[Stroke]) -> Bar:
    # A place as a float: two grids' places never meet where they differ, and it is compared a
    # hundred times faster.
    return Bar(
        sorted(strokes, key=lambda s: (s.place.numerator / s.place.denominator, _ORDER[s.part]))
    )


@dataclass(frozen=True)
class Score:
    """What we say was played.

    meters: one Meter a bar. pulse: as many beats as the bars hold, and the closing one.
    swing: ("none" | "eighth" | "sixteenth", long part / pair). locked: spans of seconds
    whose beats no correction changes. confirmed: bars that a person has confirmed. aside:
    strokes, and aside_words: notes and words of cues, that have no place on the bars now. ones:
    moments at which hearing felt that a 1 may fall, and how likely; sounding: seconds between
    which there is music (both stay as heard, for corrections of the pulse). notes: words on bars.
    sound: notes on the sound of the song, by SOUND_KEYS. notation: how it is written
    (orchesis/score/notation.py), "counted" as it stands. settled: doubts of the review queue
    that were answered by leaving things as they are. cues: by bar, what the band does there.
    perhaps: by id, what was heard too unsurely to be written. sounds: the sounds of the song, by
    their numbers. evidence: how clearly each part was heard to begin when (stays as heard).
    fill_verdicts, groove_verdicts: what a person says of findings; swing_is_said: of the swing.
    player: who plays it. breaks: how a bar stands on the page where a person says so, by the moment
    (seconds) at which it begins: of BREAKS. how_to: by sign, how its writer plays it.
    spoken: by the moment at which a bar begins, text in the rhythm of its figure. on_paper: by item
    (orchesis/score/on_paper.py), what a person says of it on the sheets.
    """

    meters: tuple[Meter, ...]
    pulse: PulseMap
    strokes: dict[str, Stroke] = field(default_factory=dict)
    sections: tuple[Section, ...] = ()
    title: str = ""
    artist: str = ""
    swing: tuple[str, float] = ("none", 0.5)
    locked: tuple[tuple[float, float], ...] = ()
    confirmed: frozenset[int] = frozenset()
    aside: tuple[UnplacedStroke, ...] = ()
    aside_words: tuple[UnplacedWords, ...] = ()
    ones: tuple[tuple[float, float], ...] = ()
    sounding: tuple[float, float] | None = None
    notes: dict[int, str] = field(default_factory=dict)
    sound: dict[str, str] = field(default_factory=dict)
    notation: str = "counted"
    settled: tuple[str, ...] = ()
    cues: dict[int, Cue] = field(default_factory=dict)
    perhaps: dict[str, CandidateHit] = field(default_factory=dict)
    sounds: tuple[KitSound, ...] = ()
    evidence: Evidence = NO_EVIDENCE
    fill_verdicts: tuple[FillVerdict, ...] = ()
    groove_verdicts: tuple[GrooveVerdict, ...] = ()
    swing_is_said: bool = False
    player: Player = RIGHT_HANDED
    breaks: tuple[tuple[float, str], ...] = ()
    how_to: dict[str, str] = field(default_factory=dict)
    spoken: tuple[tuple[float, str], ...] = ()
    on_paper: dict[str, OnPaper] = field(default_factory=dict)

    def __post_init__(self) -> None:
        beats = sum(m.beats for m in self.meters)
        if len(self.pulse.times) != beats + 1:
            raise BadScore(
                f"The bars hold {beats} beats, but the pulse has {len(self.pulse.times) - 1}."
            )

    @property
    def bar_count(self) -> int:
        return len(self.meters)

    @cached_property
    def _starts(self) -> tuple[int, ...]:
        return (0, *accumulate(m.beats for m in self.meters))

    def bar_beats(self) -> list[int]:
        """The first beat (counted through the song) of every bar, and the end's."""
        return list(self._starts)

    def start_of(self, bar: int) -> int:
        """The first beat of a bar, counted through the song."""
        return self._starts[bar - 1]

    def beat_of(self, bar: int, place: Fraction) -> Fraction:
        """Position in beats through the song; bars behind the last go on from its end."""
        return self._starts[min(max(bar - 1, 0), len(self.meters))] + place

    def seconds(self, bar: int, place: Fraction = Fraction(0)) -> float:
        """The moment (seconds) of a written place."""
        first = self._starts[min(max(bar - 1, 0), len(self.meters))]
        return self.pulse.seconds(first + float(place))

    def played_at(self, stroke: Stroke) -> float:
        """The moment (seconds) at which a stroke is played, with the song's swing."""
        first = self._starts[min(max(stroke.bar - 1, 0), len(self.meters))]
        return self.pulse.seconds(first + swung(stroke.place, self.swing))

    def breaks_by_bar(self) -> dict[int, str]:
        """How bars stand on the page by a person's word; each of the bar that begins nearest."""
        return self._by_bar(self.breaks)

    def spoken_by_bar(self) -> dict[int, str]:
        """What is spoken in the rhythm of each bar."""
        return self._by_bar(self.spoken)

    def _by_bar(self, items: tuple[tuple[float, str], ...]) -> dict[int, str]:
        by_bar: dict[int, str] = {}
        starts = self.bar_seconds[:-1]
        for moment, text in items:
            bar = min(range(len(starts)), key=lambda k: abs(starts[k] - moment))
            by_bar[bar + 1] = text
        return by_bar

    def told_tempo(self, bar: int) -> float:
        """The tempo of a bar as it is written: quarters a minute, dotted ones in 6/8, 9/8, 12/8."""
        meter = self.meters[bar - 1]
        quarters = meter.beats if meter.is_compound else float(meter.quarters)
        return 60 * quarters / (self.bar_seconds[bar] - self.bar_seconds[bar - 1])

    def tempo_changes(self) -> dict[int, float]:
        """By bar: the told tempo where it is another than the one told last (by two in a hundred,
        or more where beats merely breathe)."""
        changes: dict[int, float] = {}
        last = 0.0
        for bar in range(1, self.bar_count + 1):
            now = self.told_tempo(bar)
            other_unit = bar > 1 and (
                self.meters[bar - 1].is_compound != self.meters[bar - 2].is_compound
            )
            if abs(now - last) > 0.02 * last or other_unit:
                changes[bar] = last = now
        return changes

    @cached_property
    def bar_seconds(self) -> tuple[float, ...]:
        """The moments (seconds) at which the bars begin, and the last one ends."""
        return tuple(self.pulse.seconds(beat) for beat in self._starts)

    @cached_property
    def _bars(self) -> dict[int, Bar]:
        bars: dict[int, list[Stroke]] = defaultdict(list)
        for s in self.strokes.values():
            bars[s.bar].append(s)
        return {bar: _in_order(strokes) for bar, strokes in bars.items()}

    def by_bar(self) -> dict[int, Bar]:
        """Strokes of each bar, in the order of time and then of the kit table."""
        return defaultdict(Bar, self._bars)

    def strokes_of(self, bar: int) -> Bar:
        """Strokes of one bar, in the order of ``by_bar``."""
        return self._bars.get(bar, NO_STROKES)

    def ordered(self) -> Iterator[Stroke]:
        """Every stroke, in the order of ``by_bar``."""
        bars = self._bars
        for bar in sorted(bars):
            yield from bars[bar]

    def sharing_bars(self, old: Score, bars: set[int]) -> Score:
        """This score, which has the strokes of an older one but in ``bars``: what the older one
        knows of its other bars is shared."""
        kept = {b: strokes for b, strokes in old._bars.items() if b not in bars}
        fresh: dict[int, list[Stroke]] = {b: [] for b in bars}
        for s in self.strokes.values():
            if s.bar in bars:
                fresh[s.bar].append(s)
        kept |= {b: _in_order(strokes) for b, strokes in fresh.items() if strokes}
        self.__dict__["_bars"] = kept  # as the cached property would keep it
        return self

    def section_at(self, bar: int) -> Section | None:
        return next((s for s in self.sections if s.first_bar <= bar <= s.last_bar), None)

    @cached_property
    def _played(self) -> Score:
        bars = {b for b, strokes in self._bars.items() if _has_left_out(strokes)}
        if not bars:
            return self
        played = self.with_strokes(s for s in self.strokes.values() if s.doubt != "left_out")
        return played.sharing_bars(self, bars)

    def played(self) -> Score:
        """The score without the strokes that a person left out."""
        return self._played

    def with_strokes(self, strokes: Iterable[Stroke]) -> Score:
        return replace(self, strokes={s.id: s for s in strokes})

    def to_json(self) -> dict[str, Any]:
        return {
            "title": self.title,
            "artist": self.artist,
            **self.frame(),
            "strokes": [s.to_json() for s in self.ordered()],
            "ones": [list(one) for one in self.ones],
            "sounding": list(self.sounding) if self.sounding else None,
            "evidence": self.evidence.to_json(),
            "perhaps": [
                p.to_json() for p in sorted(self.perhaps.values(), key=lambda p: (p.time, p.id))
            ],
        }

    def frame(self) -> dict[str, Any]:
        """What FRAME lists, as JSON."""
        return {name: field.told(getattr(self, name)) for name, field in FRAME.items()}

    def changed_by(self, frame: Mapping[str, Any]) -> Score:
        """This score with some entries of its frame as JSON says; BadScore where they are odd."""
        try:
            return replace(self, **{k: f.read(frame[k]) for k, f in FRAME.items() if k in frame})
        except _ODD as problem:
            raise BadScore(f"This is not a score of ours: {problem!r} is missing or odd.") from None

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> Score:
        """The score that JSON describes; BadScore where it describes none."""
        try:
            score = cls(
                strokes={s["id"]: Stroke.from_json(s) for s in data["strokes"]},
                title=data.get("title", ""),
                artist=data.get("artist", ""),
                ones=tuple((float(t), float(p)) for t, p in data.get("ones", ())),
                sounding=tuple(data["sounding"]) if data.get("sounding") else None,
                evidence=Evidence.from_json(data.get("evidence", {})),
                perhaps={
                    p["id"]: CandidateHit.from_json(p) for p in numbered(data.get("perhaps", ()))
                },
                **{
                    name: field.read(data[name])
                    for name, field in FRAME.items()
                    if name in data or field.is_needed
                },
            )
            if not score.on_paper:
                return score
            begins = {s.id: score.seconds(s.first_bar) for s in score.sections}
            return replace(score, on_paper=by_moments(score.on_paper, begins))
        except _ODD as problem:
            raise BadScore(f"This is not a score of ours: {problem!r} is missing or odd.") from None


_ODD = (KeyError, TypeError, ValueError, IndexError, AttributeError)


def _break(moment: Any, kind: Any) -> tuple[float, str]:
    if not is_moment(moment) or kind not in BREAKS:
        raise BadScore(f"This is no break of a page: {shown([moment, kind])}.")
    return float(moment), str(kind)


def _said_at(moment: Any, text: Any) -> tuple[float, str]:
    if not is_moment(moment):
        raise BadScore(f"This is no moment of a song: {shown(moment)}.")
    return float(moment), str(text)


class _Field(NamedTuple):
    """How an entry of a score's frame is told as JSON, and read from it."""

    told: Callable[[Any], Any]
    read: Callable[[Any], Any]
    is_needed: bool = False


#: Everything of a score but its strokes (written and perhaps), its names, and what stays as heard.
FRAME: dict[str, _Field] = {
    "meters": _Field(
        lambda own: [str(m) for m in own], lambda data: tuple(map(Meter.parse, data)), True
    ),
    "pulse": _Field(lambda own: [round(t, 5) for t in own.times], PulseMap.of, True),
    "swing": _Field(list, lambda data: (str(data[0]), float(data[1])), True),
    "sections": _Field(
        lambda own: [s.to_json() for s in own],
        lambda data: tuple(map(Section.from_json, data)),
        is_needed=True,
    ),
    "locked": _Field(
        lambda own: [[round(a, 5), round(b, 5)] for a, b in own],
        lambda data: tuple((float(a), float(b)) for a, b in data),
    ),
    "confirmed": _Field(sorted, frozenset),
    "aside": _Field(
        lambda own: [a.to_json() for a in own],
        lambda data: tuple(map(UnplacedStroke.from_json, data)),
    ),
    "aside_words": _Field(
        lambda own: [w.to_json() for w in own],
        lambda data: tuple(map(UnplacedWords.from_json, data)),
    ),
    "notes": _Field(
        lambda own: {str(bar): text for bar, text in sorted(own.items())},
        lambda data: {int(bar): text for bar, text in data.items()},
    ),
    "sound": _Field(dict, dict),
    "notation": _Field(str, str),
    "settled": _Field(list, tuple),
    "cues": _Field(
        lambda own: {str(bar): c.to_json() for bar, c in sorted(own.items())},
        lambda data: {int(bar): Cue.from_json(c) for bar, c in data.items()},
    ),
    "sounds": _Field(
        lambda own: [s.to_json() for s in own], lambda data: tuple(map(KitSound.from_json, data))
    ),
    "fill_verdicts": _Field(
        lambda own: [v.to_json() for v in own],
        lambda data: tuple(map(FillVerdict.from_json, data)),
    ),
    "groove_verdicts": _Field(
        lambda own: [v.to_json() for v in own],
        lambda data: tuple(map(GrooveVerdict.from_json, data)),
    ),
    "swing_is_said": _Field(bool, bool),
    "player": _Field(lambda own: own.to_json(), Player.from_json),
    "breaks": _Field(
        lambda own: [[round(t, 4), kind] for t, kind in own],
        lambda data: tuple(_break(t, kind) for t, kind in data),
    ),
    "spoken": _Field(
        lambda own: [[round(t, 4), text] for t, text in own],
        lambda data: tuple(_said_at(t, text) for t, text in data),
    ),
    "on_paper": _Field(
        lambda own: {item: said.to_json() for item, said in own.items()}, read_items
    ),
    "how_to": _Field(dict, lambda data: {s: str(data[s]) for s in SIGNS if s in data}),
}
