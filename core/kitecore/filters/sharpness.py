"""Where a picture is sharp already, although the rest of it is blurred: what was in focus, or stood still."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.filters.psf import Kernel
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

Plane = npt.NDArray[np.float32]

#: Side of the windows that are judged, in pixels.
_WINDOW = 25
#: Slopes of noise, as RMS in 0..1 per pixel, below which nothing can be told.
_NOISE = 2.0 / 255
#: Share of the slopes' power that is left by blurring once more. Photographs blurred by this very blur keep some two
#: thirds in the median and half in the lowest tenth, sharp ones a fifth: between these an area goes from soft to sharp.
_SOFT, _SHARP = 0.48, 0.26


class SharpKeptStage(Stage):
    """``after`` where ``before`` is as soft as ``blur`` makes it, ``before`` where it is sharp; ``keep`` 0..1 of the way."""

    def __init__(self, before: Stage, after: Stage, blur: Kernel, keep: float) -> None:
        super().__init__(after.size, after.bands)
        self._before, self._after, self._blur, self._keep = before, after, blur, np.float32(keep)

    def render(self, region: Region, run: Run) -> Pixels:
        reach = reach_for(self._blur)
        before = self._before.extended(region.grown(reach), run)
        kept = self._keep * sharp(luma(before), self._blur)[reach:-reach, reach:-reach, None]
        result = self._after.render(region, run)
        own = before[reach:-reach, reach:-reach]
        colours = colours_of(result)
        colours += kept * (colours_of(own) - colours)
        return result


def reach_for(blur: Kernel) -> int:
    return int(max(blur.shape)) // 2 + _WINDOW // 2 + 8


def sharp(grey: Plane, blur: Kernel) -> Plane:
    """How sharp each place is, H×W, 0..1: by how much of its slopes' power is lost when it is blurred once more.

    Even tones, which have no slopes to judge by, count as blurred.
    """
    again = np.asarray(cv2.filter2D(grey, -1, blur, borderType=cv2.BORDER_REFLECT_101), np.float32)
    own, left = _slope_power(grey), _slope_power(again)
    told = np.maximum(own - np.float32(_NOISE**2), 0)
    share = left / np.maximum(told, 1e-12)
    sure = told / (told + np.float32((2 * _NOISE) ** 2))
    found = np.clip((_SOFT - share) / (_SOFT - _SHARP), 0, 1) * sure
    return np.asarray(cv2.GaussianBlur(found.astype(np.float32), (9, 9), 2.0), np.float32)


def _slope_power(grey: Plane) -> Plane:
    across, down = np.zeros_like(grey), np.zeros_like(grey)
    np.subtract(grey[:, 1:], grey[:, :-1], out=across[:, 1:])
    np.subtract(grey[1:], grey[:-1], out=down[1:])
    return np.asarray(cv2.blur(across * across + down * down, (_WINDOW, _WINDOW)), np.float32)
