"""Denoise: take away a share of the luminance noise and a share of the colour noise."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from kitecore.engines.kinds import KindName
from kitecore.filters import saturation
from kitecore.filters import texture as detail
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.stage import Stage
from kitecore.steps.restoring import Restoring
from kitecore.values import EngineId, Percent


class Denoise(Restoring):
    """100 takes away all the noise the engine finds, 50 half of it; luminance and colour separately."""

    revision: ClassVar[int] = 5
    title: ClassVar[str] = "denoise"
    purpose: ClassVar[str] = "Take noise and grain away, luminance and colour apart"
    engine_kind: ClassVar[KindName] = "denoise"
    entire: ClassVar = {"luminance": 100.0, "colour": 100.0, "detail": 0.0}

    kind: Literal["denoise"] = "denoise"
    engine: EngineId = "denoise"
    luminance: Percent = 60.0
    colour: Percent = 90.0
    detail: Annotated[
        Percent, Field(description="How much of the luminance taken away is given back where there is texture.")
    ] = 0.0

    def idle(self) -> bool:
        return self.luminance == 0 and self.colour == 0

    def strengths(self) -> list[float]:
        return [self.luminance / 100, self.colour / 100]

    def finished(self, source: Stage, restored: Stage, full: Size) -> Stage:
        if restored is source:
            return source
        if self.colour:
            restored = saturation.SaturationHeldStage(source, restored)
        return detail.DetailStage(source, restored, self.detail / 100) if self.detail else restored

    def did(self) -> str:
        if self.idle():
            return ""
        back = f", {self.detail:g} % of the detail given back where there is texture" if self.detail else ""
        return (
            f"noise taken away by {self._called()}: {self.luminance:g} % of the luminance noise and "
            f"{self.colour:g} % of the colour noise{back}"
        )

    @classmethod
    def showing(cls, engine: str) -> Denoise:
        return cls(engine=engine, luminance=100, colour=100)

    def at(self, share: float) -> Self:
        return self.model_copy(update={"luminance": self.luminance * share, "colour": self.colour * share})
