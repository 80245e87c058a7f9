"""Crisp: firm edges and lively texture, for how the picture looks at the cost of some error.

From Faithful's weights, towards slightly sharpened truths, by gradients, local strength of texture and an opponent.
"""

from __future__ import annotations

import damage
import numpy as np
from looks import Opponent, energy_loss, gradient_loss, sharpened
from network import EnlargingNetwork
from patches import cut_dense, photographs, tensor
from recipe import Recipe
from torch import Tensor, nn
from torch.nn import functional
from watch import psnr_table, texture_table

FACTORS = (2, 3, 4, 4, 4, 6, 8)
PATCH = {2: 48, 3: 40, 4: 32, 6: 24, 8: 20}
BATCH = 6


class Crisp(Recipe):
    start = "faithful"
    minutes = 12.0
    rate = 2.5e-4

    def __init__(self) -> None:
        self._opponent = Opponent(rate=2e-4)

    def network(self) -> nn.Module:
        return EnlargingNetwork()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(FACTORS))
        sharp = [cut_dense(photographs(), PATCH[factor] * factor, random, 1 + index) for index in range(BATCH)]
        small = tensor([damage.faithful_source(patch, factor, random) for patch in sharp])
        truth = tensor(sharp)
        result = network(small, factor)
        # What is enlarged little is sharp already.
        wanted = sharpened(truth, min(0.18, 0.045 * factor)).clamp(0, 1)
        loss = functional.l1_loss(result, wanted) + 0.6 * gradient_loss(result, wanted)
        loss = loss + 0.5 * energy_loss(result, wanted)
        if step > 60:
            self._opponent.learn(result, wanted)
        if step > 150:
            loss = loss + 0.008 * self._opponent.loss(result)
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        def run(picture: Tensor, factor: int) -> Tensor:
            return network(picture, factor)

        return psnr_table(run, factors=(2, 4)) | texture_table(run, factors=(2, 4))


RECIPE = Crisp()
