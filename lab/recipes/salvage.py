"""Salvage: small, worn, compressed files: what the damage left is cleaned and drawn firmly.

Most of the training is for least error on heavily worn sources, tones over 12×12 pixels apart; the last part adds
firmness as for Crisp, with less weight, so that damage is not taken for texture.
"""

from __future__ import annotations

import damage
import numpy as np
from looks import energy_loss, gradient_loss
from looks_recipe import LooksRecipe
from losses import log_error
from torch import Tensor, nn
from torch.nn import functional
from watch import psnr_table, worn_psnr

#: Steps for least error before looks count.
CALM = 2400


class Salvage(LooksRecipe):
    minutes = 30.0
    rate = 4e-4
    patch = {2: 48, 3: 40, 4: 36, 6: 28, 8: 24}

    def source_of(self, sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
        return damage.worn_source(sharp, factor, random)

    def compare(self, result: Tensor, truth: Tensor, factor: int, step: int) -> Tensor:
        tones = functional.avg_pool2d(result - truth, 12).abs().mean()
        loss = log_error(result, truth) + 0.5 * tones
        if step > CALM - 200:
            self.opponent.learn(result, truth)
        if step > CALM:
            loss = loss + 0.15 * gradient_loss(result, truth) + 0.12 * energy_loss(result, truth)
            loss = loss + 0.004 * self.opponent.loss(result)
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        return psnr_table(network, factors=(4,)) | worn_psnr(network)


RECIPE = Salvage()
