"""Repair: take away block edges, ringing and colour bleed that compression left, and bands that coarse tones left."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from kitecore.engines.kinds import KindName
from kitecore.faces import FaceFound
from kitecore.filters.debanding import TALLEST_STEP, DebandedStage
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.stage import Stage
from kitecore.steps.restoring import Restoring
from kitecore.values import EngineId, Percent

#: Above this quality the damage becomes as small as the engine's own error, and only a share of it is taken away: half
#: at 95, nothing at 100. Measured by ``lab/judge.py`` at 95, where no picture may come back worse.
_SOUND = 90


class Repair(Restoring):
    """100 takes away all the damage the engine finds, 50 half of it; less in files of very high quality."""

    revision: ClassVar[int] = 6
    title: ClassVar[str] = "repair"
    purpose: ClassVar[str] = "Take block edges, ringing, colour bleed and bands away"
    engine_kind: ClassVar[KindName] = "repair"
    entire: ClassVar = {"strength": 100.0, "banding": 0.0}

    kind: Literal["repair"] = "repair"
    engine: EngineId = "repair"
    strength: Percent = 80.0
    quality: Annotated[
        int | None, Field(ge=1, le=100, description="Quality the file was written at; None: the engine finds it.")
    ] = None
    banding: Annotated[
        Percent, Field(description="How tall the steps of bands in even gradients may be: 100 is 8 of 255; 0: none.")
    ] = 0.0

    def idle(self) -> bool:
        return self.strength == 0 or self.quality == 100

    def finished(self, source: Stage, restored: Stage, full: Size) -> Stage:
        return DebandedStage(restored, TALLEST_STEP * self.banding / 100) if self.banding else restored

    def work(self, size: Size) -> float:
        return super().work(size) + (900.0 * size.pixels if self.banding else 0.0)

    def strengths(self) -> list[float]:
        sound = 1 - max(0, (self.quality or 0) - _SOUND) / (100 - _SOUND)
        return [self.strength / 100 * sound]

    def description(self, scale: float) -> list[float]:
        return [(self.quality or 0) / 100]

    def did(self) -> str:
        parts = []
        if not self.idle():
            told = f", told a JPEG quality of {self.quality}" if self.quality else ""
            parts.append(f"compression damage taken away by {self._called()} at {self.strength:g} %{told}")
        if self.banding:
            parts.append(f"bands of up to {8 * self.banding / 100:.2g} of 255 made even")
        return ", ".join(parts)

    @classmethod
    def showing(cls, engine: str) -> Repair:
        return cls(engine=engine, strength=100)

    def portable(self) -> Self:
        return self.model_copy(update={"quality": None})

    def suited_to(self, quality: int | None, faces: Sequence[FaceFound] = ()) -> Self:
        told = super().suited_to(quality, faces)
        return told if self.quality is not None else told.model_copy(update={"quality": quality})

    def at(self, share: float) -> Self:
        return self.model_copy(update={"strength": self.strength * share, "banding": self.banding * share})
