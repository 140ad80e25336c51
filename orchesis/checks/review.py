"""The review queue: doubtful moments, ordered by what their answer would settle.

What sounds alike is asked about by its sound first: one answer names all of it. One doubt that
recurs at its place through the bars of the same music is asked once. A doubt is a stroke of low
confidence, one that a person marked as doubtful, one that is missing where nearly all bars of the
same music have it, or what is perhaps a stroke, where that recurs.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from orchesis import fills
from orchesis.checks import kit_sounds
from orchesis.checks.echo import Echo
from orchesis.placing.requantise import nearest_place
from orchesis.score import KIT, CandidateHit, Score, Stroke
from orchesis.score.bar import of_bar
from orchesis.score.fill import Span

#: Confidence below which a heard stroke is asked about (and drawn as doubtful on the page).
DOUBTFUL = 0.55
_SECONDS = 6.0  # that a practised person needs for an answer
#: Strokes of a sound that is asked about, and what its answer settles at least; the chance that a
#: sound is called wrongly which has a rival, and that a tom is another one than was heard.
_OF_SOUND, _WORTH, _CHANCE_OR, _CHANCE_TOM, _SURELY = 3, 1.5, 0.5, 0.35, 0.7
_MIN_BARS_TO_ASK = 3  # bars of the same music in which what is perhaps a stroke is asked about
_SAME_STROKE_S = 0.05  # seconds within which a written stroke of the part stands for it
_HAVE, _FEWEST = 0.85, 6  # share of the bars, and least number, that make a gap doubtful


@dataclass(frozen=True)
class Doubt:
    """kind: sound, unsure, marked, missing, perhaps, echo or hands. strokes: ids of those in doubt
    (of a gap, of a sound: none); perhaps: of what is perhaps one. bars: where. weight: how many
    strokes an answer is expected to mend.

    section: the name of the music, "" for the song. sure: mean confidence of what is unsure.
    having, of: how many bars have it for certain, of how many. reason: what a person said of it.
    parts: what sounds together where no two hands can play it. echo, alike: the delay, and how
    alike the spectra are (-1 to 1), None where no recording was at hand. takes: (name, bars that
    have it, bars it covers) of the song's other takes. heard: of a sound, what is asked about.
    """

    key: str
    kind: str
    part: str
    place: Fraction
    limb: str
    bars: tuple[int, ...]
    strokes: tuple[str, ...]
    weight: float
    ghost: bool = False
    section: str = ""
    sure: float = 1.0
    having: int = 0
    of: int = 0
    reason: str = ""
    parts: tuple[str, ...] = ()
    echo: Echo | None = None
    alike: float | None = None
    takes: tuple[tuple[str, int, int], ...] = ()
    perhaps: tuple[str, ...] = ()
    heard: kit_sounds.Sound | None = None

    def to_json(self) -> dict[str, Any]:
        return {
            "key": self.key,
            "kind": self.kind,
            "part": self.part,
            "place": str(self.place),
            "limb": self.limb,
            "bars": list(self.bars),
            "strokes": list(self.strokes),
            "perhaps": list(self.perhaps),
            "weight": round(self.weight, 3),
            "sound": self.heard.number if self.heard else None,
            "examples": list(self.heard.examples) if self.heard else [],
            "can_split": bool(self.heard and self.heard.can_split),
        }


def queue(score: Score, special: Sequence[Doubt] = ()) -> list[Doubt]:
    """The open doubts of a score; those of confirmed bars are settled.

    special: doubts found elsewhere (echoes, third hands); their strokes are not asked twice.
    """
    asked = {i for d in special for i in d.strokes}
    labels = {b: s.label for s in score.sections for b in range(s.first_bar, s.last_bar + 1)}
    names: dict[str, str] = {}
    for section in score.sections:
        names.setdefault(section.label, section.name)
    groups: dict[tuple[str, str, Fraction], list[Stroke]] = defaultdict(list)
    places: dict[tuple[str, str, Fraction], list[Stroke]] = defaultdict(list)
    doubts: list[Doubt] = []
    for s in score.ordered():
        spot = (labels.get(s.bar, ""), s.part, s.place)
        places[spot].append(s)
        if s.bar in score.confirmed:
            continue
        if s.doubt == "doubtful":
            doubts.append(_doubt("marked", _marked_key(s), [s], 1.0, reason=s.reason))
        elif _is_unsure(s) and s.id not in asked:
            groups[spot].append(s)
    for (label, part, place), strokes in groups.items():
        weight = sum(4 * s.confidence * (1 - s.confidence) for s in strokes)
        sure = sum(s.confidence for s in strokes) / len(strokes)
        doubts.append(
            _doubt(
                "unsure",
                _unsure_key(label, part, place),
                strokes,
                weight,
                sure=sure,
                section=names.get(label, ""),
                having=len(places[label, part, place]) - len(strokes),
            )
        )
    doubts += _gaps(score, labels, names, places, fills.find(score.played()))
    doubts += _perhaps(score, labels, names, places)
    doubts += _sounds(score)
    doubts += special
    settled = set(score.settled)
    return sorted((d for d in doubts if d.key not in settled), key=lambda d: (-d.weight, d.bars[0]))


def open_count(score: Score) -> int:
    """How many questions the strokes alone ask: of the queue, what is unsure or marked."""
    labels = {b: s.label for s in score.sections for b in range(s.first_bar, s.last_bar + 1)}
    keys: set[str] = set()
    for bar in range(1, score.bar_count + 1):
        if bar not in score.confirmed:
            keys |= _keys(score.strokes_of(bar), labels.get(bar, ""))
    return len(keys - set(score.settled))


@of_bar
def _keys(strokes: Sequence[Stroke], label: str) -> frozenset[str]:
    """The questions that a bar's strokes ask."""
    return frozenset(
        _marked_key(s) if s.doubt == "doubtful" else _unsure_key(label, s.part, s.place)
        for s in strokes
        if s.doubt == "doubtful" or _is_unsure(s)
    )


