"""Crisp: firm edges and lively texture, for how the picture looks at the cost of some error.

From Faithful's weights, towards slightly sharpened truths, by gradients, local strength of texture and an opponent.
"""

from __future__ import annotations

import damage
import numpy as np
from looks import energy_loss, gradient_loss, lattice_loss, sharpened, told_of_enlarging
from looks_recipe import LooksRecipe
from recipe import Shelf, Table, line
from torch import Tensor, nn
from torch.nn import functional
from watch import lattice_table, psnr_table, texture_table


class Crisp(LooksRecipe):
    shelf = Shelf(
        "enlarge",
        "Crisp",
        20,
        "Firm edges and lively texture. For sound photographs that are to look sharp from nearby.",
    )
    minutes = 12.0
    rate = 2.5e-4
    told = 5
    patch = {2: 48, 3: 40, 4: 32, 6: 24, 8: 20}

    def source_of(self, sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
        return damage.found_source(sharp, factor, random)

    def compare(self, result: Tensor, truth: Tensor, source: Tensor, factor: int, step: int) -> Tensor:
        # What is enlarged little is sharp already.
        wanted = sharpened(truth, min(0.18, 0.045 * factor)).clamp(0, 1)
        loss = functional.l1_loss(result, wanted) + 0.6 * gradient_loss(result, wanted)
        loss = loss + 0.5 * energy_loss(result, wanted) + 0.05 * lattice_loss(result, factor)
        beside = told_of_enlarging(source, factor)
        if step > 60:
            self.opponent.learn(result, wanted, beside)
        if step > 150:
            loss = loss + 0.008 * self.opponent.loss(result, beside)
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        return (
            psnr_table(network, factors=(2, 4))
            | texture_table(network, factors=(2, 4))
            | lattice_table(network, factors=(4, 8))
        )

    def own_bars(self, table: Table, plain: Table) -> dict[str, bool]:
        own = table["by_factor"]["4"]
        return {
            "texture 0.85 to 1.1 of the truth's": 0.85 <= own["texture"] <= 1.1,
            "flats at most 1.05": own["texture_on_flats"] <= 1.05,
            "no worse than Lanczos − 0.5 dB": self.gain(table, plain, "4") >= -0.5,
        }

    def first_line(self, table: Table, plain: Table) -> dict[str, str]:
        own, lanczos = (of["by_factor"]["4"]["texture"] for of in (table, plain))
        return line("texture ×4", f"{own:.0%}", f"Lanczos {lanczos:.0%}")


RECIPE = Crisp()
