"""Deblur: undo movement, missed focus or softness of known kind and size."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from functools import lru_cache
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field

from kitecore.engines.kinds import KindName
from kitecore.engines.passes import Way
from kitecore.filters.deconvolution import REACH, REGULARISATIONS, deconvolved, wiener_kernel
from kitecore.filters.psf import Kernel, disc, gaussian, streak
from kitecore.filters.sharpness import SharpKeptStage
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.steps.restoring import Restoring
from kitecore.values import EngineId, Percent

#: Sizes that the maps of an engine give as 1.
FULL_RADIUS, FULL_LENGTH, FULL_SIGMA = 10.0, 30.0, 5.0
#: The blur of the sample “soft” that the shelf shows, in pixels.
_SHOWN_RADIUS = 2.5
#: Below this a blur is left alone, in pixels.
_LEAST = 0.2


class _Blur(BaseModel, ABC):
    model_config = ConfigDict(extra="forbid", frozen=True)

    @abstractmethod
    def size(self) -> float:
        """Its extent in pixels: radius, length or standard deviation."""

    @abstractmethod
    def psf(self, scale: float = 1.0) -> Kernel:
        """Point-spread function, for a picture reduced by ``scale``."""

    @abstractmethod
    def told(self) -> str:
        """Its kind and size in words."""

    @abstractmethod
    def description(self, scale: float = 1.0) -> list[float]:
        """Values of the maps focus, motion_cos, motion_sin and soft."""


class FocusBlur(_Blur):
    """Missed focus: light spreads over a disc."""

    by: Literal["focus"] = "focus"
    radius: float = Field(default=2.0, ge=0, le=FULL_RADIUS, description="Pixels.")

    def size(self) -> float:
        return self.radius

    def psf(self, scale: float = 1.0) -> Kernel:
        return disc(self.radius * scale)

    def told(self) -> str:
        return f"missed focus of {self.radius:g} px radius"

    def description(self, scale: float = 1.0) -> list[float]:
        return [self.radius * scale / FULL_RADIUS, 0.0, 0.0, 0.0]


class MotionBlur(_Blur):
    """Camera or subject moved along a line."""

    by: Literal["motion"] = "motion"
    angle: float = Field(default=0.0, ge=-360, le=360, description="Degrees counter-clockwise from the right.")
    length: float = Field(default=8.0, ge=0, le=FULL_LENGTH, description="Pixels.")

    def size(self) -> float:
        return self.length

    def psf(self, scale: float = 1.0) -> Kernel:
        return streak(self.length * scale, self.angle)

    def told(self) -> str:
        return f"a movement of {self.length:g} px at {self.angle:g}°"

    def description(self, scale: float = 1.0) -> list[float]:
        length, twice = self.length * scale / FULL_LENGTH, math.radians(2 * self.angle)
        return [0.0, length * math.cos(twice), length * math.sin(twice), 0.0]


class SoftBlur(_Blur):
    """General softness: light spreads as a Gaussian."""

    by: Literal["soft"] = "soft"
    sigma: float = Field(default=1.0, ge=0, le=FULL_SIGMA, description="Pixels.")

    def size(self) -> float:
        return self.sigma

    def psf(self, scale: float = 1.0) -> Kernel:
        return gaussian(self.sigma * scale)

    def told(self) -> str:
        return f"softness of σ {self.sigma:g} px"

    def description(self, scale: float = 1.0) -> list[float]:
        return [0.0, 0.0, 0.0, self.sigma * scale / FULL_SIGMA]


Blur = Annotated[FocusBlur | MotionBlur | SoftBlur, Field(discriminator="by")]


@lru_cache(maxsize=64)
def _kernels(blur: FocusBlur | MotionBlur | SoftBlur, scale: float) -> tuple[npt.NDArray[np.float32], ...]:
    psf = blur.psf(scale)
    return tuple(wiener_kernel(psf, regularisation) for regularisation in REGULARISATIONS)


class Deblur(Restoring):
    """Sharpen what a blur of this kind and size made soft; noise is held down."""

    revision: ClassVar[int] = 5
    title: ClassVar[str] = "deblur"
    purpose: ClassVar[str] = "Undo movement, missed focus or softness"
    engine_kind: ClassVar[KindName] = "deblur"
    entire: ClassVar = {"strength": 100.0, "keep_sharp": 0.0}

    kind: Literal["deblur"] = "deblur"
    engine: EngineId = "deblur"
    blur: Blur = FocusBlur()
    strength: Percent = 100.0
    keep_sharp: Annotated[
        Percent, Field(description="How far what is sharp already, by its edges, is left as it is.")
    ] = 0.0

    def idle(self) -> bool:
        return self.strength == 0 or self.blur.size() < _LEAST

    def strengths(self) -> list[float]:
        return [self.strength / 100]

    def description(self, scale: float) -> list[float]:
        return self.blur.description(scale)

    def description_seen(self, scale: float, way: Way) -> list[float]:
        focus, cosine, sine, soft = self.description(scale)
        # The maps tell twice the angle of a movement: mirrored it is the other way round, a quarter turn is half of it.
        sign = -1.0 if way.turns % 2 else 1.0
        return [focus, sign * cosine, sign * (-sine if way.mirrored else sine), soft]

    def pictures(self, pixels: Pixels, scale: float) -> Pixels:
        return np.concatenate([pixels, *deconvolved(pixels, list(_kernels(self.blur, scale)))], axis=2)

    def pictures_reach(self) -> int:
        return REACH

    def finished(self, source: Stage, restored: Stage, full: Size) -> Stage:
        if self.keep_sharp == 0 or restored is source:
            return restored
        return SharpKeptStage(source, restored, self.blur.psf(source.size.width / full.width), self.keep_sharp / 100)

    def did(self) -> str:
        if self.idle():
            return ""
        kept = f", {self.keep_sharp:g} % of what was sharp left as it was" if self.keep_sharp else ""
        return f"{self.blur.told()} undone by {self._called()} at {self.strength:g} %{kept}"

    @classmethod
    def showing(cls, engine: str) -> Deblur:
        return cls(engine=engine, blur=FocusBlur(radius=_SHOWN_RADIUS))

    def at(self, share: float) -> Self:
        return self.model_copy(update={"strength": self.strength * share})