def _is_unsure(s: Stroke) -> bool:
    """Whether the onset model was unsure of a stroke, and nobody decided of it since."""
    return (
        s.placed_by == "heard"
        and s.confidence < DOUBTFUL
        and s.doubt not in ("assumed", "left_out", "layer")
    )


def _marked_key(s: Stroke) -> str:
    return f"m{s.id}"


def _unsure_key(label: str, part: str, place: Fraction) -> str:
    return f"u{label}|{part}|{place}"


def _doubt(kind: str, key: str, strokes: Sequence[Stroke], weight: float, **facts: Any) -> Doubt:
    s = strokes[0]
    return Doubt(
        key,
        kind,
        s.part,
        s.place,
        s.limb,
        tuple(x.bar for x in strokes),
        tuple(x.id for x in strokes),
        weight,
        ghost=s.dynamic == "ghost",
        **facts,
    )


def _chance(s: kit_sounds.Sound) -> float:
    """How likely it is that a sound is called wrongly. Ride and crash are struck on one metal in
    either way: where one sound is heard as both, its strokes are judged one by one."""
    if s.doubt and {s.part, s.doubt} != {"ride", "crash"}:
        return _CHANCE_OR
    if KIT[s.part].layer == "toms":
        return _CHANCE_TOM
    return 1 - s.sure if s.sure < _SURELY else 0.0


def _sounds(score: Score) -> list[Doubt]:
    """Sounds that nobody has named yet and that may be called wrongly."""
    doubts = []
    for s in kit_sounds.of_song(score):
        weight = s.written * _chance(s)
        if s.answer or s.written < _OF_SOUND or weight < _WORTH:
            continue
        bars = tuple(dict.fromkeys(nearest_place(score, t)[0] for t in s.examples))
        doubts.append(
            Doubt(
                f"s{s.number}|{s.part}",
                "sound",
                s.part,
                Fraction(0),
                KIT[s.part].limb,
                bars,
                (),
                weight,
                sure=s.sure,
                heard=s,
            )
        )
    return doubts


