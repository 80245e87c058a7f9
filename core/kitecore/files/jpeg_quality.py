"""The quantiser tables of JPEG files, and the quality they stand for."""

from __future__ import annotations

import warnings
from functools import cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image, UnidentifiedImageError

#: Luminance table of ITU-T T.81, annex K, from which encoders derive theirs by a quality of 1 to 100.
_BASE = np.array([
    [16, 11, 10, 16, 24, 40, 51, 61], [12, 12, 14, 19, 26, 58, 60, 55], [14, 13, 16, 24, 40, 57, 69, 56],
    [14, 17, 22, 29, 51, 87, 80, 62], [18, 22, 37, 56, 68, 109, 103, 77], [24, 35, 55, 64, 81, 104, 113, 92],
    [49, 64, 78, 87, 103, 121, 120, 101], [72, 92, 95, 98, 112, 100, 103, 99],
])  # fmt: skip


@cache
def table(quality: int) -> npt.NDArray[np.float64]:
    """The luminance steps of a quality from 1 to 100, as the Independent JPEG Group scales them."""
    scale = 5000 // quality if quality < 50 else 200 - 2 * quality
    return np.clip(np.floor((_BASE * scale + 50) / 100), 1, 255)


def quality_of_table(steps: npt.NDArray[np.float64]) -> int:
    """The quality whose table is nearest to 8×8 luminance steps."""
    return min(range(1, 101), key=lambda quality: float(np.abs(np.log(table(quality) / steps)).mean()))


def quality_of_file(path: Path) -> int | None:
    """The quality a JPEG file was written at, from its tables; None for other files."""
    try:
        with warnings.catch_warnings(), Image.open(path) as image:
            warnings.simplefilter("ignore")
            tables = getattr(image, "quantization", None)
    except (OSError, UnidentifiedImageError, Image.DecompressionBombError):
        return None
    return quality_of_table(np.array(tables[0], np.float64).reshape(8, 8)) if tables else None
