"""Losses for how a picture looks rather than for least error: firmness of edges, liveliness of texture, calm of flats.

All pictures are N×3×H×W in 0..1.
"""

from __future__ import annotations

import torch
from network import LUMA
from torch import Tensor, nn
from torch.nn import functional


def luma(picture: Tensor) -> Tensor:
    weights = torch.tensor(LUMA).reshape(1, 3, 1, 1)
    return (picture * weights).sum(dim=1, keepdim=True)


def sharpened(picture: Tensor, amount: float) -> Tensor:
    """Unsharp mask with a 5×5 box; what a crisp result is to look like."""
    padded = functional.pad(picture, (2, 2, 2, 2), mode="reflect")
    return picture + amount * (picture - functional.avg_pool2d(padded, 5, stride=1))


def oriented(grey: Tensor) -> Tensor:
    """Differences in four directions, N×4×H×W."""
    padded = functional.pad(grey, (1, 1, 1, 1), mode="reflect")
    middle = padded[..., 1:-1, 1:-1]
    return torch.cat([
        padded[..., 1:-1, 2:] - middle, padded[..., 2:, 1:-1] - middle,
        (padded[..., 2:, 2:] - middle) * 0.7, (padded[..., 2:, :-2] - middle) * 0.7,
    ], dim=1)  # fmt: skip


def energies(grey: Tensor) -> list[Tensor]:
    """Local strength of texture (RMS over 8×8) in four directions at three scales; sign and place do not count."""
    found = []
    for _ in range(3):
        found.append(torch.sqrt(functional.avg_pool2d(oriented(grey) ** 2, 8, stride=4) + 1e-6))
        grey = functional.avg_pool2d(grey, 2)
    return found


def energy_loss(result: Tensor, truth: Tensor, share: float = 1.0) -> Tensor:
    """How far the strength of texture is from that share of the truth's; too much where the truth is flat weighs triple."""
    loss = result.new_zeros(())
    for own, real in zip(energies(luma(result)), energies(luma(truth)), strict=True):
        wanted = share * real
        excess = functional.relu(own - wanted) * (wanted < 0.012)
        loss = loss + (own - wanted).abs().mean() + 2 * excess.mean()
    return loss


def gradient_loss(result: Tensor, truth: Tensor) -> Tensor:
    return (oriented(luma(result)) - oriented(luma(truth))).abs().mean()


def lattice_loss(result: Tensor, factor: int) -> Tensor:
    """How far what is fine depends on where in the square of its source's pixel a pixel lies: its strength, and its sign.

    Heads that shuffle pixels can please an opponent by repeating the same few dots in every square.
    """
    grey = luma(result)
    fine = grey - functional.avg_pool2d(functional.pad(grey, (1, 1, 1, 1), mode="reflect"), 3, stride=1)
    places = functional.pixel_unshuffle(fine, factor)
    strength, middle = (places**2).mean(dim=(0, 2, 3)), places.mean(dim=(0, 2, 3))
    usual = strength.mean() + 1e-8
    return ((strength / usual - 1) ** 2).mean() + (middle**2).mean() / usual


def told_of_enlarging(source: Tensor, factor: int) -> Tensor:
    """What an opponent is told beside an enlarged picture: its source, plainly enlarged, and where in a source pixel each is."""
    plain = functional.interpolate(source, scale_factor=factor, mode="bicubic", align_corners=False)
    count, _, height, width = plain.shape
    steps = (torch.arange(factor) + 0.5) / factor
    down = steps.repeat(height // factor).reshape(1, 1, -1, 1).expand(count, 1, height, width)
    across = steps.repeat(width // factor).reshape(1, 1, 1, -1).expand(count, 1, height, width)
    return torch.cat([plain, down, across], dim=1)


class PatchDiscriminator(nn.Module):
    """Tells results from truths, patch by patch; spectral norms keep it even-tempered.

    ``told`` planes are given to it beside the picture: what the result was made from, where in a square a pixel lies.
    """

    def __init__(self, width: int = 32, told: int = 0) -> None:
        super().__init__()
        normed = nn.utils.parametrizations.spectral_norm
        self.layers = nn.Sequential(
            normed(nn.Conv2d(3 + told, width, 4, stride=2, padding=1)), nn.LeakyReLU(0.2),
            normed(nn.Conv2d(width, 2 * width, 4, stride=2, padding=1)), nn.LeakyReLU(0.2),
            normed(nn.Conv2d(2 * width, 4 * width, 3, padding=1)), nn.LeakyReLU(0.2),
            normed(nn.Conv2d(4 * width, 1, 3, padding=1)),
        )  # fmt: skip

    def forward(self, picture: Tensor, told: Tensor | None = None) -> Tensor:
        seen = picture if told is None else torch.cat([picture, told], dim=1)
        return self.layers(seen * 2 - 1)


class Opponent:
    """A discriminator and its optimiser, trained beside the network it judges (hinge losses)."""

    def __init__(self, rate: float, told: int = 0) -> None:
        self.network = PatchDiscriminator(told=told).to(memory_format=torch.channels_last)
        self._optimiser = torch.optim.Adam(self.network.parameters(), lr=rate, betas=(0.5, 0.99))

    def learn(self, result: Tensor, truth: Tensor, told: Tensor | None = None) -> None:
        real, made = self.network(truth, told), self.network(result.detach(), told)
        loss = functional.relu(1 - real).mean() + functional.relu(1 + made).mean()
        self._optimiser.zero_grad(set_to_none=True)
        loss.backward()
        self._optimiser.step()

    def loss(self, result: Tensor, told: Tensor | None = None) -> Tensor:
        """Falls as results pass for truths."""
        for parameter in self.network.parameters():
            parameter.requires_grad_(False)
        verdict = -self.network(result, told).mean()
        for parameter in self.network.parameters():
            parameter.requires_grad_(True)
        return verdict
