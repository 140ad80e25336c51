"""Chooses thresholds and calibrates confidence on kits that never trained.

python -m training.tune     writes orchesis/hearing/ears.json, prints the figures
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
import onnxruntime
from scipy.optimize import minimize

from orchesis.hearing.hits import LEAST, company, evidence, peaks, top
from training import kits, mix
from training.kits import CLASSES

ROOT = Path(__file__).resolve().parent.parent
EARS = ROOT / "orchesis" / "hearing" / "ears.onnx"
OUT = EARS.with_suffix(".json")
FIRST_SEED, COUNT = 1_000_000, 160
_RIDGE = 0.02


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
    """For each class: evidence and rightness of all its peaks, and how many are true."""
    session = onnxruntime.InferenceSession(str(EARS), providers=["CPUExecutionProvider"])
    n = len(CLASSES)
    rows: dict[str, list[tuple[np.ndarray, np.ndarray]]] = {c: [] for c in CLASSES}
    total = dict.fromkeys(CLASSES, 0)
    for seed in range(FIRST_SEED, FIRST_SEED + COUNT):
        sound, onsets, _, _ = mix.excerpt(seed, names)
        out = session.run(None, {"sound": sound[None].astype(np.float32)})[0][0]
        heard = 1 / (1 + np.exp(-out[:, : 2 * n]))
        for c, name in enumerate(CLASSES):
            truth = np.flatnonzero(onsets[:, c] == 1)
            found = peaks(heard[:, c], LEAST)
            strength, loudness = (top(heard[:, k], found) for k in (c, n + c))
            seen = evidence(strength, loudness, company(heard[:, :n], name, found))
            rows[name].append((seen, matches(truth, found)))
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
    floor = max(np.arange(0.2, 0.71, 0.02), key=lambda f: score(f) - 0.05 * abs(f - 0.45))
    return float(floor), score(floor)


def main() -> None:
    if "--test" in sys.argv:
        tuned = json.loads(OUT.read_text())
        for name, (seen, right, total) in collect(kits.TEST).items():
            sure = 1 / (1 + np.exp(-seen @ np.array(tuned[name]["weights"])))
            keep = sure >= tuned[name]["floor"]
            print(
                f"{name:12s} n={total:5d} F {2 * right[keep].sum() / max(1, keep.sum() + total):.3f}"
            )
        return
    made = {}
    for name, (seen, right, total) in collect(kits.TUNE).items():
        weights = fit(seen, right)
        sure = 1 / (1 + np.exp(-seen @ weights))
        floor, score = best_floor(sure, right, total)
        made[name] = {"weights": [round(float(w), 4) for w in weights], "floor": round(floor, 2)}
        print(f"{name:12s} n={total:5d} floor {floor:.2f} F {score:.3f}")
    OUT.write_text(json.dumps(made, indent=1) + "\n")


if __name__ == "__main__":
    main()
