"""Where a face lies, turned upright: the square that faces are restored in, told from eyes and mouth."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Place

#: Sides of the square in distances between the eyes; a face takes a little more than half of it, hair and chin lie inside.
_SIDE = 4.2
#: Distance between the eyes of a face seen from the front, in distances from the eyes to the mouth.
_USUAL = 0.8
#: How far below the eyes the middle of the square lies, in distances from the eyes to the mouth.
_BELOW = 0.35
#: Width of a face seen from the front, in sides of the square.
FACE_SHARE = 0.53
#: A square that has so many pixels of the picture for one of its own is softened before it is cut.
_COARSER = 1.3

Affine = npt.NDArray[np.float64]


class FaceFound(NamedTuple):
    """A face as it is handed on: eyes, the one farther left in the picture first, its mouth's middle, and whether it is sure.

    Places are x and y in pixels of the upright source.
    """

    eyes: tuple[tuple[float, float], tuple[float, float]]
    mouth: tuple[float, float]
    sure: bool


@dataclass(frozen=True)
class FaceSquare:
    """A square of ``side`` pixels around ``middle``, turned by ``turn`` radians clockwise on the screen."""

    middle: Place
    side: float
    turn: float

    @staticmethod
    def around(first_eye: Place, second_eye: Place, mouth: Place) -> FaceSquare:
        """The square of a face by its eyes, the one farther left in an upright picture of it first, and its mouth's middle.

        Seen from the side, when the eyes lie close together, its size is told by the way from them to the mouth.
        """
        across = second_eye.x - first_eye.x, second_eye.y - first_eye.y
        between = Place((first_eye.x + second_eye.x) / 2, (first_eye.y + second_eye.y) / 2)
        down = mouth.x - between.x, mouth.y - between.y
        size = max(math.hypot(*across), _USUAL * math.hypot(*down), 1.0)
        # What is right of the way down is told by both.
        right = across[0] + down[1], across[1] - down[0]
        middle = Place(between.x + _BELOW * down[0], between.y + _BELOW * down[1])
        return FaceSquare(middle, _SIDE * size, math.atan2(right[1], right[0]))

    @property
    def face_width(self) -> float:
        """About how wide the face is, in pixels of the picture."""
        return FACE_SHARE * self.side

    def scaled(self, factor: float) -> FaceSquare:
        """The same in a picture ``factor`` times as large."""
        return FaceSquare(Place(self.middle.x * factor, self.middle.y * factor), self.side * factor, self.turn)

    def to_picture(self, samples: int) -> Affine:
        """From pixels of the upright square of ``samples``×``samples`` to pixels of the picture, from corners, 2×3."""
        scale = self.side / samples
        cos, sin = scale * math.cos(self.turn), scale * math.sin(self.turn)
        half = samples / 2
        return np.array([
            [cos, -sin, self.middle.x - half * (cos - sin)], [sin, cos, self.middle.y - half * (sin + cos)],
        ])  # fmt: skip

    def corners(self) -> npt.NDArray[np.float64]:
        """Its four corners in the picture, 4×2."""
        matrix = self.to_picture(1)
        unit = np.array([[0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]], np.float64)
        return np.asarray(unit @ matrix.T)


def cut_square(pixels: npt.NDArray[np.float32], square: FaceSquare, side: int) -> npt.NDArray[np.float32]:
    """The upright square of H×W×3, side×side×3; beyond the picture it is mirrored."""
    matrix = square.to_picture(side)
    shifted = matrix.copy()
    # From middles of pixels to middles of pixels.
    shifted[:, 2] += matrix[:, :2] @ [0.5, 0.5] - 0.5
    scale = square.side / side
    if scale > _COARSER:
        pixels = np.asarray(cv2.GaussianBlur(pixels, (0, 0), 0.4 * scale), np.float32)
    how = cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpAffine(pixels, shifted, (side, side), flags=how, borderMode=cv2.BORDER_REFLECT_101))
