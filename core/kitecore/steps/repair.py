"""Repair: take away block edges, ringing, colour bleed and banding that compression left."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from kitecore.steps.base import EngineId, Percent
from kitecore.steps.restoring import Restoring

#: Above this quality the damage becomes as small as the engine's own error, and only a share of it is taken away: half
#: at 95, nothing at 100. Measured by ``lab/judge.py`` at 95, where no picture may come back worse.
_SOUND = 90


class Repair(Restoring):
    """100 takes away all the damage the engine finds, 50 half of it; less in files of very high quality."""

    revision: ClassVar[int] = 2

    kind: Literal["repair"] = "repair"
    engine: EngineId = "repair"
    strength: Percent = 80.0
    quality: Annotated[
        int | None, Field(ge=1, le=100, description="Quality the file was written at; None: the engine finds it.")
    ] = None

    def idle(self) -> bool:
        return self.strength == 0 or self.quality == 100

    def maps(self, scale: float) -> list[float]:
        sound = 1 - max(0, (self.quality or 0) - _SOUND) / (100 - _SOUND)
        return [self.strength / 100 * sound, (self.quality or 0) / 100]

    def at(self, share: float) -> Self:
        return self.model_copy(update={"strength": self.strength * share})
