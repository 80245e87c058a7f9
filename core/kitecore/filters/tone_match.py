"""Tone match: keep the broad tones of an enlarged picture at those of its source."""

from __future__ import annotations

import math

import cv2
import numpy as np

from kitecore.pipeline.area_means import brought_back
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Tones are compared over a Gaussian this wide, in source pixels; finer differences are the engine's to make.
_SIGMA = 3.0
_BLUR_REACH = 9


class ToneMatchedStage(Stage):
    """An enlarged picture whose low frequencies are drawn towards those of the picture it was made from.

    The result is averaged over the area of every source pixel; what it differs by from the source is smoothed,
    interpolated back to full size and added, times ``share`` (0..1).
    """

    def __init__(self, enlarged: Stage, source: Stage, share: float) -> None:
        super().__init__(enlarged.size, enlarged.bands)
        self._enlarged = enlarged
        self._source = source
        self._share = np.float32(share)
        self._x = enlarged.size.width / source.size.width
        self._y = enlarged.size.height / source.size.height

    def render(self, region: Region, run: Run) -> Pixels:
        cells = Region.between(
            math.floor(region.x / self._x) - 1, math.floor(region.y / self._y) - 1,
            math.ceil(region.right / self._x) + 1, math.ceil(region.bottom / self._y) + 1,
        ).grown(_BLUR_REACH)  # fmt: skip
        around = cells.scaled(self._x, self._y)
        pixels = self._enlarged.extended(around, run)
        shift = self._source.extended(cells, run) - brought_back(pixels, around, cells, self._x, self._y)
        side = 2 * _BLUR_REACH + 1
        blurred = cv2.GaussianBlur(shift, (side, side), _SIGMA)
        smooth = np.asarray(blurred, np.float32).reshape(shift.shape)
        columns = (np.arange(region.x, region.right) + 0.5) / self._x - 0.5 - cells.x
        rows = (np.arange(region.y, region.bottom) + 0.5) / self._y - 0.5 - cells.y
        correction = _interpolated(_interpolated(smooth, rows).swapaxes(0, 1), columns).swapaxes(0, 1)
        result = pixels[region.slices(around)].copy()
        colours = slice(None, -1) if has_alpha(self.bands) else slice(None)
        result[..., colours] += self._share * correction[..., colours]
        return result


def _interpolated(pixels: Pixels, places: np.ndarray) -> Pixels:
    """Axis 0 read at fractional ``places`` by linear interpolation."""
    low = np.floor(places).astype(int)
    share = (places - low).astype(np.float32).reshape(-1, *[1] * (pixels.ndim - 1))
    return np.asarray(pixels[low] * (1 - share) + pixels[low + 1] * share)
