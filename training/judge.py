"""Learns how sure a stroke is by its whole song (orchesis/hearing/judging.py).

    python -m training.judge           writes orchesis/hearing/judge.json
    python -m training.judge --weigh   on other songs: how much the song's judgement should weigh

From the TUNE side of bench/beds.py (real beds, sampled TUNE kits and made kits at three levels), from
drumless stretches of the TUNE records, and from made-up songs on the TUNE kits: nothing of it trained a
network, nothing of it is in the bench. The second look learns from judgements of songs that the first
did not learn from.
"""

from __future__ import annotations

import json
import multiprocessing as mp
import sys
import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from bench import beds, records
from materials import kits, mix
from materials.record_list import BEDS, RECORDS, side
from orchesis.errors import BadSound
from orchesis.hearing import hits, judging, network, pulse, spectrum, stroke_features, take_in
from orchesis.hearing.network import CLASSES, heard_class
from orchesis.hearing.repetition import by_repetition
from orchesis.hearing.types import Beat, Hit
from training.tune import heard, matches

OUT = Path(judging.__file__).parent / "judge.json"
#: Log odds by which a snare is rather written: a lost ghost costs more than one too many.
_RATHER = {"snare": 0.3}
_RIDGE = 3e-4
_FOLDS = 5
_SAID = {"rimshot": "snare", "crash_2": "crash"}
#: Kits and levels (dB against the usual) of the beds.
_BEDS = (
    (("Millo_MultiLayered3", "Millo-Drums_v.1"), 0.0),
    (
        ("made-200", "made-201", "made-202", "made-203", "Millo_MultiLayered3", "Millo-Drums_v.1"),
        3.0,
    ),
    (("made-204", "made-205", "Millo_MultiLayered3", "Millo-Drums_v.1"), -3.0),
)


@dataclass
class Song:
    """Candidates of one song, which are right, which count, and its group (songs of one bed together)."""

    group: str
    candidates: list[Hit]
    first: np.ndarray
    rows: np.ndarray
    beats: tuple[Beat, ...]
    right: np.ndarray
    counts: np.ndarray


def song(
    group: str,
    seen: spectrum.Spectrum,
    activity: network.Activity,
    duration: float,
    truth: dict[str, np.ndarray],
    hidden: dict[str, np.ndarray],
    silent: tuple = (),
) -> Song | None:
    """truth, hidden: class -> seconds of its strokes, and of those that can't be made out. silent: where
    it is known that nothing plays, if that alone is known."""
    candidates = [h for h in hits.Listener(seen, activity).candidates() if h.time < duration]
    if len(candidates) < 5:
        return None
    try:
        beats = pulse.find(seen, activity, hits.written(candidates)).beats
    except BadSound:
        return None
    again = by_repetition(candidates, beats, activity.strength)
    first = np.array([h.confidence for h in candidates])
    kinds, times = judging.kinds_of(candidates), np.array([h.time for h in candidates])
    right, counts = np.zeros(len(times), bool), np.ones(len(times), bool)
    for kind in np.unique(kinds):
        own = np.flatnonzero(kinds == kind)
        right[own] = matches(100 * truth.get(CLASSES[kind], np.zeros(0)), 100 * times[own], 5)
        unknown = hidden.get(CLASSES[kind], np.zeros(0))
        if len(unknown):
            near = np.abs(times[own][:, None] - unknown[None]).min(axis=1) < 0.03
            counts[own] = right[own] | ~near
    if silent:
        counts &= np.any([(times > a + 0.1) & (times < b - 0.1) for a, b in silent], axis=0)
    rows = judging.first_look(again, first, seen, activity, beats)
    return Song(group, again, first, rows, beats, right, counts)


def _of_bed(path: str) -> Song | None:
    told = json.loads(Path(path).with_suffix(".truth.json").read_text())["hits"]
    truth: dict[str, list[float]] = {}
    for h in told:
        truth.setdefault(_SAID.get(h["part"], heard_class(h["part"])), []).append(h["time"])
    group = Path(path).stem.split("-")[2]
    return song(group, *_taken(Path(path)), {k: np.array(v) for k, v in truth.items()}, {})


