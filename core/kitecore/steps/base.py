"""What every step is: validated settings, its effect on size, and the stage that computes it."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import Annotated, ClassVar, Self

from pydantic import BaseModel, ConfigDict, Field

from kitecore.geometry import Place, Size
from kitecore.mask import Mask
from kitecore.stage import Stage

EngineId = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]*$", max_length=60)]

#: Strengths and shares as people set them.
Percent = Annotated[float, Field(ge=0, le=100)]


@dataclass(frozen=True)
class Framed:
    """The picture after its frame and before anything else; ``stage`` may be a reduced version of one of size ``full``."""

    stage: Stage
    full: Size


class Step(BaseModel, ABC):
    """One operation of a take. Subclasses set ``kind`` to a literal and are registered in :mod:`kitecore.steps`.

    ``revision`` is raised whenever the same settings begin to give different pixels, so that caches forget.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    revision: ClassVar[int] = 1

    kind: str
    on: bool = Field(default=True, description="Whether the step is done; off, the picture passes through unchanged.")
    mask: Mask | None = Field(default=None, description="Where the step works; null: everywhere.")

    @abstractmethod
    def result_size(self, size: Size) -> Size:
        """Size of the result for an input of ``size``. Raises TakeError if it cannot be done."""

    @abstractmethod
    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        """The stage that computes this step.

        ``source`` may be a reduced version of an input whose true size is ``full``; ``result`` is the size wanted,
        which for an unreduced source is ``result_size(full)``.
        """

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        """As :meth:`stage`, for steps that look at the framed original as well."""
        return self.stage(source, full, result)

    @abstractmethod
    def reach(self, size: Size) -> int:
        """How many input pixels around a region the step needs, for an input of ``size``."""

    @property
    def slow(self) -> bool:
        """Whether its pixels take so long to compute that they are worth keeping."""
        return False

    def forward(self, place: Place, size: Size) -> Place:
        """Where a place of an input of ``size`` lies in the result; outside it, if it has been cut off."""
        result = self.result_size(size)
        return Place(place.x * result.width / size.width, place.y * result.height / size.height)

    def backward(self, place: Place, size: Size) -> Place:
        """Where in an input of ``size`` a place of the result comes from."""
        result = self.result_size(size)
        return Place(place.x * size.width / result.width, place.y * size.height / result.height)

    def work(self, size: Size) -> float:
        """Arithmetic needed for an input of ``size``, in floating-point operations; for estimates of time."""
        return 50.0 * self.result_size(size).pixels

    def at(self, share: float) -> Self:
        """The step doing only ``share`` (0..1) of what it does; one without a strength stays as it is."""
        return self

    def identity(self) -> str:
        """Whatever besides the settings decides the pixels (an engine's weights, say); part of the chain hash."""
        return ""
