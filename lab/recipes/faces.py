"""Faces, steady: a face restored with least error, told what faces are by people who do not exist.

Eyes, brows and mouth weigh several times; half of what is given has been enlarged by an engine, as the step before does.
"""

from __future__ import annotations

import numpy as np
import torch
from face_network import FaceRestorer
from face_patches import cut_square, enlarged, finer_of, pair, portraits, worn
from losses import log_error
from recipe import Recipe, Shelf, Table, line
from torch import Tensor, nn

#: Sides of squares and how many of them in a batch.
BATCHES = ((128, 12), (128, 12), (160, 8))
#: Pairs that are drawn from, and how many of them are made anew in a step: making one takes as long as learning from two.
POOL, ANEW = 360, 4


class Faces(Recipe):
    shelf = Shelf(
        "faces",
        "Steady",
        150,
        "Restores a face with as little invention as can be.",
        pictures="lab/portraits.py, lab/provenance.json",
    )
    minutes = 60.0
    rate = 1e-3

    def network(self) -> nn.Module:
        return FaceRestorer()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        side, count = BATCHES[step % len(BATCHES)]
        given, truth, finer, weights = batch(side, count, random)
        error = network(given, finer) - truth
        weighed = weights / weights.mean(dim=(2, 3), keepdim=True)
        edges = sum((weighed * (error - error.roll(1, axis)).abs()).mean() for axis in (2, 3))
        return (weighed * error.abs()).mean() + 0.25 * edges + 0.3 * log_error(error, torch.zeros_like(error))

    def measure(self, network: nn.Module) -> dict[str, float]:
        table: dict[str, float] = {}
        for width in (24, 32, 48, 64):
            before, after = [], []
            for given, truth, finer in cases(width, 16):
                with torch.no_grad():
                    made = (
                        network(tensor_of([given]), torch.full((1, 1, *given.shape[:2]), finer))[0]
                        .permute(1, 2, 0)
                        .numpy()
                    )
                before.append(psnr_y(given, truth))
                after.append(psnr_y(made, truth))
            table[f"{width} px, dB won"] = round(float(np.mean(after) - np.mean(before)), 2)
        return table

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        rows = table["faces"].items()
        return {f"{width} px: 0.8 dB over the best engine": row["faces"] >= row["best_engine"] + 0.8 for width, row in rows} | {
            f"{width} px: landmarks at most 0.6 as far off as the best engine's":
                row["landmarks"] <= 0.6 * row["best_engine_landmarks"]
            for width, row in rows
        }  # fmt: skip

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        return [
            line(f"faces {width} px wide", f"{row['faces']:.1f} dB", f"best engine {row['best_engine']:.1f}")
            for width, row in table["faces"].items()
        ]


_pools: dict[int, list[tuple[np.ndarray, np.ndarray, float, np.ndarray]]] = {}


def tensor_of(pictures: list[np.ndarray]) -> Tensor:
    return torch.from_numpy(np.stack(pictures).transpose(0, 3, 1, 2).copy()).to(memory_format=torch.channels_last)


def batch(side: int, count: int, random: np.random.Generator) -> tuple[Tensor, Tensor, Tensor, Tensor]:
    """Given, true, the map and weights of each pixel, N×C×S×S."""
    pool = _pools.setdefault(side, [])
    while len(pool) < POOL:
        pool.append(pair(side, random))
    for _ in range(ANEW):
        pool[random.integers(POOL)] = pair(side, random)
    pairs = [pool[index] for index in random.choice(POOL, count, replace=False)]
    given, truth = (tensor_of([one[index] for one in pairs]) for index in (0, 1))
    finer = torch.tensor([one[2] for one in pairs], dtype=torch.float32).reshape(-1, 1, 1, 1).expand(-1, 1, side, side)
    weights = torch.from_numpy(np.stack([one[3] for one in pairs])[:, None].copy())
    return given, truth, finer, weights


def cases(
    width: int, count: int, side: int = 160, engine: str = "faithful", calm: bool = False
) -> list[tuple[np.ndarray, np.ndarray, float]]:
    """Reserved people, their faces ``width`` px wide and worn, in squares: given, true, and what the map says."""
    found = []
    people = portraits(reserved=True)
    for index in range(count):
        random = np.random.default_rng([width, index])
        one = people[(index * 7) % len(people)]
        one = one.calmed() if calm else one
        factor = one.width / width
        whole = enlarged(worn(one.pixels, factor, random), one.pixels.shape[0], engine)
        square = one.square(random)
        truth = cut_square(one.pixels.astype(np.float32) / 255, square, side)
        found.append((cut_square(whole, square, side), truth, finer_of(factor * side / square.side)))
    return found


def psnr_y(made: np.ndarray, truth: np.ndarray) -> float:
    """Of the middle of a square, where the face is."""
    edge = made.shape[0] // 6
    luma = np.float32([0.299, 0.587, 0.114])
    error = ((np.clip(made, 0, 1) - truth) @ luma)[edge:-edge, edge:-edge]
    return float(-10 * np.log10(max(1e-10, float((error**2).mean()))))


RECIPE = Faces()
