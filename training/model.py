"""The network: three convolutions over frequency, then dilated residual blocks over time."""

from __future__ import annotations

from itertools import pairwise

import torch
from torch import nn

from orchesis.hearing.spectrum import BANDS
from training.kits import CLASSES

CHANNELS = 96
DILATIONS = (1, 2, 4, 8, 16, 32, 64, 128)


class Block(nn.Module):
    def __init__(self, dilation: int) -> None:
        super().__init__()
        self.net = nn.Sequential(
            nn.Conv1d(CHANNELS, CHANNELS, 3, padding=dilation, dilation=dilation, bias=False),
            nn.BatchNorm1d(CHANNELS),
            nn.ReLU(),
            nn.Conv1d(CHANNELS, CHANNELS, 1),
        )

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        return x + self.net(x)


class Ears(nn.Module):
    """(batch, 2, frames, BANDS) -> (batch, frames, 2 * classes + 2).

    The outputs: onset logits of each class, its loudness 0..1, beat and downbeat logits.
    """

    def __init__(self) -> None:
        super().__init__()
        sizes = (2, 16, 32, 48)
        layers: list[nn.Module] = []
        for a, b in pairwise(sizes):
            layers += [nn.Conv2d(a, b, 3, stride=(1, 2), padding=1, bias=False),
                       nn.BatchNorm2d(b), nn.ReLU()]  # fmt: skip
        self.front = nn.Sequential(*layers)
        bands = BANDS
        for _ in range(3):
            bands = (bands + 1) // 2
        self.squeeze = nn.Sequential(nn.Conv1d(48 * bands, CHANNELS, 1), nn.ReLU())
        self.blocks = nn.Sequential(*(Block(d) for d in DILATIONS))
        self.head = nn.Sequential(nn.ReLU(), nn.Conv1d(CHANNELS, 2 * len(CLASSES) + 2, 1))

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        y = self.front(x)  # (batch, 48, frames, bands)
        y = y.permute(0, 1, 3, 2).flatten(1, 2)
        return self.head(self.blocks(self.squeeze(y))).transpose(1, 2)


def loss(
    out: torch.Tensor, onsets: torch.Tensor, loud: torch.Tensor, pulse: torch.Tensor
) -> torch.Tensor:
    n = len(CLASSES)
    weight = 1 + 4 * onsets
    strokes = nn.functional.binary_cross_entropy_with_logits(out[..., :n], onsets, weight=weight)
    struck = (onsets > 0.2).float()
    level = torch.sigmoid(out[..., n : 2 * n])
    loudness = (struck * (level - loud) ** 2).sum() / (struck.sum() + 1)
    beats = nn.functional.binary_cross_entropy_with_logits(out[..., 2 * n :], pulse)
    return strokes * n / 4 + 0.5 * loudness + 0.15 * beats
