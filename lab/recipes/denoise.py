"""Denoise: white, sensor and film-like noise of any strength, found by the network itself.

What is learned is the whole noise, so that a share of it can be taken away exactly; luminance and colour errors
weigh alike.
"""

from __future__ import annotations

import damage
import numpy as np
import torch
from losses import log_error
from measures import psnr_rgb
from network import Denoiser
from patches import cut_dense, photographs, tensor
from recipe import Recipe, Shelf, Table, line
from reserved import reserved_pictures
from torch import Tensor, nn

SIDE, BATCH = 80, 6


def noisy(sharp: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """A patch with noise as files hold it: mostly straight from the noise, some blurred, shrunk or compressed after."""
    draw = random.random()
    if draw < 0.5:
        return damage.add_noise(sharp, 1 + 54 * random.random() ** 1.4, random)
    picture = damage.any_noise(sharp, 60, random)
    if draw < 0.6:
        picture = damage.stretched_noise(sharp, picture, random.uniform(1.0, 2.0))
    return damage.any_file(picture, 80, random) if draw > 0.9 else damage.eight(picture)


class Denoise(Recipe):
    shelf = Shelf("denoise", "Denoise", 110, "Takes away sensor noise and grain, luminance and colour apart.")
    minutes = 38.0
    rate = 1e-3

    def network(self) -> nn.Module:
        return Denoiser()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        sharp = [cut_dense(photographs(), SIDE, random) for _ in range(BATCH)]
        given, truth = tensor([noisy(patch, random) for patch in sharp]), tensor(sharp)
        return log_error(given + network.network(given), truth)

    def measure(self, network: nn.Module) -> dict[str, float]:
        random = np.random.default_rng(3)
        table = {}
        for sigma in (15, 25, 50):
            scores = []
            for truth in reserved_pictures().values():
                given = tensor([damage.add_noise(truth, sigma, random)])
                result = network(given, torch.ones(1, 2, *truth.shape[:2]))
                scores.append(psnr_rgb(result[0].permute(1, 2, 0).numpy() * 255, truth))
            table[f"sigma {sigma}"] = round(float(np.mean(scores)), 2)
        return table

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        return {
            f"{kind}: {least} dB over the best classic method": row["denoise"]
            >= max(row["non_local_means"], row["wavelet"]) + least
            for kind, row in table["noise"].items()
            for least in ([1.5] if "sensor" in kind else [1.2])
        }

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        def told(kind: str, row: Table) -> dict[str, str]:
            classic = max(row["non_local_means"], row["wavelet"])
            return line(kind.replace("sigma ", "noise σ "), f"{row['denoise']:.1f} dB", f"classic {classic:.1f}")

        return [told(kind, table["noise"][kind]) for kind in ("sigma 15", "sigma 50", "sensor")]


RECIPE = Denoise()
