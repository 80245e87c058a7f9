"""Denoise: take away a share of the luminance noise and a share of the colour noise."""

from __future__ import annotations

from typing import ClassVar, Literal, Self

from kitecore.steps.base import EngineId, Percent
from kitecore.steps.restoring import Restoring


class Denoise(Restoring):
    """100 takes away all the noise the engine finds, 50 half of it; luminance and colour separately."""

    revision: ClassVar[int] = 1

    kind: Literal["denoise"] = "denoise"
    engine: EngineId = "denoise"
    luminance: Percent = 60.0
    colour: Percent = 90.0

    def idle(self) -> bool:
        return self.luminance == 0 and self.colour == 0

    def maps(self, scale: float) -> list[float]:
        return [self.luminance / 100, self.colour / 100]

    def at(self, share: float) -> Self:
        return self.model_copy(update={"luminance": self.luminance * share, "colour": self.colour * share})
