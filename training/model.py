"""The network: convolutions over frequency, dilated residual blocks over time, three heads."""

from __future__ import annotations

import math
from itertools import pairwise
from pathlib import Path
from typing import TypeVar

import torch
from torch import nn
from torch.nn import functional

from orchesis.hearing.network import CLASSES, ORNAMENTS
from orchesis.hearing.spectrum import BANDS

CHANNELS = 144
#: Their sum, 291 frames, is the reach to either side: a bar and more (network._MARGIN keeps it).
DILATIONS = (1, 2, 4, 8, 16, 32, 64, 128, 4, 32)
OUTPUTS = 2 * len(CLASSES) + 1 + len(ORNAMENTS)
_SIZES = (2, 20, 40, 56)


def pace(optimiser: torch.optim.Optimizer, best: float, step: int, steps: int) -> None:
    """The learning rate of a step: a short rise, then half a cosine down to nothing."""
    rise = min(1.0, (step + 1) / 100)
    for group in optimiser.param_groups:
        group["lr"] = best * rise * (0.5 + 0.5 * math.cos(math.pi * step / steps)) + 1e-6


class Block(nn.Module):
    def __init__(self, dilation: int, channels: int = CHANNELS) -> None:
        super().__init__()
        self.net = nn.Sequential(
            nn.Conv1d(channels, channels, 3, padding=dilation, dilation=dilation, bias=False),
            nn.BatchNorm1d(channels),
            nn.ReLU(),
            nn.Conv1d(channels, channels, 1),
        )

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        return x + self.net(x)


def _up(inside: int, outside: int, more: int) -> nn.ConvTranspose2d:
    """Doubles the bands; ``more`` gives the odd size back."""
    return nn.ConvTranspose2d(
        inside, outside, (1, 3), stride=(1, 2), padding=(0, 1), output_padding=(0, more)
    )


