"""Feel: who is late or early, what swings and how much, how loud each layer is, how even.

Every figure is a median with the spread of the strokes round it; nothing is claimed from fewer
strokes than it takes. Lateness is measured against the pulse map with the song's swing; where
two voices sound together their distance is measured without any grid.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence, Set
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import combinations
from math import log10
from statistics import median

import numpy as np

from orchesis import fills
from orchesis.feel.voices import VOICES, voice_of
from orchesis.score import KIT, Measured, Score, Stroke
from orchesis.score.feel import (
    Feel,
    Level,
    Place,
    PlaceLevel,
    Placement,
    Point,
    Rush,
    Swing,
    Together,
)
from orchesis.score.fill import Span
from orchesis.score.swing import swung

_PAIRS = 12  # that a swing is claimed from
_LEAST_SWING = 0.03
_LOOSEST = 0.06  # spread of the pairs beyond which nothing swings
_MIN_STROKES_OF_A_PLACE = 4  # strokes that one place's lateness is taken from
_MIN_STROKES_OF_A_PLACEMENT = 8  # strokes that a placement is told from
_MAD_TO_SD = 1.4826  # median absolute deviation -> standard deviation of a normal
_ERROR_OF_MEDIAN = 1.96 * 1.253  # of a median, in standard deviations over the root of n
_MAX_BEATS_OFF = 0.16  # beats; a stroke farther off was written elsewhere than it was meant
_POWER = 2.0  # amplitude as loudness to this power (orchesis/hearing/hits.py, sounding)


def db_of(loudness: float) -> float:
    """Decibels of a loudness (0..1) against a full 1."""
    return 20 * _POWER * log10(max(loudness, 0.02))


def _median(values: Sequence[float]) -> tuple[float, float]:
    """(median, spread as a standard deviation, by the median deviation)."""
    middle = median(values)
    return middle, _MAD_TO_SD * median([abs(x - middle) for x in values])


def _off_by(spread: float, count: int) -> float:
    return _ERROR_OF_MEDIAN * max(spread, 0.5) / count**0.5


def read(score: Score) -> list[Feel]:
    """The feel of the whole song, then of every section.

    Layers are weighed by the measured levels of their strokes; where they are missing, by
    their loudness and the kit table's balance.
    """
    score = score.played()
    spans = fills.find(score)
    timed = [_Heard(s, s.measured) for s in score.ordered() if s.measured]
    in_fill = {s.id for span in spans for s in fills.inside(score, span)}
    facts = _Known(score, spans, in_fill)
    feels = [_feel(facts, "", 1, score.bar_count, timed)]
    for section in score.sections:
        strokes_here = [s for s in timed if section.first_bar <= s.bar <= section.last_bar]
        feels.append(_feel(facts, section.id, section.first_bar, section.bars, strokes_here))
    return feels


@dataclass(frozen=True)
class _Known:
    """What all sections are measured with."""

    score: Score
    spans: Sequence[Span]
    in_fill: set[str]


class _Heard:
    """A measured stroke as feel asks of it, worked out once: a song has thousands, and each is
    looked at a dozen times. parts: of the beat its place is counted in; db: its loudness; level:
    as measured, dB against the recording."""

    __slots__ = (
        "bar",
        "db",
        "dynamic",
        "id",
        "layer",
        "level",
        "limb",
        "part",
        "parts",
        "place",
        "time",
        "voice",
    )

    def __init__(self, s: Stroke, measured: Measured) -> None:
        self.id, self.bar, self.place, self.part = s.id, s.bar, s.place, s.part
        self.limb, self.dynamic, self.layer = s.limb, s.dynamic, s.layer
        self.parts, self.voice, self.db = s.place.denominator, voice_of(s), db_of(s.loudness)
        self.time, self.level = measured.time, measured.level


def lateness(score: Score, s: Stroke | _Heard, swing: tuple[str, float]) -> float:
    """Seconds by which a stroke sounds behind its place."""
    return (s.time or 0.0) - score.pulse.seconds(score.start_of(s.bar) + swung(s.place, swing))


def _feel(facts: _Known, section: str, first: int, bars: int, strokes: Sequence[_Heard]) -> Feel:
    score = facts.score
    swings = _swings(score, strokes)
    if score.swing_is_said:  # what a person says goes before what was measured
        swings = [replace(s, claimed=s.level == score.swing[0]) for s in swings]
    claimed = next((s for s in swings if s.claimed and s.who == "all"), None)
    swing = (claimed.level, claimed.ratio) if claimed else ("none", 0.5)
    starts, times = score.bar_beats(), score.pulse.times
    late: list[tuple[_Heard, float]] = []
    for s in strokes:
        beat = min(starts[s.bar - 1] + int(s.place), len(times) - 2)
        off = lateness(score, s, swing)
        if abs(off) < _MAX_BEATS_OFF * (times[beat + 1] - times[beat]):
            late.append((s, 1000 * off))
    placement = _placements(score, [(s, ms) for s, ms in late if s.id not in facts.in_fill])
    together = _together(strokes)
    hand, evenness = _hand(strokes)
    bpm, drift = _tempo(score, first, bars)
    rush = tuple(_rush(score, span) for span in facts.spans if first <= span.bar < first + bars)
    ladder = _levels(strokes)
    gaps = _gaps(strokes)
    medians = _usual(strokes)
    return Feel(
        section=section,
        first_bar=first,
        bars=bars,
        swing=tuple(swings),
        placement=tuple(placement),
        together=tuple(together),
        levels=tuple(ladder),
        gaps=gaps,
        hand=tuple(hand),
        evenness=evenness,
        loose=_looseness(late),
        bpm=bpm,
        drift=drift,
        rush=rush,
        points=tuple(
            Point(
                s.id, s.voice, s.bar, str(s.place), round(ms, 1), round(s.db - medians[s.part], 1)
            )
            for s, ms in late
            if s.voice
        )
        if section
        else (),
    )


# -- swing


def _swings(score: Score, strokes: Sequence[_Heard]) -> list[Swing]:
    """Swing of 8ths and of 16ths, of all voices together and of each that has pairs enough."""
    swings = []
    groups: dict[str, list[_Heard]] = defaultdict(list)
    for s in strokes:
        if voice := s.voice:
            groups[voice].append(s)
    triplets = {
        (s.bar, int(s.place)) for s in strokes if s.parts == 3 and s.place.numerator % 3 == 1
    }
    for level in ("eighth", "sixteenth"):
        ratios = {
            who: _ratios(score, pairs_of, level, triplets) for who, pairs_of in groups.items()
        }
        everyone = [r for pairs_of in ratios.values() for r in pairs_of]
        for who, own_ratios in (("all", everyone), *sorted(ratios.items())):
            if len(own_ratios) >= _PAIRS:
                swings.append(_swing(level, who, own_ratios))
    return swings


def _swing(level: str, who: str, ratios: Sequence[float]) -> Swing:
    ratio, deviation = _median(ratios)
    spread = deviation / _MAD_TO_SD
    sure = ratio - 0.5 > max(_LEAST_SWING, 2.5 * 1.253 * deviation / len(ratios) ** 0.5)
    return Swing(
        level,
        round(ratio, 3),
        round(spread, 3),
        len(ratios),
        who,
        bool(sure and spread <= _LOOSEST and ratio < 0.8),
    )


def _ratios(
    score: Score, strokes: Sequence[_Heard], level: str, triplets: Set[tuple[int, int]]
) -> list[float]:
    """Long part / pair of each pair of a voice, measured from its own strokes on the beats (or
    8ths) where it has them, else from the pulse and its usual lateness.

    triplets: bars and beats in which the second triplet 8th is played, so that the third is no
    swung 8th."""
    # Places by their parts of a beat, as whole numbers: a song has thousands of them. Of a pair
    # of 8ths the first stands on the beat, the second has halves (or is the last triplet); of a
    # pair of 16ths the first has none or halves, the second fourths.
    step, halves = (1.0, 2) if level == "eighth" else (0.5, 4)
    firsts = (1,) if level == "eighth" else (1, 2)
    starts = score.bar_beats()
    if not any(s.parts == halves or s.parts == 3 for s in strokes):
        return []
    at: dict[float, float] = {}
    late: list[float] = []
    for s in strokes:
        if s.parts in firsts:
            beat = starts[s.bar - 1] + float(s.place)
            at[beat] = s.time
            late.append(s.time - score.pulse.seconds(beat))
    usual = median(late) if late else 0.0

    def moment(beat: float) -> float:
        times = at.get(beat)
        return score.pulse.seconds(beat) + usual if times is None else times

    ratios = []
    for s in strokes:
        parts = s.parts
        shuffled = level == "eighth" and parts == 3 and s.place.numerator % 3 == 2
        if parts != halves and not shuffled:
            continue
        if score.meters[s.bar - 1].is_compound or (shuffled and (s.bar, int(s.place)) in triplets):
            continue
        beat = starts[s.bar - 1] + float(s.place) // step * step
        a, b = moment(beat), moment(beat + step)
        if b - a > 0.05:
            ratio = (s.time - a) / (b - a)
            if 0.3 < ratio < 0.85:
                ratios.append(ratio)
    return ratios


# -- placement


def _firm(s: _Heard) -> bool:
    """Places that no swing moves: beats, and halves of beats in 16th music."""
    return s.parts == 1


def _placements(score: Score, late: Sequence[tuple[_Heard, float]]) -> list[Placement]:
    placements = []
    voices: dict[str, list[tuple[_Heard, float]]] = {voice: [] for voice in VOICES}
    for s, ms in late:
        if voice := s.voice:
            voices[voice].append((s, ms))
    for voice, strokes_of_voice in voices.items():
        firm = (
            [ms for s, ms in strokes_of_voice if _firm(s)]
            if voice != "ghosts"
            else [ms for _, ms in strokes_of_voice]
        )
        if len(firm) < _MIN_STROKES_OF_A_PLACEMENT:
            continue
        middle, spread = _median(firm)
        places: dict[Fraction, list[float]] = defaultdict(list)
        for s, ms in strokes_of_voice:
            places[s.place].append(ms)
        s = strokes_of_voice[0][0]
        beat = score.bar_beats()[s.bar - 1]
        sixteenth = 250 * (score.pulse.seconds(beat + 1) - score.pulse.seconds(beat))
        placements.append(
            Placement(
                voice,
                round(middle, 1),
                round(middle / sixteenth, 3),
                round(spread, 1),
                round(_off_by(spread, len(firm)), 1),
                len(firm),
                tuple(
                    Place(str(p), round(median(v), 1), len(v))
                    for p, v in sorted(places.items())
                    if len(v) >= 3
                ),
            )
        )
    return placements


def _together(strokes: Iterable[_Heard]) -> list[Together]:
    """Voices against each other wherever they sound at one written place."""
    moments: dict[tuple[int, int, int], dict[str, float]] = defaultdict(dict)
    for s in strokes:
        voice = s.voice
        if voice:
            at = (s.bar, s.place.numerator, s.parts)
            moments[at].setdefault(voice, s.time)
    gaps: dict[tuple[str, str], list[float]] = defaultdict(list)
    for together in moments.values():
        for a, b in combinations([v for v in VOICES if v in together], 2):
            gaps[b, a].append(1000 * (together[b] - together[a]))
    points = []
    for (a, b), values in gaps.items():
        if len(values) >= _MIN_STROKES_OF_A_PLACEMENT:
            middle, spread = _median(values)
            off = _off_by(spread, len(values))
            points.append(Together(a, b, round(middle, 1), round(off, 1), len(values)))
    return points


def _looseness(late: Sequence[tuple[_Heard, float]]) -> dict[str, float]:
    """Spread in ms by limb, round the median of each place and part."""
    groups: dict[tuple[str, str, Fraction], list[float]] = defaultdict(list)
    for s, ms in late:
        groups[s.limb, s.part, s.place].append(ms)
    rest: dict[str, list[float]] = defaultdict(list)
    for (limb, _, _), values in groups.items():
        if len(values) >= 3:
            middle = median(values)
            rest[limb] += [v - middle for v in values]
    return {
        limb: round(_MAD_TO_SD * median([abs(x) for x in v]), 1)
        for limb, v in sorted(rest.items())
        if len(v) >= _MIN_STROKES_OF_A_PLACEMENT
    }


# -- dynamics


def _usual(strokes: Iterable[_Heard]) -> dict[str, float]:
    """Median level in dB of each part."""
    by_part: dict[str, list[float]] = defaultdict(list)
    for s in strokes:
        by_part[s.part].append(s.db)
    return {part: median(v) for part, v in by_part.items()}


def _levels(strokes: Sequence[_Heard]) -> list[Level]:
    """Every layer against the backbeat, the loudest first."""
    by_layer: dict[str, list[float]] = defaultdict(list)
    for s in strokes:
        level = s.db + 20 * log10(KIT[s.part].gain) if s.level is None else s.level
        by_layer["backbeat" if s.voice == "backbeat" else s.layer].append(level)
    if len(by_layer.get("backbeat", ())) < 4:
        return []
    zero = median(by_layer["backbeat"])
    levels = []
    for layer, values in by_layer.items():
        if len(values) >= 4:
            middle, spread = _median(values)
            levels.append(Level(layer, round(middle - zero, 1), round(spread, 1), len(values)))
    return sorted(levels, key=lambda x: -x.db)


def _gaps(strokes: Sequence[_Heard]) -> dict[str, float | None]:
    """dB from the usual backbeat to ghosts and to accents on the snare."""
    snares = [s for s in strokes if s.part in ("snare", "rimshot")]
    levels = {d: [s.db for s in snares if s.dynamic == d] for d in ("ghost", "normal", "accent")}
    full = [*levels["normal"], *levels["accent"]]
    if len(full) < 4:
        return {"ghost": None, "accent": None}
    zero = median(levels["normal"]) if len(levels["normal"]) >= 4 else median(full)
    return {
        name: round(median(levels[name]) - zero, 1) if len(levels[name]) >= 4 else None
        for name in ("ghost", "accent")
    }


def _hand(strokes: Sequence[_Heard]) -> tuple[list[PlaceLevel], float | None]:
    """(the time hand's level at each place, against its own median; its spread within places).

    Places at which a drum sounds too are left out: it hides how loud the hand was.
    """
    time = [s for s in strokes if s.voice == "time hand"]
    if len(time) < _MIN_STROKES_OF_A_PLACEMENT:
        return [], None
    masked = {(s.bar, s.place) for s in strokes if s.voice in ("backbeat", "toms")}
    parts = [s.part for s in time]
    usual = max(set(parts), key=parts.count)
    hand_strokes = [s for s in time if s.part == usual and (s.bar, s.place) not in masked]
    if len(hand_strokes) < _MIN_STROKES_OF_A_PLACEMENT:
        return [], None
    zero = median([s.db for s in hand_strokes])
    places: dict[Fraction, list[float]] = defaultdict(list)
    for s in hand_strokes:
        places[s.place].append(s.db - zero)
    kept = {p: v for p, v in sorted(places.items()) if len(v) >= 3}
    middle = {p: median(v) for p, v in kept.items()}
    rest = [x - middle[p] for p, v in kept.items() for x in v]
    even = (
        round(_MAD_TO_SD * median([abs(x) for x in rest]), 1)
        if len(rest) >= _MIN_STROKES_OF_A_PLACEMENT
        else None
    )
    return [PlaceLevel(str(p), round(middle[p], 1), len(v)) for p, v in kept.items()], even


# -- tempo


def _tempo(score: Score, first: int, bars: int) -> tuple[float, float]:
    """(median tempo, change in per cent from the first to the last quarter) of some bars."""
    starts = score.bar_beats()
    a, b = starts[first - 1], starts[min(first - 1 + bars, score.bar_count)]
    steps = np.diff(np.array(score.pulse.times[a : b + 1]))
    if len(steps) == 0:
        return 0.0, 0.0
    quarter = max(1, len(steps) // 4)
    drift = float(np.median(steps[:quarter]) / np.median(steps[-quarter:]) - 1) * 100
    return round(60 / median(steps), 2), round(drift, 1)


def _rush(score: Score, span: Span) -> Rush:
    """The tempo from the fill's first to its last beat against the four bars before."""
    starts = score.bar_beats()
    a = score.beat_of(span.bar, span.place)
    b = min(score.beat_of(span.last_bar, span.end), Fraction(starts[-1]))
    before = score.beat_of(max(1, span.bar - 4), Fraction(0))
    if b <= a or a <= before:
        return Rush(span.bar, 0.0)
    inside = float(b - a) / (score.pulse.seconds(b) - score.pulse.seconds(a))
    usual = float(a - before) / (score.pulse.seconds(a) - score.pulse.seconds(before))
    return Rush(span.bar, round(100 * (inside / usual - 1), 1))


def layback_ms(score: Score) -> dict[str, float]:
    """Median lateness (ms) of kick, snare and hat strokes on beats against the pulse.

    Only parts with at least 12 measured strokes are told.
    """
    late: dict[str, list[float]] = {}
    for s in score.strokes.values():
        if s.time is not None and s.place.denominator == 1:
            part = "hat" if s.part.startswith("hat") else s.part
            late.setdefault(part, []).append(s.time - score.seconds(s.bar, s.place))
    return {
        part: round(median(v) * 1000, 1)
        for part, v in sorted(late.items())
        if len(v) >= 12 and part in ("kick", "snare", "hat")
    }


def shifts(score: Score) -> Callable[[Stroke], float]:
    """Seconds by which each stroke is late in the song's feel: the median of its voice at its
    place, of its voice where the place is rare. For playing a written part as it feels."""
    played = score.played()
    by_place: dict[tuple[str, Fraction], list[float]] = defaultdict(list)
    by_voice: dict[str, list[float]] = defaultdict(list)
    for s in played.strokes.values():
        if s.time is not None and voice_of(s):
            off = lateness(played, s, score.swing)
            by_place[voice_of(s), s.place].append(off)
            by_voice[voice_of(s)].append(off)

    def usual(late: list[float]) -> float | None:
        return median(late) if len(late) >= _MIN_STROKES_OF_A_PLACE else None

    places = {k: usual(v) for k, v in by_place.items()}
    voices = {k: usual(v) for k, v in by_voice.items()}

    def shift(s: Stroke) -> float:
        voice = voice_of(s)
        place = places.get((voice, s.place))
        return (voices.get(voice) if place is None else place) or 0.0

    return shift
