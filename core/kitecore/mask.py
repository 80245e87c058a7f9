"""Masks: where a step works and how strongly, painted in strokes that lie on the source."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field

from kitecore.geometry import Region, Size
from kitecore.luma import luma
from kitecore.pixels import Pixels
from kitecore.run import Run
from kitecore.stage import Stage

Plane = npt.NDArray[np.float32]
#: 2×3, from pixels of one picture to those of another, both from the upper left corner.
Affine = npt.NDArray[np.float64]

MOST_POINTS, MOST_STROKES = 4000, 400
#: How different from where the brush was put down a pixel may be before an edge-aware stroke leaves it, in luma.
_EDGE_REACH = 0.09

Percent = Annotated[float, Field(ge=0, le=100)]


class Stroke(BaseModel):
    """One movement of the brush. Places and sizes are in pixels of the upright source, so they hold under every frame and factor."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    points: Annotated[list[tuple[float, float]], Field(min_length=1, max_length=MOST_POINTS)]
    size: Annotated[float, Field(gt=0, le=20_000, description="Diameter, px.")] = 60.0
    softness: Annotated[Percent, Field(description="Share of the radius over which it fades.")] = 50.0
    strength: Percent = 100.0
    erase: Annotated[bool, Field(description="Takes away instead of adding.")] = False
    edges: Annotated[bool, Field(description="Stays on tones like those it passes over.")] = False


class Mask(BaseModel):
    """Strokes laid one over the other, from nothing. Inverted, the step works everywhere but there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    strokes: Annotated[list[Stroke], Field(max_length=MOST_STROKES)] = []
    inverted: bool = False

    def values(self, region: Region, back: Affine, looked_at: Stage, run: Run) -> Plane:
        """The mask over ``region`` of a picture, H×W, 0..1.

        ``back`` takes the picture's pixels to those of the source. ``looked_at`` is the framed original at the picture's
        size, for strokes that stay within edges: what other steps do to tones does not move a mask.
        """
        values = np.zeros((region.height, region.width), np.float32)
        pixels: Plane | None = None
        for stroke in self.strokes:
            touched = _touched(stroke, region, back)
            if touched is None:
                continue
            weight = _weight(stroke, touched, back)
            if stroke.edges and weight.any():
                if pixels is None:
                    pixels = luma(looked_at.render(region, run))
                own = pixels[
                    touched.y - region.y : touched.bottom - region.y, touched.x - region.x : touched.right - region.x
                ]
                weight *= _likeness(stroke, touched, own, back, looked_at, run)
            part = values[
                touched.y - region.y : touched.bottom - region.y, touched.x - region.x : touched.right - region.x
            ]
            weight *= np.float32(stroke.strength / 100)
            np.copyto(part, part * (1 - weight) if stroke.erase else np.maximum(part, weight))
        return 1 - values if self.inverted else values


def _scale(back: Affine) -> float:
    """Source pixels for one of the picture."""
    return math.sqrt(abs(float(np.linalg.det(back[:, :2]))))


def _points(stroke: Stroke, back: Affine) -> npt.NDArray[np.float64]:
    """The stroke's points in pixels of the picture, N×2."""
    forward = np.linalg.inv(np.vstack([back, [0, 0, 1]]))[:2]
    return np.asarray(stroke.points, np.float64) @ forward[:, :2].T + forward[:, 2]


def _touched(stroke: Stroke, region: Region, back: Affine) -> Region | None:
    """The part of ``region`` that the stroke can reach."""
    points, radius = _points(stroke, back), stroke.size / 2 / _scale(back)
    left, top = np.floor(points.min(axis=0) - radius).astype(int)
    right, bottom = np.ceil(points.max(axis=0) + radius).astype(int)
    part = Region.between(
        max(int(left), region.x), max(int(top), region.y),
        min(int(right), region.right), min(int(bottom), region.bottom),
    )  # fmt: skip
    return part if part.width > 0 and part.height > 0 else None


