"""Faithful: least error on mostly clean shrinks."""

from __future__ import annotations

import damage
import numpy as np
import torch
from network import EnlargingNetwork
from patches import cut, photographs, tensor
from recipe import Recipe
from torch import Tensor, nn
from torch.nn import functional
from watch import psnr_table

FACTORS = (2, 3, 4, 4, 4, 6, 8)
PATCH = {2: 40, 3: 40, 4: 36, 6: 28, 8: 24}
BATCH = 12


class Faithful(Recipe):
    minutes = 105.0

    def network(self) -> nn.Module:
        return EnlargingNetwork()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(FACTORS))
        sharp = [cut(photographs(), PATCH[factor] * factor, random) for _ in range(BATCH)]
        small = tensor([damage.faithful_source(patch, factor, random) for patch in sharp])
        truth = tensor(sharp)
        result = network(small, factor)
        loss = functional.l1_loss(result, truth)
        if step % 2 == 0:
            difference = torch.fft.rfft2(result, norm="ortho") - torch.fft.rfft2(truth, norm="ortho")
            loss = loss + 0.02 * torch.view_as_real(difference).abs().mean()
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        return psnr_table(lambda picture, factor: network(picture, factor), factors=(2, 4))


RECIPE = Faithful()
