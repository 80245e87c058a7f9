"""Frame: perspective and distortion undone, quarter turns, flip, straighten, crop; exact as long as no pixel is resampled."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from kitecore.errors import TakeError
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.mapping import Affine, Mapping, Warp
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Step
from kitecore.steps.perspective import Corner, Corners, goes_round, largest_mapped_inside, warp_of
from kitecore.steps.warp_stage import WarpStage


class Crop(BaseModel):
    """A rectangle in pixels of the turned, flipped and straightened picture, whose pixels are as large as the source's."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    x: int = Field(ge=0)
    y: int = Field(ge=0)
    width: int = Field(ge=1)
    height: int = Field(ge=1)


class Frame(Step):
    """What of the picture is used: distortion undone, then perspective, turned clockwise, flipped, straightened, cropped.

    All of that is one resampling. The crop is kept as it was given. If the picture does not reach that far (straightening cuts
    corners off) it is shrunk about its middle until it fits, unless what lies ``outside`` is filled; without a crop, the largest
    rectangle of the picture's own shape is used, or all of the picture if that is filled.
    """

    revision: ClassVar[int] = 2
    title: ClassVar[str] = "frame"
    purpose: ClassVar[str] = "Crop, turn, straighten, flip"
    belongs: ClassVar[Belongs] = "frame"
    takes_mask: ClassVar[bool] = False

    kind: Literal["frame"] = "frame"
    turns: Annotated[int, Field(ge=0, le=3, description="Quarter turns clockwise.")] = 0
    flip: Annotated[bool, Field(description="Mirror left and right, after the turns.")] = False
    angle: Annotated[float, Field(ge=-45, le=45, description="Degrees clockwise, after the flip.")] = 0.0
    crop: Crop | None = None
    distortion: Annotated[
        float,
        Field(ge=-100, le=100, description="Above 0, lines that bow outwards are made straight; below 0, inwards."),
    ] = 0.0
    vertical: Annotated[
        float,
        Field(
            ge=-100, le=100, description="Above 0, the lower part of the source is made smaller: lines part downwards."
        ),
    ] = 0.0
    horizontal: Annotated[float, Field(ge=-100, le=100, description="The same for its right part.")] = 0.0
    corners: Annotated[
        tuple[Corner, Corner, Corner, Corner] | None,
        Field(description="px of the source that become a rectangle, clockwise from its upper left corner."),
    ] = None
    outside: Annotated[
        Literal["crop", "mirror", "white"], Field(description="What is done where the picture does not reach.")
    ] = "crop"

    @field_validator("corners")
    @classmethod
    def _go_round(cls, corners: Corners | None) -> Corners | None:
        if corners is not None and not goes_round(corners):
            raise ValueError("the four corners must go round a place without a dent")
        return corners

    def warp(self, size: Size) -> Warp | None:
        """Distortion and perspective of a source of ``size``; None if there are none."""
        return warp_of(size, self.distortion, self.vertical, self.horizontal, self.corners)

    def turned_size(self, size: Size) -> Size:
        """Size after the quarter turns."""
        return Size(size.height, size.width) if self.turns % 2 else size

    def region(self, size: Size) -> Region:
        """The crop that is really used on a source of ``size``. Raises TakeError if it misses the picture."""
        turned = self.turned_size(size)
        wanted, crop = turned.region, self.crop
        if crop is not None:
            right, bottom = min(crop.x + crop.width, turned.width), min(crop.y + crop.height, turned.height)
            if right <= crop.x or bottom <= crop.y:
                raise TakeError(
                    f"The crop starts at {crop.x}, {crop.y}, outside the picture of {turned} px; draw it again."
                )
            wanted = Region.between(crop.x, crop.y, right, bottom)
        if self.outside != "crop":
            return wanted
        if self.warp(size) is not None:
            return largest_mapped_inside(wanted, self._to_source(size), size)
        return _largest_inside(turned, wanted, self.angle)

    def result_size(self, size: Size) -> Size:
        return self.region(size).size

    def portable(self) -> None:
        return None

    def did(self) -> str:
        parts = []
        if self.turns:
            parts.append(f"turned by {90 * self.turns}° clockwise")
        if self.flip:
            parts.append("mirrored left to right")
        if self.angle:
            parts.append(f"straightened by {self.angle:g}°")
        if self.distortion:
            parts.append(f"distortion of the lens undone at {self.distortion:g}")
        if self.vertical or self.horizontal or self.corners:
            parts.append("perspective undone")
        if self.crop:
            parts.append(f"cropped to {self.crop.width} × {self.crop.height} px from {self.crop.x}, {self.crop.y}")
        return ", ".join(parts)

    def mapping(self, size: Size) -> Mapping:
        crop = self.region(size)
        return Mapping((Affine(c=crop.x, f=crop.y),)).then(self._to_source(size))

    def _to_source(self, size: Size) -> Mapping:
        """From pixels of the turned, flipped and straightened picture to those of a source of ``size``."""
        turned, w, h = self.turned_size(size), size.width, size.height
        back = _turned_by(turned, -self.angle) if self.angle else Affine()
        if self.flip:
            back = back.then(Affine(a=-1, c=turned.width))
        back = back.then(
            (Affine(), Affine(0, 1, 0, -1, 0, h), Affine(-1, 0, w, 0, -1, h), Affine(0, -1, w, 1, 0, 0))[self.turns]
        )
        warp = self.warp(size)
        return Mapping((back, warp) if warp else (back,))

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        crop = self.region(full)
        if self.angle or self.warp(full) is not None:
            to_source = self.mapping(full).reduced(crop.size, result)
            to_source = to_source.then(
                Mapping((Affine(a=source.size.width / full.width, e=source.size.height / full.height),))
            )
            return WarpStage(source, result, to_source, white=self.outside == "white")
        if source.size != full:
            crop = _scaled(crop, full, source.size, result)
        return _FrameStage(source, self, crop)


