"""Salvage: small, worn, compressed files: what the damage left is cleaned and drawn firmly.

Most of the training is for least error on heavily worn sources; the last part adds firmness as for Crisp, with less
weight, so that damage is not taken for texture.
"""

from __future__ import annotations

import damage
import numpy as np
from looks import Opponent, energy_loss, gradient_loss
from network import EnlargingNetwork
from patches import cut_dense, photographs, tensor
from recipe import Recipe
from torch import Tensor, nn
from torch.nn import functional
from watch import psnr_table, worn_psnr

FACTORS = (2, 3, 4, 4, 4, 6, 8)
PATCH = {2: 48, 3: 40, 4: 36, 6: 28, 8: 24}
BATCH = 6
#: Steps for least error before looks count.
CALM = 500


class Salvage(Recipe):
    start = "faithful"
    minutes = 13.0
    rate = 4e-4

    def __init__(self) -> None:
        self._opponent = Opponent(rate=2e-4)

    def network(self) -> nn.Module:
        return EnlargingNetwork()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(FACTORS))
        sharp = [cut_dense(photographs(), PATCH[factor] * factor, random, 1 + index) for index in range(BATCH)]
        small = tensor([damage.worn_source(patch, factor, random) for patch in sharp])
        truth = tensor(sharp)
        result = network(small, factor)
        loss = functional.l1_loss(result, truth)
        if step > CALM - 100:
            self._opponent.learn(result, truth)
        if step > CALM:
            loss = loss + 0.3 * gradient_loss(result, truth) + 0.25 * energy_loss(result, truth)
            loss = loss + 0.006 * self._opponent.loss(result)
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        def run(picture: Tensor, factor: int) -> Tensor:
            return network(picture, factor)

        return psnr_table(run, factors=(4,)) | worn_psnr(run)


RECIPE = Salvage()
