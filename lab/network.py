"""The enlarging network: one backbone at source size, one pixel-shuffle head per factor.

All convolutions are 3×3 at source size, so the cost is per *source* pixel whatever the factor, and
the reach is the number of convolutions in sequence.
"""

from __future__ import annotations

import torch
from torch import Tensor, nn
from torch.nn import functional

FACTORS = (2, 3, 4, 6, 8)


class ResidualPair(nn.Module):
    """x + conv(PReLU(conv(x))), the second convolution started small so that depth trains from the first step."""

    def __init__(self, width: int) -> None:
        super().__init__()
        self.first = nn.Conv2d(width, width, 3, padding=1)
        self.bend = nn.PReLU(width)
        self.second = nn.Conv2d(width, width, 3, padding=1)
        with torch.no_grad():
            self.second.weight.mul_(0.1)
            self.second.bias.zero_()

    def forward(self, x: Tensor) -> Tensor:
        return x + self.second(self.bend(self.first(x)))


def bilinear_kernel(factor: int) -> Tensor:
    """Weights (3·f², 3, 3, 3) of a convolution that, pixel-shuffled, enlarges bilinearly by ``factor``.

    Half-pixel centres: output sample ``j`` of a cell lies ``(j + 0.5)/f − 0.5`` source pixels from its centre.
    """
    offsets = (torch.arange(factor) + 0.5) / factor - 0.5
    taps = torch.stack([(-offsets).clamp(min=0), 1 - offsets.abs(), offsets.clamp(min=0)], dim=1)  # f×3
    cell = torch.einsum("ay,bx->abyx", taps, taps).reshape(factor * factor, 3, 3)
    weight = torch.zeros(3, factor * factor, 3, 3, 3)
    for channel in range(3):
        weight[channel, :, channel] = cell
    return weight.reshape(3 * factor * factor, 3, 3, 3)


class Head(nn.Module):
    """Features and input to an RGB picture ``factor`` times as large."""

    def __init__(self, width: int, factor: int) -> None:
        super().__init__()
        self.factor = factor
        self.detail = nn.Conv2d(width, 3 * factor * factor, 3, padding=1)
        self.base = nn.Conv2d(3, 3 * factor * factor, 3, padding=1, bias=False)
        with torch.no_grad():
            self.detail.weight.mul_(0.1)
            self.detail.bias.zero_()
            self.base.weight.copy_(bilinear_kernel(factor))

    def forward(self, features: Tensor, picture: Tensor) -> Tensor:
        return functional.pixel_shuffle(self.detail(features) + self.base(picture), self.factor)


class EnlargingNetwork(nn.Module):
    """RGB 0..1, N×3×H×W, to N×3×fH×fW for each factor of :data:`FACTORS`."""

    def __init__(self, width: int = 64, pairs: int = 5) -> None:
        super().__init__()
        self.width, self.pairs = width, pairs
        self.entry = nn.Conv2d(3, width, 3, padding=1)
        self.body = nn.Sequential(*(ResidualPair(width) for _ in range(pairs)))
        self.bend = nn.PReLU(width)
        self.heads = nn.ModuleDict({str(f): Head(width, f) for f in FACTORS})

    @property
    def reach(self) -> int:
        """Source pixels around a pixel that its result depends on: the convolutions in sequence."""
        return 1 + 2 * self.pairs + 1

    def features(self, picture: Tensor) -> Tensor:
        entry = self.entry(picture)
        return self.bend(self.body(entry) + entry)

    def forward(self, picture: Tensor, factor: int) -> Tensor:
        return self.heads[str(factor)](self.features(picture), picture)
