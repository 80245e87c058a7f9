"""Gentle changes of expression: corners of the mouth, brows and lids moved a little, and nothing outside the face."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.faces.square import FaceSquare
from kitecore.pipeline.geometry import Place, Region
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.faces_stage import bounds_of, oval

Plane = npt.NDArray[np.float64]

#: All in distances between the eyes. Half the width of a mouth; how far its corners go out and up, and how wide around
#: them; how far cheeks follow.
_MOUTH, _OUT, _UP, _AROUND, _CHEEK = 0.40, 0.05, 0.11, 0.22, 0.035
#: How far above the eyes brows lie and go, and how wide and high around them.
_BROW, _LIFT, _BROAD, _HIGH = 0.36, 0.10, 0.34, 0.17
#: By how much lids part, as a share of their distance from the middle of the eye, and how wide around it.
_PART, _LID = 0.45, 0.15
#: Lanczos looks at so many pixels around; moves below the other, in pixels, are none.
_LOBES, _LEAST = 4, 1e-3


@dataclass(frozen=True)
class Expression:
    """How far corners of the mouth, brows and lids go up or apart, -1..1."""

    smile: float = 0.0
    brows: float = 0.0
    eyes: float = 0.0

    @property
    def any(self) -> bool:
        return bool(self.smile or self.brows or self.eyes)


@dataclass(frozen=True)
class Moved:
    """A face of which something moves: eyes, the one farther left in its upright square first, and mouth, in pixels."""

    eyes: tuple[Place, Place]
    mouth: Place
    expression: Expression

    @property
    def square(self) -> FaceSquare:
        return FaceSquare.around(*self.eyes, self.mouth)


class ExpressionStage(Stage):
    """``source`` with the expressions of faces changed."""

    def __init__(self, source: Stage, faces: list[Moved]) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._faces = source, faces

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        for face in self._faces:
            common = bounds_of(face.square).intersection(region)
            if common is not None:
                part = result[common.y - region.y :, common.x - region.x :][: common.height, : common.width]
                self._move(part, common, face, run)
        return result

    def _move(self, part: Pixels, region: Region, face: Moved, run: Run) -> None:
        across, down = moves(face, region)
        far = np.hypot(across, down)
        if far.max() < _LEAST:
            return
        margin = math.ceil(float(far.max())) + _LOBES
        around = self._source.extended(region.grown(margin), run)
        x = np.arange(region.width)[None] + margin - across
        y = np.arange(region.height)[:, None] + margin - down
        moved = cv2.remap(
            around, x.astype(np.float32), y.astype(np.float32), cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT_101
        )
        there = far >= _LEAST
        part[there] = np.asarray(moved, np.float32).reshape(part.shape)[there]


def moves(face: Moved, region: Region) -> tuple[Plane, Plane]:
    """How far each pixel of ``region`` is moved, across and down, in pixels of the picture; H×W each."""
    square = face.square
    to_square = cv2.invertAffineTransform(square.to_picture(1))
    x = np.arange(region.x, region.right)[None] + 0.5
    y = np.arange(region.y, region.bottom)[:, None] + 0.5
    at_x, at_y = (row[0] * x + row[1] * y + row[2] for row in to_square)
    first, second, mouth = (to_square @ [spot.x, spot.y, 1] for spot in (*face.eyes, face.mouth))
    unit = max(float(np.hypot(*(second - first))), 1e-3)
    told = face.expression

    def bump(middle: npt.NDArray[np.float64], wide: float, high: float) -> Plane:
        far = ((at_x - middle[0]) / (wide * unit)) ** 2 + ((at_y - middle[1]) / (high * unit)) ** 2
        return np.asarray(np.exp(-far / 2), np.float64)

    across, down = np.zeros_like(at_x), np.zeros_like(at_x)
    for side, eye in ((-1, first), (1, second)):
        corner = bump(mouth + unit * np.array([side * _MOUTH, 0]), _AROUND, _AROUND)
        across += told.smile * side * _OUT * unit * corner
        down -= told.smile * _UP * unit * corner
        down -= told.smile * _CHEEK * unit * bump(mouth + unit * np.array([side * 0.62, -0.4]), 0.3, 0.3)
        down -= told.brows * _LIFT * unit * bump(eye - unit * np.array([0, _BROW]), _BROAD, _HIGH)
        down += told.eyes * _PART * (at_y - eye[1]) * bump(eye, 1.4 * _LID, _LID)
    # Nothing at the rim.
    weight = oval(at_x, at_y, "hair")
    cos, sin = square.side * math.cos(square.turn), square.side * math.sin(square.turn)
    return weight * (cos * across - sin * down), weight * (sin * across + cos * down)
