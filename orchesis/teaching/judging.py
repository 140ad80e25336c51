"""What was played in, against the part: early or late, loose, missed, extra, too loud, rushing.

Strokes are matched part by part to the nearest expected moment within a window; what a limb does on
average is its offset, what it does besides its spread. Rush is the slope of the offsets over time.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from fractions import Fraction
from math import log10, sqrt
from statistics import fmean, pstdev
from typing import Any

from orchesis.errors import BadScore
from orchesis.score import Score
from orchesis.score.kit import PIECE
from orchesis.score.stroke import LIMBS, NOBODYS

_WINDOW = 0.12  # seconds within which a stroke is the expected one
_NAMES = {"RH": "right hand", "LH": "left hand", "RF": "right foot", "LF": "left foot"}
#: From which size on something is worth a word; what is farthest above it is said.
_OFF, _LOOSE, _MISSED, _EXTRA, _RUSH, _LOUD = 12.0, 14.0, 0.06, 0.06, 0.8, 3.0


@dataclass(frozen=True)
class Played:
    """One stroke as it was played in. time: seconds from the first 1; loudness: 0..1."""

    time: float
    part: str
    loudness: float


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
    judgement: what the
    ladder makes of it, of ladder.JUDGED."""

    limbs: dict[str, LimbJudged]
    rush_percent: float
    ghosts_db: float | None
    advice: str
    judgement: str
    strokes: tuple[StrokeJudged, ...]

    def to_json(self) -> dict[str, Any]:
        return {
            "limbs": {k: {n: round(v, 3) for n, v in asdict(x).items()}
                      for k, x in self.limbs.items()},
            "rush_percent": round(self.rush_percent, 2),
            "ghosts_db": None if self.ghosts_db is None else round(self.ghosts_db, 1),
            "advice": self.advice, "judgement": self.judgement,
            "strokes": [{"bar": s.bar, "place": str(s.place), "limb": s.limb,
                         "offsets_ms": [round(o, 1) for o in s.offsets_ms], "missed": s.missed}
                        for s in self.strokes],
        }  # fmt: skip


def judge(score: Score, played: Sequence[Played], latency: float = 0.0) -> Judged:
    """score: the part, or a stage of it; where more was played it was looped. latency: seconds by
    which all that comes in is late. Raises BadScore where nothing was played."""
    if not played:
        raise BadScore("Nothing was played in.")
    own = [s for s in score.played().ordered() if s.doubt not in NOBODYS]
    if not own:
        raise BadScore("There is nothing to play in this part.")
    start, end = score.pulse.times[0], score.pulse.times[-1]
    length = end - start
    last = max(p.time for p in played) - latency
    loops = max(1, round((last + 0.25 * length) / length + 0.25)) if last > length else 1
    expected: dict[str, list[tuple[float, int]]] = defaultdict(list)
    for k in range(loops):
        for n, s in enumerate(own):
            at = score.played_at(s) - start + k * length
            if at <= last + _WINDOW or loops == 1:
                expected[PIECE[s.part]].append((at, n))
    drift = _drift(expected, played, latency)
    played = [
        Played(latency + (p.time - latency) / (1 - drift), p.part, p.loudness) for p in played
    ]
    pairs: list[tuple[int, float, float, float]] = []  # (stroke, expected, offset, loudness)
    missed: dict[str, int] = defaultdict(int)
    extra: dict[str, int] = defaultdict(int)
    count: dict[str, int] = defaultdict(int)
    rows: dict[str, list[Played]] = defaultdict(list)
    for p in sorted(played, key=lambda p: p.time):
        rows[PIECE.get(p.part, p.part)].append(p)
    for piece, wanted in expected.items():
        wanted.sort()
        taken = _matched([at for at, _ in wanted], [p.time - latency for p in rows[piece]])
        for k, (at, n) in enumerate(wanted):
            limb = own[n].limb
            count[limb] += 1
            if k in taken:
                p = rows[piece][taken[k]]
                pairs.append((n, at, p.time - latency - at, p.loudness))
            else:
                missed[limb] += 1
        over = len(rows[piece]) - len(taken)
        limbs = [own[n].limb for _, n in wanted]
        extra[max(set(limbs), key=limbs.count)] += over
    rest = _slope([(at, off) for _, at, off, _ in pairs])
    rush = drift + rest
    made = {}
    for limb in LIMBS:
        mine = [(n, at, off, loud) for n, at, off, loud in pairs if own[n].limb == limb]
        if not count[limb]:
            continue
        offs = [1000 * (off + rest * at) for _, at, off, _ in mine]
        levels = [20 * log10(max(loud, 0.01) / max(own[n].loudness, 0.01))
                  for n, _, _, loud in mine]  # fmt: skip
        made[limb] = LimbJudged(
            _middle(offs) if offs else 0.0, pstdev(offs) if len(offs) > 1 else 0.0,
            missed[limb] / count[limb], extra[limb] / count[limb],
            fmean(levels) if levels else 0.0, count[limb],
        )  # fmt: skip
    by_stroke: dict[int, list[float]] = defaultdict(list)
    for n, _, off, _ in sorted(pairs, key=lambda p: p[1]):
        by_stroke[n].append(1000 * off)
    wanted_of: dict[int, int] = defaultdict(int)
    for row in expected.values():
        for _, n in row:
            wanted_of[n] += 1
    strokes = tuple(
        StrokeJudged(s.bar, s.place, s.limb, tuple(by_stroke[n]), wanted_of[n] - len(by_stroke[n]))
        for n, s in enumerate(own)
    )
    ghosts = [20 * log10(max(loud, 0.01) / own[n].loudness) for n, _, _, loud in pairs
              if own[n].dynamic == "ghost"]  # fmt: skip
    soft = fmean(ghosts) if ghosts else None
    found = _faults(made, 100 * rush, soft)
    size, says = max(found)
    wrong = max((x.missed / _MISSED + x.extra / _EXTRA for x in made.values()), default=0.0)
    how = "relaxed" if size < 1 else "not yet" if wrong >= 1 or size >= _TROUBLE else "tense"
    return Judged(made, 100 * rush, soft, says if size >= 1 else _GOOD, how, strokes)


