"""What is measured of a real record, or a real bed with known drums: pure functions of what is known and
what was heard."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

from materials.measures import NAN, TOLD, f_measure, pairs
from materials.record_list import Record
from orchesis.hearing import Hearing
from orchesis.hearing.types import Hit

_BEAT, _STROKE, _BORDER = 0.07, 0.05, 3.0  # seconds
_TAIL = 0.5  # seconds of a last sound that ask for no beat


def grid(record: Record, hearing: Hearing) -> tuple[np.ndarray, float]:
    """The click's beats in the span that sounds, at the octave that was heard: a drummer may count it at half
    or at double; with their period."""
    period = 60 / record.bpm
    begin, end = hearing.sounding or (0.0, hearing.duration)

    def laid(period: float, first: float) -> np.ndarray:
        k = np.arange(
            np.ceil((begin - first - 0.03) / period), np.floor((end - _TAIL - first) / period) + 1
        )
        return first + k * period

    octave = min((0.5, 1.0, 2.0), key=lambda r: abs(np.log(hearing.tempo.bpm / record.bpm / r)))
    if octave == 0.5:
        times = [b.time for b in hearing.beats]
        either = [laid(2 * period, record.first + k * period) for k in (0, 1)]
        return max(either, key=lambda g: f_measure(list(g), times, _BEAT)), 2 * period
    return laid(period / octave, record.first), period / octave


def on_click(record: Record, hearing: Hearing) -> dict[str, float]:
    """Of a piece to a click: F of the beats over the whole and in its stretches without drums, how often the
    1 jumps, meter changes (there are none), whether it is told as steady, at the right tempo."""
    true, period = grid(record, hearing)
    heard = np.array([b.time for b in hearing.beats])
    inside = heard[(heard > true[0] - 0.5 * period) & (heard < true[-1] + 0.5 * period)]

    def f(spans: list[tuple[float, float]]) -> float:
        kept = [np.concatenate([x[(x >= a) & (x < b)] for a, b in spans]) for x in (true, inside)]
        return f_measure(list(kept[0]), list(kept[1]), _BEAT)

    ones = np.array([b.time for b in hearing.beats if b.beat == 1])
    ones = ones[(ones > true[0] - 0.5 * period) & (ones < true[-1] + 0.5 * period)]
    at = np.round((ones - true[0]) / period).astype(int)
    sizes = np.diff(at)
    usual = int(np.bincount(sizes).argmax()) if len(sizes) else 4
    jumps = int((np.diff(at % max(1, usual)) != 0).sum())
    octave = hearing.tempo.bpm * period / 60
    return {
        "beats": f([(true[0] - 1, true[-1] + 1)]),
        "in silence": f(list(record.silent)) if record.silent else NAN,
        "jumps": float(jumps),
        "meters": float(len(hearing.meters) - 1),
        "steady": float(hearing.tempo.steady),
        "tempo": float(abs(octave - 1) < 0.002),
    }


def in_silence(spans: Any, hearing: Hearing) -> tuple[int, float]:
    """Strokes written in stretches without drums, and the seconds of these."""
    inside = [h for h in hearing.hits if any(a + 0.1 < h.time < b - 0.1 for a, b in spans)]
    return len(inside), float(sum(min(b, hearing.duration) - a for a, b in spans))


def borders(record: Record, hearing: Hearing) -> tuple[int, int]:
    """How many plain borders are found within 3 s, and how many there are."""
    begins = np.array([b.time for b in hearing.beats if b.beat == 1])
    starts = np.array([begins[s.first_bar - 1] for s in hearing.sections])
    known = [t for t in record.borders if t < hearing.duration]
    return sum(bool(np.abs(starts - t).min() < _BORDER) for t in known), len(known)


def sections_a_minute(hearing: Hearing) -> float:
    begin, end = hearing.sounding or (0.0, hearing.duration)
    return len(hearing.sections) / max(0.5, (end - begin) / 60)


def on_bed(truth: dict, hearing: Hearing) -> dict[str, float]:
    """Of a real bed with known drums: downbeats, strokes written and right, every part, strokes a minute
    where no drums play."""
    hits, found = truth["hits"], hearing.hits
    right = sum(len(pairs(own, heard, _STROKE)) for own, heard in _by_part(truth, found))
    known = len(found)
    alone, seconds = in_silence(truth["silent"], hearing)
    beats = [b["time"] for b in truth["beats"]]
    true_ones = [b["time"] for b in truth["beats"] if b["beat"] == 1]
    last = true_ones[-1] + 0.5
    return {
        "beats": f_measure(beats, [b.time for b in hearing.beats if b.time < last + 2], _BEAT),
        "downbeats": f_measure(
            true_ones, [b.time for b in hearing.beats if b.beat == 1 and b.time < last], _BEAT
        ),
        "tempo": float(abs(hearing.tempo.bpm / truth["tempo"]["bpm"] - 1) < 0.005),
        "right": right / known if known else NAN,
        "recall": right / len(hits),
        "every part": every_part(truth, found),
        "a minute in silence": alone / (seconds / 60),
        "meters": float(len(hearing.meters) - 1),
        "steady": float(hearing.tempo.steady),
    }


def _by_part(truth: dict, found: Iterable[Any]) -> list[tuple[list[dict], list[Any]]]:
    """True and heard strokes of each told part."""
    heard = list(found)
    return [
        (
            [h for h in truth["hits"] if TOLD[h["part"]] == name],
            [h for h in heard if TOLD[h.part] == name],
        )
        for name in dict.fromkeys(TOLD.values())
    ]


def every_part(truth: dict, found: Iterable[Any]) -> float:
    """F of every part, weighed by its true strokes. found: whatever has a time and a part."""
    told = [
        (len(own), 2 * len(pairs(own, heard, _STROKE)) / (len(own) + len(heard)))
        for own, heard in _by_part(truth, found)
        if own
    ]
    return sum(n * f for n, f in told) / sum(n for n, _ in told)


def last_bars(truth: dict, hearing: Hearing) -> float:
    """The largest error (ms) of a beat in the last four bars in which drums play, of the heard beats near
    them; NaN where the tempo was felt otherwise."""
    played = max(h["time"] for h in truth["hits"])
    bars = [b for b in truth["beats"] if b["time"] <= played + 0.05]
    last = [b["time"] for b in bars if b["bar"] > bars[-1]["bar"] - 4]
    heard = np.array([b.time for b in hearing.beats])
    off = [float(np.abs(heard - t).min()) for t in last]
    return 1000 * max(off) if abs(hearing.tempo.bpm / truth["tempo"]["bpm"] - 1) < 0.02 else NAN


def folded(
    band: np.ndarray, record: Record, strokes: Iterable[Hit], part: str, frame: float = 0.01
) -> tuple[int, int]:
    """Written strokes of a part in the record's folding span that stand on a 16th at which the record, folded,
    has nothing; and all of them. band: (frames,) onset strength where the part speaks."""
    assert record.folds
    begin, end = record.folds
    cell = 60 / record.bpm / 4
    k = np.arange(int((begin - record.first) / cell), int((end - record.first) / cell))
    at = np.clip(np.round((record.first + k * cell) / frame).astype(int), 3, len(band) - 4)
    seen = np.max([band[at + j] for j in range(-2, 4)], axis=0)
    fold = np.array([np.mean(seen[k % 32 == c]) for c in range(32)])
    floor = np.percentile(fold, 20)
    empty = fold < floor + 0.15 * (fold.max() - floor)
    own = [h for h in strokes if h.part == part and begin < h.time < end]
    cells = [int(np.round((h.time - record.first) / cell)) % 32 for h in own]
    return sum(bool(empty[c]) for c in cells), len(own)


def reliability(truth: dict, hits: list[Hit]) -> list[tuple[float, bool]]:
    """(confidence, whether right) of all told strokes, perhaps or written, of a bed."""
    out: list[tuple[float, bool]] = []
    for name in dict.fromkeys(TOLD.values()):
        same = {p for p, t in TOLD.items() if t == name}
        heard = [h for h in hits if h.part in same]
        matched = {
            id(h) for _, h in pairs([h for h in truth["hits"] if h["part"] in same], heard, _STROKE)
        }
        out += [(h.confidence, id(h) in matched) for h in heard]
    return out
