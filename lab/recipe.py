"""What a recipe is: a network, where it starts, and what it is asked to get better at."""

from __future__ import annotations

from abc import ABC, abstractmethod

import numpy as np
from torch import Tensor, nn


class Recipe(ABC):
    """Subclasses are the modules of :mod:`recipes`; :mod:`train` runs them."""

    #: Engine whose shipped weights training starts from; None for random ones.
    start: str | None = None
    #: Input channel of the first convolution from which on it gets the shipped weights.
    start_place = 0
    #: Highest learning rate; it falls to nothing by a cosine.
    rate = 8e-4
    minutes = 30.0

    @abstractmethod
    def network(self) -> nn.Module:
        """The network to be trained, with fresh weights."""

    @abstractmethod
    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        """Loss of one fresh batch."""

    @abstractmethod
    def measure(self, network: nn.Module) -> dict[str, float]:
        """What to watch while it trains, on the reserved pictures."""
