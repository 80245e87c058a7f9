"""Shapes traced as strokes of a brush: what hangs together, but may branch, cross itself and end in a blot."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from typing import Literal, NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region

Kind = Literal["speck", "line"]
Where = npt.NDArray[np.bool_]
Plane = npt.NDArray[np.float32]
Places = npt.NDArray[np.float64]

#: Smallest shape that is traced, px.
SMALLEST = 3
#: A shape so many times as long as wide is a line.
_LINE = 3.5
#: How much wider than itself what covers it is, px.
_MARGIN = 1.5
#: A brush widens to what sticks out of a line, up to so many times its width or so many px; farther out it is a branch.
_WIDENED, _WIDENED_BY = 1.6, 2.5
#: Of what lies near enough, in %, so that one wide place does not widen all of it.
_COVERED = 97
_MOST_POINTS = 60
#: Pixels of a path of which the mean is taken.
_SMOOTHED = 5

_Place = tuple[int, int]
_NEIGHBOURS = tuple((down, across) for down in (-1, 0, 1) for across in (-1, 0, 1) if down or across)


class Stroke(NamedTuple):
    """A line through a shape, places in pixels, and how wide a brush along it covers it."""

    kind: Kind
    points: list[tuple[float, float]]
    size: float


def shapes_in(where: Where) -> Iterator[tuple[tuple[slice, slice], Where]]:
    """What hangs together in an H×W plane: the box each lies in, and its pixels in there; none smaller than :data:`SMALLEST`."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(where.astype(np.uint8), connectivity=8)
    whole = Region(0, 0, where.shape[1], where.shape[0])
    for label in range(1, count):
        x, y, width, height, area = (int(value) for value in stats[label])
        if area >= SMALLEST:
            box = Region(x, y, width, height).slices(whole)
            yield box, labels[box] == label


def strokes_over(shape: Where) -> Iterator[tuple[Where, Stroke]]:
    """Strokes that cover a connected shape, H×W, the longest first, each with the pixels it is there for.

    One goes from end to end; what lies too far from it to be covered is a shape of its own, and so on.
    """
    pending = deque([(np.s_[:, :], shape)])
    while pending:
        box, part = pending.popleft()
        stroke, covered = _stroke_along(part)
        mine = np.zeros_like(shape)
        mine[box] = covered
        down, across = (one.start or 0 for one in box)
        yield mine, stroke._replace(points=[(x + across, y + down) for x, y in stroke.points])
        for inner, rest in shapes_in(part & ~covered):
            lies = tuple(
                slice(first + one.start, first + one.stop) for first, one in zip((down, across), inner, strict=True)
            )
            pending.append(((lies[0], lies[1]), rest))


def _stroke_along(shape: Where) -> tuple[Stroke, Where]:
    """The longest stroke along a shape, and what of it that covers; places count from the shape's corner."""
    depth = np.asarray(cv2.distanceTransform(np.pad(shape, 1).astype(np.uint8), cv2.DIST_L2, 5), np.float32)[1:-1, 1:-1]
    path = _longest_path(shape, depth)
    length = float(np.hypot(*np.diff(path, axis=0).T).sum()) if len(path) > 1 else 0.0
    columns, rows = path.astype(np.int64).T
    half = float(np.percentile(depth[rows, columns], 90))
    if length <= _LINE * 2 * half:
        ys, xs = np.nonzero(shape)
        middle = np.array([xs.mean(), ys.mean()]) + 0.5
        reach = float(np.hypot(xs + 0.5 - middle[0], ys + 0.5 - middle[1]).max())
        return Stroke("speck", [(float(middle[0]), float(middle[1]))], 2 * (reach + _MARGIN)), shape
    away = _away_from(path, shape)
    limit = max(_WIDENED * half, half + _WIDENED_BY)
    reach = float(np.percentile(away[shape & (away <= limit)], _COVERED)) + 0.5
    points = path[:: max(1, -(-len(path) // _MOST_POINTS))]
    points = np.vstack([points, path[-1:]]) if not np.array_equal(points[-1], path[-1]) else points
    stroke = Stroke("line", [(float(x), float(y)) for x, y in points], 2 * (reach + _MARGIN))
    return stroke, shape & (away <= reach + _MARGIN)


def _away_from(path: Places, shape: Where) -> Plane:
    """How far each pixel lies from a path, H×W px."""
    canvas = np.ones(shape.shape, np.uint8)
    cv2.polylines(canvas, [np.int32(path).reshape(-1, 1, 2)], False, 0, 1)
    return np.asarray(cv2.distanceTransform(canvas, cv2.DIST_L2, 5), np.float32)


def _longest_path(shape: Where, depth: Plane) -> Places:
    """From one end of a shape to the other, N×2 places: the longest of the shortest ways through it.

    The pixel farthest from anywhere is one end, the one farthest from there the other.
    """
    deepest = np.unravel_index(int(depth.argmax()), shape.shape)
    padded = np.pad(shape, 1)
    start = _steps_from((int(deepest[0]) + 1, int(deepest[1]) + 1), padded)[1]
    steps, place = _steps_from(start, padded)
    ways = [place]
    while steps[place]:
        nearer = [
            there
            for down, across in _NEIGHBOURS
            if steps.get(there := (place[0] + down, place[1] + across)) == steps[place] - 1
        ]
        # The middle is where a shape is deepest.
        place = max(nearer, key=lambda there: depth[there[0] - 1, there[1] - 1])
        ways.append(place)
    path = np.asarray(ways, np.float64)[:, ::-1] - 0.5
    if len(path) < _SMOOTHED:
        return path
    around = np.pad(path, ((_SMOOTHED // 2, _SMOOTHED // 2), (0, 0)), mode="reflect", reflect_type="odd")
    even = np.ones(_SMOOTHED) / _SMOOTHED
    return np.stack([np.convolve(line, even, "valid") for line in around.T], axis=1)


def _steps_from(start: _Place, shape: Where) -> tuple[dict[_Place, int], _Place]:
    """How many steps each pixel of a shape (with a border of none) lies from one of them, row and column; and the farthest."""
    steps, pending, last = {start: 0}, deque([start]), start
    while pending:
        last = pending.popleft()
        for down, across in _NEIGHBOURS:
            there = (last[0] + down, last[1] + across)
            if there not in steps and shape[there]:
                steps[there] = steps[last] + 1
                pending.append(there)
    return steps, last
