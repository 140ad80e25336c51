"""Chooses thresholds and calibrates confidence on kits that never trained.

python -m training.tune            writes orchesis/hearing/ears.json, prints the figures
python -m training.tune --recall   figures of the second pass for several weights
python -m training.tune --mask     figures of the drums brought forward, by sharpening
"""

from __future__ import annotations

import json
import os
import sys
import tempfile
from pathlib import Path

import numpy as np
import onnxruntime
import soundfile as sf
from scipy.optimize import minimize

from bench.measures import f_measure, si_sdr
from orchesis.hearing import hits, network, pulse, recall, separate, spectrum
from orchesis.hearing.hits import LEAST, company, evidence, peaks, top
from training import kits, mix
from training.kits import CLASSES, RATE

EARS = Path(hits.__file__).parent / "ears.onnx"
OUT = EARS.with_suffix(".json")
FIRST_SEED, COUNT = 1_000_000, int(os.environ.get("COUNT", 200))
_RIDGE = 0.02
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
    session = onnxruntime.InferenceSession(str(EARS), providers=["CPUExecutionProvider"])
    n = len(CLASSES)
    rows: dict[str, list[tuple[np.ndarray, np.ndarray]]] = {c: [] for c in CLASSES}
    total = dict.fromkeys(CLASSES, 0)
    for seed in range(FIRST_SEED, FIRST_SEED + COUNT):
        sound, onsets, *_ = mix.excerpt(seed, names)
        out = session.run(["heard"], {"sound": sound[None].astype(np.float32)})[0][0]
        heard = 1 / (1 + np.exp(-out[:, : 2 * n]))
        for c, name in enumerate(CLASSES):
            truth = np.flatnonzero(onsets[:, c] == 1)
            found = peaks(heard[:, c], LEAST)
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


def fit(x: np.ndarray, right: np.ndarray) -> np.ndarray:
    """Weights of a logistic regression, a little drawn to nothing (rare classes)."""

    def cost(w: np.ndarray) -> float:
        z = x @ w
        return float(np.logaddexp(0, np.where(right, -z, z)).mean() + _RIDGE * (w[1:] ** 2).mean())

    return minimize(cost, np.zeros(x.shape[1])).x


def best_floor(sure: np.ndarray, right: np.ndarray, total: int) -> tuple[float, float]:
    """(floor, F): the confidence from which on strokes are written."""

    def score(floor: float) -> float:
        keep = sure >= floor
        return float(2 * right[keep].sum() / max(1, keep.sum() + total))

    # Where a class is rare the best floor is luck; a small prior draws it to the middle.
    draw = 0.05 * min(1.0, _RARE / max(total, 1))
    floor = max(np.arange(0.2, 0.71, 0.02), key=lambda f: score(f) - draw * abs(f - 0.45))
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
    """A longer made-up song on some kits, and what the ears make of it."""
    made = mix.render(np.random.default_rng(seed), names, seconds, kind=kind, rough=rough)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "song.flac"
        sf.write(path, made.mix / np.abs(made.mix).max() * 0.9, RATE)
        seen = spectrum.measure(path, seconds)
    return made, seen, network.hear(seen)


def class_name(part: str) -> str:
    return "tom" if part.startswith("tom") else "hat_open" if part == "hat_half" else part


def second_pass() -> None:
    songs = []
    for seed in range(2_000_000, 2_000_024):
        made, seen, activity = heard(seed, 60.0)
        candidates = hits.Listener(seen, activity).candidates()
        try:
            beats = pulse.find(seen, activity, hits.written(candidates)).beats
        except Exception as problem:
            print(seed, problem)
            continue
        songs.append((made, candidates, beats))
    groups = {
        "kick": ("kick",),
        "snare": ("snare", "cross_stick"),
        "hats": ("hat_closed", "hat_open"),
        "ride": ("ride",),
        "tom": ("tom",),
    }
    for up, down in ((0, 0), (0.25, 0.15), (0.5, 0.3), (0.75, 0.3), (0.75, 0.6), (1.0, 0.5)):
        line = []
        for group, names in groups.items():
            scores = []
            for made, candidates, beats in songs:
                found = hits.written(
                    recall.again(candidates, beats, up=up, down=down) if up else candidates
                )
                truth = [
                    s.event.time for s in made.strokes if s.name in names and s.share >= mix.AUDIBLE
                ]
                got = [h.time for h in found if class_name(h.part) in names]
                if len(truth) >= 8:
                    scores.append(f_measure(truth, got, 0.05))
            line.append(f"{group} {np.mean(scores):.4f}")
        print(f"up {up} down {down}:", ", ".join(line), flush=True)


def masks() -> None:
    songs = [heard(seed, 30.0) for seed in range(3_000_000, 3_000_016)]
    for sharpen in (0.0, 0.25, 0.5, 0.75, 1.0):
        gains = []
        for made, _, activity in songs:
            got = separate.drums_of(made.mix[:, None], activity.mask, sharpen=sharpen)[:, 0]
            gains.append(si_sdr(made.drums, got))
        print(f"sharpen {sharpen}: SI-SDR {np.mean(gains):.2f} dB", flush=True)


if __name__ == "__main__":
    {"--recall": second_pass, "--mask": masks}.get(sys.argv[-1], thresholds)()
