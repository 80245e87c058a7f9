"""Faces, lively: a face with the detail that a sharp photograph of it would have, for some error; the other end of Steady.

From Steady's weights, by firmness of lines, local strength of texture, and an opponent that knows where in a face it is.
"""

from __future__ import annotations

import numpy as np
import torch
from looks import Opponent, energy_loss, gradient_loss
from recipe import Shelf, Table, line
from torch import Tensor, nn

from recipes.faces import BATCHES, Faces, batch, cases, tensor_of

#: Steps before the opponent is heard, and before it begins to learn.
HEARD, LEARNS = 200, 80


class Lively(Faces):
    shelf = Shelf(
        "faces",
        "Lively",
        160,
        "Restores a face with the detail it may have had. For faces that are looked at more than they are measured.",
        pictures="lab/portraits.py, lab/provenance.json",
    )
    start = "faces"
    minutes = 60.0
    rate = 3e-4

    def __init__(self) -> None:
        self.opponent = Opponent(rate=2e-4, told=5)

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        side, count = BATCHES[step % len(BATCHES)]
        given, truth, finer, weights = batch(side, count, random)
        made = network(given, finer)
        weighed = weights / weights.mean(dim=(2, 3), keepdim=True)
        # Texture is wanted as strong as the truth's, wherever it comes to lie: an error at each pixel alone would calm it.
        loss = 0.4 * (weighed * (made - truth).abs()).mean() + 0.15 * gradient_loss(made, truth)
        loss = loss + 5 * energy_loss(made, truth)
        told = torch.cat([given, _places(given)], dim=1)
        if step > LEARNS:
            self.opponent.learn(made, truth, told)
        if step > HEARD:
            loss = loss + 0.05 * self.opponent.loss(made, told)
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        table = super().measure(network)
        for width in (24, 48):
            shares = []
            for given, truth, finer in cases(width, 16):
                with torch.no_grad():
                    told = torch.full((1, 1, *given.shape[:2]), finer)
                    made = network(tensor_of([given]), told)[0].permute(1, 2, 0).numpy()
                shares.append(_texture(made) / _texture(truth))
            table[f"{width} px, texture"] = round(float(np.mean(shares)), 3)
        return table

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        return {
            f"{width} px: texture 0.85 to 1.1 of the truth's": 0.85 <= row["texture"] <= 1.1
            for width, row in table["faces"].items()
        }

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        return [
            line(
                f"texture, faces {width} px wide",
                f"{row['texture']:.0%}",
                f"best engine {row['best_engine_texture']:.0%}",
            )
            for width, row in table["faces"].items()
        ]


def _places(given: Tensor) -> Tensor:
    """Where a pixel lies across and down, N×2×S×S, 0..1."""
    count, _, height, width = given.shape
    across = torch.linspace(0, 1, width).reshape(1, 1, 1, -1).expand(count, 1, height, width)
    down = torch.linspace(0, 1, height).reshape(1, 1, -1, 1).expand(count, 1, height, width)
    return torch.cat([across, down], dim=1)


def _texture(square: np.ndarray) -> float:
    edge = square.shape[0] // 6
    return float(np.abs(np.diff(square[edge:-edge, edge:-edge].mean(axis=2), axis=0)).mean())


RECIPE = Lively()
