"""Which pixels of an upright face square are skin, told by what the middle of that very face looks like."""

from __future__ import annotations

from typing import TypeAlias

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels

Plane: TypeAlias = npt.NDArray[np.float32]

#: Left, right, top and bottom of where every face is skin, between eyes and upper lip, in sides of the square.
_SURELY = (0.36, 0.64, 0.44, 0.60)
#: Deviations of what is surely skin that other skin may be away, and from which on nothing is skin.
_SKIN, _OTHER = 2.5, 5.0
#: Deviation of skin at least, of 1: light from one side does more to tone than the middle of a face shows.
_LEAST_TONE, _LEAST_COLOUR = 0.07, 0.02
#: Softness of the result, in sides of the square.
_SOFT = 0.012


def skin_share(square: Pixels) -> Plane:
    """How much of each pixel of a square S×S×3 (see :mod:`kitecore.faces.square`) is skin, S×S, 0..1.

    Hair, cloth and what is behind are far from it in tone or colour; fair hair beside fair skin may not be.
    """
    side = square.shape[0]
    tone = luma(square)
    # Red and blue beside the tone: of neutral pictures nothing.
    planes = [(tone, _LEAST_TONE)] + [(square[..., band] - tone, _LEAST_COLOUR) for band in (0, 2)]
    left, right, top, bottom = (round(side * share) for share in _SURELY)
    away = np.zeros_like(tone)
    for plane, least in planes:
        sure = plane[top:bottom, left:right]
        middle = float(np.median(sure))
        # The deviation of a normal distribution by its median distance from the middle.
        deviation = max(least, 1.48 * float(np.median(np.abs(sure - middle))))
        away += ((plane - middle) / deviation) ** 2
    like = np.clip((_OTHER - np.sqrt(away)) / (_OTHER - _SKIN), 0, 1)
    return np.asarray(cv2.GaussianBlur(like * like * (3 - 2 * like), (0, 0), max(0.8, _SOFT * side)), np.float32)
