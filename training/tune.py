"""Chooses thresholds and calibrates confidence on kits that never trained.

python -m training.tune            writes orchesis/hearing/onset_model.json, prints the figures
python -m training.tune --recall   of these the weights and floors of the second pass only
python -m training.tune --mask     figures of the drums brought forward, by sharpening
"""

from __future__ import annotations

import json
import multiprocessing as mp
import os
import sys
import tempfile
from pathlib import Path

import numpy as np
import onnxruntime
import soundfile as sf
from scipy.optimize import minimize

from materials import kits, mix
from materials.kits import CLASSES, RATE
from materials.measures import si_sdr
from orchesis.errors import BadSound
from orchesis.hearing import hits, network, pulse, repetition, separate, spectrum
from orchesis.hearing.hits import MIN_ACTIVATION, company, evidence, peaks, top
from orchesis.hearing.network import heard_class

ONSET_MODEL = Path(hits.__file__).parent / "onset_model.onnx"
OUT = ONSET_MODEL.with_suffix(".json")
FIRST_SEED, COUNT = 1_000_000, int(os.environ.get("COUNT", 200))
_RIDGE = 0.02
_FEWEST = 60  # right candidates of a class from which its repetition is learned
#: Made-up songs have these far more often than records: one that is invented costs more there than one
#: that is missed, so their floor is where so many are right.
_SELDOM, _PRECISE = ("clap", "shaker", "tambourine", "cowbell", "block"), 0.8
_AS_GOOD = 0.003  # of F, between floors
_RARE = 300  # strokes of a class below which its best floor is drawn to the middle


def matches(truth: np.ndarray, found: np.ndarray, window: int = 4) -> np.ndarray:
    """For each found frame whether it meets a truth frame (each taken once)."""
    taken: set[int] = set()
    right = np.zeros(len(found), dtype=bool)
    for i, f in enumerate(found):
        near = [t for t in truth if abs(t - f) <= window and t not in taken]
        if near:
            taken.add(min(near, key=lambda t: abs(t - f)))
            right[i] = True
    return right


def collect(names: tuple[str, ...]) -> dict[str, tuple[np.ndarray, np.ndarray, int]]:
    """For each class: evidence and rightness of all its peaks, and how many are true.

    Peaks where a stroke can't be made out count neither as right nor as wrong.
    """
    session = onnxruntime.InferenceSession(str(ONSET_MODEL), providers=["CPUExecutionProvider"])
    n = len(CLASSES)
    rows: dict[str, list[tuple[np.ndarray, np.ndarray]]] = {c: [] for c in CLASSES}
    total = dict.fromkeys(CLASSES, 0)
    for seed in range(FIRST_SEED, FIRST_SEED + COUNT):
        sound, onsets, *_ = mix.excerpt(seed, names)
        out = session.run(["heard"], {"sound": sound[None].astype(np.float32)})[0][0]
        heard = 1 / (1 + np.exp(-out[:, : 2 * n]))
        for c, name in enumerate(CLASSES):
            truth = np.flatnonzero(onsets[:, c] == 1)
            found = peaks(heard[:, c], MIN_ACTIVATION)
            strength, level = (top(heard[:, k], found) for k in (c, n + c))
            seen = evidence(strength, level, company(heard[:, :n], name, found))
            right = matches(truth, found)
            unknown = np.array([(onsets[max(f - 2, 0) : f + 3, c] < 0).any() for f in found], bool)
            counts = right | ~unknown
            rows[name].append((seen[counts], right[counts]))
            total[name] += len(truth)
    return {
        name: (*(np.concatenate([r[i] for r in own]) for i in range(2)), total[name])
        for name, own in rows.items()
    }


def fit(x: np.ndarray, right: np.ndarray, ridge: float = _RIDGE) -> np.ndarray:
    """Weights of a logistic regression, a little drawn to nothing (rare classes)."""

    def cost(w: np.ndarray) -> float:
        z = x @ w
        return float(np.logaddexp(0, np.where(right, -z, z)).mean() + ridge * (w[1:] ** 2).mean())

    return minimize(cost, np.zeros(x.shape[1])).x


def best_floor(
    sure: np.ndarray, right: np.ndarray, total: int, slack: float = 0.0
) -> tuple[float, float]:
    """(floor, F): the confidence from which on strokes are written; of floors whose F is the
    best's less slack the lowest, for one key takes a stroke away, and a missing one must be found.
    """

    def score(floor: float) -> float:
        keep = sure >= floor
        return float(2 * right[keep].sum() / max(1, keep.sum() + total))

    # Where a class is rare the best floor is luck; a small prior draws it to the middle.
    draw = 0.05 * min(1.0, _RARE / max(total, 1))
    tried = {f: score(f) - draw * abs(f - 0.45) for f in np.arange(0.2, 0.71, 0.02)}
    floor = min(f for f, s in tried.items() if s >= max(tried.values()) - slack)
    return float(floor), score(floor)


