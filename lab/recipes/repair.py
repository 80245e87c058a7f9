"""Repair: block edges, ringing, colour bleed and banding of compressed files, by how hard they were compressed.

From Denoise's weights, which know pictures already. The quality is told to the network for half of the patches and left
out for the others, so that it serves both. A third of the truths have grain of their own, which must not be taken for
damage.
"""

from __future__ import annotations

import damage
import numpy as np
import torch
from losses import log_luma_and_colour_error
from measures import psnr_y
from network import Repairer
from patches import cut_dense, photographs, tensor
from recipe import Recipe, Shelf, Table, line
from reserved import reserved_pictures
from torch import Tensor, nn

SIDE, BATCH = 80, 6


def with_grain(sharp: np.ndarray, random: np.random.Generator) -> np.ndarray:
    return damage.eight(damage.any_noise(sharp, 9, random)) if random.random() < 0.35 else sharp


def compressed(sharp: np.ndarray, random: np.random.Generator) -> tuple[np.ndarray, float]:
    """A patch through a file, and the quality ÷ 100 it was written at (0 where one number does not tell it)."""
    draw = random.random()
    if draw < 0.06:
        return damage.webp(sharp, int(random.integers(5, 95))), 0.0
    if draw < 0.14:
        return damage.any_file(sharp, 15, random), 0.0
    quality = int(random.integers(75, 101)) if random.random() < 0.3 else int(6 + 69 * random.random() ** 1.6)
    # Blocks begin anywhere in a picture that was cropped afterwards.
    dy, dx = random.integers(0, 8, 2)
    shifted = np.roll(sharp, (dy, dx), (0, 1))
    written = damage.jpeg(shifted, quality, int(random.choice([0, 1, 2], p=[0.2, 0.05, 0.75])))
    return np.roll(written, (-dy, -dx), (0, 1)), quality / 100


class Repair(Recipe):
    shelf = Shelf("repair", "Repair", 120, "Takes away block edges, ringing and colour bleed of compressed files.")
    start = "denoise"
    minutes = 24.0
    rate = 6e-4

    def network(self) -> nn.Module:
        return Repairer()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        sharp = [with_grain(cut_dense(photographs(), SIDE, random), random) for _ in range(BATCH)]
        pairs = [compressed(patch, random) for patch in sharp]
        given, truth = tensor([pair[0] for pair in pairs]), tensor(sharp)
        maps = torch.ones(BATCH, 2, SIDE, SIDE)
        for index, (_, quality) in enumerate(pairs):
            maps[index, 1] = quality if random.random() < 0.5 else 0.0
        return log_luma_and_colour_error(network(given, maps), truth)

    def measure(self, network: nn.Module) -> dict[str, float]:
        table = {}
        for quality in (10, 20, 40, 95):
            gains = []
            for truth in reserved_pictures().values():
                given = damage.jpeg(truth, quality)
                maps = torch.zeros(1, 2, *truth.shape[:2])
                maps[:, 0] = 1
                result = network(tensor([given]), maps)[0].permute(1, 2, 0).numpy() * 255
                gains.append(psnr_y(result, truth) - psnr_y(given, truth))
            table[f"gain at {quality}"] = round(float(np.mean(gains)), 2)
        return table

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        jpeg = table["jpeg"]
        bars = {
            f"JPEG {quality}: 0.8 dB": jpeg[quality]["repair"] >= jpeg[quality]["as_it_is"] + 0.8
            for quality in ("10", "20", "40")
        }
        return bars | {"JPEG 95: never worse": jpeg["95"]["least_gain"] >= 0}

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        rows = {quality: table["jpeg"][quality] for quality in ("10", "20", "40")}
        return [
            line(f"JPEG at {quality}", f"{row['repair']:.1f} dB", f"as it is {row['as_it_is']:.1f}")
            for quality, row in rows.items()
        ]


RECIPE = Repair()
