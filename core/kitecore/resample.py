"""Antialiased Lanczos resampling of any region of a result, the same whichever grid it is cut by."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from kitecore.geometry import Region, Size
from kitecore.pixels import Pixels, has_alpha, premultiplied, unpremultiplied

LOBES = 3
_BLOCK = 64


def lanczos(distance: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """The Lanczos-3 window: sinc(x)·sinc(x/3) for \\|x\\| < 3, else 0; distances in samples."""
    inside = np.abs(distance) < LOBES
    return np.where(inside, np.sinc(distance) * np.sinc(distance / LOBES), 0.0)


def _span(index: int, length: int, result_length: int) -> tuple[int, int]:
    """First and one-past-last input sample that result sample ``index`` is made of."""
    scale = length / result_length
    radius = LOBES * max(scale, 1.0)
    centre = (index + 0.5) * scale
    return max(0, int(centre - radius + 0.5)), min(length, int(centre + radius + 0.5))


def input_span(start: int, stop: int, length: int, result_length: int) -> tuple[int, int]:
    """Range of input samples that result samples ``start``..``stop``−1 are made of, along one axis."""
    return _span(start, length, result_length)[0], _span(stop - 1, length, result_length)[1]


def _weights(start: int, stop: int, first: int, last: int, length: int, result_length: int) -> npt.NDArray[np.float32]:
    """Matrix (stop−start)×(last−first): how result samples are made of input samples; rows sum to 1.

    Each row depends only on its absolute index, never on the range asked for.
    """
    scale = length / result_length
    stretch = max(scale, 1.0)
    centres = (np.arange(start, stop) + 0.5) * scale
    samples = np.arange(first, last)
    weights = lanczos((samples[None, :] + 0.5 - centres[:, None]) / stretch)
    radius = LOBES * stretch
    low = np.maximum(0, (centres - radius + 0.5).astype(int))
    high = np.minimum(length, (centres + radius + 0.5).astype(int))
    weights *= (samples[None, :] >= low[:, None]) & (samples[None, :] < high[:, None])
    weights /= weights.sum(axis=1, keepdims=True)
    return weights.astype(np.float32)


def _along_rows(pixels: Pixels, offset: int, start: int, stop: int, length: int, result_length: int) -> Pixels:
    """Resample axis 0; ``pixels`` holds input rows from ``offset`` on. Worked in blocks so weights stay dense."""
    width = pixels.shape[1] * pixels.shape[2]
    flat = np.ascontiguousarray(pixels).reshape(pixels.shape[0], width)
    result = np.empty((stop - start, width), dtype=np.float32)
    for block in range(start, stop, _BLOCK):
        end = min(block + _BLOCK, stop)
        first, last = input_span(block, end, length, result_length)
        weights = _weights(block, end, first, last, length, result_length)
        np.matmul(weights, flat[first - offset : last - offset], out=result[block - start : end - start])
    return result.reshape(stop - start, *pixels.shape[1:])


def resample_region(read: Callable[[Region], Pixels], size: Size, result: Size, region: Region) -> Pixels:
    """One region of a picture resampled from ``size`` to ``result``.

    Parameters
    ----------
    read
        Gives any region inside ``size`` as H×W×C pixels.
    size, result
        The whole picture before and after. Enlarging interpolates; reducing widens the window, so nothing aliases.
    region
        Must lie inside ``result``.

    Returns
    -------
    Pixels of ``region``, H×W×C. Colour is weighed by alpha where there is one. At the borders the window is cut
    and its weights brought back to 1.

    References
    ----------
    K. Turkowski, "Filters for common resampling tasks", Graphics Gems I, 1990.
    """
    left, right = input_span(region.x, region.right, size.width, result.width)
    top, bottom = input_span(region.y, region.bottom, size.height, result.height)
    pixels = read(Region.between(left, top, right, bottom))
    alpha = has_alpha(pixels.shape[2])
    if alpha:
        pixels = premultiplied(pixels)
    rows = _along_rows(pixels, top, region.y, region.bottom, size.height, result.height)
    columns = _along_rows(rows.swapaxes(0, 1), left, region.x, region.right, size.width, result.width)
    resampled = np.ascontiguousarray(columns.swapaxes(0, 1))
    return unpremultiplied(resampled) if alpha else resampled
