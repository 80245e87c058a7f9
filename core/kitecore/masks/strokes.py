"""Strokes of a brush: how strongly each pixel is touched by them."""

from __future__ import annotations

from typing import Annotated

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field

from kitecore.masks.original import Plane
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.values import Percent

MOST_POINTS, MOST_STROKES = 4000, 400
#: How different from where the brush was put down a pixel may be before an edge-aware stroke leaves it, in luma.
_EDGE_REACH = 0.09


class Stroke(BaseModel):
    """One movement of the brush. Places and sizes are in pixels of the upright source: they hold under every frame and factor."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    points: Annotated[list[tuple[float, float]], Field(min_length=1, max_length=MOST_POINTS)]
    size: Annotated[float, Field(gt=0, le=20_000, description="Diameter, px.")] = 60.0
    softness: Annotated[Percent, Field(description="Share of the radius over which it fades.")] = 50.0
    strength: Percent = 100.0
    erase: Annotated[bool, Field(description="Takes away instead of adding.")] = False
    edges: Annotated[bool, Field(description="Stays on tones like those it passes over.")] = False


def _points(stroke: Stroke, back: Mapping) -> npt.NDArray[np.float64]:
    """The stroke's points in pixels of the picture, N×2."""
    points = np.asarray(stroke.points, np.float64)
    return np.stack(back.from_source(points[:, 0], points[:, 1]), axis=1)


def touched(stroke: Stroke, region: Region, back: Mapping) -> Region | None:
    """The part of ``region`` that the stroke can reach."""
    points, radius = _points(stroke, back), stroke.size / 2 / back.scale
    left, top = np.floor(points.min(axis=0) - radius).astype(int)
    right, bottom = np.ceil(points.max(axis=0) + radius).astype(int)
    return region.intersection(Region.between(int(left), int(top), int(right), int(bottom)))


def weight(stroke: Stroke, part: Region, back: Mapping) -> Plane:
    """1 along the stroke, falling to 0 at its rim, by the distance of every pixel's middle from the line."""
    points, radius = _points(stroke, back), max(stroke.size / 2 / back.scale, 0.5)
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


def likeness(stroke: Stroke, own: Plane, back: Mapping, looked_at: Stage, run: Run) -> Plane:
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