def _weight(stroke: Stroke, part: Region, back: Affine) -> Plane:
    """1 along the stroke, falling to 0 at its rim, by the distance of every pixel's middle from the line."""
    points, radius = _points(stroke, back), max(stroke.size / 2 / _scale(back), 0.5)
    nearest = np.full((part.height, part.width), np.inf, np.float64)
    starts, ends = (points[:-1], points[1:]) if len(points) > 1 else (points, points)
    for start, end in zip(starts, ends, strict=True):
        left, top = np.floor(np.minimum(start, end) - radius).astype(int) - [part.x, part.y]
        right, bottom = np.ceil(np.maximum(start, end) + radius).astype(int) - [part.x, part.y]
        rows, columns = slice(max(0, top), max(0, bottom)), slice(max(0, left), max(0, right))
        own = nearest[rows, columns]
        if not own.size:
            continue
        y = np.arange(part.y + rows.start, part.y + rows.start + own.shape[0])[:, None] + 0.5
        x = np.arange(part.x + columns.start, part.x + columns.start + own.shape[1])[None] + 0.5
        along = end - start
        length = float(along @ along)
        share = np.clip(((x - start[0]) * along[0] + (y - start[1]) * along[1]) / length, 0, 1) if length else 0.0
        np.minimum(own, np.hypot(x - start[0] - share * along[0], y - start[1] - share * along[1]), out=own)
    fade = max(radius * stroke.softness / 100, 1e-6)
    inside = np.clip((radius - nearest) / fade, 0, 1)
    return np.asarray(inside * inside * (3 - 2 * inside), np.float32)


def _likeness(
    stroke: Stroke, part: Region, own: Plane, back: Affine, looked_at: Stage, run: Run
) -> Plane:  # fmt: skip
    """How like every pixel is to the tones that the middle of the brush passed over, 0..1."""
    tones = []
    for x, y in _points(stroke, back)[:: max(1, len(stroke.points) // 24)]:
        place = Region(
            int(np.clip(x - 1, 0, looked_at.size.width - 1)), int(np.clip(y - 1, 0, looked_at.size.height - 1)), 1, 1
        )
        around = Region.between(
            place.x, place.y, min(place.x + 3, looked_at.size.width), min(place.y + 3, looked_at.size.height)
        )
        tones.append(float(luma(looked_at.render(around, run)).mean()))
    difference = np.abs(own[..., None] - np.asarray(tones, np.float32)).min(axis=2)
    return np.asarray(np.exp(-((difference / _EDGE_REACH) ** 2) * 2), np.float32)


class MaskedStage(Stage):
    """What a step makes where its mask is, what was there before elsewhere; nothing is computed where the mask is 0."""

    def __init__(self, before: Stage, after: Stage, mask: Mask, back: Affine, looked_at: Stage) -> None:
        super().__init__(after.size, after.bands)
        self._before, self._after, self._mask, self._back, self._looked_at = before, after, mask, back, looked_at

    def render(self, region: Region, run: Run) -> Pixels:
        values = self._mask.values(region, self._back, self._looked_at, run)
        if not values.any():
            return self._before.render(region, run)
        if values.min() == 1:
            return self._after.render(region, run)
        result = self._before.render(region, run)
        rows, columns = np.flatnonzero(values.any(axis=1)), np.flatnonzero(values.any(axis=0))
        part = Region.between(
            region.x + int(columns[0]), region.y + int(rows[0]),
            region.x + int(columns[-1]) + 1, region.y + int(rows[-1]) + 1,
        )  # fmt: skip
        inner = np.s_[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
        made = self._after.render(part, run)
        result[inner] += values[inner][..., None] * (made - result[inner])
        return result


class WeightStage(Stage):
    """A mask as a picture of one band, over ``looked_at``."""

    def __init__(self, mask: Mask, looked_at: Stage, back: Affine) -> None:
        super().__init__(looked_at.size, 1)
        self._mask, self._looked_at, self._back = mask, looked_at, back

    def render(self, region: Region, run: Run) -> Pixels:
        return self._mask.values(region, self._back, self._looked_at, run)[..., None]


class ProductStage(Stage):
    """Two pictures of one band, multiplied."""

    def __init__(self, one: Stage, other: Stage) -> None:
        super().__init__(one.size, 1)
        self._one, self._other = one, other

    def render(self, region: Region, run: Run) -> Pixels:
        return np.asarray(self._one.render(region, run) * self._other.render(region, run), np.float32)


def affine_of(size: Size, reduced: Size, back_of: Affine) -> Affine:
    """``back_of`` a picture of ``size``, for its version reduced to ``reduced``."""
    grown = np.diag([size.width / reduced.width, size.height / reduced.height])
    return np.column_stack([back_of[:, :2] @ grown, back_of[:, 2]])
