"""Give back: paint the original, or what another take made of it, through what was done."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field, field_validator

from kitecore.masks.mask import Mask
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.stage import Stage, resized
from kitecore.steps.base import Belongs, EngineUse, Framed, NetworkRun, Step, history
from kitecore.steps.composition import steps_beside

if TYPE_CHECKING:
    from kitecore.steps import AnyStep


class GiveBack(Step):
    """Where its mask is painted, the framed original plainly brought to size, or the result of ``steps`` on it.

    Without a mask nothing is given back.
    """

    revision: ClassVar[int] = 2
    title: ClassVar[str] = "give back"
    purpose: ClassVar[str] = "Paint the original or another take through"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["give-back"] = "give-back"
    of: Annotated[
        str, Field(max_length=60, description="What people call it: “original”, or the take it came from.")
    ] = "original"
    steps: Annotated[list[AnyStep], Field(max_length=40, description="That take's steps after the frame.")] = []

    @field_validator("steps")
    @classmethod
    def _after_the_frame(cls, steps: list[AnyStep]) -> list[AnyStep]:
        if any(step.belongs == "frame" for step in steps):
            raise ValueError("what is given back is framed as this take is: leave its frame out")
        return steps

    @classmethod
    def begun(cls) -> GiveBack:
        # Nothing is given back until it is painted.
        return cls(mask=Mask())

    def result_size(self, size: Size) -> Size:
        return size

    @property
    def slow(self) -> bool:
        return any(step.slow for step in self.steps if step.on)

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        runs, own = [], framed
        for step in self.steps:
            if step.on:
                runs += step.networks(own, framed)
                own = step.result_size(own)
        return runs

    def work_beside(self, size: Size, framed: Size) -> float:
        total, own = self.work(size), framed
        for step in self.steps:
            if step.on:
                total += step.work_beside(own, framed)
                own = step.result_size(own)
        return total

    def engines_used(self) -> list[EngineUse]:
        return [use for step in self.steps if step.on for use in step.engines_used()]

    def did(self) -> str:
        if self.mask is None:
            return ""
        of = "the original" if self.of == "original" and not self.steps else f"take {self.of}"
        done = "; ".join(history(list(self.steps)))
        return f"{of} given back{f' ({done})' if done else ''}"

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return source

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        if self.mask is None:
            return source
        return resized(steps_beside(list(self.steps), framed, result.width / full.width), result)