def _turned_by(canvas: Size, angle: float) -> Affine:
    """Clockwise by degrees about the middle of a picture of ``canvas`` size."""
    cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    x, y = canvas.width / 2, canvas.height / 2
    return Affine(cos, -sin, x - cos * x + sin * y, sin, cos, y - sin * x - cos * y)


def _largest_inside(canvas: Size, wanted: Region, angle: float) -> Region:
    """``wanted`` shrunk about its middle until it lies in a picture of ``canvas`` size straightened by ``angle``°."""
    if not angle:
        return wanted
    radians = math.radians(abs(angle))
    cos, sin = math.cos(radians), math.sin(radians)
    middle = Place(wanted.x + wanted.width / 2, wanted.y + wanted.height / 2)
    turned = Mapping((_turned_by(canvas, -angle),)).place_in_source(middle)
    room_x = canvas.width / 2 - abs(turned.x - canvas.width / 2)
    room_y = canvas.height / 2 - abs(turned.y - canvas.height / 2)
    need_x = (wanted.width * cos + wanted.height * sin) / 2
    need_y = (wanted.width * sin + wanted.height * cos) / 2
    shrink = min(1.0, room_x / need_x, room_y / need_y)
    if shrink <= 0:
        raise TakeError("The crop lies outside the straightened picture; draw it again.")
    width, height = max(1, math.floor(wanted.width * shrink)), max(1, math.floor(wanted.height * shrink))
    return Region(
        wanted.x + (wanted.width - width) // 2, wanted.y + (wanted.height - height) // 2, width, height
    )  # fmt: skip


def _scaled(crop: Region, full: Size, reduced: Size, result: Size) -> Region:
    """The crop in a reduced picture, ``result`` in size and inside it."""
    # Quarter turns swap the sides alike for both sizes, so one ratio serves.
    ratio = math.sqrt(reduced.pixels / full.pixels)
    return Region(round(crop.x * ratio), round(crop.y * ratio), result.width, result.height)


class _FrameStage(Stage):
    """A picture turned by quarters, flipped and cropped: a permutation of its pixels."""

    def __init__(self, source: Stage, step: Frame, crop: Region) -> None:
        self._source = source
        self._step = step
        self._turned = step.turned_size(source.size)
        x = min(crop.x, max(0, self._turned.width - crop.width))
        y = min(crop.y, max(0, self._turned.height - crop.height))
        self._crop = Region(
            x, y, min(crop.width, self._turned.width), min(crop.height, self._turned.height)
        )  # fmt: skip
        super().__init__(self._crop.size, source.bands)

    def render(self, region: Region, run: Run) -> Pixels:
        width, height = self._turned.width, self._turned.height
        x, y, w, h = region.x + self._crop.x, region.y + self._crop.y, region.width, region.height
        if self._step.flip:
            x = width - x - w
        match self._step.turns:
            case 0:
                part = Region(x, y, w, h)
            case 1:
                part = Region(y, width - x - w, h, w)
            case 2:
                part = Region(width - x - w, height - y - h, w, h)
            case _:
                part = Region(height - y - h, x, h, w)
        pixels = np.rot90(self._source.render(part, run), -self._step.turns)
        if self._step.flip:
            pixels = pixels[:, ::-1]
        return np.ascontiguousarray(pixels)
