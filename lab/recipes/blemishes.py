"""Finding dust, hairs, scratches and creases: not an engine, but what proposes patches.

From the picture alone it says of every pixel how likely it is damaged. Two fifths of what it learns from have no damage drawn
on them and much that looks like some: twigs, wires, glints, small print, handwriting, and what :mod:`lookalikes` puts into the
scene. What it was most wrong about comes again.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import damage
import numpy as np
import torch
from lookalikes import put_into
from network import FindingNetwork
from patches import book_pages, cut, cut_dense, drawings, notes, photographs, tensor, without_colour
from recipe import Recipe, Shelf, Table
from reserved import reserved_pictures
from spoiling import spoilt
from torch import Tensor, nn
from torch.nn import functional

SIDE, FRESH = 160, 4
#: So many of what went worst come again with every step, out of so many that are kept, each at most so often.
AGAIN, KEPT, OFTEN = 2, 96, 4


def _scene(random: np.random.Generator) -> np.ndarray:
    """Something undamaged, SIDE×SIDE×3 uint8."""
    draw = random.random()
    if draw < 0.82:
        scene = without_colour(cut_dense(photographs(), SIDE, random, int(random.integers(1, 7))), random)
        return _recoloured(scene, random) if random.random() < 0.5 else scene
    drawn = (drawings, book_pages, notes)[int(random.integers(3))]()
    return cut(drawn, SIDE, random, 2)


def _recoloured(scene: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """With its channels exchanged and another gradation: there are more colours and lights than in so few photographs."""
    mixed = scene[..., random.permutation(3)].astype(np.float32) / 255
    gamma = np.exp(random.normal(0, 0.35) + random.normal(0, 0.1, 3))
    low, high = random.uniform(0, 0.15), random.uniform(0.8, 1)
    return np.rint(255 * (low + (high - low) * mixed**gamma)).astype(np.uint8)


def example(random: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """A picture as a scanner or a phone gives it, uint8, and what is damaged on it, H×W×2 float32 in 0..1.

    The second plane says where that counts: not where damage cannot be seen.
    """
    sharp = _scene(random)
    if random.random() < 0.3:
        sharp = put_into(sharp, random)
    worn = damage.any_noise(sharp, 14, random) if random.random() < 0.6 else sharp.astype(np.float32)
    if random.random() < 0.5:
        worn = cv2.GaussianBlur(worn, (0, 0), random.uniform(0.3, 1.4))
    count = 0 if random.random() < 0.4 else int(random.integers(1, 7))
    drawn = spoilt(worn, count, random)
    eight = damage.eight(drawn.picture)
    if random.random() < 0.35:
        eight = damage.jpeg(eight, int(random.integers(60, 96)))
    told = np.stack([drawn.where, ~drawn.hidden], axis=2).astype(np.float32)
    return _at_a_border(eight, told, random) if random.random() < 0.3 else (eight, told)


def _at_a_border(picture: np.ndarray, told: np.ndarray, random: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Both mirrored at a line through them, as what lies at a picture's border is when the network is given it."""
    depth = int(random.integers(8, SIDE // 2))

    def mirrored(plane: np.ndarray) -> np.ndarray:
        return np.pad(plane[depth:], ((depth, 0), (0, 0), (0, 0)), mode="reflect")

    turns = int(random.integers(4))
    one, other = (np.rot90(mirrored(np.rot90(plane, turns)), -turns) for plane in (picture, told))
    return np.ascontiguousarray(one), np.ascontiguousarray(other)


def _wrong(found: Tensor, told: Tensor) -> Tensor:
    """How wrong N×1×H×W logits are about N×2×H×W of what is damaged and where that counts, of each of the N."""
    truth, counts = told[:, :1], told[:, 1:]
    weight = found.new_tensor(1.2)
    wrong = functional.binary_cross_entropy_with_logits(found, truth, counts, reduction="none", pos_weight=weight)
    # What is covered in common, of each patch; thin things would drown in the mean over pixels.
    chance = torch.sigmoid(found) * counts
    common = (chance * truth).sum(dim=(1, 2, 3))
    overlap = (2 * common + 8) / (chance.sum(dim=(1, 2, 3)) + truth.sum(dim=(1, 2, 3)) + 8)
    return 4 * wrong.mean(dim=(1, 2, 3)) + 1 - overlap


@dataclass
class _Kept:
    """An example that comes again, how wrong the network was about it, and how often it was seen."""

    example: tuple[np.ndarray, np.ndarray]
    wrong: float = math.inf
    seen: int = 0


class Blemishes(Recipe):
    shelf = Shelf("find", "Blemishes", 999, "Finds dust, hairs, scratches and creases.")
    minutes = 80.0
    rate = 1.5e-3

    def __init__(self) -> None:
        self._hard: list[_Kept] = []

    def network(self) -> nn.Module:
        return FindingNetwork()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        batch = [_Kept(example(random)) for _ in range(FRESH)]
        if self._hard:
            # Any of the worse half, not the very worst again and again: some of it nobody could tell.
            worse = self._hard[: max(AGAIN, len(self._hard) // 2)]
            batch += [worse[place] for place in random.choice(len(worse), min(AGAIN, len(worse)), replace=False)]
        given, where = zip(*(one.example for one in batch), strict=True)
        wrong = _wrong(network.logits(tensor(list(given))), tensor(list(where)))
        for one, value in zip(batch, wrong.tolist(), strict=True):
            one.wrong, one.seen = value, one.seen + 1
        kept = {id(one): one for one in (*self._hard, *batch) if one.seen < OFTEN}
        self._hard = sorted(kept.values(), key=lambda one: -one.wrong)[:KEPT]
        return wrong.mean()

    def measure(self, network: nn.Module) -> dict[str, float]:
        """Of pixels, on the reserved photographs: share found, share of what is found that is true, at a chance of half."""
        hit = found = there = clean = 0
        for index, truth in enumerate(reserved_pictures().values()):
            random = np.random.default_rng(index)
            height, width = (length - length % 8 for length in truth.shape[:2])
            whole = truth[:height, :width]
            drawn = spoilt(whole, 25, random)
            where = drawn.where
            chance = (network(tensor([damage.eight(drawn.picture)]))[0, 0].numpy() > 0.5) & ~drawn.hidden
            hit, found, there = hit + (chance & where).sum(), found + chance.sum(), there + where.sum()
            clean += (network(tensor([whole]))[0, 0].numpy() > 0.5).sum()
        return {
            "found": round(float(hit / there), 3),
            "true": round(float(hit / max(1, found)), 3),
            "on clean, per megapixel": round(
                float(clean / sum(t[..., 0].size for t in reserved_pictures().values()) * 1e6)
            ),
        }

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        return {}

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        return []


RECIPE = Blemishes()
