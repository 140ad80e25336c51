"""What is measured of one song: pure functions of a truth and what was heard."""

from __future__ import annotations

from itertools import combinations, pairwise
from typing import Any

import numpy as np
from mir_eval import onset

from orchesis.hearing import Hearing
from orchesis.score import KIT, Meter, Score

NAN = float("nan")
SNARES = ("snare", "rimshot", "cross_stick")
TOMS = ("tom_high", "tom_mid", "tom_low", "tom_floor")
HATS = ("hat_closed", "hat_half", "hat_open")
RIDES = ("ride", "ride_bell")
CRASHES = ("crash", "crash_2", "splash", "china")
CYMBALS = (*HATS, *RIDES, *CRASHES)
#: Parts that are told apart when "every part" is measured. The lowest tom has two names, by
#: the number of toms in the kit; no song here has four.
TOLD = {p: p for p in KIT} | {
    "crash_2": "crash",
    "rimshot": "snare",
    "hat_half": "hat_open",
    "tom_low": "tom_floor",
}


def f_measure(truth: list[float], found: list[float], window: float) -> float:
    """F of two lists of seconds; NaN where there is nothing to find."""
    if not truth:
        return NAN
    if not found:
        return 0.0
    a, b = (np.sort(np.maximum(x, 0)) for x in (np.array(truth), np.array(found)))
    return float(onset.f_measure(a, b, window=window)[0])


def _single(times: list[float]) -> list[float]:
    """Moments at which anything is struck: strokes within 25 ms are one."""
    out: list[float] = []
    for t in sorted(times):
        if not out or t - out[-1] > 0.025:
            out.append(t)
    return out


def pairs(truth: list[dict], found: list[Any], window: float = 0.05) -> list[tuple[dict, Any]]:
    """Each true hit with the nearest found one, each found one once."""
    left = sorted(found, key=lambda h: h.time)
    times = np.array([h.time for h in left])
    taken: set[int] = set()
    out = []
    for hit in truth:
        lo, hi = np.searchsorted(times, [hit["time"] - window, hit["time"] + window])
        free = [i for i in range(lo, hi) if i not in taken]
        if free:
            best = min(free, key=lambda i: abs(times[i] - hit["time"]))
            taken.add(best)
            out.append((hit, left[best]))
    return out


def strokes(truth: dict, hearing: Hearing) -> dict[str, float]:
    hits = truth["hits"]

    def f(parts: tuple[str, ...]) -> float:
        return f_measure(
            [h["time"] for h in hits if h["part"] in parts],
            [h.time for h in hearing.hits if h.part in parts],
            0.05,
        )

    told = []
    for name in dict.fromkeys(TOLD.values()):
        same = tuple(p for p, t in TOLD.items() if t == name)
        share = sum(h["part"] in same for h in hits)
        if share:
            told.append((share, f(same)))
    snares = [h for h in hearing.hits if h.part in SNARES]
    ghosts = [h for h in hits if h["ghost"] and h["part"] == "snare"]
    true_snares = [h for h in hits if h["part"] in SNARES]
    matched = pairs(true_snares, snares)
    hats = pairs(
        [h for h in hits if h["part"] in HATS], [h for h in hearing.hits if h.part in HATS]
    )
    every = [[h["time"] for h in hits], [h.time for h in hearing.hits]]
    return {
        "kick": f(("kick",)),
        "snare": f(SNARES),
        "cymbals": f(CYMBALS),
        "toms": f(TOMS),
        "hat/ride/crash": mean([f(HATS), f(RIDES), f(CRASHES)]),
        "every part": sum(n * x for n, x in told) / max(1, sum(n for n, _ in told)),
        "ghosts": len(pairs(ghosts, snares)) / len(ghosts) if ghosts else NAN,
        "snare precision": len(matched) / len(snares) if snares else NAN,
        "open/closed": _share(
            [(t["part"] == "hat_open") == (h.part == "hat_open") for t, h in hats]
        ),
        "rho snare": _order(matched),
        "rho hat": _order(hats),
        "onsets": f_measure(*(_single(x) for x in every), 0.05),
        "rho kick": _order(
            pairs(
                [h for h in hits if h["part"] == "kick"],
                [h for h in hearing.hits if h.part == "kick"],
            )
        ),
    }


def mean(values: list[float]) -> float:
    """Mean of the values that are known; NaN if none is."""
    known = [v for v in values if not np.isnan(v)]
    return float(np.mean(known)) if known else NAN


def _share(values: list[bool]) -> float:
    return float(np.mean(values)) if values else NAN


def _order(matched: list[tuple[dict, Any]]) -> float:
    """Spearman's rho of true and heard loudness; NaN below ten pairs or without spread."""
    true = np.array([t["loudness"] for t, _ in matched])
    heard = np.array([h.loudness for _, h in matched])
    if len(true) < 10 or true.std() < 0.02 or heard.std() < 1e-6:
        return NAN
    a, b = (np.argsort(np.argsort(x)) for x in (true, heard))
    return float(np.corrcoef(a, b)[0, 1])


