"""Point-spread functions: what a point of light becomes through missed focus, movement or softness."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

Kernel = npt.NDArray[np.float64]

_FINE = 8


def _whole(kernel: npt.NDArray[np.float64]) -> Kernel:
    """Scaled to a sum of 1, so that blurring keeps brightness."""
    return np.asarray(kernel / kernel.sum())


def disc(radius: float) -> Kernel:
    """Missed focus: an even disc of ``radius`` pixels, its edge antialiased. Odd sides, sum 1."""
    half = math.ceil(radius) + 1
    side = 2 * half + 1
    steps = (np.arange(side * _FINE) + 0.5) / _FINE - side / 2
    inside = steps[:, None] ** 2 + steps[None] ** 2 <= max(radius, 0.5) ** 2
    kernel: Kernel = inside.reshape(side, _FINE, side, _FINE).mean(axis=(1, 3), dtype=np.float64)
    return _whole(kernel)


def streak(length: float, angle: float) -> Kernel:
    """Even movement along a line of ``length`` pixels, ``angle``° counter-clockwise from the right. Odd sides, sum 1."""
    half = math.ceil(length / 2) + 1
    along = (np.arange(max(1, math.ceil(length * _FINE))) + 0.5) / max(1, math.ceil(length * _FINE)) - 0.5
    x = half + along * length * math.cos(math.radians(angle))
    y = half - along * length * math.sin(math.radians(angle))
    left, top = np.floor(x).astype(int), np.floor(y).astype(int)
    right_share, low_share = x - left, y - top
    kernel = np.zeros((2 * half + 1, 2 * half + 1))
    np.add.at(kernel, (top, left), (1 - right_share) * (1 - low_share))
    np.add.at(kernel, (top, left + 1), right_share * (1 - low_share))
    np.add.at(kernel, (top + 1, left), (1 - right_share) * low_share)
    np.add.at(kernel, (top + 1, left + 1), right_share * low_share)
    return _whole(kernel)


def gaussian(sigma: float) -> Kernel:
    """General softness: a Gaussian of standard deviation ``sigma`` pixels. Odd sides, sum 1."""
    half = max(1, math.ceil(4 * sigma))
    line = np.exp(-0.5 * (np.arange(-half, half + 1) / max(sigma, 1e-3)) ** 2)
    kernel: Kernel = np.outer(line, line)
    return _whole(kernel)
