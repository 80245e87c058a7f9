"""What a file is made of: pixels of a known form, and what travels beside them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kitecore.files.exif import Exif
from kitecore.files.raw.dng import Negative
from kitecore.pipeline.geometry import Size

#: By bits per sample.
DTYPES: dict[int, npt.DTypeLike] = {8: np.uint8, 16: np.uint16, 32: np.float32}


@dataclass(frozen=True)
class Raster:
    """Samples of ``bits`` (8, 16, or 32 for floating point), row by row."""

    size: Size
    bands: int
    bits: int

    @property
    def dtype(self) -> npt.DTypeLike:
        return DTYPES[self.bits]

    @property
    def row_bytes(self) -> int:
        return self.size.width * self.bands * self.bits // 8


@dataclass(frozen=True)
class Beside:
    """The profile and the pixels per inch of a file, and its metadata."""

    profile: bytes | None
    ppi: float
    exif: Exif
    xmp: bytes | None
    iptc: bytes | None
    #: Of a linear DNG: what it says of its samples.
    negative: Negative | None = None
