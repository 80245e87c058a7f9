"""What is broad in a plane, with its edges where they were.

K. He, J. Sun, X. Tang, “Guided image filtering” (2010), a plane guided by itself or by another.
"""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

Plane = npt.NDArray[np.float32]


def guided(plane: Plane, guide: Plane, radius: int, edge: float) -> Plane:
    """``plane``, H×W, smoothed over windows of ``radius`` px; differences of ``guide`` well above ``edge`` (0..1) stay.

    Reaches 2 · ``radius`` pixels.
    """
    one, two = _mean(guide, radius), _mean(plane, radius)
    common = _mean(guide * plane, radius) - one * two
    slope = common / (_mean(guide * guide, radius) - one * one + np.float32(edge**2))
    rest = np.asarray(two - slope * one, np.float32)
    return np.asarray(_mean(np.asarray(slope, np.float32), radius) * guide + _mean(rest, radius), np.float32)


def _mean(plane: Plane, radius: int) -> Plane:
    side = 2 * radius + 1
    return np.asarray(cv2.boxFilter(plane, cv2.CV_32F, (side, side), borderType=cv2.BORDER_REFLECT_101), np.float32)
