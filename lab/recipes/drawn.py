"""Drawn: line art, lettering and hard-edged renders, with edges as sharp as the grid allows.

From Faithful's weights, on drawings that never existed before, shrunk and at times compressed as the web has them.
"""

from __future__ import annotations

import damage
import numpy as np
from losses import log_error
from network import EnlargingNetwork
from patches import bent, book_pages, cut, drawings, laid_down, notes, photographs, tensor
from recipe import EnlargingRecipe, Shelf, Table, line
from reserved import LETTERING, grey_pictures
from torch import Tensor, nn
from watch import drawn_gain, psnr_table

FACTORS = (2, 3, 4, 4, 4, 6, 8)
PATCH = {2: 64, 3: 56, 4: 48, 6: 36, 8: 32}
#: Patches of one step, by what they are of.
PHOTOGRAPHS, PAGES, NOTES, DRAWINGS = 1, 3, 1, 1


def drawn_source(sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
    picture = damage.faithful_source(sharp, factor, random)
    return damage.any_file(picture, 60, random) if random.random() < 0.1 else picture


class Drawn(EnlargingRecipe):
    shelf = Shelf(
        "enlarge", "Drawn", 40, "Clean hard edges and even paint. For line art, lettering, logotypes and renders.",
        sample="lettering", pictures="lab/drawings.py, lab/provenance_fonts.json, lab/provenance.json",
    )  # fmt: skip
    start = "faithful"
    minutes = 14.0
    rate = 6e-4

    def network(self) -> nn.Module:
        return EnlargingNetwork(half=(192, 3))

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(FACTORS))
        side = PATCH[factor] * factor
        # A photograph now and then, so that what is printed beside the lettering is not spoilt.
        sharp = [cut(photographs(), side, random) for _ in range(PHOTOGRAPHS)]
        # Pages and notes, and some drawings too, as a scanner gives them.
        for _ in range(PAGES):
            sharp.append(damage.scanned(laid_down(book_pages(), side, (0.26, 0.62), 0.85, 5, random), random, 0.5))
        for _ in range(NOTES):
            note = bent(laid_down(notes(), side, (0.22, 0.6), 0.4, 40, random), random)
            sharp.append(damage.scanned(note, random))
        for index in range(DRAWINGS):
            drawing = cut(drawings(), side, random, candidates=1 + index % 3)
            sharp.append(damage.scanned(drawing, random) if random.random() < 0.25 else drawing)
        small, truth = tensor([drawn_source(patch, factor, random) for patch in sharp]), tensor(sharp)
        return log_error(network(small, factor), truth)

    def measure(self, network: nn.Module) -> dict[str, float]:
        def run(picture: Tensor, factor: int) -> Tensor:
            return network(picture, factor)

        return psnr_table(run, factors=(4,)) | drawn_gain(run, grey_pictures(LETTERING))

    def own_bars(self, table: Table, plain: Table) -> dict[str, bool]:
        return {
            "lettering: 3 dB over Lanczos": table["lettering_x4"] >= plain["lettering_x4"] + 3,
            "line art: 3 dB over Lanczos": table["line_art_x4"] >= plain["line_art_x4"] + 3,
        }

    def first_line(self, table: Table, plain: Table) -> dict[str, str]:
        return line("line art ×4", f"{table['line_art_x4']:.1f} dB", f"Lanczos {plain['line_art_x4']:.1f}")


RECIPE = Drawn()
