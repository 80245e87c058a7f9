"""Grainkeep: detail is enlarged as Faithful does it, grain and pores as they are: same size on paper, same strength.

The truth it learns from is the sharp picture with the grain of the small one, enlarged without being changed. Telling
grain from detail is what is left to learn.
"""

from __future__ import annotations

import damage
import numpy as np
import torch
from network import EnlargingNetwork
from patches import cut_dense, photographs, tensor
from PIL import Image
from recipe import EnlargingRecipe, Shelf, Table, line
from torch import Tensor, nn
from watch import psnr_table

FACTORS = (2, 3, 4, 4, 6, 8)
PATCH = {2: 40, 3: 40, 4: 36, 6: 28, 8: 24}
BATCH = 6


def enlarged_exactly(grain: np.ndarray, factor: int) -> np.ndarray:
    """H×W×3 float32 enlarged by Lanczos, which keeps the spectrum of what the small picture can hold."""
    height, width = grain.shape[:2]
    planes = [Image.fromarray(np.ascontiguousarray(grain[..., plane])) for plane in range(3)]
    size = (width * factor, height * factor)
    return np.stack([np.asarray(plane.resize(size, Image.Resampling.LANCZOS)) for plane in planes], axis=2)


def grained(sharp: np.ndarray, factor: int, random: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """(small uint8 with grain, sharp float32 0..1 with the same grain)."""
    small = damage.faithful_source(sharp, factor, random).astype(np.float32)
    if random.random() < 0.15:
        return damage.eight(small), sharp.astype(np.float32) / 255
    sigma = 1 + 17 * random.random() ** 1.4
    if random.random() < 0.75:
        noisy = damage.grainy(small, sigma, random.uniform(0, 1.1), random.uniform(0, 0.8), random)
    else:
        noisy = damage.any_noise(small, sigma, random)
    small_with = damage.eight(noisy)
    grain = small_with - small
    return small_with, (sharp + enlarged_exactly(grain, factor)) / np.float32(255)


class Grainkeep(EnlargingRecipe):
    shelf = Shelf(
        "enlarge", "Grainkeep", 50,
        "Film grain and skin texture stay, at the size and strength they have. For scans and portraits.", sample="grain",
    )  # fmt: skip
    start = "faithful"
    minutes = 13.0
    rate = 3e-4

    def network(self) -> nn.Module:
        return EnlargingNetwork()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(FACTORS))
        # Half the patches are taken as they come, so that grain on flat areas is seen as well.
        sharp = [cut_dense(photographs(), PATCH[factor] * factor, random, 1 + index) for index in range(BATCH)]
        pairs = [grained(patch, factor, random) for patch in sharp]
        small, truth = tensor([pair[0] for pair in pairs]), tensor([pair[1] for pair in pairs])
        result = network(small, factor)
        error = result - truth
        # What an averaging network wipes away is the finest part; its spectrum is compared as well.
        spectrum = torch.fft.rfft2(error, norm="ortho").abs().mean()
        return torch.sqrt(error * error + 1e-5).mean() + 0.03 * spectrum

    def measure(self, network: nn.Module) -> dict[str, float]:
        random = np.random.default_rng(5)
        table = psnr_table(lambda picture, factor: network(picture, factor), factors=(4,))
        flat = np.full((96, 96, 3), 128, np.uint8)
        source = damage.eight(damage.grainy(flat, 8, 0.5, 0.4, random))
        given = tensor([source])
        result = network(given, 4)
        same = torch.nn.functional.interpolate(result, scale_factor=0.25, mode="area")
        plain = torch.nn.functional.interpolate(given, scale_factor=4, mode="bicubic")
        table["grain kept"] = round(float(same[..., 12:-12, 12:-12].std() / given[..., 12:-12, 12:-12].std()), 3)
        table["against bicubic"] = round(float(result[..., 48:-48, 48:-48].std() / plain[..., 48:-48, 48:-48].std()), 3)
        return table

    def own_bars(self, table: Table, plain: Table) -> dict[str, bool]:
        return {"grain within 15 %": all(abs(band - 1) <= 0.15 for band in table["grain_x4"])}

    def first_line(self, table: Table, plain: Table) -> dict[str, str]:
        return line("grain kept ×4", f"{float(np.mean(table['grain_x4'])):.0%}", "of its power")


RECIPE = Grainkeep()
