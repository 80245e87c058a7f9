"""Sharpen: raise the contrast of edges at the size of the output, without lines beside them."""

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

#: Luma slope per pixel from which on an edge counts in full.
_EDGE = 0.06
#: Tones below and above which protection is complete, and how far it fades.
_DARK, _LIGHT, _FADE = 0.06, 0.94, 0.22


class Sharpen(Step):
    """An unsharp mask of luma whose overshoot is bounded by the tones around; colour is left alone."""

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "sharpen"
    purpose: ClassVar[str] = "Firm edges at the size of the output"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["sharpen"] = "sharpen"
    amount: Annotated[float, Field(ge=0, le=300, description="Percent of the difference that is added.")] = 80.0
    radius: Annotated[float, Field(ge=0.3, le=8, description="σ in pixels of the output.")] = 0.8
    detail: Annotated[
        Percent, Field(description="How far edges may overshoot the tones around them; 0: not at all.")
    ] = 30.0
    threshold: Annotated[float, Field(ge=0, le=40, description="Differences below it are left, of 255.")] = 2.0
    edges: Annotated[Percent, Field(description="100: edges alone; 0: all texture as well.")] = 30.0
    shadows: Annotated[Percent, Field(description="How far the darkest tones are left alone.")] = 40.0
    highlights: Annotated[Percent, Field(description="How far the lightest tones are left alone.")] = 40.0

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 220.0 * size.pixels

    def did(self) -> str:
        return f"edges sharpened by {self.amount:g} % at a radius of {self.radius:g} px" if self.amount else ""

    def at(self, share: float) -> Self:
        return self.model_copy(update={"amount": self.amount * share})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return source if self.amount == 0 else SharpenedStage(source, self, source.size.width / full.width)

    def weights_stage(self, source: Stage, full: Size) -> Stage:
        return EdgeStage(self, source, source.size.width / full.width)


def _reach(radius: float) -> int:
    return 2 * math.ceil(3 * radius) + 3


class SharpenedStage(Stage):
    def __init__(self, source: Stage, step: Sharpen, scale: float) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._step = source, step
        self._radius = max(0.2, step.radius * scale)
        self._reach = _reach(self._radius)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        step, reach = self._step, self._reach
        pixels = self._source.extended(region.grown(reach), run)
        grey = luma(pixels)
        difference = grey - _blurred(grey, self._radius)
        size = np.abs(difference)
        least = np.float32(step.threshold / 255)
        # A soft threshold: nothing jumps where a difference passes it.
        kept = np.sign(difference) * np.maximum(size - least, 0) if least else difference
        change = np.float32(step.amount / 100) * kept * _weights(step, grey, self._radius)
        kernel = np.ones((2 * math.ceil(self._radius) + 1,) * 2, np.uint8)
        low, high = cv2.erode(grey, kernel), cv2.dilate(grey, kernel)
        room = np.float32(step.detail / 100) * (high - low) * np.float32(0.5)
        change = np.clip(grey + change, low - room, high + room) - grey
        inner = np.s_[reach:-reach, reach:-reach]
        result: Pixels = pixels[inner].copy()
        colours = result[..., : self.bands - has_alpha(self.bands)]
        colours += change[inner][..., None]
        return result


class EdgeStage(Stage):
    """How strongly each pixel of a picture is sharpened, one band, 0..1: the edge mask and what protects tones."""

    def __init__(self, step: Sharpen, source: Stage, scale: float) -> None:
        super().__init__(source.size, 1)
        self._source, self._step = source, step
        self._radius = max(0.2, step.radius * scale)

    def render(self, region: Region, run: Run) -> Pixels:
        reach = _reach(self._radius)
        grey = luma(self._source.extended(region.grown(reach), run))
        return _weights(self._step, grey, self._radius)[reach:-reach, reach:-reach][..., None]


def _weights(step: Sharpen, grey: Plane, radius: float) -> Plane:
    weights = np.ones_like(grey)
    if step.edges:
        smooth = _blurred(grey, max(0.7, radius))
        slope = np.hypot(cv2.Sobel(smooth, cv2.CV_32F, 1, 0) / 8, cv2.Sobel(smooth, cv2.CV_32F, 0, 1) / 8)
        share = np.float32(step.edges / 100)
        weights *= 1 - share + share * np.minimum(slope / np.float32(_EDGE), 1)
    tones = _blurred(grey, 1.0)
    if step.shadows:
        weights *= 1 - np.float32(step.shadows / 100) * np.clip((_DARK + _FADE - tones) / _FADE, 0, 1)
    if step.highlights:
        weights *= 1 - np.float32(step.highlights / 100) * np.clip((tones - _LIGHT + _FADE) / _FADE, 0, 1)
    return np.asarray(weights, np.float32)


def _blurred(grey: Plane, sigma: float) -> Plane:
    side = 2 * math.ceil(3 * sigma) + 1
    return np.asarray(cv2.GaussianBlur(grey, (side, side), sigma, borderType=cv2.BORDER_REFLECT_101), np.float32)
