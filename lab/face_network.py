"""The network that restores faces: it sees the whole upright square at once, and knows where in it a pixel lies."""

from __future__ import annotations

from itertools import pairwise

import torch
from network import LUMA, residual_pairs
from torch import Tensor, nn
from torch.nn import functional


class FaceNetwork(nn.Module):
    """A square N×3×S×S, 0..1, and how much finer it is than its source, to what must be added; S divides by 16.

    Pixel-unshuffled to half the size, then three scales below it; eyes, mouth and outline are told from each other by two
    planes that say where a pixel lies.
    """

    STRIDE = 16
    pictures = 1

    def __init__(self, widths: tuple[int, ...] = (48, 80, 128, 160), pairs: tuple[int, ...] = (1, 1, 2, 3)) -> None:
        super().__init__()
        self.widths, self.pairs = widths, pairs
        self.entry = nn.Conv2d(12 + 3, widths[0], 3, padding=1)
        self.before = nn.ModuleList(residual_pairs(width, count) for width, count in zip(widths, pairs, strict=True))
        self.down = nn.ModuleList(nn.Conv2d(4 * a, b, 1) for a, b in pairwise(widths))
        self.up = nn.ModuleList(nn.Conv2d(b, 4 * a, 1) for a, b in pairwise(widths))
        self.after = nn.ModuleList(
            residual_pairs(width, count) for width, count in zip(widths[:-1], pairs, strict=False)
        )
        self.bend = nn.PReLU(widths[0])
        self.out = nn.Conv2d(widths[0], 12, 3, padding=1)
        with torch.no_grad():
            self.out.weight.mul_(0.1)
            self.out.bias.zero_()

    @property
    def reach(self) -> int:
        """It is given whole squares."""
        return 0

    @property
    def operations_per_pixel(self) -> float:
        """Multiplications and additions per pixel of the square."""
        total, cells = 9 * 15 * self.widths[0] / 4 + 9 * self.widths[0] * 12 / 4, 4
        for index, (width, count) in enumerate(zip(self.widths, self.pairs, strict=True)):
            sides = 2 if index < len(self.widths) - 1 else 1
            total += sides * count * 2 * 9 * width**2 / cells
            if index < len(self.widths) - 1:
                total += 2 * 4 * width * self.widths[index + 1] / (4 * cells)
            cells *= 4
        return 2.0 * total

    def forward(self, picture: Tensor, finer: Tensor) -> Tensor:
        half = functional.pixel_unshuffle(picture, 2)
        ones = torch.ones_like(half[:, :1])
        # From -1 to 1 across and down, by summing up, which every runtime knows.
        across, down = torch.cumsum(ones, 3), torch.cumsum(ones, 2)
        places = [2 * across / across[:, :, :, -1:] - 1, 2 * down / down[:, :, -1:, :] - 1]
        told = functional.avg_pool2d(finer, 2)
        x = entry = self.entry(torch.cat([half, *places, told], dim=1))
        kept = []
        for before, down_step in zip(self.before[:-1], self.down, strict=True):
            x = before(x)
            kept.append(x)
            x = down_step(functional.pixel_unshuffle(x, 2))
        x = self.before[-1](x)
        for index in range(len(kept) - 1, -1, -1):
            x = kept[index] + functional.pixel_shuffle(self.up[index](x), 2)
            x = self.after[index](x)
        return functional.pixel_shuffle(self.out(self.bend(x + entry)), 2)


class LivelyRestorer(nn.Module):
    """A restored square given detail: brightness only, colours stay as they are, and nothing as fine as the grid of its head.

    Told of its maps as :class:`FaceRestorer` is.
    """

    MAPS = ("finer",)

    def __init__(self) -> None:
        super().__init__()
        self.network = FaceNetwork()

    def forward(self, picture: Tensor, maps: Tensor) -> Tensor:
        added = self.network(picture, maps)
        grey = (added * torch.tensor(LUMA).reshape(1, 3, 1, 1)).sum(dim=1, keepdim=True)
        rows = torch.tensor([0.25, 0.5, 0.25])
        even = functional.conv2d(grey, torch.outer(rows, rows).reshape(1, 1, 3, 3), padding=1)
        return picture + even


class FaceRestorer(nn.Module):
    """The restored square. ``maps`` N×1×S×S: log2 of how many pixels of it one of the source has been made, by 4."""

    MAPS = ("finer",)

    def __init__(self) -> None:
        super().__init__()
        self.network = FaceNetwork()

    def forward(self, picture: Tensor, maps: Tensor) -> Tensor:
        return picture + self.network(picture, maps)
