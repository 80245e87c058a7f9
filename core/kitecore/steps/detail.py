"""Detail: fine, middle and broad differences of tone stronger or weaker, and haze taken away or laid over."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, NamedTuple, Self

import cv2
import numpy as np
from pydantic import Field

from kitecore.colour.transfer import TransferCurve, transfer_of
from kitecore.filters.guided import Plane, guided
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.reading.tones import ToneReading
from kitecore.steps.base import Belongs, Framed, Step
from kitecore.steps.tone import Shift

#: Radii of what is finer than each scale as a share of the long side, the most they are in pixels, and the edges that stay.
_SHARES, _MOST, _EDGES = (0.0006, 0.003, 0.012), (6, 24, 80), (0.08, 0.1, 0.12)
#: How much stronger a scale becomes at 100; at −100 it is gone.
_STRONGER = 1.5
#: Haze: the windows whose darkest value tells it, and over which it is smoothed, as for the scales above; how much of it is
#: taken at most, and what is left of light at least.
_DARK_SHARE, _DARK_MOST, _SMOOTH_SHARE, _SMOOTH_MOST = 0.004, 12, 0.012, 48
_HAZE_TAKEN, _LEAST_LEFT, _HAZE_LAID = 0.95, 0.2, 0.6

Air = Annotated[float, Field(ge=0.05, le=1.5)]


class Detail(Step):
    """Luma is parted at three scales by edge-keeping smoothing, and each is made stronger or weaker; colour differences stay.

    Haze is what the darkest channel of windows has in linear light (K. He, J. Sun, X. Tang, “Single image haze removal using
    dark channel prior”, 2009), weighed against ``air``, the light of the haze itself, a figure of the whole picture that is
    stored when the step is set. Below 0, haze of that light is laid over everything.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "detail"
    purpose: ClassVar[str] = "Fine and broad differences of tone; haze"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["detail"] = "detail"
    small: Annotated[Shift, Field(description="Texture: hair, cloth, pores.")] = 0.0
    medium: Annotated[Shift, Field(description="Folds, features, leaves.")] = 0.0
    large: Annotated[Shift, Field(description="How things stand out from what is around them.")] = 0.0
    haze: Annotated[Shift, Field(description="Above 0 it is taken away, below 0 laid over.")] = 0.0
    air: Annotated[tuple[Air, Air, Air], Field(description="Linear light of the haze.")] = (0.8, 0.8, 0.8)

    starts_from = ("picture",)

    def started(self, seen: ToneReading, place: tuple[float, float, float] | None = None) -> tuple[Self, list[str]]:
        red, green, blue = (round(max(0.05, min(1.5, value)), 3) for value in seen.air)
        haze = round(max(0.0, min(80.0, 160 * (seen.haze - 0.12))))
        moved = self.model_copy(update={"air": (red, green, blue), "haze": float(haze)})
        if not haze:
            return moved, ["something dark lies nearly everywhere: no haze was found"]
        return moved, [f"even its darkest places have {seen.haze:.0%} of the light of the haze"]

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 400.0 * size.pixels

    def did(self) -> str:
        told = [("fine", self.small), ("middle", self.medium), ("broad", self.large)]
        parts = [f"{name} detail {value:+.3g}" for name, value in told if value]
        if self.haze:
            parts.append(f"haze {'taken away' if self.haze > 0 else 'laid over'} at {abs(self.haze):.3g} %")
        return ", ".join(parts)

    def at(self, share: float) -> Self:
        return self.model_copy(
            update={name: getattr(self, name) * share for name in ("small", "medium", "large", "haze")}
        )

    def portable(self) -> Self:
        # The light of haze is another picture's own.
        return self.model_copy(update={"air": type(self).model_fields["air"].default})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, full, None)

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._staged(source, full, framed.profile)

    def _staged(self, source: Stage, full: Size, profile: bytes | None) -> Stage:
        made = source
        if self.haze:
            made = _HazeStage(made, self, full, transfer_of(profile))
        if self.small or self.medium or self.large:
            made = _ScalesStage(made, self, full)
        return made


def _radius(share: float, most: int, full: Size, seen: Size) -> int:
    long_side = max(full.width, full.height)
    own = min(most, share * long_side)
    return max(1, round(own * max(seen.width, seen.height) / long_side))


class _Scale(NamedTuple):
    radius: int
    edge: float
    stronger: float


class _ScalesStage(Stage):
    def __init__(self, source: Stage, step: Detail, full: Size) -> None:
        super().__init__(source.size, source.bands)
        self._source = source
        strengths = [(1 if value < 0 else _STRONGER) * value / 100 for value in (step.small, step.medium, step.large)]
        self._scales = [
            _Scale(_radius(share, most, full, source.size), edge, stronger)
            for share, most, edge, stronger in zip(_SHARES, _MOST, _EDGES, strengths, strict=True)
        ]
        #: Broader ones than the broadest that is changed need not be looked at.
        while self._scales and not self._scales[-1].stronger:
            self._scales.pop()

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        reach = 2 * max(scale.radius for scale in self._scales)
        pixels = self._source.extended(region.grown(reach), run)
        grey = luma(pixels)
        change: Plane = np.zeros_like(grey)
        finer: Plane = grey
        for scale in self._scales:
            broader = guided(grey, grey, scale.radius, scale.edge)
            if scale.stronger:
                change = change + np.float32(scale.stronger) * (finer - broader)
            finer = broader
        inner = np.s_[reach:-reach, reach:-reach]
        result: Pixels = pixels[inner].copy()
        colours = colours_of(result)
        colours += change[inner][..., None]
        return result


class _HazeStage(Stage):
    def __init__(self, source: Stage, step: Detail, full: Size, curve: TransferCurve) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._curve, self._strength = source, curve, np.float32(step.haze / 100)
        air = np.array(step.air, np.float32)
        self._air = air if source.bands > 2 else air.mean(keepdims=True)
        self._dark = _radius(_DARK_SHARE, _DARK_MOST, full, source.size)
        self._smooth = _radius(_SMOOTH_SHARE, _SMOOTH_MOST, full, source.size)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        if self._strength < 0:
            result = self._source.render(region, run)
            own = 1 + np.float32(_HAZE_LAID) * self._strength
            colours = colours_of(result)
            colours[:] = self._curve.coded(self._curve.light(colours) * own + self._air * (1 - own))
            return result
        reach = 2 * self._dark + 2 * self._smooth
        pixels = self._source.extended(region.grown(reach), run)
        light = self._curve.light(colours_of(pixels))
        left = self._left(light, luma(pixels))
        inner = np.s_[reach:-reach, reach:-reach]
        result = pixels[inner].copy()
        colours_of(result)[:] = self._curve.coded((light[inner] - self._air) / left[inner][..., None] + self._air)
        return result

    def _left(self, light: Pixels, grey: Plane) -> Plane:
        """The share of a place's own light that comes through, H×W."""
        window = np.ones((2 * self._dark + 1,) * 2, np.uint8)
        darkest = np.asarray((light / self._air).min(axis=2), np.float32)
        # Opened, so that haze does not grow beyond what is behind it.
        opened = np.asarray(cv2.dilate(cv2.erode(darkest, window), window), np.float32)
        smooth = guided(opened, grey, self._smooth, 0.05)
        share = np.float32(_HAZE_TAKEN) * self._strength
        return np.asarray(np.clip(1 - share * np.clip(smooth, 0, 1), _LEAST_LEFT, 1), np.float32)
