"""Both eyes of a face look the same way: irises moved within their lids, and nothing else."""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.faces.mesh import LEFT_CORNERS, LEFT_EYE, RIGHT_CORNERS, RIGHT_EYE, Iris, Mesh, irises_of, mesh_of
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place, Region
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.faces_stage import bounds_of

Plane = npt.NDArray[np.float32]
Places = npt.NDArray[np.float64]

#: Samples a side of the square that is looked at.
_SEEN = 256
#: A face that the network is less sure of stays as it is.
_SURE = 0.5
#: What moves as one, in radii of the iris, and how far around it the white of the eye gives way.
_WHOLE, _GIVES = 1.15, 1.2
#: How wide lids are left alone, in radii; nothing moves farther than this share of an eye's width.
_LIDS, _MOST = 0.22, 0.3
#: Lanczos looks at so many pixels around; moves below the other, in pixels, are none.
_LOBES, _LEAST = 4, 0.02


@dataclass(frozen=True)
class Aligned:
    """A face whose eyes are to look the same way: its square in pixels of the stage, and how far they are moved, 0..1."""

    square: FaceSquare
    strength: float


@dataclass(frozen=True)
class _Eye:
    """How far the pixels of ``box`` are moved, across and down, H×W each."""

    box: Region
    across: Plane
    down: Plane


class GazeStage(Stage):
    """``source`` with the eyes of faces looking the same way. Each face is looked at once, as a whole."""

    def __init__(self, source: Stage, faces: list[Aligned]) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._faces = source, faces
        self._eyes: dict[int, list[_Eye]] = {}
        self._alone = threading.Lock()

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        for index, face in enumerate(self._faces):
            if bounds_of(face.square).intersection(region) is None:
                continue
            for eye in self._of(index, run):
                common = eye.box.intersection(region)
                if common is not None:
                    self._move(result[common.slices(region)], common, eye, run)
        return result

    def _of(self, index: int, run: Run) -> list[_Eye]:
        with self._alone:
            if index not in self._eyes:
                self._eyes[index] = self._looked(self._faces[index], run)
            return self._eyes[index]

    def _looked(self, face: Aligned, run: Run) -> list[_Eye]:
        bounds = bounds_of(face.square)
        around = self._source.extended(bounds, run)
        colours = around[..., : self.bands - has_alpha(self.bands)]
        rgb = np.repeat(colours, 3, axis=2) if colours.shape[2] == 1 else colours
        inside = FaceSquare(
            Place(face.square.middle.x - bounds.x, face.square.middle.y - bounds.y), face.square.side, face.square.turn
        )
        samples = min(_SEEN, max(32, math.ceil(face.square.side)))
        seen = cut_square(np.ascontiguousarray(rgb), inside, samples)
        mesh = mesh_of(seen, FaceSquare(Place(samples / 2, samples / 2), samples, 0.0))
        if mesh.sure < _SURE:
            return []
        to_picture = face.square.to_picture(samples)
        return [
            eye for outline, iris, shift in shifts(mesh, irises_of(seen, mesh))
            if (eye := _moved(outline, iris, face.strength * shift, to_picture)) is not None
        ]  # fmt: skip

    def _move(self, part: Pixels, region: Region, eye: _Eye, run: Run) -> None:
        across, down = (plane[region.slices(eye.box)] for plane in (eye.across, eye.down))
        far = np.hypot(across, down)
        if far.max() < _LEAST:
            return
        margin = math.ceil(float(far.max())) + _LOBES
        around = self._source.extended(region.grown(margin), run)
        x = np.arange(region.width, dtype=np.float32)[None] + margin - across
        y = np.arange(region.height, dtype=np.float32)[:, None] + margin - down
        moved = cv2.remap(around, x, y, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT_101)
        there = far >= _LEAST
        part[there] = np.asarray(moved, np.float32).reshape(part.shape)[there]


def shifts(mesh: Mesh, irises: tuple[Iris, Iris]) -> list[tuple[Places, Iris, Places]]:
    """Of each eye its outline, N×2, its iris, and by how much that has to move for both to look the same way.

    Where an iris stands is told along and across its eye, in widths of it; both go to the mean.
    """
    eyes = []
    for corners, iris in zip((LEFT_CORNERS, RIGHT_CORNERS), irises, strict=True):
        first, second = mesh.places[list(corners)]
        along = second - first
        width = max(float(np.hypot(*along)), 1e-6)
        axes = np.array([along, [-along[1], along[0]]]) / width
        stands = axes @ (np.array([iris.middle.x, iris.middle.y]) - (first + second) / 2) / width
        eyes.append((width, axes, stands))
    mean = (eyes[0][2] + eyes[1][2]) / 2
    return [
        (mesh.places[list(outline)], iris, axes.T @ np.clip((mean - stands), -_MOST, _MOST) * width)
        for outline, iris, (width, axes, stands) in zip((LEFT_EYE, RIGHT_EYE), irises, eyes, strict=True)
    ]


def _moved(outline: Places, iris: Iris, shift: Places, to_picture: npt.NDArray[np.float64]) -> _Eye | None:
    """The moves around an eye that was seen in a square; None if there are none to speak of."""
    ring = outline @ to_picture[:, :2].T + to_picture[:, 2]
    middle = to_picture[:, :2] @ np.array([iris.middle.x, iris.middle.y]) + to_picture[:, 2]
    move = to_picture[:, :2] @ shift
    radius = iris.radius * math.sqrt(abs(np.linalg.det(to_picture[:, :2])))
    if np.hypot(*move) < _LEAST or radius < 1.5:
        return None
    left, top = np.floor(ring.min(axis=0)).astype(int) - 1
    right, bottom = np.ceil(ring.max(axis=0)).astype(int) + 1
    box = Region.between(int(left), int(top), int(right), int(bottom))
    inside = np.zeros((box.height, box.width), np.uint8)
    corner = np.array([box.x, box.y])
    fine = 4
    cv2.fillPoly(inside, [np.round((ring - corner - 0.5) * 2**fine).astype(np.int32)], 255, cv2.LINE_AA, fine)
    # From nothing at the lids to all of it a little inside them.
    depth = cv2.distanceTransform((inside > 127).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    open_ = _smooth(np.asarray(depth, np.float64) / max(1.0, _LIDS * radius))
    x = np.arange(box.width)[None] + box.x + 0.5 - middle[0] - move[0]
    y = np.arange(box.height)[:, None] + box.y + 0.5 - middle[1] - move[1]
    gives = _GIVES * radius + float(np.hypot(*move))
    weight = open_ * _smooth((_WHOLE * radius + gives - np.hypot(x, y)) / gives)
    return _Eye(box, *(np.asarray(part * weight, np.float32) for part in move))


def _smooth(share: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    held = np.clip(share, 0, 1)
    return np.asarray(held * held * (3 - 2 * held), np.float64)
