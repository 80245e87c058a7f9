"""Faithful: least error on mostly clean shrinks."""

from __future__ import annotations

import damage
import numpy as np
from losses import log_error
from network import EnlargingNetwork
from patches import cut_dense, photographs, tensor, without_colour
from recipe import EnlargingRecipe, Shelf, Table
from torch import Tensor, nn
from watch import psnr_table

FACTORS = (2, 3, 4, 4, 4, 6, 8)
PATCH = {2: 48, 3: 44, 4: 44, 6: 32, 8: 26}
BATCH = 8


class Faithful(EnlargingRecipe):
    shelf = Shelf(
        "enlarge", "Faithful", 10,
        "Closest to the source: sharpens what is there and invents nothing. For most photographs.",
    )  # fmt: skip
    minutes = 105.0
    rate = 4e-4

    def network(self) -> nn.Module:
        return EnlargingNetwork()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(FACTORS))
        sharp = [without_colour(cut_dense(photographs(), PATCH[factor] * factor, random), random) for _ in range(BATCH)]
        small = tensor([damage.faithful_source(patch, factor, random) for patch in sharp])
        return log_error(network(small, factor), tensor(sharp))

    def measure(self, network: nn.Module) -> dict[str, float]:
        return psnr_table(lambda picture, factor: network(picture, factor), factors=(2, 4))

    def own_bars(self, table: Table, plain: Table) -> dict[str, bool]:
        return {
            "×4: 1.0 dB over Lanczos": self.gain(table, plain, "4") >= 1.0,
            "×2: 1.7 dB over Lanczos": self.gain(table, plain, "2") >= 1.7,
        }


RECIPE = Faithful()
