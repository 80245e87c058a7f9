"""Faces of a picture: a cascade finds what may be one, two other networks look at those it is not sure of.

Measured on pictures of 30 groups of invented people (587 faces of 18 to 46 px, turned up to 60°, grey, grainy, blurred, JPEG)
and on the lab's 38 photographs and 12 reserved ones: nine faces of ten are found, and nothing where there is none.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.faces.cascade import Sighting, sightings
from kitecore.faces.lite import lite_network
from kitecore.faces.square import FaceSquare
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run

#: From this on the cascade is believed; of what it is less sure of, the second look from the other on.
SURE, _SECOND_SURE = 0.9, 0.7
#: Below this score a network of the second look says nothing.
_LEAST_SCORE = 0.5
#: Side of the square of the second look, in widths of the face that is supposed there.
_SECOND_LOOK = 2.0
#: How far apart two middles of one face may be, in widths.
_NEAR = 0.4
#: Narrower ones are none, in pixels: there would be no face to see.
_LEAST_WIDTH = 10.0
#: A face smaller than this share of the square it is seen in, or larger, is none.
_NEAREST, _FARTHEST = 0.95, 0.05


@dataclass(frozen=True)
class Face:
    """A face in pixels of the picture, from the upper left corner; ``score`` 0..1 is how sure the networks are.

    ``eyes`` begin with the one farther left in the picture.
    """

    middle: Place
    width: float
    height: float
    eyes: tuple[Place, Place]
    mouth: Place
    score: float

    @property
    def sure(self) -> bool:
        """Whether it is hardly anything else."""
        return self.score >= SURE

    @property
    def square(self) -> FaceSquare:
        """The upright square it is restored in."""
        return FaceSquare.around(*self.eyes, self.mouth)


def find_faces(pixels: Pixels, run: Run) -> list[Face]:
    """Faces of a picture H×W×1..4, coded values 0..1, largest first. Raises Cancelled through ``run``."""
    colours = pixels[..., : pixels.shape[2] - has_alpha(pixels.shape[2])]
    colours = np.clip(np.repeat(colours, 3, axis=2) if colours.shape[2] == 1 else colours, 0, 1)
    faces = []
    for seen in sightings(colours, run):
        run.check()
        left, top, right, bottom = seen.box
        if right - left < _LEAST_WIDTH:
            continue
        score = seen.sure if seen.sure >= SURE else _second_look(colours, seen)
        if score >= min(SURE, _SECOND_SURE):
            first, second, mouth = (
                Place(float(x), float(y)) for x, y in (*seen.places[:2], seen.places[3:].mean(axis=0))
            )
            middle = Place((left + right) / 2, (top + bottom) / 2)
            faces.append(Face(middle, right - left, bottom - top, (first, second), mouth, round(score, 3)))
    return sorted(faces, key=lambda face: -face.width)


def _second_look(colours: Pixels, seen: Sighting) -> float:
    """How sure other networks are of a face, seen in a square about twice as wide; 0 if they see none there."""
    left, top, right, bottom = seen.box
    width, x, y = right - left, (left + right) / 2, (top + bottom) / 2
    side = max(8, round(_SECOND_LOOK * max(width, 0.8 * (bottom - top))))
    begin_x, begin_y = max(0, round(x - side / 2)), max(0, round(y - side / 2))
    square = colours[begin_y : begin_y + side, begin_x : begin_x + side]
    if min(square.shape[:2]) < 8:
        return 0.0
    scores = [
        score for detector in _detectors() for place, score in detector.seen(square)
        if abs(place.x + begin_x - x) < _NEAR * width and abs(place.y + begin_y - y) < _NEAR * width
    ]  # fmt: skip
    return max(scores, default=0.0)


class _Detector:
    """One network: a square picture in, and for each of its anchors a box, six points and a score out."""

    def __init__(self, name: str, strides: dict[int, int]) -> None:
        self._network = lite_network(name)
        self._side = self._network.side
        self._anchors = np.concatenate([
            np.repeat(_grid(self._side // stride), count, axis=0) for stride, count in strides.items()
        ])  # fmt: skip

    def seen(self, square: Pixels) -> list[tuple[Place, float]]:
        """Middles of faces of H×W×3 in 0..1, which is laid into a square with black around, and how sure each is."""
        height, width = square.shape[:2]
        scale = self._side / max(height, width)
        size = (max(1, round(width * scale)), max(1, round(height * scale)))
        laid = np.zeros((self._side, self._side, 3), np.float32)
        how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
        laid[: size[1], : size[0]] = cv2.resize(square, size, interpolation=how)
        boxes, raw = self._network(2 * laid - 1)
        scores = 1 / (1 + np.exp(-np.clip(raw[0, :, 0], -60, 60)))
        likely = np.flatnonzero(scores > _LEAST_SCORE)
        return [
            (middle, float(scores[index]))
            for index in likely
            for middle, across in [self._face(boxes[0, index], self._anchors[index], scale)]
            if _FARTHEST < across / max(height, width) < _NEAREST
        ]

    def _face(self, box: npt.NDArray[np.float32], anchor: npt.NDArray[np.float32], scale: float) -> tuple[Place, float]:
        """Middle and width: boxes hold middle, size and six points in pixels of the square, the middle from the anchor."""
        x, y = (box[:2] + anchor * self._side) / scale
        return Place(float(x), float(y)), float(box[2] / scale)


def _grid(count: int) -> npt.NDArray[np.float32]:
    """Middles of count×count cells, row by row, in shares of the side."""
    middles = (np.arange(count, dtype=np.float32) + 0.5) / count
    return np.stack([np.tile(middles, count), np.repeat(middles, count)], axis=1)


@cache
def _detectors() -> tuple[_Detector, ...]:
    """For near faces two anchors in every 8×8 pixels and six in every 16×16; for distant ones one in every 4×4."""
    return _Detector("short_range", {8: 2, 16: 6}), _Detector("full_range", {4: 1})
