"""The networks: one that enlarges, and one that restores at source size.

All convolutions are 3×3 (reach one sample each) on regular grids, so that the reach is a count and any region can be
computed alone.
"""

from __future__ import annotations

import torch
from torch import Tensor, nn
from torch.nn import functional

FACTORS = (2, 3, 4, 6, 8)

#: Luma of R'G'B' as ITU-R BT.601 weighs it.
LUMA = (0.299, 0.587, 0.114)


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


def residual_pairs(width: int, count: int) -> nn.Sequential:
    return nn.Sequential(*(ResidualPair(width) for _ in range(count)))


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


class HalfSizeBranch(nn.Module):
    """What residual pairs at half the size add to features at full size; sizes must be even.

    For the same arithmetic it has four times the weights and sees twice as far: what letters look like, learnt by heart.
    Begins by adding nothing.
    """

    def __init__(self, width: int, inner: int, pairs: int) -> None:
        super().__init__()
        self.down = nn.Conv2d(width, inner, 2, stride=2)
        self.deep = residual_pairs(inner, pairs)
        self.up = nn.Conv2d(inner, 4 * width, 1)
        with torch.no_grad():
            self.up.weight.zero_()
            self.up.bias.zero_()

    def forward(self, x: Tensor) -> Tensor:
        return functional.pixel_shuffle(self.up(self.deep(self.down(x))), 2)


class EnlargingNetwork(nn.Module):
    """RGB 0..1, N×3×H×W, to N×3×fH×fW for each factor of :data:`FACTORS`.

    ``half`` gives channels and pairs of a branch at half the size, in the middle of the body; sizes must then be even.
    """

    def __init__(self, width: int = 64, pairs: int = 5, half: tuple[int, int] | None = None) -> None:
        super().__init__()
        self.width, self.pairs, self.half_shape = width, pairs, half
        self.entry = nn.Conv2d(3, width, 3, padding=1)
        self.body = residual_pairs(width, pairs)
        self.branch = HalfSizeBranch(width, *half) if half else None
        self.bend = nn.PReLU(width)
        self.heads = nn.ModuleDict({str(f): Head(width, f) for f in FACTORS})

    @property
    def stride(self) -> int:
        """What sizes must divide by, and regions begin at a multiple of."""
        return 2 if self.branch else 1

    @property
    def reach(self) -> int:
        """Source pixels around a pixel that its result depends on: the convolutions in sequence, and the grid."""
        deep = 2 * 2 * self.half_shape[1] + 1 if self.half_shape else 0
        return 1 + 2 * self.pairs + 1 + deep

    def operations_per_pixel(self, factor: int) -> float:
        """Multiplications and additions per source pixel: backbone and one head."""
        weights = 9 * (3 * self.width + 2 * self.pairs * self.width**2 + (self.width + 3) * 3 * factor * factor)
        if self.half_shape:
            inner, pairs = self.half_shape
            weights += (2 * 4 * self.width * inner + 9 * 2 * pairs * inner**2) / 4
        return 2.0 * weights

    def features(self, picture: Tensor) -> Tensor:
        entry = self.entry(picture)
        middle = (self.pairs + 1) // 2
        x = self.body[:middle](entry)
        if self.branch is not None:
            x = x + self.branch(x)
        return self.bend(self.body[middle:](x) + entry)

    def forward(self, picture: Tensor, factor: int) -> Tensor:
        return self.heads[str(factor)](self.features(picture), picture)


class RestoringNetwork(nn.Module):
    """A picture and maps that describe it to what must be added to restore it; sizes must divide by :data:`STRIDE`.

    Works on pixel-unshuffled input at half size, with a second scale at a quarter: the reach of a large network at
    half the cost of one at full size.
    """

    STRIDE = 4

    def __init__(
        self, pictures: int, maps: int, widths: tuple[int, int] = (48, 96), pairs: tuple[int, int] = (2, 3)
    ) -> None:
        super().__init__()
        fine, coarse = widths
        self.pictures, self.maps, self.widths, self.pairs = pictures, maps, widths, pairs
        self.entry = nn.Conv2d(4 * (3 * pictures + maps), fine, 3, padding=1)
        self.before = residual_pairs(fine, pairs[0])
        self.down = nn.Conv2d(4 * fine, coarse, 1)
        self.deep = residual_pairs(coarse, pairs[1])
        self.up = nn.Conv2d(coarse, 4 * fine, 1)
        self.after = residual_pairs(fine, pairs[0])
        self.bend = nn.PReLU(fine)
        self.out = nn.Conv2d(fine, 12, 3, padding=1)
        with torch.no_grad():
            self.out.weight.mul_(0.1)
            self.out.bias.zero_()

    @property
    def reach(self) -> int:
        """Picture pixels: convolutions at half size count two, those at a quarter four; and the grid they lie on."""
        return 2 * (2 + 4 * self.pairs[0]) + 4 * 2 * self.pairs[1] + self.STRIDE

    @property
    def operations_per_pixel(self) -> float:
        """Multiplications and additions per picture pixel."""
        fine, coarse = self.widths
        half = 9 * (4 * (3 * self.pictures + self.maps) * fine + 4 * self.pairs[0] * fine**2 + 12 * fine)
        quarter = 2 * 4 * fine * coarse + 9 * 2 * self.pairs[1] * coarse**2
        return 2.0 * (half / 4 + quarter / 16)

    def forward(self, pictures: Tensor, maps: Tensor | None = None) -> Tensor:
        given = pictures if maps is None else torch.cat([pictures, maps], dim=1)
        entry = self.entry(functional.pixel_unshuffle(given, 2))
        fine = self.before(entry)
        deep = self.deep(self.down(functional.pixel_unshuffle(fine, 2)))
        fine = fine + functional.pixel_shuffle(self.up(deep), 2)
        return functional.pixel_shuffle(self.out(self.bend(self.after(fine) + entry)), 2)


