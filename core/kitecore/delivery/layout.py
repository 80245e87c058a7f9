"""The paper around a picture: border, wrap for a stretched canvas, bleed, trim marks, panels.

From the inside out: the face, exactly the result's pixels; a border of plain paper or a wrap that goes around the
stretcher bars; the bleed, which is cut off; free paper with marks that tell where to cut and where to fold.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal, TypeAlias

import cv2
import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field

from kitecore.errors import TakeError
from kitecore.lengths import MILLIMETRES_PER_INCH
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.luma import LUMA
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

Millimetres = Annotated[float, Field(ge=0, le=200)]
Edge: TypeAlias = Literal["mirror", "stretch", "blur", "plain"]

MOST_PANELS = 12
_WRAPS: dict[Edge, str] = {
    "mirror": "made of the picture's edges mirrored", "stretch": "made of the picture's edges stretched",
    "blur": "made of the picture's edges blurred", "plain": "plain",
}  # fmt: skip
#: Length of marks, their distance from the bleed and their width, in millimetres.
_MARK_LENGTH, _MARK_GAP, _MARK_WIDTH = 5.0, 1.0, 0.1
#: How much slower than mirrored a stretched wrap walks back into the face.
_STRETCH = 0.08
#: σ of a blurred wrap, as a share of its depth.
_BLUR = 0.12


class Layout(BaseModel):
    """How a picture lies on its paper or canvas."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    border_mm: Millimetres = Field(default=0, description="Paper left free on every side of the picture.")
    wrap_mm: Millimetres = Field(default=0, description="Depth that goes around the bars of a stretched canvas.")
    wrap: Edge = Field(default="mirror", description="What is on it, made from the picture's edges, or plain.")
    bleed_mm: Millimetres = Field(default=0, description="What is printed beyond the cut, to be cut off.")
    colour: str = Field(default="#ffffff", pattern=r"^#[0-9a-f]{6}$", description="Of the border and a plain wrap.")
    marks: bool = Field(default=False, description="Marks outside that tell where to cut and, on canvas, to fold.")
    panels_across: int = Field(default=1, ge=1, le=MOST_PANELS)
    panels_down: int = Field(default=1, ge=1, le=MOST_PANELS)
    overlap_mm: Millimetres = Field(default=0, description="What neighbouring panels share.")
    panel: int = Field(default=1, ge=1, le=MOST_PANELS**2, description="Which panel this file is, row by row.")

    @property
    def panels(self) -> int:
        return self.panels_across * self.panels_down

    def did(self) -> list[str]:
        """What was put around the picture, in plain words, without full stops."""
        parts = []
        if self.border_mm:
            parts.append(f"a border of {self.border_mm:g} mm in {self.colour} laid around it")
        if self.wrap_mm:
            parts.append(f"a canvas wrap of {self.wrap_mm:g} mm laid around it, {_WRAPS[self.wrap]}")
        if self.bleed_mm:
            parts.append(f"a bleed of {self.bleed_mm:g} mm beyond the cut")
        if self.marks:
            parts.append("marks outside that tell where to cut")
        if self.panels > 1:
            shared = f", sharing {self.overlap_mm:g} mm with its neighbours" if self.overlap_mm else ""
            parts.append(f"panel {self.panel} of {self.panels_across} across and {self.panels_down} down{shared}")
        return parts

    def size(self, face: Size, ppi: float) -> Size:
        """Size of the file for a picture of ``face``. Raises TakeError if there is no such panel."""
        part = self._part(face, ppi)
        margin = self._margin(ppi)
        return Size(part.width + 2 * margin, part.height + 2 * margin)

    def stage(self, face: Stage, ppi: float) -> Stage:
        """The picture with what is around it, at ``ppi`` pixels per inch."""
        art: Stage = _ArtStage(face, self, ppi)
        part = self._part(face.size, ppi)
        if part != art.size.region:
            art = _CutStage(art, part)
        if not self.marks:
            return art
        return _MarkedStage(
            art, self._lines(face.size, part, ppi), self._margin(ppi), max(1, _px(_MARK_WIDTH, ppi)), ppi
        )

    def boxes(self, face: Size, ppi: float) -> tuple[Region, Region]:
        """Where the file is cut, and how far its bleed reaches: parts of the file, trim first."""
        part, margin = self._part(face, ppi), self._margin(ppi)
        bleed = _px(self.bleed_mm, ppi)
        whole = Size(face.width + 2 * self.around(ppi), face.height + 2 * self.around(ppi))
        # Only outer sides of a panel have bleed.
        trim = Region.between(
            max(part.x, bleed), max(part.y, bleed), min(part.right, whole.width - bleed),
            min(part.bottom, whole.height - bleed),
        )  # fmt: skip
        return trim.moved(margin - part.x, margin - part.y), part.moved(margin - part.x, margin - part.y)

    def around(self, ppi: float) -> int:
        """Pixels of border, wrap and bleed on every side of the face."""
        return _px(self.border_mm, ppi) + _px(self.wrap_mm, ppi) + _px(self.bleed_mm, ppi)

    def _margin(self, ppi: float) -> int:
        return _px(_MARK_LENGTH + 2 * _MARK_GAP, ppi) if self.marks else 0

    def _part(self, face: Size, ppi: float) -> Region:
        """The part of the art that is on this panel."""
        if self.panel > self.panels:
            raise TakeError(f"There is no panel {self.panel}; there are {self.panels}.")
        around = self.around(ppi)
        whole = Size(face.width + 2 * around, face.height + 2 * around)
        row, column = divmod(self.panel - 1, self.panels_across)
        overlap = _px(self.overlap_mm, ppi)
        left, right = _span(whole.width, self.panels_across, column, overlap)
        top, bottom = _span(whole.height, self.panels_down, row, overlap)
        return Region.between(left, top, right, bottom)

    def _lines(self, face: Size, part: Region, ppi: float) -> tuple[list[int], list[int]]:
        """Where to cut and to fold, in pixels of the panel: columns and rows."""
        bleed, around = _px(self.bleed_mm, ppi), self.around(ppi)
        fold = {around} if self.wrap_mm else set()
        lines = []
        for length, start, end in ((face.width, part.x, part.right), (face.height, part.y, part.bottom)):
            whole = length + 2 * around
            places = {bleed, whole - bleed} | {place for one in fold for place in (one, whole - one)}
            overlap = _px(self.overlap_mm, ppi)
            # Inner edges of a panel are marked where the overlap begins.
            if start > 0:
                places.add(start + overlap)
            if end < whole:
                places.add(end - overlap)
            lines.append(sorted(place - start for place in places if start <= place <= end))
        return lines[0], lines[1]