class OnsetModel(nn.Module):
    """(batch, 2, frames, BANDS) -> heard (batch, frames, OUTPUTS), mask (batch, frames, BANDS).

    heard: onset logits of each class, its level in the mix 0..1, openness of a hat (logit),
    logits of the ornaments. mask: logits of the drums' share of the power.
    """

    def __init__(self) -> None:
        super().__init__()
        self.front = nn.ModuleList(
            nn.Sequential(
                nn.Conv2d(a, b, 3, stride=(1, 2), padding=1, bias=False),
                nn.BatchNorm2d(b),
                nn.ReLU(),
            )
            for a, b in pairwise(_SIZES)
        )
        self.bands = [BANDS]
        for _ in range(3):
            self.bands.append((self.bands[-1] + 1) // 2)
        last_size = _SIZES[-1]
        last = last_size * self.bands[3]
        self.squeeze = nn.Sequential(nn.Conv1d(last, CHANNELS, 1), nn.ReLU())
        self.blocks = nn.Sequential(*(Block(d) for d in DILATIONS))
        self.head = nn.Sequential(nn.ReLU(), nn.Conv1d(CHANNELS, OUTPUTS, 1))
        self.back = nn.Conv1d(CHANNELS, last, 1)
        more = [self.bands[k] - (2 * self.bands[k + 1] - 1) for k in range(3)]
        self.up = nn.ModuleList(
            [
                _up(last_size, 24, more[2]),
                _up(24 + _SIZES[2], 12, more[1]),
                _up(12 + _SIZES[1], 6, more[0]),
            ]
        )
        self.mask = nn.Conv2d(6 + 2, 1, (1, 3), padding=(0, 1))
        self.to(memory_format=torch.channels_last)  # several times faster on CPUs

    def forward(
        self, x: torch.Tensor, masked: int | None = None
    ) -> tuple[torch.Tensor, torch.Tensor]:
        """masked: of so many of the batch the mask is made (it costs as much as all else)."""
        seen = [x.contiguous(memory_format=torch.channels_last)]
        for layer in self.front:
            seen.append(layer(seen[-1]))
        flat = seen[3].permute(0, 1, 3, 2).flatten(1, 2)  # (batch, sizes * bands, frames)
        felt = self.blocks(self.squeeze(flat))
        heard = self.head(felt).transpose(1, 2)
        if masked is not None:
            felt, seen = felt[:masked], [s[:masked] for s in seen]
        y = self.back(felt).unflatten(1, (_SIZES[-1], self.bands[3])).permute(0, 1, 3, 2) + seen[3]
        y = functional.relu(self.up[0](functional.relu(y)))
        y = functional.relu(self.up[1](torch.cat([y, seen[2]], 1)))
        y = functional.relu(self.up[2](torch.cat([y, seen[1]], 1)))
        return heard, self.mask(torch.cat([y, seen[0]], 1))[:, 0]


Network = TypeVar("Network", bound=nn.Module)


def restored(net: Network, path: Path, given: torch.Tensor) -> Network:
    """A new network with the weights of one that was exported, ready to go on learning.

    The export made the normalisations part of the convolutions. Here each gets its own back:
    it passes on what it meets in ``given`` (what the network hears) unchanged, so that the
    network hears as it did.
    """
    import onnx
    from onnx import numpy_helper

    graph = onnx.load(str(path)).graph
    values = {i.name: torch.tensor(numpy_helper.to_array(i)) for i in graph.initializer}
    nodes = [n for n in graph.node if n.op_type in ("Conv", "ConvTranspose")]
    layers = [m for m in net.modules() if isinstance(m, (nn.Conv1d, nn.Conv2d, nn.ConvTranspose2d))]
    norms = {
        s[0]: s[1]
        for s in net.modules()
        if isinstance(s, nn.Sequential)
        and len(s) > 1
        and isinstance(s[1], (nn.BatchNorm1d, nn.BatchNorm2d))
    }
    for layer, node in zip(layers, nodes, strict=True):
        layer.weight.data.copy_(values[node.input[1]])
        if layer in norms:
            norms[layer].bias.data.copy_(values[node.input[2]])
        else:
            layer.bias.data.copy_(values[node.input[2]])
    met: dict[nn.Module, tuple[torch.Tensor, torch.Tensor]] = {}

    def watch(norm: nn.Module, inputs: tuple[torch.Tensor, ...]) -> None:
        over = [d for d in range(inputs[0].dim()) if d != 1]
        met[norm] = inputs[0].mean(over), inputs[0].var(over)

    hooks = [norm.register_forward_pre_hook(watch) for norm in norms.values()]
    net.eval()
    with torch.no_grad():
        net(given)
    for hook in hooks:
        hook.remove()
    for norm, (mean, var) in met.items():
        norm.running_mean.copy_(mean)
        norm.running_var.copy_(var)
        norm.bias.data += mean
        norm.weight.data = torch.sqrt(var + norm.eps)
    return net.train()


def loss(
    heard: torch.Tensor,
    mask: torch.Tensor,
    sound: torch.Tensor,
    onsets: torch.Tensor,
    levels: torch.Tensor,
    extras: torch.Tensor,
    share: torch.Tensor,
) -> torch.Tensor:
    """What was heard against the truth of materials/mix.py; frames told as -1 do not count."""
    n = len(CLASSES)
    known = (onsets >= 0).float()
    truth = onsets.clamp(min=0)
    # A stroke softer than most of the mix weighs up to three times as much: ghosts are few and soft.
    soft = 1 + 2 * (0.65 - levels).clamp(0, 0.4) / 0.4
    weight = known * (1 + 4 * truth * soft)
    strokes = functional.binary_cross_entropy_with_logits(heard[..., :n], truth, weight=weight)
    struck = (truth > 0.2).float()
    level = (struck * (torch.sigmoid(heard[..., n : 2 * n]) - levels) ** 2).sum() / (
        struck.sum() + 1
    )
    # How loud a stroke is among its own part's: the same error, but within each part of each excerpt.
    count = struck.sum(1, keepdim=True) + 1e-3
    told = torch.sigmoid(heard[..., n : 2 * n])
    apart = (told - (struck * told).sum(1, keepdim=True) / count) - (
        levels - (struck * levels).sum(1, keepdim=True) / count
    )
    order = (struck * apart**2).sum() / (struck.sum() + 1)
    hat = (extras[..., 0] >= 0).float()
    openness = (hat * (torch.sigmoid(heard[..., 2 * n]) - extras[..., 0]) ** 2).sum() / (
        hat.sum() + 1
    )
    drum = struck[..., [CLASSES.index("snare"), CLASSES.index("tom")]].amax(-1, keepdim=True)
    ornaments = functional.binary_cross_entropy_with_logits(
        heard[..., 2 * n + 1 :],
        extras[..., 1:],
        weight=drum.expand(*drum.shape[:-1], len(ORNAMENTS)),
        reduction="sum",
    ) / (drum.sum() + 1)
    loudness = torch.expm1(sound[: len(mask), 0]).clamp(max=60) / 8
    separation = (
        loudness * (torch.sigmoid(mask) - share[: len(mask)]) ** 2
    ).mean() / loudness.mean()
    return (
        strokes * n / 4
        + 4 * level
        + 8 * order
        + 0.2 * openness
        + 0.06 * ornaments
        + 0.5 * separation
    )