def _perhaps(
    score: Score,
    labels: Mapping[int, str],
    names: Mapping[str, str],
    places: Mapping[tuple[str, str, Fraction], list[Stroke]],
) -> list[Doubt]:
    """What is perhaps a stroke, at the same place of some bars of the same music, where the drums
    play at all."""
    groups: dict[tuple[str, str, Fraction], list[tuple[int, CandidateHit]]] = defaultdict(list)
    for p in score.perhaps.values():
        if not p.is_shown:
            continue
        bar, place = nearest_place(score, p.time)
        is_written = any(
            s.part == p.part
            and (s.place == place or (s.time is not None and abs(s.time - p.time) < _SAME_STROKE_S))
            for s in score.strokes_of(bar)
        )
        if score.strokes_of(bar) and not is_written and bar not in score.confirmed:
            groups[labels.get(bar, ""), p.part, place].append((bar, p))
    return [
        Doubt(
            f"p{label}|{part}|{place}",
            "perhaps",
            part,
            place,
            KIT[part].limb,
            tuple(bar for bar, _ in candidates),
            (),
            sum(4 * p.confidence * (1 - p.confidence) for _, p in candidates),
            section=names.get(label, ""),
            sure=sum(p.confidence for _, p in candidates) / len(candidates),
            having=len(places.get((label, part, place), ())),
            perhaps=tuple(p.id for _, p in candidates),
        )
        for (label, part, place), candidates in groups.items()
        if len(candidates) >= _MIN_BARS_TO_ASK
    ]


def _gaps(
    score: Score,
    labels: Mapping[int, str],
    names: Mapping[str, str],
    places: Mapping[tuple[str, str, Fraction], list[Stroke]],
    spans: Sequence[Span],
) -> list[Doubt]:
    """Bars that lack what nearly all bars of the same music have, and play otherwise alike.

    What a fill leaves out, and the time hand where another metal is struck in its place, is not
    lost.
    """
    by_bar = score.by_bar()
    doubts = []
    for (label, part, place), strokes in places.items():
        bars_of_label = [
            b for b, x in labels.items() if x == label and place < score.meters[b - 1].beats
        ]
        having = {s.bar for s in strokes}
        lacking = [b for b in bars_of_label if b not in having and b not in score.confirmed]
        if len(having) < _FEWEST or len(having) < _HAVE * len(bars_of_label):
            continue
        kind = _kind(part)
        # A bar that plays another part of the kind there has not lost it.
        lacking = [
            b
            for b in lacking
            if by_bar.get(b)
            and not any(s.place == place and _kind(s.part) == kind for s in by_bar[b])
            and not any((x.bar, x.place) <= (b, place) < (x.last_bar, x.end) for x in spans)
        ]
        if not lacking:
            continue
        likely = [score.evidence.sure(score, b, part, place) for b in lacking]
        lacking = [b for b, x in zip(lacking, likely, strict=True) if x]
        if not lacking:
            continue
        doubts.append(
            Doubt(
                f"g{label}|{part}|{place}|{len(lacking)}",
                "missing",
                part,
                place,
                strokes[0].limb,
                tuple(lacking),
                (),
                sum(likely) * len(having) / len(bars_of_label),
                section=names.get(label, ""),
                having=len(having),
                of=len(bars_of_label),
            )
        )
    return doubts


def _kind(part: str) -> str:
    """Hats, rides and crashes are one surface: one of them stands for the other."""
    family = KIT[part].family
    return "metal" if family in ("hat", "cymbal") and part != "hat_foot" else family


def minutes(doubts: Sequence[Doubt]) -> float:
    """How long their answers will take a practised person."""
    return len(doubts) * _SECONDS / 60


def states(score: Score) -> list[str]:
    """heard, review or confirmed, for each bar: in review is a bar that a person has touched."""
    return [
        "confirmed"
        if b in score.confirmed
        else "review"
        if b in score.notes or _is_touched(score.strokes_of(b))
        else "heard"
        for b in range(1, score.bar_count + 1)
    ]


@of_bar
def _is_touched(strokes: Sequence[Stroke]) -> bool:
    return any("person" in (s.placed_by, s.limb_by) or s.doubt for s in strokes)
