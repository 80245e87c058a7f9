"""Primaries: what the red, green and blue of a picture's own colour space are, and how light they are together."""

from __future__ import annotations

import struct
from functools import lru_cache

import numpy as np

from kitecore.colour.icc import tag_of
from kitecore.colour.spaces import SPACES, Matrix
from kitecore.pipeline.pixels import Pixels


@lru_cache(maxsize=16)
def primaries_of(profile: bytes | None) -> Matrix:
    """From linear RGB to XYZ relative to D50, 3×3; white becomes luminance 1.

    sRGB's for None, and for profiles that tell no primaries (those of grey, or with tables alone).
    """
    columns = []
    for name in (b"rXYZ", b"gXYZ", b"bXYZ"):
        content = tag_of(profile, name) if profile is not None else None
        if content is None or len(content) < 20:
            return SPACES["srgb"].to_connection()
        columns.append([value / 65536 for value in struct.unpack(">3i", content[8:20])])
    matrix = np.array(columns).T
    if abs(np.linalg.det(matrix)) < 1e-4 or matrix[1].sum() <= 0:
        return SPACES["srgb"].to_connection()
    return np.asarray(matrix / matrix[1].sum())


def luminance(light: Pixels, primaries: Matrix) -> Pixels:
    """Luminance, H×W×1, of linear light, H×W×1 or H×W×3; exactly that of its channels where they are equal."""
    if light.shape[2] == 1:
        return light
    _, green, blue = primaries[1].astype(np.float32)
    red = light[..., :1]
    return np.asarray(red + green * (light[..., 1:2] - red) + blue * (light[..., 2:3] - red), np.float32)


def neutral_kept(pixels: Pixels, before: Pixels) -> Pixels:
    """``pixels``, H×W×3, changed in place: where the channels of ``before`` were equal, they are equal to the bit."""
    equal = (before[..., 0] == before[..., 1]) & (before[..., 1] == before[..., 2])
    pixels[equal] = pixels[equal][:, 1:2]
    return pixels
