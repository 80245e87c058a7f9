"""Grain: film-like grain at the size of the output, the same wherever the picture is cut into tiles."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self

import cv2
import numpy as np
import numpy.typing as npt
from pydantic import Field

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Step
from kitecore.values import Percent

Plane = npt.NDArray[np.float32]

#: Grains are drawn at the pixel and blurred to this share of the size people give.
SIGMA_OF_SIZE = 0.42


class Grain(Step):
    """Adds grain of a strength and size; strongest in the middle tones, as film has it."""

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "grain"
    purpose: ClassVar[str] = "Match the source's grain or add some"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["grain"] = "grain"
    amount: Annotated[float, Field(ge=0, le=40, description="σ in the middle tones, of 255.")] = 4.0
    size: Annotated[float, Field(ge=0.5, le=12, description="Pixels of the output across a grain.")] = 1.5
    colour: Annotated[Percent, Field(description="How far the channels differ; 0: grey grain.")] = 0.0
    tones: Annotated[Percent, Field(description="100: none in black and white; 0: the same in all tones.")] = 60.0
    seed: Annotated[int, Field(ge=0, le=1_000_000, description="Another pattern for another number.")] = 1

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 160.0 * size.pixels

    def did(self) -> str:
        coloured = f", {self.colour:g} % of it in colour" if self.colour else ""
        return f"grain of σ {self.amount:g} of 255 and {self.size:g} px added{coloured}" if self.amount else ""

    def at(self, share: float) -> Self:
        return self.model_copy(update={"amount": self.amount * share})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return source if self.amount == 0 else _GrainStage(source, self, source.size.width / full.width)


class _GrainStage(Stage):
    def __init__(self, source: Stage, step: Grain, scale: float) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._step = source, step
        self._sigma = max(0.05, SIGMA_OF_SIZE * step.size * scale)
        # Seen from afar grains average out.
        self._amount = step.amount / 255 * min(1.0, step.size * scale)
        if scale == 1:
            self._amount = step.amount / 255

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        step = self._step
        result = self._source.render(region, run)
        colours = result[..., : self.bands - has_alpha(self.bands)]
        tone = luma(result)
        share = np.float32(step.tones / 100)
        weight = np.float32(self._amount) * (1 - share + share * 4 * np.clip(tone * (1 - tone), 0, 0.25))
        mixed = step.colour / 100
        grey = self._grains(region, 0)
        for channel in range(colours.shape[2]):
            grains = grey
            if mixed and colours.shape[2] == 3:
                own = self._grains(region, channel + 1)
                grains = np.asarray(((1 - mixed) * grey + mixed * own) / math.hypot(1 - mixed, mixed), np.float32)
            colours[..., channel] += weight * grains
        return result

    def _grains(self, region: Region, plane: int) -> Plane:
        """Grain of σ 1 over ``region``, H×W."""
        reach = math.ceil(3 * self._sigma)
        drawn = noise_at(region.grown(reach), self._step.seed * 8 + plane)
        side = 2 * reach + 1
        kernel = cv2.getGaussianKernel(side, self._sigma, cv2.CV_32F)
        blurred = cv2.sepFilter2D(drawn, cv2.CV_32F, kernel, kernel)
        strength = float((kernel**2).sum())
        return np.asarray(blurred[reach:-reach, reach:-reach] if reach else blurred, np.float32) / np.float32(strength)


def noise_at(region: Region, seed: int) -> Plane:
    """Gaussian noise of σ 1 that depends on nothing but place and seed, H×W float32.

    Two rounds of a 32-bit integer hash (C. Wellons, "lowbias32") of column, row and seed; four uniform values summed.
    """
    x = np.arange(region.x, region.right, dtype=np.int64).astype(np.uint32)[None]
    y = np.arange(region.y, region.bottom, dtype=np.int64).astype(np.uint32)[:, None]
    total = np.zeros((region.height, region.width), np.float32)
    for turn in range(4):
        mixed = _hashed(x * np.uint32(0x9E3779B1) ^ _hashed(y + np.uint32((seed * 4 + turn) * 0x85EBCA6B & 0xFFFFFFFF)))
        total += mixed.astype(np.float32) * np.float32(2**-32)
    return (total - 2) * np.float32(math.sqrt(3))


def _hashed(values: npt.NDArray[np.uint32]) -> npt.NDArray[np.uint32]:
    values = values ^ (values >> np.uint32(16))
    values = values * np.uint32(0x7FEB352D)
    values = values ^ (values >> np.uint32(15))
    values = values * np.uint32(0x846CA68B)
    return values ^ (values >> np.uint32(16))
