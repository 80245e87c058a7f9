"""Levels and curves: coded values sent through curves drawn by hand, all together, one by one, or by luma alone."""

from __future__ import annotations

import itertools
from typing import Annotated, ClassVar, Literal, Self, TypeAlias

import numpy as np
from pydantic import AfterValidator, Field

from kitecore.filters.monotone import Point, curve_through
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.reading.tones import ToneReading
from kitecore.steps.base import Belongs, Step
from kitecore.steps.pointwise import PointwiseStage

_NEAREST = 0.002
Coordinate: TypeAlias = Annotated[float, Field(ge=0, le=1)]


def _rising(points: list[Point]) -> list[Point]:
    if len(points) == 1:
        raise ValueError("a curve has at least two points, or none")
    for (before, _), (after, _) in itertools.pairwise(points):
        if after - before < _NEAREST:
            raise ValueError("the points of a curve must follow each other from dark to light")
    return points


#: Coded values before and after, at least two, from dark to light; none: as it is.
Curve: TypeAlias = Annotated[list[tuple[Coordinate, Coordinate]], Field(max_length=16), AfterValidator(_rising)]


class Curves(Step):
    """Levels first (black and white points, then the middle as a power, then the range they are spread over), then curves.

    Curves are monotone cubics between their points and straight lines beyond; *all* and each channel work on its coded values,
    *luma* adds the same to all channels. What is neutral stays so but by the curves of channels. Nothing is clipped.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "curves"
    purpose: ClassVar[str] = "Levels, and curves drawn on the histogram"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["curves"] = "curves"
    black: Annotated[float, Field(ge=0, le=0.9, description="The coded value that becomes black.")] = 0.0
    white: Annotated[float, Field(ge=0.1, le=2, description="The coded value that becomes white.")] = 1.0
    middle: Annotated[
        float, Field(ge=0.2, le=5, description="Gamma of the middle tones; above 1 they become lighter.")
    ] = 1.0
    darkest: Annotated[float, Field(ge=0, le=0.9, description="What black is given out as.")] = 0.0
    lightest: Annotated[float, Field(ge=0.1, le=1, description="What white is given out as.")] = 1.0
    all: Curve = []
    red: Curve = []
    green: Curve = []
    blue: Curve = []
    luma: Curve = []
    strength: Annotated[float, Field(ge=0, le=100, description="How much of all of it is done.")] = 100.0

    starts_from = ("picture",)

    def started(self, seen: ToneReading, place: tuple[float, float, float] | None = None) -> tuple[Self, list[str]]:
        black, white = round(min(seen.darkest, 0.4), 3), round(max(seen.lightest, 0.4), 3)
        reasons = [f"the darkest tones are at {black:g} and the lightest at {white:g} of 1"]
        return self.model_copy(update={"black": black, "white": white}), reasons

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 150.0 * size.pixels

    def did(self) -> str:
        if self.strength == 0:
            return ""
        parts = []
        if self._levels():
            ends = f" to {self.darkest:g} … {self.lightest:g}" if (self.darkest, self.lightest) != (0, 1) else ""
            parts.append(f"levels set ({self.black:g} … {self.white:g}, middle {self.middle:g}{ends})")
        names = [name for name in ("all", "red", "green", "blue", "luma") if self._bends(name)]
        if names:
            told = ["all channels" if name == "all" else name for name in names]
            parts.append(f"{'curve' if len(names) == 1 else 'curves'} of {', '.join(told)} drawn")
        share = f", {self.strength:g} % of it" if parts and self.strength < 100 else ""
        return " and ".join(parts) + share

    def at(self, share: float) -> Self:
        return self.model_copy(update={"strength": self.strength * share})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return PointwiseStage(source, self._changed) if self.did() else source

    def _levels(self) -> bool:
        return (self.black, self.white, self.middle, self.darkest, self.lightest) != (0, 1, 1, 0, 1)

    def _bends(self, name: str) -> bool:
        return any(x != y for x, y in getattr(self, name))

    def _changed(self, colours: Pixels) -> Pixels:
        result = self._levelled(colours) if self._levels() else colours
        if self._bends("all"):
            result = curve_through(self.all, result)
        if colours.shape[2] == 3:
            result = result.copy()
            for place, name in enumerate(("red", "green", "blue")):
                if self._bends(name):
                    result[..., place] = curve_through(getattr(self, name), result[..., place])
        if self._bends("luma"):
            own = luma(result)[..., None]
            result = result + (curve_through(self.luma, own) - own)
        share = np.float32(self.strength / 100)
        return result if share == 1 else np.asarray(colours + share * (result - colours), np.float32)

    def _levelled(self, colours: Pixels) -> Pixels:
        spread = (colours - np.float32(self.black)) / np.float32(max(self.white - self.black, 0.01))
        if self.middle != 1:
            spread = np.copysign(np.abs(spread.astype(np.float64)) ** (1 / self.middle), spread)
        return np.asarray(np.float32(self.darkest) + spread * np.float32(self.lightest - self.darkest), np.float32)