def _taken(path: Path) -> tuple[spectrum.Spectrum, network.Activity, float]:
    with tempfile.TemporaryDirectory() as folder:
        intake = take_in(path, Path(folder) / "sound.flac")
        seen = spectrum.measure(intake.path, intake.duration)
    return seen, network.hear(seen), intake.duration


def _of_record(job: tuple[str, tuple]) -> Song | None:
    path, silent = job
    return song(Path(path).stem, *_taken(Path(path)), {}, {}, silent)


def _of_made(job: tuple[int, tuple[str, ...], float]) -> Song | None:
    seed, names, rough = job
    made, seen, activity = heard(seed, 60.0, names, rough=rough)
    truth = {
        n: np.array([s.event.time for s in made.strokes if s.name == n and s.share >= mix.AUDIBLE])
        for n in CLASSES
    }
    hidden = {
        n: np.array(
            [s.event.time for s in made.strokes if s.name == n and s.share < mix.AUDIBLE]
            + [t for t, graced in made.graces if graced == n]
        )
        for n in CLASSES
    }
    return song(str(seed), seen, activity, 60.0, truth, hidden)


_MADE = (
    *((seed, kits.TUNE, 1.0) for seed in range(2_000_300, 2_000_324)),
    *((seed, kits.TUNE_SAMPLED, 0.4) for seed in range(2_000_400, 2_000_424)),
)


def material() -> list[Song]:
    known, effects = records.fetch(), records.effects()
    paths: list[Path] = []
    for names, louder in _BEDS:
        chosen = tuple(
            replace(b, drums_db=b.drums_db + louder) for b in BEDS if side(b.stem) == "tune"
        )
        paths += beds.made(chosen, names, known, effects, records.FOLDER / f"beds{louder:+.0f}")
    silent = [
        (str(records.shortened(known[r.stem])), r.silent)
        for r in RECORDS
        if r.silent and side(r.stem) == "tune" and r.stem in known
    ]
    with mp.Pool(2) as pool:
        made = pool.map(_of_bed, [str(p) for p in paths])
        made += pool.map(_of_record, silent) + pool.map(_of_made, _MADE)
    return [s for s in made if s is not None]


def fit(rows: np.ndarray, right: np.ndarray) -> np.ndarray:
    """Weights of a logistic regression on rows whose columns are brought to one scale."""
    middle, spread = rows.mean(axis=0), rows.std(axis=0) + 1e-9
    flat = spread < 1e-6
    x = np.where(flat, 0, (rows - middle) / spread)
    x = np.hstack([x, np.ones((len(x), 1))])
    sign = np.where(right, 1.0, -1.0)

    def cost(w: np.ndarray) -> tuple[float, np.ndarray]:
        z = sign * (x @ w)
        pull = -sign / (1 + np.exp(np.clip(z, -30, 30)))
        slope = x.T @ pull / len(x) + 2 * _RIDGE * np.append(w[:-1], 0)
        return float(np.logaddexp(0, -z).mean() + _RIDGE * (w[:-1] ** 2).sum()), slope

    w = minimize(
        cost, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B", options={"maxiter": 500}
    ).x
    scaled = np.where(flat, 0, w[:-1] / spread)
    # One of the last columns is 1 (the part): the constant is theirs.
    scaled[-len(CLASSES) :] += w[-1] - float(scaled @ middle)
    return scaled


def fitted(kinds: np.ndarray, rows: np.ndarray, right: np.ndarray) -> dict[str, np.ndarray]:
    families = np.array([judging.family_of(k) for k in kinds])
    return {
        f: fit(rows[families == f], right[families == f])
        for f in set(stroke_features.FAMILIES.values()) | {stroke_features.OTHER}
    }


def learn(songs: list[Song]) -> dict[str, dict[str, list[float]]]:
    kinds = [judging.kinds_of(s.candidates) for s in songs]
    first, sure = _crossed(songs, kinds, [s.rows for s in songs])
    again = [
        judging.second_look(s.candidates, p, s.beats) for s, p in zip(songs, sure, strict=True)
    ]
    second, final = _crossed(songs, kinds, again)
    for family, more in _RATHER.items():  # the constants stand last
        second[family][-len(CLASSES) :] += more
    for name, p in (("first look", sure), ("second look", final)):
        print(name, report(songs, p), flush=True)
    return {
        "first": {f: [round(float(x), 5) for x in w] for f, w in first.items()},
        "second": {f: [round(float(x), 5) for x in w] for f, w in second.items()},
    }


