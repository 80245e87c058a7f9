"""Matting: how much of each pixel along a rim is the thing itself, down to single hairs.

The closed-form method (A. Levin, D. Lischinski, Y. Weiss, 2008): near any place what a pixel shares of the thing is a linear
function of its colour. Its Laplacian is not built but applied, by box filters (K. He, J. Sun, X. Tang, 2010), and solved by
conjugate gradients.
"""

from __future__ import annotations

import math
from itertools import product

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.filters.guided import Plane
from kitecore.pipeline.run import Run

#: Radius of the windows in which colours are related, and how much they may differ from it, of 1.
_RADIUS, _NOISE = 2, 1e-5
#: How firmly what is sure holds, and when the rest is found.
_HOLD, _MOST_STEPS, _ENOUGH = 100.0, 160, 3e-3


def matted(found: Plane, colours: Plane, band: int, run: Run) -> Plane:
    """A mask H×W, 0..1, its rim made finer by colours H×W×3, 0..1: within ``band`` pixels of where it passes one half."""
    inside = found > 0.5
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * band + 1, 2 * band + 1))
    surely = cv2.erode(inside.astype(np.uint8), kernel, borderValue=1) > 0
    possibly = cv2.dilate(inside.astype(np.uint8), kernel) > 0
    open_ = possibly & ~surely
    if not open_.any() or not surely.any():
        return found
    # Only what lies near the rim takes part.
    rows, columns = (np.flatnonzero(open_.any(axis=axis)) for axis in (1, 0))
    top, bottom = max(0, rows[0] - 4 * band), min(found.shape[0], rows[-1] + 4 * band + 1)
    left, right = max(0, columns[0] - 4 * band), min(found.shape[1], columns[-1] + 4 * band + 1)
    part = np.s_[top:bottom, left:right]
    result = found.copy()
    solved = _solved(colours[part], surely[part], ~open_[part], found[part], run)
    result[part] = np.where(open_[part], np.clip(solved, 0, 1), surely[part])
    return result


def _solved(
    colours: Plane, surely: npt.NDArray[np.bool_], known: npt.NDArray[np.bool_], guess: Plane, run: Run
) -> Plane:
    related = _Related(colours)
    hold = np.float32(_HOLD) * known
    told = hold * surely
    share = np.where(known, surely, guess).astype(np.float32)
    left = told - (related.applied(share) + hold * share)
    # What is held firmly would else decide how far each step goes.
    ease = np.asarray(1 / (hold + 1), np.float32)
    eased: Plane = ease * left
    way, length = eased, float((left * eased).sum())
    whole, enough = length, length * _ENOUGH**2
    nearest = 0.0
    for _ in range(_MOST_STEPS):
        run.check()
        # What is left falls by much the same share from step to step.
        nearest = max(nearest, math.log(max(length, enough) / whole) / (2 * math.log(_ENOUGH))) if whole > 0 else 1.0
        run.progress(nearest)
        if length <= enough or length <= 0:
            break
        ahead = related.applied(way) + hold * way
        step = length / float((way * ahead).sum())
        share += np.float32(step) * way
        left -= np.float32(step) * ahead
        eased = ease * left
        before, length = length, float((left * eased).sum())
        way = eased + np.float32(length / before) * way
    return share


class _Related:
    """The matting Laplacian of a picture H×W×3, divided by the pixels of a window; band by band, which is quickest."""

    def __init__(self, colours: Plane) -> None:
        self._colours = [np.ascontiguousarray(colours[..., band], np.float32) for band in range(3)]
        self._share: Plane = np.float32(1) / _sum(np.ones(colours.shape[:2], np.float32))
        self._means = [self._mean(colour) for colour in self._colours]
        spread = np.empty((*colours.shape[:2], 3, 3), np.float32)
        for row, column in product(range(3), range(3)):
            together = self._mean(self._colours[row] * self._colours[column])
            spread[..., row, column] = together - self._means[row] * self._means[column]
        inverse = np.linalg.inv(spread + np.float32(_NOISE) * np.eye(3, dtype=np.float32))
        self._inverse = [[np.ascontiguousarray(inverse[..., row, column]) for column in range(3)] for row in range(3)]

    def applied(self, plane: Plane) -> Plane:
        base = self._mean(plane)
        together = [
            self._mean(colour * plane) - mean * base for colour, mean in zip(self._colours, self._means, strict=True)
        ]
        slopes = [_dot(row, together) for row in self._inverse]
        base -= _dot(slopes, self._means)
        near = _dot([self._mean(slope) for slope in slopes], self._colours) + self._mean(base)
        return np.asarray(plane - near, np.float32)

    def _mean(self, plane: Plane) -> Plane:
        return np.asarray(_sum(plane) * self._share, np.float32)


def _sum(plane: Plane) -> Plane:
    """Over windows that end at the border."""
    side = 2 * _RADIUS + 1
    return np.asarray(
        cv2.boxFilter(plane, cv2.CV_32F, (side, side), normalize=False, borderType=cv2.BORDER_CONSTANT), np.float32
    )


def _dot(one: list[Plane], other: list[Plane]) -> Plane:
    return np.asarray(one[0] * other[0] + one[1] * other[1] + one[2] * other[2], np.float32)
