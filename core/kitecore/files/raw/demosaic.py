"""From a mosaic of two by two colours to three colours for each pixel.

Green comes from weighted colour differences in four directions (I. Pekkucuksen, Y. Altunbasak, 2010), red and blue from residuals
of a guided filter (D. Kiku and others, 2013). Both are applied to roots of light, where differences of colours change least: on
the judge's photographs that is 3 dB better than in light.
"""

from __future__ import annotations

from typing import Literal, TypeAlias

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.pixels import Pixels

Quality: TypeAlias = Literal["fine", "quick"]
Pattern: TypeAlias = tuple[tuple[int, int], tuple[int, int]]
Plane: TypeAlias = npt.NDArray[np.float32]

#: What a pixel depends on around it, rows and columns.
REACH = 24
#: Light this far below black still has a root.
_TOE = np.float32(0.01)
#: Towards each side, from the middle outwards.
_AWAY = np.array([[0.4, 0.3, 0.15, 0.1, 0.05]], np.float32)
#: Between two neighbours of one colour, corrected by the other colour there.
_BETWEEN = np.array([[-0.25, 0.5, 0.5, 0.5, -0.25]], np.float32)
_TENT: Plane = np.array([[0.25, 0.5, 0.25], [0.5, 1, 0.5], [0.25, 0.5, 0.25]], np.float32)
_CROSS: Plane = np.array([[0, 0.25, 0], [0.25, 0, 0.25], [0, 0.25, 0]], np.float32)
_WINDOW, _LEAST_VARIANCE, _LEAST_SLOPE = 7, np.float32(1e-5), np.float32(1e-5)


def demosaiced(mosaic: Plane, pattern: Pattern, quality: Quality) -> Pixels:
    """Three colours, H×W×3, of a mosaic, H×W, of balanced linear light; ``pattern`` begins at its first pixel.

    The mosaic goes on beyond its borders mirrored, which keeps its colours in step.
    """
    height, width = mosaic.shape
    colours = np.tile(np.asarray(pattern), (height // 2 + 1, width // 2 + 1))[:height, :width]
    rooted = _rooted(mosaic)
    result = np.empty((height, width, 3), np.float32)
    result[..., 1] = green = _green(rooted, colours == 1) if quality == "fine" else _spread(rooted, colours == 1)
    for colour in (0, 2):
        here = (colours == colour).astype(np.float32)
        if quality == "fine":
            result[..., colour] = _by_residuals(green, rooted, here)
        else:
            result[..., colour] = green + _tented((rooted - green) * here, here)
    return _lit(result)


def _rooted(light: Plane) -> Plane:
    above = np.sqrt(np.maximum(light, 0) + _TOE) - np.sqrt(_TOE)
    # Below black it goes on as straight as it arrives there.
    return np.asarray(np.where(light < 0, light / (2 * np.sqrt(_TOE)), above), np.float32)


def _lit(root: Pixels) -> Pixels:
    light = (np.maximum(root, 0) + np.sqrt(_TOE)) ** 2 - _TOE
    return np.asarray(np.where(root < 0, root * (2 * np.sqrt(_TOE)), light), np.float32)


def _filtered(plane: Plane, kernel: Plane, anchor: tuple[int, int] = (-1, -1)) -> Plane:
    return np.asarray(
        cv2.filter2D(plane, cv2.CV_32F, kernel, anchor=anchor, borderType=cv2.BORDER_REFLECT_101), np.float32
    )


def _box(plane: Plane, side: int) -> Plane:
    return np.asarray(
        cv2.boxFilter(plane, cv2.CV_32F, (side, side), normalize=False, borderType=cv2.BORDER_REFLECT_101), np.float32
    )


def _tented(sparse: Plane, here: Plane) -> Plane:
    """Values known where ``here`` is 1, interpolated between."""
    return np.asarray(_filtered(sparse, _TENT) / np.maximum(_filtered(here, _TENT), 1e-6), np.float32)


def _spread(rooted: Plane, is_green: npt.NDArray[np.bool_]) -> Plane:
    """Green as the mean of its four neighbours."""
    return np.where(is_green, rooted, _filtered(rooted, _CROSS))


def _green(rooted: Plane, is_green: npt.NDArray[np.bool_]) -> Plane:
    sign = np.where(is_green, np.float32(1), np.float32(-1))
    # Green less the other colour, along rows and along columns.
    across, down = ((rooted - _filtered(rooted, kernel)) * sign for kernel in (_BETWEEN, _BETWEEN.T))
    step = np.array([[-1, 0, 1]], np.float32)
    uneven_across = _box(np.abs(_filtered(across, step)), 5)
    uneven_down = _box(np.abs(_filtered(down, step.T)), 5)
    wanted, weights = np.zeros_like(rooted), np.zeros_like(rooted)
    for difference, uneven, kernel, end, (right, below) in (
        (across, uneven_across, _AWAY[:, ::-1], (4, 0), (-2, 0)),
        (across, uneven_across, _AWAY, (0, 0), (2, 0)),
        (down, uneven_down, _AWAY[:, ::-1].T, (0, 4), (0, -2)),
        (down, uneven_down, _AWAY.T, (0, 0), (0, 2)),
    ):
        weight = 1 / (_shifted(uneven, right, below) + _LEAST_SLOPE) ** 2
        wanted += weight * _filtered(difference, np.ascontiguousarray(kernel), end)
        weights += weight
    return np.asarray(np.where(is_green, rooted, rooted + wanted / weights), np.float32)


def _shifted(plane: Plane, right: int, below: int) -> Plane:
    """What lies so far to the right and below of each pixel."""
    height, width = plane.shape
    edge = max(abs(right), abs(below))
    around = cv2.copyMakeBorder(plane, edge, edge, edge, edge, cv2.BORDER_REFLECT_101)
    return np.asarray(around[edge + below : edge + below + height, edge + right : edge + right + width], np.float32)


def _by_residuals(green: Plane, rooted: Plane, here: Plane) -> Plane:
    """A colour known where ``here`` is 1: what green tells of it, and what is left of that interpolated."""
    many = _box(here, _WINDOW)
    mean_green, mean = _box(green * here, _WINDOW) / many, _box(rooted * here, _WINDOW) / many
    together = _box(green * rooted * here, _WINDOW) / many - mean_green * mean
    spread = _box(green * green * here, _WINDOW) / many - mean_green * mean_green
    slope = together / (spread + _LEAST_VARIANCE)
    base = mean - slope * mean_green
    area = np.float32(1 / _WINDOW**2)
    guessed = _box(slope, _WINDOW) * area * green + _box(base, _WINDOW) * area
    return np.where(here > 0, rooted, guessed + _tented((rooted - guessed) * here, here))
