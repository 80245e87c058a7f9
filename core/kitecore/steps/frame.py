"""Frame: quarter turns, flip, straighten, crop; exact as long as nothing is straightened."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
import pyvips
from pydantic import BaseModel, ConfigDict, Field

from kitecore.errors import TakeError
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.pixels import Pixels, has_alpha, premultiplied, unpremultiplied
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Step

_REACH = 3


class Crop(BaseModel):
    """A rectangle in pixels of the turned, flipped and straightened picture, whose pixels are as large as the source's."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    x: int = Field(ge=0)
    y: int = Field(ge=0)
    width: int = Field(ge=1)
    height: int = Field(ge=1)


class Frame(Step):
    """What of the picture is used: turned clockwise, then flipped, then straightened about the middle, then cropped.

    The crop is kept as it was given. If the picture does not reach that far (straightening cuts corners off) it is
    shrunk about its middle until it fits; without a crop, the largest rectangle of the picture's own shape is used.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "frame"
    purpose: ClassVar[str] = "Crop, turn, straighten, flip"
    belongs: ClassVar[Belongs] = "frame"
    takes_mask: ClassVar[bool] = False

    kind: Literal["frame"] = "frame"
    turns: Annotated[int, Field(ge=0, le=3, description="Quarter turns clockwise.")] = 0
    flip: Annotated[bool, Field(description="Mirror left and right, after the turns.")] = False
    angle: Annotated[float, Field(ge=-45, le=45, description="Degrees clockwise, after the flip.")] = 0.0
    crop: Crop | None = None

    def turned_size(self, size: Size) -> Size:
        """Size after the quarter turns."""
        return Size(size.height, size.width) if self.turns % 2 else size

    def region(self, size: Size) -> Region:
        """The crop that is really used on a source of ``size``. Raises TakeError if it misses the picture."""
        turned = self.turned_size(size)
        wanted = self.crop
        if wanted is None:
            return _largest_inside(turned, turned.region, self.angle)
        right, bottom = min(wanted.x + wanted.width, turned.width), min(wanted.y + wanted.height, turned.height)
        if right <= wanted.x or bottom <= wanted.y:
            raise TakeError(
                f"The crop starts at {wanted.x}, {wanted.y}, outside the picture of {turned} px; draw it again."
            )
        return _largest_inside(turned, Region.between(wanted.x, wanted.y, right, bottom), self.angle)

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
        if self.crop:
            parts.append(f"cropped to {self.crop.width} × {self.crop.height} px from {self.crop.x}, {self.crop.y}")
        return ", ".join(parts)

    def forward(self, place: Place, size: Size) -> Place:
        turned, crop = self.turned_size(size), self.region(size)
        match self.turns:
            case 0:
                x, y = place.x, place.y
            case 1:
                x, y = size.height - place.y, place.x
            case 2:
                x, y = size.width - place.x, size.height - place.y
            case _:
                x, y = place.y, size.width - place.x
        if self.flip:
            x = turned.width - x
        x, y = _rotated(x, y, turned, self.angle)
        return Place(x - crop.x, y - crop.y)

    def backward(self, place: Place, size: Size) -> Place:
        turned, crop = self.turned_size(size), self.region(size)
        x, y = _rotated(place.x + crop.x, place.y + crop.y, turned, -self.angle)
        if self.flip:
            x = turned.width - x
        match self.turns:
            case 0:
                return Place(x, y)
            case 1:
                return Place(y, size.height - x)
            case 2:
                return Place(size.width - x, size.height - y)
            case _:
                return Place(size.width - y, x)

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        crop = self.region(full)
        if source.size != full:
            crop = _scaled(crop, full, source.size, result)
        return _FrameStage(source, self, crop)


def _rotated(x: float, y: float, canvas: Size, angle: float) -> tuple[float, float]:
    """A point turned by ``angle``° clockwise about the middle of a picture of ``canvas`` size."""
    cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    dx, dy = x - canvas.width / 2, y - canvas.height / 2
    return canvas.width / 2 + cos * dx - sin * dy, canvas.height / 2 + sin * dx + cos * dy


def _largest_inside(canvas: Size, wanted: Region, angle: float) -> Region:
    """``wanted`` shrunk about its middle until it lies in a picture of ``canvas`` size straightened by ``angle``°."""
    if not angle:
        return wanted
    radians = math.radians(abs(angle))
    cos, sin = math.cos(radians), math.sin(radians)
    middle_x, middle_y = (
        wanted.x + wanted.width / 2 - canvas.width / 2,
        wanted.y + wanted.height / 2 - canvas.height / 2,
    )
    turned_x, turned_y = _rotated(canvas.width / 2 + middle_x, canvas.height / 2 + middle_y, canvas, -angle)
    room_x, room_y = (
        canvas.width / 2 - abs(turned_x - canvas.width / 2),
        canvas.height / 2 - abs(turned_y - canvas.height / 2),
    )
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
        wanted = Region(region.x + self._crop.x, region.y + self._crop.y, region.width, region.height)
        if not self._step.angle:
            return self._turned_pixels(wanted, run)
        return self._straightened(wanted, run)

    def _turned_pixels(self, region: Region, run: Run) -> Pixels:
        """A region of the turned and flipped picture: a permutation of source pixels."""
        width, height = self._turned.width, self._turned.height
        x = width - region.right if self._step.flip else region.x
        y, w, h = region.y, region.width, region.height
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

    def _straightened(self, region: Region, run: Run) -> Pixels:
        """A region of the straightened picture, by locally bounded bicubic interpolation (no overshoot)."""
        cos, sin = math.cos(math.radians(self._step.angle)), math.sin(math.radians(self._step.angle))

        def before(x: float, y: float) -> tuple[float, float]:
            return _rotated(x, y, self._turned, -self._step.angle)

        corners = [before(x, y) for x in (region.x, region.right) for y in (region.y, region.bottom)]
        left, top = (math.floor(min(side)) - _REACH for side in zip(*corners, strict=True))
        right, bottom = (math.ceil(max(side)) + _REACH for side in zip(*corners, strict=True))
        pixels = _Turned(self).extended(Region.between(left, top, right, bottom), run)
        alpha = has_alpha(self.bands)
        if alpha:
            pixels = premultiplied(pixels)
        image = pyvips.Image.new_from_memory(pixels.data, pixels.shape[1], pixels.shape[0], pixels.shape[2], "float")
        # Sample centres of vips lie on whole numbers, ours half a pixel in; the affine map takes input to output.
        start_x, start_y = before(region.x + 0.5, region.y + 0.5)
        input_x, input_y = start_x - 0.5 - left, start_y - 0.5 - top
        turned = image.affine(
            [cos, -sin, sin, cos],
            interpolate=pyvips.Interpolate.new("lbb"),
            idx=-input_x, idy=-input_y,
            oarea=[0, 0, region.width, region.height],
            extend="copy",
        )  # fmt: skip
        result: Pixels = turned.numpy().reshape(region.height, region.width, self.bands).copy()
        return unpremultiplied(result) if alpha else result


class _Turned(Stage):
    """The whole turned and flipped picture, before straightening and crop."""

    def __init__(self, framed: _FrameStage) -> None:
        super().__init__(framed._turned, framed.bands)
        self._framed = framed

    def render(self, region: Region, run: Run) -> Pixels:
        return self._framed._turned_pixels(region, run)
