"""What a recipe is: a network, where it starts, what it is asked to get better at, and what is said and asked of it after."""

from __future__ import annotations

import importlib
import pkgutil
from abc import ABC, abstractmethod
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
import recipes
from torch import Tensor, nn

ENGINES = Path(__file__).parent.parent / "core/kitecore/engines"

#: What the judge measured of an engine.
Table = dict[str, Any]


@dataclass(frozen=True)
class Shelf:
    """What the shelf says of an engine."""

    kind: str
    title: str
    order: int
    purpose: str
    #: What it is shown on, where that is not the usual for its kind.
    sample: str | None = None
    #: Where its pictures come from.
    pictures: str = "lab/provenance.json"


def line(measure: str, value: str, against: str) -> dict[str, str]:
    """One of the few figures people look at."""
    return {"measure": measure, "value": value, "against": against}


class Recipe(ABC):
    """Subclasses are the modules of :mod:`recipes`; :mod:`train` runs them, :mod:`judge` asks for their bars."""

    shelf: ClassVar[Shelf]
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

    @abstractmethod
    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        """The bars of the engine and whether they are passed; ``plain`` is what plain resampling reaches."""

    @abstractmethod
    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        """The few figures people look at."""


class EnlargingRecipe(Recipe):
    """What engines that enlarge have in common."""

    def gain(self, table: Table, plain: Table, factor: str) -> float:
        """PSNR-Y over Lanczos on clean sources."""
        return float(table["by_factor"][factor]["psnr_y"] - plain["by_factor"][factor]["psnr_y"])

    @abstractmethod
    def own_bars(self, table: Table, plain: Table) -> dict[str, bool]:
        """What is asked of this engine alone."""

    def first_line(self, table: Table, plain: Table) -> dict[str, str]:
        """The figure that tells most about it."""
        return self._psnr_line("2", table, plain)

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        most = max(2.0, plain["by_factor"]["4"]["beyond_source_on_flats"])
        common = {
            "no tile seams": table["seams"]["tiles_against_whole"] <= 1 and abs(table["seams"]["energy"]) < 0.005,
            "within the source's range on flats": table["by_factor"]["4"]["beyond_source_on_flats"] <= most,
        }
        return common | self.own_bars(table, plain)

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        own, lanczos = table["by_factor"]["4"], plain["by_factor"]["4"]
        likeness = line("likeness ×4", f"{own['haarpsi']:.3f}", f"Lanczos {lanczos['haarpsi']:.3f}")
        return [self.first_line(table, plain), self._psnr_line("4", table, plain), likeness]

    def _psnr_line(self, factor: str, table: Table, plain: Table) -> dict[str, str]:
        own, lanczos = (of["by_factor"][factor]["psnr_y"] for of in (table, plain))
        return line(f"PSNR ×{factor}", f"{own:.1f} dB", f"Lanczos {lanczos:.1f}")


def recipe_named(name: str) -> Recipe:
    """The recipe of an engine."""
    recipe: Recipe = importlib.import_module(f"recipes.{name}").RECIPE
    return recipe


def all_recipes() -> dict[str, Recipe]:
    """Every recipe by its engine's id, in the order of the shelf."""
    names = [module.name for module in pkgutil.iter_modules(recipes.__path__)]
    found = {name: recipe_named(name) for name in names}
    return dict(sorted(found.items(), key=lambda item: item[1].shelf.order))


def shipped_recipes() -> dict[str, Recipe]:
    """Those whose engine is on the shelf; the others are being worked at."""
    return {name: recipe for name, recipe in all_recipes().items() if (ENGINES / name / "engine.json").exists()}
