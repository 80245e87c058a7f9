"""Exposure: more or less light, and where black lies; also brings values beyond black and white into the picture."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from kitecore.colour.transfer import TransferCurve, transfer_of
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Framed, Step


class Exposure(Step):
    """Multiplies linear light by 2^``ev``, after ``black`` was moved to 0 and white kept where it is. Nothing is clipped."""

    revision: ClassVar[int] = 2
    title: ClassVar[str] = "exposure"
    purpose: ClassVar[str] = "Lighter or darker; bring in what lies beyond white"
    belongs: ClassVar[Belongs] = "source"

    kind: Literal["exposure"] = "exposure"
    ev: Annotated[float, Field(ge=-10, le=10, description="Stops; 1 is twice the light.")] = 0.0
    black: Annotated[
        float,
        Field(ge=-1, le=0.5, description="The coded value that becomes black; below 0 it brings in what is darker."),
    ] = 0.0

    def result_size(self, size: Size) -> Size:
        return size

    def did(self) -> str:
        parts = [f"exposed by {self.ev:+.2g} EV"] if self.ev else []
        if self.black:
            parts.append(f"black set at the value {self.black:g}")
        return ", ".join(parts)

    def at(self, share: float) -> Self:
        return self.model_copy(update={"ev": self.ev * share, "black": self.black * share})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return source if self._idle() else _ExposedStage(source, self, transfer_of(None))

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return source if self._idle() else _ExposedStage(source, self, transfer_of(framed.profile))

    def _idle(self) -> bool:
        return self.ev == 0 and self.black == 0


class _ExposedStage(Stage):
    def __init__(self, source: Stage, step: Exposure, curve: TransferCurve) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._curve = source, curve
        self._factor, self._black = np.float32(2.0**step.ev), np.float32(step.black)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        colours = colours_of(result)
        if self._black:
            colours[:] = (colours - self._black) / (1 - self._black)
        colours[:] = self._curve.coded(self._curve.light(colours) * self._factor)
        return result
