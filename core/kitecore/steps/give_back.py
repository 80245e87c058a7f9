"""Give back: paint the original, or what another take made of it, through what was done."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from kitecore.geometry import Size
from kitecore.stage import ResampledStage, Stage
from kitecore.steps.base import Framed, Step
from kitecore.steps.deblur import Deblur
from kitecore.steps.denoise import Denoise
from kitecore.steps.enlarge import Enlarge
from kitecore.steps.grain import Grain
from kitecore.steps.repair import Repair
from kitecore.steps.sharpen import Sharpen

Given = Annotated[Denoise | Repair | Deblur | Enlarge | Sharpen | Grain, Field(discriminator="kind")]


class GiveBack(Step):
    """Where its mask is painted, the framed original plainly brought to size, or the result of ``steps`` on it.

    Without a mask nothing is given back.
    """

    revision: ClassVar[int] = 1

    kind: Literal["give-back"] = "give-back"
    of: Annotated[
        str, Field(max_length=60, description="What people call it: “original”, or the take it came from.")
    ] = "original"
    steps: Annotated[list[Given], Field(max_length=40, description="That take's steps after the frame.")] = []

    def result_size(self, size: Size) -> Size:
        return size

    def reach(self, size: Size) -> int:
        return 0

    def identity(self) -> str:
        return "+".join(step.identity() for step in self.steps)

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return source

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        if self.mask is None:
            return source
        stage, size = framed.stage, framed.full
        near, far = stage.size.width / size.width, result.width / full.width
        for step in self.steps:
            if not step.on:
                continue
            after = step.result_size(size)
            # From afar the picture is no larger than it is looked at.
            share = near if after == size else min(1.0, far)
            wanted = Size(max(1, round(after.width * share)), max(1, round(after.height * share)))
            stage = step.stage(stage, size, wanted if share < 1 else after)
            size, near = after, stage.size.width / after.width
        return stage if stage.size == result else ResampledStage(stage, result)
