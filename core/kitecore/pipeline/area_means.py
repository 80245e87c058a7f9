"""Means over areas: an enlarged picture brought back to the pixels it was made from."""

from __future__ import annotations

import numpy as np

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels


def along_rows(pixels: Pixels, first: int, last: int, offset: int, scale: float) -> Pixels:
    """Means of axis 0 over the cells ``first``..``last``−1, each ``scale`` samples long; samples start at ``offset``.

    Cells may begin and end between samples; parts of them outside the samples count as nothing.
    """
    sums = np.concatenate([np.zeros_like(pixels[:1], np.float64), np.cumsum(pixels, axis=0, dtype=np.float64)])
    edges = np.clip(np.arange(first, last + 1) * scale - offset, 0, len(pixels))
    whole = np.minimum(edges.astype(int), len(pixels) - 1)
    part = (edges - whole).reshape(-1, *[1] * (pixels.ndim - 1))
    at = sums[whole] + part * pixels[whole]
    return np.asarray((at[1:] - at[:-1]) / scale, np.float32)


def brought_back(pixels: Pixels, place: Region, cells: Region, scale_x: float, scale_y: float) -> Pixels:
    """``cells`` of a source, each the mean of the area it became.

    Parameters
    ----------
    pixels
        H×W×C, the region ``place`` of the enlarged picture, which covers the cells.
    scale_x, scale_y
        Enlarged pixels per source pixel.
    """
    rows = along_rows(pixels, cells.y, cells.bottom, place.y, scale_y)
    columns = along_rows(rows.swapaxes(0, 1), cells.x, cells.right, place.x, scale_x)
    return np.ascontiguousarray(columns.swapaxes(0, 1))
