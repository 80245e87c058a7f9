"""Run the detection networks over a picture in overlapping squares of several sizes and join what they find.

The networks see small squares only, so distant faces are found in small squares and near ones in large ones.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Place
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run

_FOLDER = Path(__file__).parent
#: Below the first score nothing is looked at again; at the second look a face must reach the second one. Textures,
#: scenes without people and photographs with faces were tried, see test_faces.
_LEAST_SCORE, _SURE_SCORE = 0.5, 0.8
#: Side of the square of the second look, in widths of the face that is supposed there.
_SECOND_LOOK = 2.0
#: Faces that share more than this of their area are one.
_SAME = 0.3
#: Squares are not made smaller than this, in pixels: there would be no face to see.
_LEAST_SIDE = 160
_OVERLAP = 0.3
#: A face smaller than this share of its square, or larger, is left to a smaller or larger square.
_NEAREST, _FARTHEST = 0.95, 0.05


@dataclass(frozen=True)
class Face:
    """A face in pixels of the picture, from the upper left corner; ``score`` 0..1 is how sure the network is."""

    middle: Place
    width: float
    height: float
    eyes: tuple[Place, Place]
    score: float

    def overlap(self, other: Face) -> float:
        """Area in common ÷ area of both together."""
        across = _common(self.middle.x, self.width, other.middle.x, other.width)
        down = _common(self.middle.y, self.height, other.middle.y, other.height)
        both = self.width * self.height + other.width * other.height - across * down
        return across * down / both if both > 0 else 0.0


def _common(middle: float, length: float, other: float, other_length: float) -> float:
    left, right = max(middle - length / 2, other - other_length / 2), min(middle + length / 2, other + other_length / 2)
    return max(0.0, right - left)


def find_faces(pixels: Pixels, run: Run) -> list[Face]:
    """Faces of a picture H×W×1..4, coded values 0..1, largest first. Raises Cancelled through ``run``."""
    colours = pixels[..., : pixels.shape[2] - has_alpha(pixels.shape[2])]
    colours = np.clip(np.repeat(colours, 3, axis=2) if colours.shape[2] == 1 else colours, 0, 1)
    found: list[Face] = []
    for left, top, side in _squares(colours.shape[1], colours.shape[0]):
        run.check()
        square = colours[max(0, top) : top + side, max(0, left) : left + side]
        for detector in _detectors():
            found += [_moved(face, max(0, left), max(0, top)) for face in detector.faces(square)]
    looked_at_again = [again for face in _joined(found) if (again := _second_look(colours, face))]
    return sorted(_joined(looked_at_again), key=lambda face: -face.width)


def _second_look(colours: Pixels, face: Face) -> Face | None:
    """The face as it is seen in a square that it fills, by the network for near faces; None if it is none then."""
    side = max(8, round(_SECOND_LOOK * face.width))
    left, top = max(0, round(face.middle.x - side / 2)), max(0, round(face.middle.y - side / 2))
    square = colours[top : top + side, left : left + side]
    if min(square.shape[:2]) < 8:
        return None
    seen = [_moved(one, left, top) for one in _detectors()[0].faces(square)]
    sure = [one for one in seen if one.score > _SURE_SCORE and one.overlap(face) > _SAME]
    return max(sure, key=lambda one: one.score, default=None)


def _squares(width: int, height: int) -> Iterator[tuple[int, int, int]]:
    """Left, top and side of squares that cover the picture, from one as large as it down to small ones."""
    side = max(width, height)
    while True:
        across, down = _starts(width, side), _starts(height, side)
        yield from ((left, top, side) for top in down for left in across)
        if side // 2 < _LEAST_SIDE:
            return
        side //= 2


def _starts(length: int, side: int) -> list[int]:
    if side >= length:
        return [0]
    count = int(np.ceil((length - side) / (side * (1 - _OVERLAP)))) + 1
    return [round(start) for start in np.linspace(0, length - side, count)]


def _moved(face: Face, left: int, top: int) -> Face:
    def move(place: Place) -> Place:
        return Place(place.x + left, place.y + top)

    return Face(move(face.middle), face.width, face.height, (move(face.eyes[0]), move(face.eyes[1])), face.score)


def _joined(found: list[Face]) -> list[Face]:
    """The surest of those that lie on each other."""
    kept: list[Face] = []
    for face in sorted(found, key=lambda face: -face.score):
        if all(face.overlap(other) < _SAME and not _inside(face, other) for other in kept):
            kept.append(face)
    return kept


def _inside(face: Face, other: Face) -> bool:
    """Whether the middle of either lies in the other: an ear or a mouth taken for a face, or two faces for one."""
    across, down = abs(face.middle.x - other.middle.x), abs(face.middle.y - other.middle.y)
    return across < max(face.width, other.width) / 2 and down < max(face.height, other.height) / 2


class _Detector:
    """One network: a square picture in, and for each of its anchors a box, six points and a score out."""

    def __init__(self, name: str, strides: dict[int, int]) -> None:
        from ai_edge_litert.interpreter import Interpreter

        self._network: Any = Interpreter(model_path=str(_FOLDER / f"{name}.tflite"), num_threads=1)
        self._network.allocate_tensors()
        given = self._network.get_input_details()[0]
        self._input, self._side = given["index"], int(given["shape"][1])
        outputs = self._network.get_output_details()
        self._boxes = next(output["index"] for output in outputs if output["shape"][-1] == 16)
        self._scores = next(output["index"] for output in outputs if output["shape"][-1] == 1)
        self._anchors = np.concatenate([
            np.repeat(_grid(self._side // stride), count, axis=0) for stride, count in strides.items()
        ])  # fmt: skip
        self._alone = threading.Lock()

    def faces(self, square: Pixels) -> list[Face]:
        """Faces of H×W×3 in 0..1, which is laid into a square with black around."""
        height, width = square.shape[:2]
        scale = self._side / max(height, width)
        size = (max(1, round(width * scale)), max(1, round(height * scale)))
        laid = np.zeros((self._side, self._side, 3), np.float32)
        how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
        laid[: size[1], : size[0]] = cv2.resize(square, size, interpolation=how)
        boxes, scores = self._run(2 * laid - 1)
        likely = np.flatnonzero(scores > _LEAST_SCORE)
        return [
            face
            for index in likely
            for face in [self._face(boxes[index], self._anchors[index], float(scores[index]), scale)]
            if _FARTHEST < face.width / max(height, width) < _NEAREST
        ]

    def _run(self, given: npt.NDArray[np.float32]) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]:
        with self._alone:
            self._network.set_tensor(self._input, given[None])
            self._network.invoke()
            boxes = np.array(self._network.get_tensor(self._boxes)[0])
            raw = np.clip(self._network.get_tensor(self._scores)[0, :, 0], -60, 60)
        return boxes, np.asarray(1 / (1 + np.exp(-raw)), np.float32)

    def _face(self, box: npt.NDArray[np.float32], anchor: npt.NDArray[np.float32], score: float, scale: float) -> Face:
        """Boxes hold middle, size and six points, eyes first, in pixels of the square from the anchor."""
        points = (box.reshape(8, 2) + np.where(np.arange(8)[:, None] == 1, 0, anchor * self._side)) / scale
        middle, size, right, left = (Place(float(x), float(y)) for x, y in points[:4])
        return Face(middle, size.x, size.y, (right, left), score)


def _grid(count: int) -> npt.NDArray[np.float32]:
    """Middles of count×count cells, row by row, in shares of the side."""
    middles = (np.arange(count, dtype=np.float32) + 0.5) / count
    return np.stack([np.tile(middles, count), np.repeat(middles, count)], axis=1)


@cache
def _detectors() -> tuple[_Detector, ...]:
    """For near faces two anchors in every 8×8 pixels and six in every 16×16; for distant ones one in every 4×4."""
    return _Detector("short_range", {8: 2, 16: 6}), _Detector("full_range", {4: 1})
