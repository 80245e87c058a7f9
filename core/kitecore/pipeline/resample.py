"""Antialiased Lanczos resampling of any region of a result, the same whichever grid it is cut by."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels, has_alpha, premultiplied, unpremultiplied

LOBES = 3
_BLOCK = 64
#: H×W×C of either precision.
_Samples: TypeAlias = npt.NDArray[np.float32] | npt.NDArray[np.float64]


def lanczos(distance: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The Lanczos-3 window: sinc(x)·sinc(x/3) for \\|x\\| < 3, else 0; distances in samples."""
    inside = np.abs(distance) < LOBES
    return np.where(inside, np.sinc(distance) * np.sinc(distance / LOBES), 0.0)


@dataclass(frozen=True, slots=True)
class _Axis:
    """One axis of a resampling: its length before and after, and whether it goes on periodically."""

    length: int
    result: int
    repeats: bool

    @property
    def scale(self) -> float:
        """Input samples per result sample."""
        return self.length / self.result

    @property
    def radius(self) -> float:
        return LOBES * max(self.scale, 1.0)

    def span(self, index: int) -> tuple[int, int]:
        """First and one-past-last input sample that result sample ``index`` is made of."""
        centre = (index + 0.5) * self.scale
        first, last = math.floor(centre - self.radius + 0.5), math.floor(centre + self.radius + 0.5)
        return (first, last) if self.repeats else (max(0, first), min(self.length, last))


def input_span(start: int, stop: int, axis: _Axis) -> tuple[int, int]:
    """Range of input samples that result samples ``start``..``stop``−1 are made of, along one axis."""
    return axis.span(start)[0], axis.span(stop - 1)[1]


def _weights(start: int, stop: int, first: int, last: int, axis: _Axis) -> npt.NDArray[np.float32]:
    """Matrix (stop−start)×(last−first): how result samples are made of input samples; rows sum to 1.

    Each row depends only on its absolute index, never on the range asked for.
    """
    centres = (np.arange(start, stop) + 0.5) * axis.scale
    samples = np.arange(first, last)
    weights = lanczos((samples[None, :] + 0.5 - centres[:, None]) / max(axis.scale, 1.0))
    low, high = np.floor(centres - axis.radius + 0.5), np.floor(centres + axis.radius + 0.5)
    if not axis.repeats:
        low, high = np.maximum(0, low), np.minimum(axis.length, high)
    weights *= (samples[None, :] >= low[:, None]) & (samples[None, :] < high[:, None])
    weights /= weights.sum(axis=1, keepdims=True)
    return weights.astype(np.float32)


def _along_rows(pixels: _Samples, offset: int, start: int, stop: int, axis: _Axis) -> _Samples:
    """Resample axis 0; ``pixels`` holds input rows from ``offset`` on. Worked in blocks so weights stay dense."""
    width = pixels.shape[1] * pixels.shape[2]
    flat = np.ascontiguousarray(pixels).reshape(pixels.shape[0], width)
    result = np.empty((stop - start, width), dtype=flat.dtype)
    for block in range(start, stop, _BLOCK):
        end = min(block + _BLOCK, stop)
        first, last = input_span(block, end, axis)
        weights = _weights(block, end, first, last, axis)
        np.matmul(weights, flat[first - offset : last - offset], out=result[block - start : end - start])
    return result.reshape(stop - start, *pixels.shape[1:])


def resample_region(
    read: Callable[[Region], Pixels], size: Size, result: Size, region: Region, repeats: bool = False
) -> Pixels:
    """One region of a picture resampled from ``size`` to ``result``.

    Parameters
    ----------
    read
        Gives any region inside ``size`` as H×W×C pixels; with ``repeats``, regions that reach outside as well.
    size, result
        The whole picture before and after. Enlarging interpolates; reducing widens the window, so nothing aliases.
    region
        Must lie inside ``result``.
    repeats
        Whether the picture goes on periodically. Otherwise the window is cut at the borders and its weights brought
        back to 1.

    Returns
    -------
    Pixels of ``region``, H×W×C. Colour is weighed by alpha where there is one.

    References
    ----------
    K. Turkowski, "Filters for common resampling tasks", Graphics Gems I, 1990.
    """
    across, down = _Axis(size.width, result.width, repeats), _Axis(size.height, result.height, repeats)
    left, right = input_span(region.x, region.right, across)
    top, bottom = input_span(region.y, region.bottom, down)
    pixels = read(Region.between(left, top, right, bottom))
    alpha = has_alpha(pixels.shape[2])
    # What is nearly transparent is divided by hardly anything at the end: its last digits have to hold.
    given: _Samples = premultiplied(pixels).astype(np.float64) if alpha else pixels
    rows = _along_rows(given, top, region.y, region.bottom, down)
    columns = _along_rows(rows.swapaxes(0, 1), left, region.x, region.right, across)
    resampled = np.ascontiguousarray(columns.swapaxes(0, 1), np.float32)
    return unpremultiplied(resampled) if alpha else resampled
