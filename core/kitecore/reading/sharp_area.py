"""In focus: where a picture is as sharp as it is anywhere.

Sharpness is told at edges by how much blurring them again takes away (S. Zhuo, T. Sim, “Defocus map
estimation from a single image”, 2011), and spread from there over what looks alike.
"""

from __future__ import annotations

import cv2
import numpy as np

from kitecore.filters.guided import Plane, guided
from kitecore.pipeline.run import Run
from kitecore.reading.cut import Seen, grey_of

#: σ of the blur that is laid on again.
_AGAIN = 1.2
#: Slopes (of 1, per pixel) from which on an edge tells anything, and how far it is listened to, as shares of the long side.
_SLOPE = 0.012
_NEAR = (0.01, 0.03, 0.08)
#: Blurs of an edge, in σ, at which it is wholly in focus and wholly out of it.
_SHARP, _SOFT = 1.1, 2.6


def sharp_area(seen: Seen, run: Run) -> Plane | None:
    """How far each pixel is in focus, H×W, 0..1, of H×W×3 sRGB of at most 640 px a side; None if nothing tells."""
    run.check()
    grey = grey_of(seen)
    before, after = _slopes(grey), _slopes(np.asarray(cv2.GaussianBlur(grey, (0, 0), _AGAIN), np.float32))
    edges = before > _SLOPE
    if edges.mean() < 0.002:
        return None
    ratio = np.clip(before / np.maximum(after, 1e-5), 1.0001, None)
    # An edge of blur σ is ratio times as steep as after another blur of _AGAIN.
    blur = np.clip(_AGAIN / np.sqrt(ratio**2 - 1), 0, 8)
    share = np.clip((_SOFT - blur) / (_SOFT - _SHARP), 0, 1).astype(np.float32)
    weight = np.where(edges, before, 0).astype(np.float32)
    long_side = max(grey.shape)
    told, said = np.zeros_like(grey), np.full_like(grey, 1e-7)
    for near in _NEAR:
        run.check()
        sigma = max(1.0, near * long_side)
        # The sharpest edges around count for most: soft ones lie on sharp things, too.
        part = cv2.GaussianBlur(weight * share * (0.3 + share), (0, 0), sigma)
        whole = cv2.GaussianBlur(weight * (0.3 + share), (0, 0), sigma)
        trust = 1 / near**2
        told += trust * part
        said += trust * whole
    area = guided(np.asarray(told / said, np.float32), grey, max(2, round(0.015 * long_side)), 0.05)
    return np.asarray(np.clip((area - 0.25) / 0.5, 0, 1), np.float32)


def _slopes(grey: Plane) -> Plane:
    return np.asarray(
        np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0) / 8, cv2.Sobel(grey, cv2.CV_32F, 0, 1) / 8), np.float32
    )