def time(truth: dict, hearing: Hearing, score: Score) -> dict[str, float]:
    beats, heard = truth["beats"], hearing.beats
    bpm = truth["tempo"]["bpm"]
    meter = Meter(truth["meter"][0]["beats"], truth["meter"][0]["unit"])
    felt = Meter(hearing.meter.beats, hearing.meter.unit)
    swing = truth["feel"]["swing"]
    late = [
        h.time - t["time"]
        for t, h in pairs(
            [h for h in truth["hits"] if h["part"] == "snare" and not h["ghost"]],
            [h for h in hearing.hits if h.part == "snare"],
        )
    ]
    return {
        "beats": f_measure([b["time"] for b in beats], [b.time for b in heard], 0.07),
        "downbeats": f_measure(
            [b["time"] for b in beats if b["beat"] == 1],
            [b.time for b in heard if b.beat == 1],
            0.07,
        ),
        "tempo": float(abs(hearing.tempo.bpm / bpm - 1) < 0.02),
        "tempo or rival": float(
            any(
                abs(b / bpm - 1) < 0.02
                for b in (hearing.tempo.bpm, *hearing.tempo.alternatives[:1])
            )
        ),
        # 7/8 and 7/4 differ in writing only: counted are the beats and whether they divide in 3.
        "meter": float((felt.beats, felt.is_compound) == (meter.beats, meter.is_compound)),
        "changes": _changes(truth, hearing),
        "swing error": abs(score.swing[1] - swing["ratio"]),
        "snare ms": float(np.median(np.abs(late)) * 1000) if late else NAN,
    }


def _changes(truth: dict, hearing: Hearing) -> float:
    """Share of the bars, matched by time, that have the true number of beats; NaN if the
    song's meter never changes."""
    if len(truth["meter"]) < 2:
        return NAN

    def sizes(beats: list[tuple[float, int]]) -> list[tuple[float, int]]:
        starts = [i for i, (_, n) in enumerate(beats) if n == 1] + [len(beats)]
        return [(beats[a][0], b - a) for a, b in pairwise(starts)]

    true = sizes([(b["time"], b["beat"]) for b in truth["beats"]])[:-1]
    found = sizes([(b.time, b.beat) for b in hearing.beats])
    return float(np.mean([any(abs(t - u) < 0.1 and n == m for u, m in found) for t, n in true]))


def ornaments(truth: dict, hearing: Hearing) -> dict[str, tuple[int, int, int]]:
    """For each ornament: how many there are, how many were told, how many of these rightly."""
    drums = [h for h in truth["hits"] if h["part"] in (*SNARES, *TOMS)]
    matched = pairs(drums, [h for h in hearing.hits if h.part in (*SNARES, *TOMS)])
    out = {}
    for name in ("flam", "drag", "buzz"):
        told = sum(h.ornament == name for h in hearing.hits)
        right = sum(t["ornament"] == name == h.ornament for t, h in matched)
        out[name] = (sum(h["ornament"] == name for h in drums), told, right)
    return out


def reliability(truth: dict, hearing: Hearing) -> list[tuple[float, bool]]:
    """Confidence of every stroke heard, and whether such a stroke was played there."""
    out = []
    for name in dict.fromkeys(TOLD.values()):
        same = tuple(p for p, t in TOLD.items() if t == name)
        found = [h for h in hearing.hits if h.part in same]
        right = {id(h) for _, h in pairs([h for h in truth["hits"] if h["part"] in same], found)}
        out += [(h.confidence, id(h) in right) for h in found]
    return out


def form(truth: dict, hearing: Hearing) -> dict[str, float]:
    """Borders at one bar (by time, half a bar of room), and pairs of bars labelled alike."""
    bar = 60 / truth["tempo"]["bpm"] * truth["meter"][0]["beats"]
    starts = [b.time for b in hearing.beats if b.beat == 1]
    found = [starts[s.first_bar - 1] for s in hearing.sections]
    true = [s["start"] for s in truth["sections"]]
    moments = np.arange(true[0] + 0.1, truth["sections"][-1]["end"], bar / 2)
    a = [
        next((s["label"] for s in truth["sections"] if s["start"] <= t < s["end"]), "?")
        for t in moments
    ]
    b = [
        next(
            (
                s.label
                for s, t0 in zip(reversed(hearing.sections), reversed(found), strict=True)
                if t0 <= t
            ),
            "?",
        )
        for t in moments
    ]
    both = either_a = either_b = 0
    for i, j in combinations(range(len(moments)), 2):
        same_a, same_b = a[i] == a[j], b[i] == b[j]
        both += same_a and same_b
        either_a += same_a
        either_b += same_b
    odd = [s for s in truth["sections"] if s["bars"] % 4 and s["bars"] > 2]
    met = [
        any(
            abs(t - s["start"]) < 0.6 * bar and h.bars == s["bars"]
            for t, h in zip(found, hearing.sections, strict=True)
        )
        for s in odd
    ]
    return {
        "odd phrases": _share(met),
        "borders": f_measure(true[1:], found[1:], bar),
        "labels": 2 * both / max(1, either_a + either_b),
    }


def si_sdr(truth: np.ndarray, found: np.ndarray) -> float:
    """Scale-invariant signal-to-distortion ratio in dB (Le Roux et al., "SDR - half-baked or
    well done?", 2019) of two sounds (samples,)."""
    truth, found = truth.astype(np.float64), found.astype(np.float64)
    wanted = truth * (found @ truth) / (truth @ truth + 1e-12)
    return float(10 * np.log10((wanted @ wanted) / (((found - wanted) ** 2).sum() + 1e-12) + 1e-12))
