"""Saturation: what colour denoising takes from colours besides their noise, given back."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Side of the windows, in pixels.
_WINDOW = 5
REACH = _WINDOW // 2 + 2
#: Colour weaker than this (RMS over the bands, 0..1) is neither measured nor changed.
_FLOOR = 0.05
#: Bounds of what colour is multiplied by. Noise cut off at black and white dulls colours, so they are never made weaker.
_LEAST, _MOST = 1.0, 1.6


class SaturationHeldStage(Stage):
    """``after`` with the colour of each place as strong as in ``before``, whose noise does not come back.

    Colour is what a pixel's bands differ from its luma by. The factor is the regression of the colours before on those
    after, over 5×5 pixels: noise has nothing in common with what is left, so it does not count.
    """

    def __init__(self, before: Stage, after: Stage) -> None:
        super().__init__(after.size, after.bands)
        self._before, self._after = before, after

    def render(self, region: Region, run: Run) -> Pixels:
        if self.bands < 3:
            return self._after.render(region, run)
        around = region.grown(REACH)
        result = self._after.extended(around, run)
        own, wanted = _colour(result), _colour(self._before.extended(around, run))
        least = np.float32(3 * _FLOOR**2)
        factor = (_mean(own * wanted) + least) / (_mean(own * own) + least)
        factor = cv2.blur(np.clip(factor, _LEAST, _MOST), (3, 3))
        colours = colours_of(result)
        colours += (factor[..., None] - 1) * own
        return np.ascontiguousarray(result[REACH:-REACH, REACH:-REACH])


def _colour(pixels: Pixels) -> Pixels:
    return np.asarray(colours_of(pixels) - luma(pixels)[..., None], np.float32)


def _mean(products: Pixels) -> npt.NDArray[np.float32]:
    """Sum over the bands, mean over the window."""
    return np.asarray(cv2.blur(products.sum(axis=2), (_WINDOW, _WINDOW)), np.float32)
