"""What the engines that enlarge for how it looks have in common: start, patches, an opponent."""

from __future__ import annotations

from abc import abstractmethod

import numpy as np
from damage import darkened
from looks import Opponent
from network import EnlargingNetwork
from patches import cut_dense, photographs, tensor, without_colour
from recipe import EnlargingRecipe
from torch import Tensor, nn

_FACTORS = (2, 3, 4, 4, 4, 6, 8)
_BATCH = 6


class LooksRecipe(EnlargingRecipe):
    """From Faithful's weights, on patches half of which are taken as they come, so that calm areas are seen as well."""

    start = "faithful"
    #: Side of the patches in source pixels, by factor.
    patch: dict[int, int]
    #: Planes that the opponent is told beside a picture.
    told = 0

    def __init__(self) -> None:
        self.opponent = Opponent(rate=2e-4, told=self.told)

    def network(self) -> nn.Module:
        return EnlargingNetwork()

    @abstractmethod
    def source_of(self, sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
        """The small picture that is to become ``sharp``."""

    @abstractmethod
    def compare(self, result: Tensor, truth: Tensor, source: Tensor, factor: int, step: int) -> Tensor:
        """Loss of a result."""

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        factor = int(random.choice(_FACTORS))
        sharp = [
            darkened(
                without_colour(cut_dense(photographs(), self.patch[factor] * factor, random, 1 + index), random), random
            )
            for index in range(_BATCH)
        ]
        small = tensor([self.source_of(patch, factor, random) for patch in sharp])
        return self.compare(network(small, factor), tensor(sharp), small, factor, step)