def thresholds() -> None:
    made = {}
    for name, (seen, right, total) in collect(kits.TUNE).items():
        weights = fit(seen, right)
        sure = 1 / (1 + np.exp(-seen @ weights))
        floor, score = best_floor(sure, right, total)
        made[name] = {"weights": [round(float(w), 4) for w in weights], "floor": round(floor, 2)}
        print(f"{name:12s} n={total:5d} floor {floor:.2f} F {score:.3f}")
    OUT.write_text(json.dumps(made, indent=1) + "\n")


def heard(
    seed: int,
    seconds: float,
    names: tuple[str, ...] = kits.TUNE,
    kind: str = "mix",
    rough: float = 1.0,
) -> tuple[mix.Excerpt, spectrum.Spectrum, network.Activity]:
    """A longer made-up song on some kits, and what the onset model makes of it."""
    made = mix.render(np.random.default_rng(seed), names, seconds, kind=kind, rough=rough)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "song.flac"
        sf.write(path, made.mix / np.abs(made.mix).max() * 0.9, RATE)
        seen = spectrum.measure(path, seconds)
    return made, seen, network.hear(seen)


Repeated = dict[str, tuple[np.ndarray, np.ndarray, int]]


def _repeated(song: tuple[int, tuple[str, ...], float]) -> Repeated:
    """For each class of one song: what the second pass sees of its candidates, which of them are
    right, and how many strokes are true. song: seed, kits, rough."""
    seed, names, rough = song
    made, seen, activity = heard(seed, 60.0, names, rough=rough)
    candidates = hits.Listener(seen, activity).candidates()
    try:
        beats = pulse.find(seen, activity, hits.written(candidates)).beats
    except BadSound as problem:
        print(seed, problem, flush=True)
        return {}
    rows = repetition.evidence(candidates, beats, activity.strength)
    out = {}
    for name in CLASSES:
        own = [i for i, h in enumerate(candidates) if heard_class(h.part) == name]
        strokes = [s for s in made.strokes if s.name == name]
        truth = np.array([s.event.time for s in strokes if s.share >= mix.AUDIBLE])
        unknown = [s.event.time for s in strokes if s.share < mix.AUDIBLE]
        unknown += [t for t, graced in made.graces if graced == name]
        at = np.array([candidates[i].time for i in own])
        right = matches(truth * 100, at * 100)
        hidden = np.array([any(abs(t - x) < 0.03 for x in unknown) for t in at], bool)
        counts = right | ~hidden
        out[name] = (rows[own].reshape(-1, rows.shape[1])[counts], right[counts], len(truth))
    return out


#: Songs for the second pass: as in training, and usual records of sampled drums.
_SONGS = (
    *((seed, kits.TUNE, 1.0) for seed in range(2_000_000, 2_000_096)),
    *((seed, kits.TUNE_SAMPLED, 0.4) for seed in range(2_000_100, 2_000_180)),
)


def second_pass() -> None:
    """What the song's repetition says, fitted after the first floors are known."""
    with mp.Pool(2) as pool:
        learn([s for s in pool.imap(_repeated, _SONGS) if s])


def sure_floor(sure: np.ndarray, right: np.ndarray) -> float:
    """The confidence from which on enough of what is written is right."""
    for floor in np.arange(0.2, 0.95, 0.02):
        if right[sure >= floor].mean() >= _PRECISE:
            return float(floor)
    return 0.95


def learn(heard_songs: list[Repeated]) -> None:
    """Writes weights and floors of the second pass for the classes that gain by it."""
    known = json.loads(OUT.read_text())
    for name in CLASSES:
        parts = [s[name] for s in heard_songs]
        rows, right = (np.concatenate([p[i] for p in parts]) for i in range(2))
        said = ~np.isnan(rows[:, 0])
        total = sum(p[2] for p in parts) - int(right[~said].sum())
        rows, right = rows[said], right[said]
        for key in ("again", "floor_again"):
            known[name].pop(key, None)
        if right.sum() < _FEWEST:
            continue
        weights = fit(rows, right, 0.003)
        before, now = (1 / (1 + np.exp(-x)) for x in (rows[:, 1], rows @ weights))
        floor, score = best_floor(now, right, total, _AS_GOOD)
        if name in _SELDOM:
            floor = sure_floor(now, right)
        plain = best_floor(before, right, total, _AS_GOOD)[1]
        print(
            f"{name:12s} n={total:5d} floor {floor:.2f} F {score:.3f}, "
            f"without repetition {plain:.3f}",
            flush=True,
        )
        if score > plain:
            known[name]["again"] = [round(float(w), 4) for w in weights]
            known[name]["floor_again"] = round(floor, 2)
    OUT.write_text(json.dumps(known, indent=1) + "\n")


def masks() -> None:
    songs = [heard(seed, 30.0) for seed in range(3_000_000, 3_000_016)]
    for sharpen in (0.0, 0.25, 0.5, 0.75, 1.0):
        gains = []
        for made, _, activity in songs:
            got = separate.drums_of(made.mix[:, None], activity.mask, sharpen=sharpen)[:, 0]
            gains.append(si_sdr(made.drums, got))
        print(f"sharpen {sharpen}: SI-SDR {np.mean(gains):.2f} dB", flush=True)


if __name__ == "__main__":
    if sys.argv[-1] == "--mask":
        masks()
    else:
        if sys.argv[-1] != "--recall":
            thresholds()
        second_pass()
