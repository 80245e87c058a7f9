"""Perspective and distortion as they are set: what becomes of a picture, and how much of it can be used."""

from __future__ import annotations

import itertools
import math
from typing import TypeAlias

import cv2
import numpy as np

from kitecore.errors import TakeError
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Mapping, Warp

Corner: TypeAlias = tuple[float, float]
Corners: TypeAlias = tuple[Corner, Corner, Corner, Corner]

#: Bend of the division model at 100: a corner lies a fifth farther out or in than it should.
_MOST_BEND = 0.2
#: How much nearer or farther than the middle a picture's border is at 100.
_MOST_TILT = 0.4
#: Along each side of a crop so many places are looked at, and so often it is halved between what fits and what does not.
_PLACES, _HALVINGS = 65, 40


def goes_round(corners: Corners) -> bool:
    """Whether four corners are those of a shape without a dent, clockwise, none on the line of its neighbours."""
    turns = []
    for (ax, ay), (bx, by), (cx, cy) in zip(corners, corners[1:] + corners[:1], corners[2:] + corners[:2], strict=True):
        turns.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    return min(turns) > 1


def warp_of(size: Size, distortion: float, vertical: float, horizontal: float, corners: Corners | None) -> Warp | None:
    """From the picture as it should be to a source of ``size`` px, its middle in its place; None if nothing is to be done.

    Nothing of the source is lost by ``distortion``: undone outward bows keep its corners in their places, inward ones the middles
    of its longer sides. ``vertical`` and ``horizontal`` tilt about the middle; ``corners`` become a rectangle as large as they
    are on average, about their own middle.
    """
    if not (distortion or vertical or horizontal or corners):
        return None
    x, y = size.width / 2, size.height / 2
    radius = math.hypot(x, y)
    bend = _MOST_BEND * distortion / 100
    held = 1.0 if bend > 0 else min(x, y) / radius
    undistorted = Warp((x, y), radius, bend, 1 - bend * held**2)
    to_middle = np.array([[1, 0, -x], [0, 1, -y], [0, 0, 1.0]])
    tilt = np.eye(3)
    tilt[2, :2] = _MOST_TILT * horizontal / 100 / x, _MOST_TILT * vertical / 100 / y
    matrix = np.linalg.inv(to_middle) @ tilt @ to_middle
    if corners:
        seen = np.stack(undistorted.unmoved(*np.array(corners, np.float64).T), axis=1)
        matrix = _to_corners(seen) @ matrix
    matrix /= matrix[2] @ [x, y, 1]
    return Warp((x, y), radius, bend, undistorted.gain, tuple(matrix.ravel().tolist()))


def _to_corners(seen: np.ndarray) -> np.ndarray:
    """From a rectangle about the middle of four places, its sides the means of theirs, to these."""
    sides = [float(np.hypot(*(b - a))) for a, b in itertools.pairwise([*seen, seen[0]])]
    width, height = (sides[0] + sides[2]) / 2, (sides[1] + sides[3]) / 2
    unit = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) / 2
    rectangle = seen.mean(axis=0) + unit * [width, height]
    return np.asarray(cv2.getPerspectiveTransform(rectangle.astype(np.float32), seen.astype(np.float32)), np.float64)


def largest_mapped_inside(wanted: Region, to_source: Mapping, size: Size) -> Region:
    """``wanted`` shrunk about its middle until all of it comes from a source of ``size``. Raises TakeError if nothing does."""

    def shrunk(share: float) -> Region:
        width, height = max(1, math.floor(wanted.width * share)), max(1, math.floor(wanted.height * share))
        return Region(
            wanted.x + (wanted.width - width) // 2, wanted.y + (wanted.height - height) // 2, width, height
        )  # fmt: skip

    def fits(part: Region) -> bool:
        along = np.linspace(0, 1, _PLACES)
        x, y = part.x + part.width * along, part.y + part.height * along
        left, top = np.full_like(x, part.x), np.full_like(y, part.y)
        right, bottom = left + part.width, top + part.height
        across, down = to_source.to_source(np.concatenate([x, x, left, right]), np.concatenate([top, bottom, y, y]))
        inside = (across >= -1e-6) & (across <= size.width + 1e-6) & (down >= -1e-6) & (down <= size.height + 1e-6)
        return bool(inside.all())

    if fits(wanted):
        return wanted
    least, most = 0.0, 1.0
    for _ in range(_HALVINGS):
        middle = (least + most) / 2
        least, most = (middle, most) if fits(shrunk(middle)) else (least, middle)
    if not fits(shrunk(least)):
        raise TakeError("The crop lies outside the straightened picture; draw it again.")
    return shrunk(least)
