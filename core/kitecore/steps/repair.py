"""Repair: take away block edges, ringing, colour bleed and banding that compression left."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from kitecore.steps.base import EngineId, Percent
from kitecore.steps.restoring import Restoring


class Repair(Restoring):
    """100 takes away all the damage the engine finds, 50 half of it."""

    revision: ClassVar[int] = 1

    kind: Literal["repair"] = "repair"
    engine: EngineId = "repair"
    strength: Percent = 80.0
    quality: Annotated[
        int | None, Field(ge=1, le=100, description="Quality the file was written at; None: the engine finds it.")
    ] = None

    def idle(self) -> bool:
        return self.strength == 0

    def maps(self, scale: float) -> list[float]:
        return [self.strength / 100, (self.quality or 0) / 100]