class Denoiser(nn.Module):
    """Finds the noise and takes away the wanted share of it.

    ``maps`` N×2×H×W: share of the luminance noise and of the colour noise to take away, 0..1. A share of zero leaves
    the input as it is, bit by bit.
    """

    MAPS = ("luminance", "colour")

    def __init__(self) -> None:
        super().__init__()
        self.network = RestoringNetwork(pictures=1, maps=0, widths=(64, 96), pairs=(3, 3))
        self.register_buffer("luma", torch.tensor(LUMA).reshape(1, 3, 1, 1), persistent=False)

    def noise(self, picture: Tensor) -> tuple[Tensor, Tensor]:
        """Luminance noise N×1×H×W and colour noise N×3×H×W, to be taken away."""
        found = self.network(picture)
        luminance = (found * self.luma).sum(dim=1, keepdim=True)
        return luminance, found - luminance

    def forward(self, picture: Tensor, maps: Tensor) -> Tensor:
        luminance, colour = self.noise(picture)
        return picture + (maps[:, 0:1] * luminance + maps[:, 1:2] * colour)


class Repairer(nn.Module):
    """Takes away what compression did.

    ``maps`` N×2×H×W: strength 0..1 (zero leaves the input as it is, bit by bit), and the quality the file was written
    at ÷ 100 (zero where that is not known).
    """

    MAPS = ("strength", "quality")

    def __init__(self) -> None:
        super().__init__()
        self.network = RestoringNetwork(pictures=1, maps=1, widths=(64, 96), pairs=(3, 3))

    def forward(self, picture: Tensor, maps: Tensor) -> Tensor:
        return picture + maps[:, 0:1] * self.network(picture, maps[:, 1:2])


class Deblurrer(nn.Module):
    """Fuses and cleans deconvolved versions of a picture.

    ``picture`` N×12×H×W: the picture as it is, then Wiener-deconvolved with weak, medium and strong regularisation.
    ``maps`` N×5×H×W: strength 0..1 (zero leaves the input as it is, bit by bit), focus radius ÷ 10 px, movement
    ÷ 30 px as length·cos 2θ and length·sin 2θ, softness σ ÷ 5 px.
    """

    MAPS = ("strength", "focus", "motion_cos", "motion_sin", "soft")

    def __init__(self) -> None:
        super().__init__()
        self.network = RestoringNetwork(pictures=4, maps=4)

    def forward(self, picture: Tensor, maps: Tensor) -> Tensor:
        given, medium = picture[:, :3], picture[:, 6:9]
        restored = medium + self.network(picture, maps[:, 1:])
        return given + maps[:, 0:1] * (restored - given)


class FindingNetwork(nn.Module):
    """RGB 0..1, N×3×H×W, to how likely each pixel is damaged, N×1×H×W in 0..1; sizes must divide by :data:`STRIDE`.

    Works at half, a quarter and an eighth of the size: thin lines need the first, to know a twig from a scratch the last.
    """

    STRIDE = 8

    def __init__(self, widths: tuple[int, int, int] = (32, 64, 96), pairs: tuple[int, int, int] = (2, 2, 3)) -> None:
        super().__init__()
        fine, middle, coarse = widths
        self.widths, self.pairs = widths, pairs
        self.entry = nn.Conv2d(12, fine, 3, padding=1)
        self.before = residual_pairs(fine, pairs[0])
        self.down = nn.Conv2d(fine, middle, 2, stride=2)
        self.between = residual_pairs(middle, pairs[1])
        self.deeper = nn.Conv2d(middle, coarse, 2, stride=2)
        self.deep = residual_pairs(coarse, pairs[2])
        self.rise = nn.Conv2d(coarse, 4 * middle, 1)
        self.behind = residual_pairs(middle, pairs[1])
        self.up = nn.Conv2d(middle, 4 * fine, 1)
        self.after = residual_pairs(fine, pairs[0])
        self.bend = nn.PReLU(fine)
        self.out = nn.Conv2d(fine, 4, 3, padding=1)
        with torch.no_grad():
            self.out.weight.mul_(0.1)
            self.out.bias.fill_(-3.0)

    @property
    def reach(self) -> int:
        """Picture pixels: convolutions at half size count two, four and eight at the smaller ones; and the grid they lie on."""
        fine, middle, coarse = self.pairs
        return 2 * (2 + 4 * fine) + 4 * 4 * middle + 8 * 2 * coarse + self.STRIDE

    def logits(self, picture: Tensor) -> Tensor:
        entry = self.entry(functional.pixel_unshuffle(picture, 2))
        fine = self.before(entry)
        middle = self.between(self.down(fine))
        deep = self.deep(self.deeper(middle))
        middle = self.behind(middle + functional.pixel_shuffle(self.rise(deep), 2))
        fine = self.after(fine + functional.pixel_shuffle(self.up(middle), 2))
        return functional.pixel_shuffle(self.out(self.bend(fine + entry)), 2)

    def forward(self, picture: Tensor) -> Tensor:
        return torch.sigmoid(self.logits(picture))