def _crossed(
    songs: list[Song], kinds: list[np.ndarray], rows: list[np.ndarray]
) -> tuple[dict[str, np.ndarray], list[np.ndarray]]:
    """A look learned from all songs, and how sure it is of each song when learned from other groups."""
    groups = sorted({s.group for s in songs})
    fold = [groups.index(s.group) % _FOLDS for s in songs]

    def learned(kept: list[bool]) -> dict[str, np.ndarray]:
        own = [
            (k[s.counts], r[s.counts], s.right[s.counts])
            for k, r, s, keep in zip(kinds, rows, songs, kept, strict=True)
            if keep
        ]
        return fitted(*(np.concatenate([o[i] for o in own]) for i in range(3)))

    without = [learned([f != k for f in fold]) for k in range(_FOLDS)]
    sure = [
        judging.predict_proba(without[f], k, r) for f, k, r in zip(fold, kinds, rows, strict=True)
    ]
    return learned([True] * len(songs)), sure


def report(songs: list[Song], sure: list[np.ndarray]) -> str:
    """On songs that were left out: share of right strokes from an even chance on, and reliability."""
    p = np.concatenate([x[s.counts] for x, s in zip(sure, songs, strict=True)])
    right = np.concatenate([s.right[s.counts] for s in songs])
    keep = p >= judging.WRITTEN
    rel = " ".join(
        f"{a:.1f}:{right[(p >= a) & (p < a + 0.1)].mean():.2f}" for a in np.arange(0, 0.95, 0.1)
    )
    return f"right {right[keep].mean():.3f} found {right[keep].sum() / right.sum():.3f} of candidates; {rel}"


#: Songs that no look was learned from, by which the weight of the judgement is chosen.
_OTHERS = (
    *((2_000_500 + n, kits.TUNE_SAMPLED, (0.4, 0.1, 0.7)[n % 3]) for n in range(72)),
    *((2_000_600 + n, kits.TUNE, 0.6) for n in range(24)),
)


def weigh() -> None:
    """For each weight of the song's judgement: F and log loss over all candidates, F by family."""
    with mp.Pool(2) as pool:
        songs = [s for s in pool.map(_of_made, _OTHERS) if s is not None]
    report_weights(songs)


def report_weights(songs: list[Song]) -> None:
    kinds = [judging.kinds_of(s.candidates) for s in songs]
    known = judging.weights()
    said = []
    for s, k in zip(songs, kinds, strict=True):
        first = judging.predict_proba(known["first"], k, s.rows)
        again = judging.second_look(s.candidates, first, s.beats)
        said.append(judging.predict_proba(known["second"], k, again))
    itself = [np.array([h.confidence for h in s.candidates]) for s in songs]
    counts = np.concatenate([s.counts for s in songs])
    right = np.concatenate([s.right for s in songs])[counts]
    families = np.array([judging.family_of(x) for k in kinds for x in k])[counts]
    for trust in (0.0, 0.25, 0.5, 0.75, 1.0):
        sure = np.concatenate(
            [judging.weighed(a, b, k, trust) for a, b, k in zip(said, itself, kinds, strict=True)]
        )[counts]
        loss = -np.log(np.where(right, sure, 1 - sure)).mean()
        own = [(f, families == f) for f in sorted(set(families))]
        by_family = " ".join(f"{f} {_f(sure[at], right[at]):.3f}" for f, at in own)
        print(f"weight {trust}: F {_f(sure, right):.3f}, loss {loss:.3f}; {by_family}", flush=True)


def _f(sure: np.ndarray, right: np.ndarray) -> float:
    """F of the candidates that are written; strokes without a candidate are not asked for."""
    keep = sure >= judging.WRITTEN
    return float(2 * right[keep].sum() / max(1, keep.sum() + right.sum()))


if __name__ == "__main__":
    if sys.argv[-1] == "--weigh":
        weigh()
    else:
        OUT.write_text(json.dumps(learn(material())) + "\n")