def _px(millimetres: float, ppi: float) -> int:
    return round(millimetres / MILLIMETRES_PER_INCH * ppi)


def _span(length: int, count: int, index: int, overlap: int) -> tuple[int, int]:
    """Start and end of one of ``count`` equal parts, each grown by half the overlap towards its neighbours."""
    start, end = (round(length * place / count) for place in (index, index + 1))
    half = overlap // 2
    return (start - half if index else 0), (end + overlap - half if index < count - 1 else length)


class _ArtStage(Stage):
    """The face with its border or wrap, and bleed."""

    def __init__(self, face: Stage, layout: Layout, ppi: float) -> None:
        self._around = layout.around(ppi)
        size = Size(face.size.width + 2 * self._around, face.size.height + 2 * self._around)
        super().__init__(size, face.bands)
        self._face, self._border = face, _px(layout.border_mm, ppi)
        # Bleed goes on with what it lies beside.
        plain = bool(self._border) or (layout.wrap_mm > 0 and layout.wrap == "plain")
        self._edge: Edge = "plain" if plain else layout.wrap if layout.wrap_mm else "mirror"
        self._colour = _bands(layout.colour, face.bands)

    def render(self, region: Region, run: Run) -> Pixels:
        # From here on in coordinates of the face.
        region = region.moved(-self._around, -self._around)
        inner = region.intersection(self._face.size.region)
        if inner is None:
            return self._outside(region, run)
        result = np.empty((region.height, region.width, self.bands), np.float32)
        # What is around is made from the face; where it is not asked for, the face is not computed twice.
        for part in region.without(inner):
            result[part.slices(region)] = self._outside(part, run)
        result[inner.slices(region)] = self._face.render(inner, run)
        return result

    def _outside(self, region: Region, run: Run) -> Pixels:
        """What is around the face, in its coordinates."""
        if self._edge == "plain":
            return np.broadcast_to(self._colour, (region.height, region.width, self.bands)).copy()
        if self._edge == "stretch":
            return self._stretched(region, run)
        if self._edge == "mirror":
            return self._mirrored(region, run)
        sigma = max(0.5, _BLUR * self._around)
        reach = math.ceil(3 * sigma)
        blurred = cv2.GaussianBlur(self._mirrored(region.grown(reach), run), (2 * reach + 1,) * 2, sigma)
        blurred = blurred.reshape(region.height + 2 * reach, region.width + 2 * reach, self.bands)
        return np.ascontiguousarray(blurred[reach:-reach, reach:-reach])

    def _mirrored(self, region: Region, run: Run) -> Pixels:
        return self._face.extended(region, run)

    def _stretched(self, region: Region, run: Run) -> Pixels:
        """Columns and rows outside are taken from just within the edge, slowly further in the further out they are."""
        size = self._face.size
        columns = _walked(region.x, region.right, size.width)
        rows = _walked(region.y, region.bottom, size.height)
        left, top = int(columns.min()), int(rows.min())
        needed = Region.between(
            left, top, min(size.width, int(columns.max()) + 2), min(size.height, int(rows.max()) + 2)
        )
        pixels = self._face.render(needed, run)
        return _between(_between(pixels, rows - top, 0), columns - left, 1)


