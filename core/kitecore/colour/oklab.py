"""Oklab: a perceptual space, in which turning a hue or fading a colour leaves how light it looks as it is.

B. Ottosson, “A perceptual color space for image processing” (2020), as CSS Color 4 has it. White of any RGB space is L 1, a 0,
b 0 here; values beyond white and outside the space's gamut go there and come back.
"""

from __future__ import annotations

import numpy as np

from kitecore.colour.spaces import Matrix, adaptation
from kitecore.pipeline.pixels import Pixels

_D65 = (0.3127, 0.3290)
#: From XYZ relative to D65 to the answers of three cones, and from their cube roots to L, a, b.
_CONES: Matrix = np.array(
    [[0.8189330101, 0.3618667424, -0.1288597137],
     [0.0329845436, 0.9293118715, 0.0361456387],
     [0.0482003018, 0.2643662691, 0.6338517070]]
)  # fmt: skip
_OPPONENTS: Matrix = np.array(
    [[0.2104542553, 0.7936177850, -0.0040720468],
     [1.9779984951, -2.4285922050, 0.4505937099],
     [0.0259040371, 0.7827717662, -0.8086757660]]
)  # fmt: skip


def cones_of(primaries: Matrix) -> Matrix:
    """From linear RGB of a space to cones, 3×3; ``primaries`` takes it to XYZ relative to D50. White is 1, 1, 1."""
    matrix = _CONES @ np.linalg.inv(adaptation(_D65)) @ primaries
    return np.asarray(matrix / matrix.sum(axis=1, keepdims=True))


def to_oklab(light: Pixels, cones: Matrix) -> Pixels:
    """Linear RGB, H×W×3, to L (0..1), a, b (about −0.4..0.4), float32."""
    return multiplied(np.asarray(np.cbrt(multiplied(light, cones)), np.float32), _OPPONENTS)


def from_oklab(lab: Pixels, cones: Matrix) -> Pixels:
    """The inverse of :func:`to_oklab`."""
    roots = multiplied(lab, np.asarray(np.linalg.inv(_OPPONENTS)))
    return multiplied(roots * roots * roots, np.asarray(np.linalg.inv(cones)))


def multiplied(pixels: Pixels, matrix: Matrix) -> Pixels:
    """Every pixel times a matrix, written out: the same to the bit wherever a pixel stands."""
    rows = matrix.astype(np.float32)
    one, two, three = pixels[..., 0], pixels[..., 1], pixels[..., 2]
    result = np.empty((*pixels.shape[:2], 3), np.float32)
    for place, row in enumerate(rows):
        result[..., place] = row[0] * one + row[1] * two + row[2] * three
    return result
