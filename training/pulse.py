"""Trains the network that reads the pulse from strokes: no sound, only made-up parts.

    python -m training.pulse [--songs N] [--steps N]     writes orchesis/hearing/pulse.onnx
    python -m training.pulse --go-on [--heard N]         goes on from the network that is there,
                                                         with N songs heard by the onset model too

Songs of materials/parts_by_style.py as the onset model would hear them: strokes missed, invented, taken for
others, unsure and late, and a band that changes chords. Truth: beats, ones, tempo, whether the
beat divides in three.
"""

from __future__ import annotations

import argparse
import multiprocessing as mp
import time
from pathlib import Path

import numpy as np
import torch
from torch import nn
from torch.nn import functional

from orchesis.hearing.pulsegrid import ROWS
from orchesis.hearing.tempo_bins import BINS
from training.model import Block, pace, restored
from training.pulsedata import FRAMES, made, made_heard

OUT = Path(__file__).resolve().parent.parent / "orchesis" / "hearing" / "pulse.onnx"
CROP, BATCH = 2000, 6
SECOND, HEARD = 1_000_000, 5_000_000  # seeds of the first songs of the second stage
WIDTH = 64
DILATIONS = (1, 2, 4, 8, 16, 32, 64, 128, 256, 512)


class Pulse(nn.Module):
    """(batch, ROWS, frames) -> (batch, 3 + BINS, frames): logits of beat, one, ternary, tempo."""

    def __init__(self) -> None:
        super().__init__()
        self.net = nn.Sequential(
            nn.Conv1d(ROWS, WIDTH, 5, padding=2),
            nn.ReLU(),
            *(Block(d, WIDTH) for d in DILATIONS),
            nn.ReLU(),
            nn.Conv1d(WIDTH, 3 + BINS, 1),
        )

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        return self.net(x)


def loss(out: torch.Tensor, want: torch.Tensor) -> torch.Tensor:
    marks = functional.binary_cross_entropy_with_logits(
        out[:, :2], want[:, :2], weight=1 + 4 * want[:, :2]
    )
    ternary = functional.binary_cross_entropy_with_logits(out[:, 2], want[:, 2])
    places = torch.arange(BINS).view(1, -1, 1)
    near = torch.exp(-0.5 * ((places - want[:, 3:4]) / 0.8) ** 2)
    tempo = (
        -(near / near.sum(1, keepdim=True) * functional.log_softmax(out[:, 3:], 1)).sum(1).mean()
    )
    return 3 * marks + 0.1 * ternary + 0.15 * tempo


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--songs", type=int, default=4000)
    parser.add_argument("--steps", type=int, default=1800)
    parser.add_argument("--threads", type=int, default=2)
    parser.add_argument("--go-on", action="store_true")
    parser.add_argument("--heard", type=int, default=0)
    args = parser.parse_args()
    with mp.Pool(2) as pool:
        first = SECOND if args.go_on else 0
        pairs = pool.map(made, range(first, first + args.songs), chunksize=50)
        pairs += pool.map(made_heard, range(HEARD, HEARD + args.heard), chunksize=5)
    grids, wants = (np.stack([p[i] for p in pairs]) for i in range(2))
    torch.manual_seed(0)
    torch.set_num_threads(args.threads)
    rng = np.random.default_rng(0)
    net, best = Pulse(), 2e-3
    if args.go_on:
        given = torch.from_numpy(grids[:16].astype(np.float32))
        net, best = restored(net, OUT, given), 1e-3
    print(len(grids), "songs,", sum(p.numel() for p in net.parameters()), "parameters", flush=True)
    optimiser = torch.optim.AdamW(net.parameters(), lr=best, weight_decay=1e-3)
    shown, start = 0.0, time.monotonic()
    for step in range(args.steps):
        pace(optimiser, best, step, args.steps)
        picks, at = rng.integers(0, len(grids), BATCH), int(rng.integers(0, FRAMES - CROP + 1))
        x, y = (
            torch.from_numpy(a[picks][:, :, at : at + CROP].astype(np.float32))
            for a in (grids, wants)
        )
        cost = loss(net(x), y)
        optimiser.zero_grad()
        cost.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 2.0)
        optimiser.step()
        shown = cost.item() if step == 0 else 0.99 * shown + 0.01 * cost.item()
        if (step + 1) % 100 == 0:
            print(
                f"step {step + 1}, {(time.monotonic() - start) / 60:.1f} min, loss {shown:.4f}",
                flush=True,
            )
    net.eval()
    torch.onnx.export(
        net,
        (torch.rand(1, ROWS, 500),),
        str(OUT),
        input_names=["grid"],
        output_names=["pulse"],
        dynamic_axes={"grid": {2: "frames"}, "pulse": {2: "frames"}},
        opset_version=17,
        dynamo=False,
    )
    print("wrote", OUT.name, OUT.stat().st_size, "bytes")


if __name__ == "__main__":
    main()