def _walked(start: int, end: int, length: int) -> npt.NDArray[np.float64]:
    places = np.arange(start, end, dtype=np.float64)
    places = np.where(places < 0, -places * _STRETCH, places)
    last = length - 1
    return np.clip(np.where(places > last, last - (places - last) * _STRETCH, places), 0, last)


def _between(pixels: Pixels, places: npt.NDArray[np.float64], axis: int) -> Pixels:
    """Linear interpolation along one axis."""
    low = np.floor(places).astype(int)
    high = np.minimum(low + 1, pixels.shape[axis] - 1)
    share = (places - low).astype(np.float32)
    share = share[:, None, None] if axis == 0 else share[None, :, None]
    return np.asarray(np.take(pixels, low, axis) * (1 - share) + np.take(pixels, high, axis) * share, np.float32)


def _bands(colour: str, bands: int) -> npt.NDArray[np.float32]:
    """``#rrggbb`` as one pixel of that many bands."""
    rgb = np.array([int(colour[place : place + 2], 16) / 255 for place in (1, 3, 5)], np.float32)
    own = rgb if bands >= 3 else np.array([rgb @ LUMA], np.float32)
    return np.append(own, np.float32(1)) if has_alpha(bands) else own


class _CutStage(Stage):
    """A part of another stage."""

    def __init__(self, whole: Stage, part: Region) -> None:
        super().__init__(part.size, whole.bands)
        self._whole, self._part = whole, part

    def render(self, region: Region, run: Run) -> Pixels:
        return self._whole.render(region.moved(self._part.x, self._part.y), run)


class _MarkedStage(Stage):
    """A picture on white paper with marks beside it, at columns and rows of its own."""

    def __init__(self, art: Stage, lines: tuple[list[int], list[int]], margin: int, thick: int, ppi: float) -> None:
        super().__init__(Size(art.size.width + 2 * margin, art.size.height + 2 * margin), art.bands)
        self._art, self._margin = art, margin
        gap, long = _px(_MARK_GAP, ppi), _px(_MARK_LENGTH, ppi)
        begin = margin - gap - long
        self._marks = [
            Region(margin + column - thick // 2, y, thick, long)
            for column in lines[0] for y in (begin, self.size.height - begin - long)
        ] + [
            Region(x, margin + row - thick // 2, long, thick)
            for row in lines[1] for x in (begin, self.size.width - begin - long)
        ]  # fmt: skip

    def render(self, region: Region, run: Run) -> Pixels:
        result = np.broadcast_to(_bands("#ffffff", self.bands), (region.height, region.width, self.bands)).copy()
        black = _bands("#000000", self.bands)
        for mark in self._marks:
            if part := mark.intersection(region):
                result[part.slices(region)] = black
        margin = self._margin
        if part := self._art.size.region.moved(margin, margin).intersection(region):
            result[part.slices(region)] = self._art.render(part.moved(-margin, -margin), run)
        return result
