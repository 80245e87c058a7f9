"""A texture made to meet itself at opposite edges: light evened out, one end laid over the other along the best cut."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run

Plane = npt.NDArray[np.float32]
Path = npt.NDArray[np.int64]

#: Light is what is left beyond this share of the shorter side, σ; it changes a place by so many times at most.
_LIGHT, _MOST_GAIN = 0.16, 4.0
#: What is darker than this is not made much lighter for it.
_DARK = 0.02
#: Half the width of the way over from one end to the other, pixels at full size, and as a share of the overlap at most.
_FEATHER, _MOST_FEATHER = 3.0, 0.25
#: Of the overlap on either side a cut keeps away from, so that what meets are neighbours of the picture itself.
_RIM = 0.08


def evened(pixels: Pixels, share: float) -> Pixels:
    """H×W×C, coded values, with ``share`` (0..1) of what changes slowly over them taken out, each colour by itself.

    The mean of each colour stays. Alpha is as it was.
    """
    if share <= 0:
        return pixels
    result = pixels.copy()
    colours = colours_of(result)
    sigma = _LIGHT * min(pixels.shape[:2])
    for band in range(colours.shape[2]):
        plane = np.ascontiguousarray(colours[..., band])
        light = _slowly(plane, sigma) + np.float32(_DARK)
        gain = np.clip(light.mean() / np.maximum(light, 1e-4), 1 / _MOST_GAIN, _MOST_GAIN)
        made = plane * (1 + np.float32(share) * (gain - 1))
        made += plane.mean() - made.mean()
        colours[..., band] = made
    return result


def _slowly(plane: Plane, sigma: float) -> Plane:
    """Smoothed beyond its edges, too: by a mean that knows where the picture ends, and how its light leans there."""
    small = max(1.0, sigma / 8)
    size = (max(4, round(plane.shape[1] / small)), max(4, round(plane.shape[0] / small)))
    reduced = np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32)
    rows, columns = np.mgrid[-1 : 1 : size[1] * 1j, -1 : 1 : size[0] * 1j]
    # A light from the side falls off to the last pixel: that part is fitted, only what is left is smoothed.
    terms = np.stack([np.ones_like(rows), rows, columns, rows * columns, rows**2, columns**2], axis=-1).reshape(-1, 6)
    told, *_ = np.linalg.lstsq(terms, reduced.reshape(-1).astype(np.float64), rcond=None)
    fitted = (terms @ told).reshape(reduced.shape).astype(np.float32)
    left = cv2.GaussianBlur(reduced - fitted, (0, 0), sigma / small, borderType=cv2.BORDER_REFLECT)
    whole = cv2.resize(fitted + left, plane.shape[::-1], interpolation=cv2.INTER_CUBIC)
    return np.asarray(whole, np.float32)


def seamless(pixels: Pixels, across: int, down: int, even: float, scale: float, run: Run) -> Pixels:
    """H×W×C made to repeat: ``across`` of its columns and ``down`` of its rows lie over the opposite end and are gone.

    Nothing is mirrored: along the cut one end of the picture goes over into the other. ``even`` (0..1) is how much of its light
    is taken out first, ``scale`` how many pixels of the full picture lie along one of these. Raises Cancelled.

    >>> seamless(np.zeros((40, 50, 3), np.float32), 10, 0, 0, 1, Run()).shape
    (40, 40, 3)
    """
    run.check()
    made = evened(pixels, even)
    run.progress(0.3)
    made = _joined(made, across, scale, False)
    run.check()
    run.progress(0.6)
    turned = np.ascontiguousarray(made.transpose(1, 0, 2))
    return np.ascontiguousarray(_joined(turned, down, scale, True).transpose(1, 0, 2))


def _joined(pixels: Pixels, over: int, scale: float, closed: bool) -> Pixels:
    """Columns of the right end laid over the left one; with ``closed`` the cut ends where it began."""
    if over < 2:
        return pixels[:, : pixels.shape[1] - over]
    result = pixels[:, :-over].copy()
    end, begin = pixels[:, -over:], pixels[:, :over]
    cut = best_cut(np.square(luma(end) - luma(begin)), closed)
    feather = min(max(0.5, _FEATHER / scale), _MOST_FEATHER * over)
    # At the very edge stands the right end alone, which is what follows on the last column.
    share = np.clip(0.5 + (cut[:, None] + 0.5 - np.arange(over)[None]) / (2 * feather), 0, 1)[..., None].astype(
        np.float32
    )
    result[:, :over] = begin + share * (end - begin)
    result[:, 0] = end[:, 0]
    return result


def best_cut(costs: Plane, closed: bool = False) -> Path:
    """For each row of H×W costs the column of the cheapest way from top to bottom, a column aside at most from row to row.

    With ``closed`` its last column is within one of its first.

    >>> best_cut(np.float32([[9, 1, 9], [1, 9, 9], [9, 1, 9]])).tolist()
    [1, 0, 1]
    """
    rows, columns = costs.shape
    rim = min(max(1, round(_RIM * columns)), (columns - 1) // 2) if columns > 4 else 0
    dear = costs.astype(np.float64) + 1e-9
    if rim:
        dear[:, :rim] = dear[:, columns - rim :] = dear.max() * rows + 1
    if closed and rows > 1:
        # Twice around: where it lies half-way is where it would begin if it had no beginning.
        middle = int(_way(np.concatenate([dear, dear]), None)[rows])
        return _way(dear, middle)
    return _way(dear, None)


def _way(costs: npt.NDArray[np.float64], both: int | None) -> Path:
    """The cheapest way; ``both``: from this column to within one of it."""
    rows, columns = costs.shape
    total = np.full_like(costs, np.inf)
    total[0] = costs[0]
    if both is not None:
        total[0] = np.inf
        total[0, both] = costs[0, both]
    for row in range(1, rows):
        above = total[row - 1]
        left = np.concatenate([[np.inf], above[:-1]])
        right = np.concatenate([above[1:], [np.inf]])
        total[row] = costs[row] + np.minimum(above, np.minimum(left, right))
    last = total[-1].copy()
    if both is not None:
        last[np.abs(np.arange(columns) - both) > 1] = np.inf
    way = np.empty(rows, np.int64)
    way[-1] = int(np.argmin(last))
    for row in range(rows - 2, -1, -1):
        begin = max(0, way[row + 1] - 1)
        way[row] = begin + int(np.argmin(total[row, begin : way[row + 1] + 2]))
    return way
