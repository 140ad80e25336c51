"""What was played in, against the part: early or late, loose, missed, extra, too loud, rushing.

Strokes are matched part by part to the nearest expected moment within a window; what a limb does on
average is its offset, what it does besides its spread. Rush is the slope of the offsets over time.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter, defaultdict
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field, replace
from fractions import Fraction
from math import ceil, floor, inf, log10, sqrt
from statistics import fmean, median, pstdev
from typing import Any

from orchesis.errors import BadScore
from orchesis.score import Score, Stroke
from orchesis.score.kit import PIECE
from orchesis.score.stroke import LIMBS, NOBODYS
from orchesis.teaching.stretches import kind_of

_WINDOW = 0.12  # seconds within which a stroke is the expected one
_NAMES = {"RH": "right hand", "LH": "left hand", "RF": "right foot", "LF": "left foot"}
#: A limb against the others; on a kit whose balance is not known only what no balance explains.
UNEVEN_DB, UNEVEN_UNKNOWN_DB = 3.0, 7.0
#: From which size on something is worth a word; what is farthest above it is said.
_OFF, _LOOSE, _MISSED, _EXTRA, _RUSH, _LOUD = 12.0, 14.0, 0.06, 0.06, 0.8, 3.0


@dataclass(frozen=True)
class Played:
    """One stroke as it was played in. time: seconds from the first 1; loudness: 0..1. confidence:
    0..1, of one that was heard: only what was heard surely can be a stroke too many. level_db: by
    how much one that was heard is louder than it is written; None: the loudness tells."""

    time: float
    part: str
    loudness: float
    confidence: float = 1.0
    level_db: float | None = None


@dataclass(frozen=True)
class LimbJudged:
    """offset_ms: late is +. spread_ms: round it. missed, extra: shares of the expected strokes.
    level_db: louder than written is +."""

    offset_ms: float
    spread_ms: float
    missed: float
    extra: float
    level_db: float
    strokes: int


@dataclass(frozen=True)
class StrokeJudged:
    """An expected stroke over all loops. offsets_ms: of those played, in the order of the loops;
    missed:
    how often it was not."""

    bar: int
    place: Fraction
    limb: str
    offsets_ms: tuple[float, ...]
    missed: int


@dataclass(frozen=True)
class Judged:
    """ghosts_db: how much louder the ghosts are than written, None where there are none.
    judgement: what the ladder makes of it, of ladder.JUDGED. tempo: of a recording, in a
    sentence."""

    limbs: dict[str, LimbJudged]
    rush_percent: float
    ghosts_db: float | None
    advice: str
    judgement: str
    strokes: tuple[StrokeJudged, ...]
    tempo: str = ""

    def to_json(self) -> dict[str, Any]:
        return {
            "limbs": {
                k: {n: round(v, 3) for n, v in asdict(x).items()} for k, x in self.limbs.items()
            },
            "rush_percent": round(self.rush_percent, 2),
            "ghosts_db": None if self.ghosts_db is None else round(self.ghosts_db, 1),
            "advice": self.advice,
            "judgement": self.judgement,
            "tempo": self.tempo,
            "strokes": [
                {
                    "bar": s.bar,
                    "place": str(s.place),
                    "limb": s.limb,
                    "offsets_ms": [round(o, 1) for o in s.offsets_ms],
                    "missed": s.missed,
                }
                for s in self.strokes
            ],
        }


def judge(score: Score, played: Sequence[Played], latency: float = 0.0) -> Judged:
    """What was played to a click, or in step with the page. score: the part, or a step of it; where
    more was played it was looped. latency: seconds by which all that comes in is late. Raises
    BadScore where nothing was played."""
    if not played:
        raise BadScore("Nothing was played in.")
    written = _own(score)
    start, end = score.pulse.times[0], score.pulse.times[-1]
    length = end - start
    last = max(p.time for p in played) - latency
    loops = max(1, round((last + 0.25 * length) / length + 0.25)) if last > length else 1
    wanted = [
        (at, n)
        for k in range(loops)
        for n, s in enumerate(written)
        if (at := score.played_at(s) - start + k * length) <= last + _WINDOW or loops == 1
    ]
    drift = _drift(_by_kind(written, wanted, _piece), played, latency)
    kept = [replace(p, time=(p.time - latency) / (1 - drift)) for p in played]
    return _judged(written, wanted, kept, _piece, _WINDOW, drift, UNEVEN_DB)


def judge_heard(
    score: Score,
    played: Sequence[Played],
    stretches: Sequence[tuple[float, float]],
    drift: float,
    uneven_db: float = UNEVEN_DB,
) -> Judged:
    """What was heard of a recording, laid on the part. played: by the part's clock, with their
    confidence. stretches: places (seconds from the first 1, on from loop to loop) between which the
    part was played; elsewhere nothing is missed. drift: share by which the tempo rose. uneven_db:
    from which on a limb is told to be too loud or too soft."""
    written = _own(score)
    start, length = score.pulse.times[0], score.pulse.times[-1] - score.pulse.times[0]
    wanted = []
    for first, last in stretches:
        for k in range(floor(first / length) - 1, ceil(last / length) + 1):
            for n, s in enumerate(written):
                at = score.played_at(s) - start + k * length
                if first - _EDGE <= at <= last + _EDGE:
                    wanted.append((at, n))
    if not wanted:
        raise BadScore("Too little of this part was heard in the recording.")
    return _judged(written, wanted, played, kind_of, _HEARD_WINDOW, drift, uneven_db, is_heard=True)


_EDGE = 0.03
_HEARD_WINDOW = 0.09


def _own(score: Score) -> list[Stroke]:
    written = [s for s in score.played().ordered() if s.doubt not in NOBODYS]
    if not written:
        raise BadScore("There is nothing to play in this part.")
    return written


def _piece(part: str) -> str:
    return PIECE.get(part, part)


def _by_kind(
    written: Sequence[Stroke], wanted: Sequence[tuple[float, int]], kind: Callable[[str], str]
) -> dict[str, list[tuple[float, int]]]:
    by_kind: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for at, n in sorted(wanted):
        by_kind[kind(written[n].part)].append((at, n))
    return by_kind


@dataclass
class _Laid:
    """What was played, laid beside the part. pairs: (stroke, expected, offset, dB), seconds;
    missed, extra, count: strokes of each limb."""

    pairs: list[tuple[int, float, float, float | None]] = field(default_factory=list)
    missed: Counter[str] = field(default_factory=Counter)
    extra: Counter[str] = field(default_factory=Counter)
    count: Counter[str] = field(default_factory=Counter)


def _laid(
    written: Sequence[Stroke],
    wanted: Sequence[tuple[float, int]],
    played: Sequence[Played],
    kind: Callable[[str], str],
    window: float,
    is_heard: bool,
) -> _Laid:
    laid = _Laid()
    rows: dict[str, list[Played]] = defaultdict(list)
    for p in sorted(played, key=lambda p: p.time):
        rows[kind(p.part)].append(p)
    moments = sorted(at for at, _ in wanted)
    for name, row in _by_kind(written, wanted, kind).items():
        taken = _matched([at for at, _ in row], [p.time for p in rows[name]], window)
        # Of two strokes of a kind at once (ride and foot) a recording shows one onset, of either.
        together = {at for at, number in Counter(at for at, _ in row).items() if number > 1}
        if is_heard:
            taken = _sure_enough(written, row, rows[name], taken)
        sounding = {row[k][0] for k in taken if is_heard}
        for k, (at, n) in enumerate(row):
            limb = written[n].limb
            laid.count[limb] += 1
            if is_heard and at in together:
                laid.missed[limb] += at not in sounding
            elif k in taken:
                p = rows[name][taken[k]]
                laid.pairs.append((n, at, p.time - at, _level(p, written[n])))
            else:
                laid.missed[limb] += 1
        used = set(taken.values())
        over = [p for j, p in enumerate(rows[name]) if j not in used]
        if is_heard:
            over = [p for p in over if _is_extra(p, moments, [at for at, _ in row])]
        limbs = [written[n].limb for _, n in row]
        laid.extra[max(set(limbs), key=limbs.count)] += len(over)
    return laid


def _measured(
    written: Sequence[Stroke], laid: _Laid, late: dict[str, list[float]], is_heard: bool
) -> dict[str, LimbJudged]:
    """Limbs by what was measured of them. late: milliseconds of each stroke of a limb."""
    # Where another drum hides an onset its edge is taken for it: those are fewer than half.
    middle: Callable[[list[float]], float] = median if is_heard else _middle
    measures = {}
    for limb in LIMBS:
        count = laid.count[limb]
        if not count:
            continue
        offs = late[limb]
        levels = [db for n, _, _, db in laid.pairs if written[n].limb == limb and db is not None]
        measures[limb] = LimbJudged(
            middle(offs) if offs else 0.0,
            pstdev(offs) if len(offs) > 1 else 0.0,
            laid.missed[limb] / count,
            laid.extra[limb] / count,
            (median(levels) if is_heard else fmean(levels)) if levels else 0.0,
            count,
        )
    return measures


def _by_stroke(
    written: Sequence[Stroke], wanted: Sequence[tuple[float, int]], laid: _Laid, common: float
) -> tuple[StrokeJudged, ...]:
    offsets: dict[int, list[float]] = defaultdict(list)
    for n, _, off, _ in sorted(laid.pairs, key=lambda p: p[1]):
        offsets[n].append(1000 * off - common)
    times = Counter(n for _, n in wanted)
    return tuple(
        StrokeJudged(s.bar, s.place, s.limb, tuple(offsets[n]), max(0, times[n] - len(offsets[n])))
        for n, s in enumerate(written)
    )


def _judged(
    written: Sequence[Stroke],
    wanted: Sequence[tuple[float, int]],
    played: Sequence[Played],
    kind: Callable[[str], str],
    window: float,
    drift: float,
    uneven_db: float,
    *,
    is_heard: bool = False,
) -> Judged:
    """written: strokes once round; wanted: when which of them is expected; played: on the same
    clock. kind: what counts as the same drum. is_heard: played is what a recording may hold."""
    laid = _laid(written, wanted, played, kind, window, is_heard)
    pairs = laid.pairs
    rest = 0.0 if is_heard else _slope([(at, off) for _, at, off, _ in pairs])
    rush = drift + rest
    late = {
        limb: [1000 * (off + rest * at) for n, at, off, _ in pairs if written[n].limb == limb]
        for limb in LIMBS
    }
    common = _centred(late, median) if is_heard else 0.0
    late = {limb: [x - common for x in offs] for limb, offs in late.items()}
    measures = _measured(written, laid, late, is_heard)
    strokes = _by_stroke(written, wanted, laid, common)
    ghosts = [db for n, _, _, db in pairs if written[n].dynamic == "ghost" and db is not None]
    soft = fmean(ghosts) if ghosts else None
    faults = _faults(measures, 100 * rush, soft, uneven_db)
    size, says = max(faults)
    wrong = max((x.missed / _MISSED + x.extra / _EXTRA for x in measures.values()), default=0.0)
    how = "relaxed" if size < 1 else "not yet" if wrong >= 1 or size >= _MIN_TROUBLE else "tense"
    return Judged(measures, 100 * rush, soft, says if size >= 1 else _PRAISE, how, strokes)


def _sure_enough(
    written: Sequence[Stroke],
    row: Sequence[tuple[float, int]],
    heard: Sequence[Played],
    taken: dict[int, int],
) -> dict[int, int]:
    """The pairs without those that are only the shadow of another drum: where strokes of this part
    and class are mostly heard surely, one that is hardly heard, or less surely and far softer, was
    not played."""
    kinds = {k: (written[n].part, written[n].dynamic) for k, (_, n) in enumerate(row)}
    sure: dict[tuple[str, str], list[float]] = defaultdict(list)
    levels: dict[tuple[str, str], list[float]] = defaultdict(list)
    for k, kind in kinds.items():
        p = heard[taken[k]] if k in taken else None
        sure[kind].append(p.confidence if p else 0.0)
        if p is not None and p.level_db is not None:
            levels[kind].append(p.level_db)

    def is_there(k: int, p: Played) -> bool:
        usual = median(sure[kinds[k]])
        if p.confidence < _SHADOW * usual:
            return False
        level = median(levels[kinds[k]]) if levels[kinds[k]] else 0.0
        is_soft = p.level_db is not None and p.level_db < level - _SHADOW_DB
        return not (is_soft and p.confidence < _UNSURE * usual)

    return {k: j for k, j in taken.items() if is_there(k, heard[j])}


#: Share of the usual confidence below which a stroke was not heard; of a soft one, and how soft.
_SHADOW, _UNSURE, _SHADOW_DB = 0.1, 0.3, 12.0


def _level(p: Played, stroke: Stroke) -> float | None:
    if p.level_db is not None:
        return p.level_db
    return 20 * log10(max(p.loudness, 0.01) / max(stroke.loudness, 0.01))


def _is_extra(p: Played, moments: Sequence[float], times: Sequence[float]) -> bool:
    """Whether something heard is surely a stroke that is not written. moments: of all strokes that
    are; own: of those of its kind. One stroke may be heard twice, as a hat and as a ride; and where
    another drum is struck its sound may be taken for this one."""
    if _nearest(times, p.time) < _TWICE_S:
        return False
    is_beside = _nearest(moments, p.time) < _BESIDE_S
    return p.confidence >= (_SURE_BESIDE if is_beside else _SURE_ALONE)


def _nearest(moments: Sequence[float], time: float) -> float:
    k = bisect_left(moments, time)
    return min((abs(m - time) for m in moments[max(0, k - 1) : k + 1]), default=inf)


#: Confidence from which on something heard counts as an extra stroke, by itself and beside another.
_SURE_ALONE, _SURE_BESIDE, _BESIDE_S = 0.6, 0.95, 0.05
_TWICE_S = 0.045  # seconds within which two onsets of a kind are one stroke


def _centred(limbs: dict[str, list[float]], middle: Callable[[list[float]], float]) -> float:
    """What all limbs have in common, ms: of a recording it says nothing. The middle one of the
    limbs; of an even number the one of the two middle ones that more strokes are near."""
    middles = sorted(
        (middle(offs), len(offs)) for offs in limbs.values() if len(offs) >= _MIN_OF_A_LIMB
    )
    if not middles:
        return 0.0
    half = len(middles) // 2
    if len(middles) % 2:
        return middles[half][0]
    return max(middles[half - 1 : half + 1], key=lambda m: m[1])[0]


_MIN_OF_A_LIMB = 6


def _drift(
    expected: dict[str, list[tuple[float, int]]], played: Sequence[Played], latency: float
) -> float:
    """The share by which the player's clock runs fast, from the candidates the one under which most
    strokes lie near an expected one: who rushes is a second off after a minute."""
    wanted = {piece: sorted(at for at, _ in moments) for piece, moments in expected.items()}

    def near(drift: float) -> tuple[float, float]:
        total = 0.0
        for p in played:
            row = wanted.get(PIECE.get(p.part, p.part))
            if row:
                at = (p.time - latency) / (1 - drift)
                k = bisect_left(row, at)
                off = min(abs(row[n] - at) for n in (k - 1, k) if 0 <= n < len(row))
                total += max(0.0, 1 - off / _CLOCK_WINDOW)
        return total, -abs(drift)

    return max((k * _DRIFT for k in range(-16, 17)), key=near)


_CLOCK_WINDOW = 0.06  # seconds within which a stroke speaks for a clock
_DRIFT = 0.0025  # share between two candidates


def _middle(offsets: Sequence[float]) -> float:
    """The mean without the outermost tenth on either side: nearly as sure as the mean, and a stray
    stroke does not move it."""
    cut = len(offsets) // 10
    return fmean(sorted(offsets)[cut : len(offsets) - cut])


def _matched(wanted: list[float], got: list[float], window: float) -> dict[int, int]:
    """Expected -> played, the nearest pairs first, each once."""
    near = []
    for k, at in enumerate(wanted):
        first = bisect_left(got, at - window)
        for n in range(first, len(got)):
            if got[n] > at + window:
                break
            near.append((abs(got[n] - at), k, n))
    matched: dict[int, int] = {}
    used: set[int] = set()
    for _, k, n in sorted(near):
        if k not in matched and n not in used:
            matched[k] = n
            used.add(n)
    return matched


_MIN_STANDARD_ERRORS = 3.0  # standard errors from which on a slope is one


def _slope(offsets: Sequence[tuple[float, float]]) -> float:
    """By how much strokes come earlier for each second, by least squares: + rushes."""
    if len(offsets) < 8:
        return 0.0
    mean_t = fmean(t for t, _ in offsets)
    mean_o = fmean(o for _, o in offsets)
    over = sum((t - mean_t) ** 2 for t, _ in offsets)
    if over <= 0:
        return 0.0
    slope = sum((t - mean_t) * (o - mean_o) for t, o in offsets) / over
    left = sum((o - mean_o - slope * (t - mean_t)) ** 2 for t, o in offsets) / len(offsets)
    # A slope that chance makes too would only shift what each limb's offset is measured from.
    return -slope if abs(slope) > _MIN_STANDARD_ERRORS * sqrt(left / over) else 0.0


_PRAISE = "That was it: even, in time, nothing missed."
_MIN_TROUBLE = 2.0  # size of a fault from which on the ladder goes down a rung


def _faults(
    limbs: dict[str, LimbJudged], rush: float, ghosts: float | None, uneven_db: float
) -> list[tuple[float, str]]:
    """Everything that could be said, with its size; from 1 on it is worth a word."""
    faults: list[tuple[float, str]] = []
    for limb, x in limbs.items():
        name = _NAMES[limb]
        faults += [
            (x.missed / _MISSED * 1.2, f"The {name} misses strokes: slower, and count it aloud."),
            (x.extra / _EXTRA, f"The {name} plays strokes that are not written: leave them out."),
            (
                abs(x.offset_ms) / _OFF,
                f"The {name} comes {abs(x.offset_ms):.0f} ms "
                f"{'late' if x.offset_ms > 0 else 'early'}: listen to it alone against the click.",
            ),
            (
                x.spread_ms / _LOOSE,
                f"The {name} is uneven (within {x.spread_ms:.0f} ms): "
                "slower, until each stroke lies alike.",
            ),
        ]
    if len(limbs) > 1:
        usual = median(x.level_db for x in limbs.values())
        for limb, x in limbs.items():
            off = x.level_db - usual
            faults.append(
                (
                    abs(off) / uneven_db,
                    f"The {_NAMES[limb]} is {abs(off):.0f} dB too "
                    f"{'loud' if off > 0 else 'soft'} against the others: play it alone at "
                    "one level, then add the rest.",
                )
            )
    way = "rush" if rush > 0 else "drag"
    faults.append(
        (
            abs(rush) / _RUSH,
            f"You {way} by {abs(rush):.1f} % over the loop: play with the click's subdivision.",
        )
    )
    if ghosts is not None and ghosts > 0:
        size = ghosts / (_LOUD * uneven_db / UNEVEN_DB)
        faults.append(
            (size, f"The ghosts are {ghosts:.0f} dB too loud: start them from a low stick.")
        )
    return faults