def _drift(
    expected: dict[str, list[tuple[float, int]]], played: Sequence[Played], latency: float
) -> float:
    """The share by which the player's clock runs fast, from the candidates the one under which most
    strokes lie near an expected one: who rushes is a second off after a minute."""
    wanted = {piece: sorted(at for at, _ in own) for piece, own in expected.items()}

    def near(drift: float) -> tuple[float, float]:
        total = 0.0
        for p in played:
            row = wanted.get(PIECE.get(p.part, p.part))
            if row:
                at = (p.time - latency) / (1 - drift)
                k = bisect_left(row, at)
                off = min(abs(row[n] - at) for n in (k - 1, k) if 0 <= n < len(row))
                total += max(0.0, 1 - off / _NEAR)
        return total, -abs(drift)

    return max((k * _DRIFT for k in range(-16, 17)), key=near)


_NEAR = 0.06  # seconds within which a stroke speaks for a clock
_DRIFT = 0.0025  # share between two candidates


def _middle(offsets: Sequence[float]) -> float:
    """The mean without the outermost tenth on either side: nearly as sure as the mean, and a stray
    stroke does not move it."""
    cut = len(offsets) // 10
    return fmean(sorted(offsets)[cut : len(offsets) - cut])


def _matched(wanted: list[float], got: list[float]) -> dict[int, int]:
    """Expected -> played, the nearest pairs first, each once."""
    near = []
    for k, at in enumerate(wanted):
        first = bisect_left(got, at - _WINDOW)
        for n in range(first, len(got)):
            if got[n] > at + _WINDOW:
                break
            near.append((abs(got[n] - at), k, n))
    made: dict[int, int] = {}
    used: set[int] = set()
    for _, k, n in sorted(near):
        if k not in made and n not in used:
            made[k] = n
            used.add(n)
    return made


_SURE = 3.0  # standard errors from which on a slope is one


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
    return -slope if abs(slope) > _SURE * sqrt(left / over) else 0.0


_GOOD = "That was it: even, in time, nothing missed."
_TROUBLE = 2.0  # size of a fault from which on the ladder goes down a rung


def _faults(
    limbs: dict[str, LimbJudged], rush: float, ghosts: float | None
) -> list[tuple[float, str]]:
    """Everything that could be said, with its size; from 1 on it is worth a word."""
    found: list[tuple[float, str]] = []
    for limb, x in limbs.items():
        name = _NAMES[limb]
        found += [
            (x.missed / _MISSED * 1.2, f"The {name} misses strokes: slower, and count it aloud."),
            (x.extra / _EXTRA, f"The {name} plays strokes that are not written: leave them out."),
            (abs(x.offset_ms) / _OFF, f"The {name} comes {abs(x.offset_ms):.0f} ms "
             f"{'late' if x.offset_ms > 0 else 'early'}: listen to it alone against the click."),
            (x.spread_ms / _LOOSE, f"The {name} is uneven (within {x.spread_ms:.0f} ms): "
             "slower, until each stroke lies alike."),
        ]  # fmt: skip
    way = "rush" if rush > 0 else "drag"
    found.append((abs(rush) / _RUSH, f"You {way} by {abs(rush):.1f} % over the loop: play with the "
                  "click's subdivision."))  # fmt: skip
    if ghosts is not None and ghosts > 0:
        found.append((ghosts / _LOUD, f"The ghosts are {ghosts:.0f} dB too loud: start them from a "
                      "low stick."))  # fmt: skip
    return found
