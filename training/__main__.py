"""Trains the onset model from nothing: makes the data, trains stage by stage, exports.

    python -m training [--stage N] [--steps N] [--workers N] [--threads N]

In the first stage the network learns what drums are; in the others it goes on, more gently, with
other songs, then with all of them, and at last with real records that teach themselves too
(training/folding.py). --stage: only this one; after the first, from training/onset-model-next.onnx, which
every stage writes (half precision).

Needs training/requirements.txt and the Debian packages named in materials/kits.py. training/ensemble.py
makes of it what is shipped; the card of that is training/CARD.md.
"""

from __future__ import annotations

import argparse
import multiprocessing as mp
import time
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import torch

from materials import kits, mix
from orchesis.hearing.spectrum import BANDS
from training import folding
from training.ensemble import NEXT, averaged, halved
from training.model import OnsetModel, loss, pace, restored

ROOT = Path(__file__).resolve().parent.parent
DATA = ROOT / "var" / "training"
PART = NEXT.with_suffix(".part.onnx")
CROP, BATCH, MASKED = 400, 16, 4
_APART = 8_000_000  # seeds from the first song of a set to that of the next
_FOLDED = 2 * _APART  # from this seed on excerpts are of real records


@dataclass(frozen=True)
class Stage:
    """sets: of songs, each by the seed of its first song and how many hours of it. steps: of
    sixteen crops of 400 frames each. is_averaged: with the weights that it began from."""

    sets: tuple[tuple[int, float], ...]
    steps: int
    is_averaged: bool = False


_FIRST, _SECOND, _RECORDS = (0, 12.0), (_APART, 6.0), (_FOLDED, 5.0)
STAGES = (
    Stage((_FIRST,), 1700),
    Stage((_SECOND,), 1300),
    Stage((_FIRST, _SECOND), 3000),
    Stage((_FIRST, _SECOND), 4200),
    Stage((_FIRST, _SECOND, _RECORDS), 1500, is_averaged=True),
)


def _make(args: tuple[int, int]) -> str:
    """One shard of excerpts, kept as a file so that the data need not be made twice."""
    first, count = args
    path = DATA / f"shard-{first}.npz"
    if not path.exists():
        parts = [
            folding.excerpt(seed) if seed >= _FOLDED else mix.excerpt(seed, kits.TRAIN)
            for seed in range(first, first + count)
        ]
        arrays = [np.stack([p[i] for p in parts]) for i in range(len(parts[0]))]
        np.savez(path, *arrays)
    return str(path)


def data(hours: float, workers: int, first: int = 0) -> list[np.ndarray]:
    """The arrays of mix.excerpt for so many hours, in memory. first: seed of the first."""
    DATA.mkdir(parents=True, exist_ok=True)
    count = int(hours * 3600 / mix.SECONDS)
    shards = [(k, 50) for k in range(first, first + count, 50)]
    with mp.Pool(workers) as pool:
        paths = []
        for n, path in enumerate(pool.imap(_make, shards)):
            paths.append(path)
            print(f"made {(n + 1) * 50 * mix.SECONDS / 3600:.2f} h", flush=True)
    loaded = [np.load(p) for p in paths]
    return [np.concatenate([x[f"arr_{i}"] for x in loaded]) for i in range(len(loaded[0].files))]


def train(
    arrays: list[np.ndarray], steps: int, seed: int, net: OnsetModel | None = None
) -> OnsetModel:
    """net: a network that goes on learning, more gently; a new one if none is given."""
    torch.manual_seed(seed)
    rng = np.random.default_rng(seed)
    best = 1.2e-3 if net else 2.5e-3
    net = net or OnsetModel()
    print(sum(p.numel() for p in net.parameters()), "parameters", flush=True)
    optimiser = torch.optim.AdamW(net.parameters(), lr=best, weight_decay=1e-3)
    start, shown = time.monotonic(), 0.0
    for step in range(steps):
        pace(optimiser, best, step, steps)
        picks = rng.integers(0, len(arrays[0]), BATCH)
        at = rng.integers(0, mix.FRAMES - CROP, BATCH)
        x, *y, share = (
            torch.from_numpy(
                np.stack(
                    [
                        a[k][:, t : t + CROP] if i == 0 else a[k][t : t + CROP]
                        for k, t in zip(picks, at, strict=True)
                    ]
                ).astype(np.float32)
            )
            for i, a in enumerate(arrays)
        )
        x = x * torch.empty(BATCH, 1, 1, 1).uniform_(0.9, 1.1)
        cost = loss(*net(x, MASKED), x, *y, share / 255)
        optimiser.zero_grad()
        cost.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 2.0)
        optimiser.step()
        shown = cost.item() if step == 0 else 0.99 * shown + 0.01 * cost.item()
        if (step + 1) % 100 == 0:
            took = (time.monotonic() - start) / 60
            print(f"step {step + 1} of {steps}, {took:.1f} min, loss {shown:.4f}", flush=True)
        if (step + 1) % 1000 == 0:
            export(net, PART)
    return net


def export(net: OnsetModel, path: Path) -> None:
    """As ONNX with a free number of frames; the shipped file is checked against torch."""
    import onnxruntime

    net.eval()
    example = torch.rand(1, 2, 300, BANDS)
    free = {"sound": {2: "frames"}, "heard": {1: "frames"}, "mask": {1: "frames"}}
    torch.onnx.export(
        net,
        (example,),
        str(path),
        input_names=["sound"],
        output_names=["heard", "mask"],
        dynamic_axes=free,
        opset_version=17,
        dynamo=False,
    )
    other = torch.rand(1, 2, 517, BANDS)
    session = onnxruntime.InferenceSession(str(path), providers=["CPUExecutionProvider"])
    with torch.no_grad():
        pairs = zip(session.run(None, {"sound": other.numpy()}), net(other), strict=True)
        gap = max(float(np.abs(a - b.numpy()).max()) for a, b in pairs)
    if gap > 1e-3:
        raise SystemExit(f"The exported network differs from the trained one by {gap}.")
    net.train()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--steps", type=int, help="fewer, for a try")
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--threads", type=int, default=2)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--stage", type=int, choices=range(1, len(STAGES) + 1))
    args = parser.parse_args()
    torch.set_num_threads(args.threads)
    for number in (args.stage,) if args.stage else range(1, len(STAGES) + 1):
        stage = STAGES[number - 1]
        sets = [data(hours, args.workers, first) for first, hours in stage.sets]
        arrays = [np.concatenate(parts) for parts in zip(*sets, strict=True)]
        net = None
        if number > 1:
            net = restored(OnsetModel(), NEXT, torch.from_numpy(arrays[0][:8].astype(np.float32)))
        made = train(arrays, args.steps or stage.steps, args.seed + number - 1, net)
        export(made, PART)
        if stage.is_averaged:
            averaged(PART, NEXT, PART)
        halved(PART, NEXT)
        print("wrote", NEXT, NEXT.stat().st_size, "bytes")


if __name__ == "__main__":
    main()
