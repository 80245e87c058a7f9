"""Salvage: small, worn, compressed files: what the damage left is cleaned and drawn firmly.

For least error on heavily worn sources, tones over 12×12 pixels apart. Firmness for its own sake is left to Crisp: here
damage was taken for texture, and drawn as threads.
"""

from __future__ import annotations

import damage
import numpy as np
from looks_recipe import LooksRecipe
from losses import log_error
from network import EnlargingNetwork
from recipe import Shelf, Table, line
from torch import Tensor, nn
from torch.nn import functional
from watch import psnr_table, worn_psnr


class Salvage(LooksRecipe):
    shelf = Shelf(
        "enlarge",
        "Salvage",
        30,
        "Cleans while it enlarges. For small, worn, noisy or heavily compressed files.",
        sample="worn",
    )
    minutes = 30.0
    rate = 4e-4
    patch = {2: 56, 3: 48, 4: 44, 6: 32, 8: 26}

    def network(self) -> nn.Module:
        # Damage of every kind at once is more than five pairs can hold; a branch at half the size can.
        return EnlargingNetwork(half=(192, 3))

    def source_of(self, sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
        return damage.worn_source(sharp, factor, random)

    def compare(self, result: Tensor, truth: Tensor, source: Tensor, factor: int, step: int) -> Tensor:
        tones = functional.avg_pool2d(result - truth, 12).abs().mean()
        return log_error(result, truth) + 0.5 * tones

    def measure(self, network: nn.Module) -> dict[str, float]:
        return psnr_table(network, factors=(4,)) | worn_psnr(network)

    def own_bars(self, table: Table, plain: Table) -> dict[str, bool]:
        own, lanczos = table["worn_x4"], plain["worn_x4"]
        return {
            "worn: 1.0 dB over Lanczos": own["psnr_y"] >= lanczos["psnr_y"] + 1.0,
            "worn: higher perceptual index": own["haarpsi"] > lanczos["haarpsi"],
        }

    def first_line(self, table: Table, plain: Table) -> dict[str, str]:
        own, lanczos = (of["worn_x4"]["psnr_y"] for of in (table, plain))
        return line("worn, ×4", f"{own:.1f} dB", f"Lanczos {lanczos:.1f}")


RECIPE = Salvage()
