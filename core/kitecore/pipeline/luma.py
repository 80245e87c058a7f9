"""Luma: one plane that stands for how light a picture is."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.pixels import Pixels

#: Luma of R'G'B' as ITU-R BT.601 weighs it.
LUMA = np.array([0.299, 0.587, 0.114], np.float32)


def luma(pixels: Pixels) -> npt.NDArray[np.float32]:
    """H×W float32 of H×W×C pixels, 0..1 as they are; alpha is passed over."""
    if pixels.shape[2] < 3:
        return np.ascontiguousarray(pixels[..., 0])
    return np.asarray(pixels[..., :3] @ LUMA, np.float32)
