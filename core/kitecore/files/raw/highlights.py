"""Highlights beyond what a sensor holds: where some of its colours are full, the others and what lies around tell them."""

from __future__ import annotations

import os

import cv2
import numpy as np

from kitecore.filters.guided import Plane
from kitecore.pipeline.meanwhile import side_by_side
from kitecore.pipeline.pixels import Pixels

#: From this share of what is full on a sample is not believed, and from that on not at all.
_DOUBTED, _FULL = 0.93, 0.985
#: Colours around are looked at in squares of this side.
SQUARE = 8
#: Least light, of what is full, whose colour is believed.
_LEAST = 0.03
#: Squares that are looked at together, down.
_STRIP = 64


class Hues:
    """The colours of a picture as they go on into what is too light to have any: told from all of it, made small.

    ``balanced`` is the whole picture, H×W×3; what is full there are the ``multipliers`` that balanced it.
    """

    def __init__(self, balanced: Pixels, multipliers: tuple[float, float, float]) -> None:
        self._full = np.asarray(multipliers, np.float32)
        height, width = balanced.shape[:2]
        rows, columns = -(-height // SQUARE), -(-width // SQUARE)
        self._ratios = np.zeros((1, 1, 2), np.float32)
        strips = [slice(row * SQUARE, (row + _STRIP) * SQUARE) for row in range(0, rows, _STRIP)]
        if not any((self._fullest(balanced[strip]) > _DOUBTED).any() for strip in strips):
            return
        small = np.zeros((rows, columns, 4), np.float32)

        def look(row: int) -> None:
            small[row : row + _STRIP] = self._near_full(balanced[row * SQUARE : (row + _STRIP) * SQUARE])

        for _ in side_by_side(look, iter(range(0, rows, _STRIP)), os.cpu_count() or 1):
            pass
        light, weights = np.maximum(small[..., :3], 1e-9), np.ascontiguousarray(small[..., 3])
        ratios = np.log(light[..., ::2] / light[..., 1:2])
        self._ratios = _filled(np.asarray(ratios * weights[..., None], np.float32), weights)

    def _near_full(self, part: Pixels) -> Pixels:
        """Sums of colours over squares, and of their weights: those near what is full count most, as they go on into it."""
        planes = cv2.split(np.ascontiguousarray(part))
        fullest = self._fullest(part)
        weight = np.clip((_FULL - fullest) / (_FULL - _DOUBTED), 0, 1) * np.maximum(fullest - _LEAST, 0) ** 2
        weight *= np.minimum(np.minimum(planes[0], planes[1]), planes[2]) > 0
        return _sums(np.asarray(cv2.merge([*(plane * weight for plane in planes), weight]), np.float32))

    def _fullest(self, part: Pixels) -> Plane:
        """How full the fullest colour of each pixel is, H×W."""
        red, green, blue = (part[..., band] * np.float32(1 / full) for band, full in enumerate(self._full))
        return np.asarray(np.maximum(np.maximum(red, green), blue), np.float32)

    def _sure(self, balanced: Pixels) -> Pixels:
        share = balanced / self._full
        return np.asarray(np.clip((_FULL - share) / (_FULL - _DOUBTED), 0, 1), np.float32)

    def recovered(self, balanced: Pixels, top: int) -> Pixels:
        """Rows of the picture from ``top`` on with what is full made up for; the rest stays as it is to the bit."""
        near = self._fullest(balanced) > _DOUBTED
        if not near.any():
            return balanced
        rows, columns = np.nonzero(near)
        at = np.stack([(columns + 0.5) / SQUARE - 0.5, (rows + top + 0.5) / SQUARE - 0.5]).astype(np.float32)
        ratios = _read(self._ratios, at)
        expected = np.stack([np.exp(ratios[:, 0]), np.ones(len(ratios), np.float32), np.exp(ratios[:, 1])], 1)
        seen = balanced[near]
        trust = self._sure(seen)
        # How light it is, by the colours that are not full; where all are, just so light that all of them are.
        told = (trust * seen).sum(axis=1) / np.maximum((trust * expected).sum(axis=1), 1e-6)
        least = (self._full / expected).max(axis=1)
        any_left = np.clip(trust.max(axis=1) * 4, 0, 1)
        light = any_left * told + (1 - any_left) * np.maximum(least, 0)
        made = np.maximum(seen, light[:, None] * expected)
        result = balanced.copy()
        result[near] = trust * seen + (1 - trust) * made
        return result


def _sums(planes: Pixels) -> Pixels:
    """Over squares, the last ones of what is there."""
    padded = np.pad(planes, ((0, -planes.shape[0] % SQUARE), (0, -planes.shape[1] % SQUARE), (0, 0)))
    rows, columns = padded.shape[0] // SQUARE, padded.shape[1] // SQUARE
    squares: Pixels = padded.reshape(rows, SQUARE, columns, SQUARE, -1).sum(axis=(1, 3))
    return squares


def _filled(sums: Pixels, weights: Plane) -> Pixels:
    """Means where there is something, and from around where there is not: by averages of ever larger squares."""
    if min(weights.shape) <= 1:
        return np.asarray(sums / np.maximum(weights, 1e-6)[..., None], np.float32)
    half = (max(1, weights.shape[1] // 2), max(1, weights.shape[0] // 2))
    larger = _filled(
        np.asarray(cv2.resize(sums, half, interpolation=cv2.INTER_AREA), np.float32).reshape(half[1], half[0], 2),
        np.asarray(cv2.resize(weights, half, interpolation=cv2.INTER_AREA), np.float32),
    )
    beneath = cv2.resize(larger, weights.shape[::-1], interpolation=cv2.INTER_LINEAR).reshape(sums.shape)
    share = (weights / (weights + np.float32(0.05)))[..., None]
    return np.asarray(share * sums / np.maximum(weights, 1e-6)[..., None] + (1 - share) * beneath, np.float32)


def _read(planes: Pixels, at: Plane) -> Pixels:
    """Values at places, 2×N, by linear interpolation, N×2."""
    height, width = planes.shape[:2]
    x, y = np.clip(at[0], 0, width - 1), np.clip(at[1], 0, height - 1)
    left, top = np.minimum(x.astype(int), max(0, width - 2)), np.minimum(y.astype(int), max(0, height - 2))
    right, below = np.minimum(left + 1, width - 1), np.minimum(top + 1, height - 1)
    across, down = (x - left)[:, None], (y - top)[:, None]
    above = planes[top, left] * (1 - across) + planes[top, right] * across
    beneath = planes[below, left] * (1 - across) + planes[below, right] * across
    return np.asarray(above * (1 - down) + beneath * down, np.float32)
