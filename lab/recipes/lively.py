"""Faces, lively: what Steady made of a face, given the detail that a sharp photograph of it would have, for some error.

It is given Steady's result rather than the worn face, since an appetite for texture also feeds on grain and on the spots of
compression, and Steady has taken those away. The people it learns from have skin as calm as on photographs.
"""

from __future__ import annotations

from functools import cache

import numpy as np
import torch
from face_network import LivelyRestorer
from face_patches import pair
from looks import Opponent, energy_loss, gradient_loss
from recipe import Shelf, Table, line
from torch import Tensor, nn
from torch.nn import functional

from kitecore.engines import Engine, engine_named
from kitecore.steps.faces_stage import restored_square
from recipes.faces import ANEW, BATCHES, POOL, Faces, cases, psnr_y, tensor_of

#: Steps before the opponents are heard, and before they begin to learn.
HEARD, LEARNS = 160, 60
#: How often it learns from a photograph: what damage leaves on those is to be told from texture.
PHOTOGRAPHS = 0.45
#: The strength of texture that it is drawn to, of the truth's: it settles below what is aimed at.
AIMED_AT = 1.06


class Lively(Faces):
    shelf = Shelf(
        "faces",
        "Lively",
        160,
        "Gives a restored face the detail it may have had. For faces that are looked at more than they are measured.",
        pictures="lab/portraits.py, lab/provenance.json",
    )
    start = "faces"
    minutes = 90.0
    rate = 4e-4

    def __init__(self) -> None:
        # One sees the grain of skin and the lie of hair, the other, at half the size, the face as a whole.
        self.opponents = (Opponent(rate=2e-4, told=5), Opponent(rate=2e-4, told=5))

    def network(self) -> nn.Module:
        return LivelyRestorer()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        side, count = BATCHES[step % len(BATCHES)]
        steady, truth, finer, weights = _batch(side, count, random)
        made = network(steady, finer)
        weighed = weights / weights.mean(dim=(2, 3), keepdim=True)
        # Where texture comes to lie is free, what lies under it is not.
        under = functional.avg_pool2d(weighed * functional.avg_pool2d(made - truth, 3, 1, 1).abs(), 2).mean()
        loss = 1.0 * under + 0.15 * gradient_loss(made, truth) + 9 * energy_loss(made, truth, AIMED_AT)
        told = torch.cat([steady, _places(steady)], dim=1)
        for level, opponent in enumerate(self.opponents):
            seen, real, beside = (functional.avg_pool2d(one, 2**level) for one in (made, truth, told))
            if step > LEARNS:
                opponent.learn(seen, real, beside)
            if step > HEARD:
                loss = loss + 0.04 * opponent.loss(seen, beside)
        return loss

    def measure(self, network: nn.Module) -> dict[str, float]:
        table: dict[str, float] = {}
        for width in (24, 48):
            shares, won = [], []
            for given, truth, finer in cases(width, 16, calm=True):
                steady = restored_square(_steady(), given, finer)
                with torch.no_grad():
                    told = torch.full((1, 1, *given.shape[:2]), finer)
                    made = network(tensor_of([steady]), told)[0].permute(1, 2, 0).numpy()
                shares.append((_texture(made) / _texture(truth), _texture(steady) / _texture(truth)))
                won.append(psnr_y(made, truth) - psnr_y(given, truth))
            table[f"{width} px, texture"], table[f"{width} px, steady"] = np.mean(shares, axis=0).round(3).tolist()
            table[f"{width} px, dB won"] = round(float(np.mean(won)), 2)
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


@cache
def _steady() -> Engine:
    return engine_named("faces", "faces")


_Pair = tuple[np.ndarray, np.ndarray, float, np.ndarray]
_pools: dict[int, list[_Pair]] = {}


def _steadied(side: int, random: np.random.Generator) -> _Pair:
    """A pair whose given square is what Steady made of it."""
    given, truth, finer, weights = pair(side, random, calm=True, photographs_share=PHOTOGRAPHS)
    return restored_square(_steady(), np.ascontiguousarray(given, np.float32), finer), truth, finer, weights


def _batch(side: int, count: int, random: np.random.Generator) -> tuple[Tensor, Tensor, Tensor, Tensor]:
    """Steady's, true, the map and weights of each pixel, N×C×S×S."""
    pool = _pools.setdefault(side, [])
    # A smaller pool is full sooner; as much of it is made anew in a step.
    while len(pool) < POOL // 3:
        pool.append(_steadied(side, random))
    for _ in range(ANEW):
        pool[random.integers(len(pool))] = _steadied(side, random)
    pairs = [pool[index] for index in random.choice(len(pool), count, replace=False)]
    steady, truth = (tensor_of([one[index] for one in pairs]) for index in (0, 1))
    finer = torch.tensor([one[2] for one in pairs], dtype=torch.float32).reshape(-1, 1, 1, 1).expand(-1, 1, side, side)
    weights = torch.from_numpy(np.stack([one[3] for one in pairs])[:, None].copy())
    return steady, truth, finer, weights


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
