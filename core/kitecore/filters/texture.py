"""Fine detail that went with the noise: found by where there is texture, and given back there alone."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Side of the windows whose texture is weighed, and what is broader than texture (σ), in pixels.
_WINDOW, _BROAD = 9, 2.0
REACH = _WINDOW // 2 + 6
#: Texture weaker than this (RMS, 0..1) counts as even tone, even where next to nothing was taken away.
_FLOOR = 1.5 / 255
#: Texture that equals what was taken away counts for this much of the noise.
_NOISE_WEIGHT = 1.0


class DetailStage(Stage):
    """``after`` with a share of the luminance that was taken from ``before``, where what is left has texture itself.

    The share at each pixel is that of a Wiener filter: the power of the texture left ÷ that and the power taken away,
    in windows of 9×9. In even tones next to nothing comes back.
    """

    def __init__(self, before: Stage, after: Stage, share: float) -> None:
        super().__init__(after.size, after.bands)
        self._before, self._after, self._share = before, after, share

    def render(self, region: Region, run: Run) -> Pixels:
        around = region.grown(REACH)
        before, after = self._before.extended(around, run), self._after.extended(around, run)
        clean = luma(after)
        taken = luma(before) - clean
        texture = _power(clean - cv2.GaussianBlur(clean, (13, 13), _BROAD))
        weight = texture / (texture + _NOISE_WEIGHT * _power(taken) + np.float32(_FLOOR**2))
        given = np.float32(self._share) * weight * taken
        inner = np.s_[REACH:-REACH, REACH:-REACH]
        result: Pixels = after[inner].copy()
        colours = colours_of(result)
        colours += given[inner][..., None]
        return result


def _power(plane: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    return np.asarray(cv2.blur(plane * plane, (_WINDOW, _WINDOW)), np.float32)
