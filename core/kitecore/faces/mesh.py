"""The shape of a face: 468 places of its surface, and where its eyes look, told by networks that are not ours.

The places are numbered as the face mesh is that the network was trained on; those that are used here have names below.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kitecore.faces.lite import lite_network
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.pixels import Pixels

Places = npt.NDArray[np.float64]

#: What the network of the mesh is shown, in sides of the face's square.
_SHOWN = 0.8
#: Outlines of the eyes, the one farther left in an upright face first.
LEFT_EYE = (33, 7, 163, 144, 145, 153, 154, 155, 133, 173, 157, 158, 159, 160, 161, 246)
RIGHT_EYE = (263, 249, 390, 373, 374, 380, 381, 382, 362, 398, 384, 385, 386, 387, 388, 466)
#: Their corners, the one farther left first.
LEFT_CORNERS, RIGHT_CORNERS = (33, 133), (362, 263)
#: What the network of the irises is shown, in widths of the eye between its corners.
_EYE_SHOWN = 2.3


@dataclass(frozen=True)
class Mesh:
    """The places of a face, 468×2, in pixels of the picture from its upper left corner; ``sure`` 0..1: that there is a face."""

    places: Places
    sure: float


@dataclass(frozen=True)
class Iris:
    """An iris in pixels of the picture: its middle, and its radius."""

    middle: Place
    radius: float


def mesh_of(pixels: Pixels, square: FaceSquare) -> Mesh:
    """The mesh of the face in ``square`` of a picture H×W×3, coded values 0..1."""
    shown = FaceSquare(square.middle, square.side * _SHOWN, square.turn)
    side = 192
    given = np.clip(cut_square(pixels, shown, side), 0, 1)
    told, sure = lite_network("face_landmark")(given)
    places = told.reshape(-1, 3)[:, :2].astype(np.float64)
    return Mesh(_placed(places, shown, side), float(1 / (1 + np.exp(-np.clip(sure.ravel()[0], -60, 60)))))


def irises_of(pixels: Pixels, mesh: Mesh) -> tuple[Iris, Iris]:
    """The irises of a face whose mesh is known, the one farther left in the upright face first."""
    left, right = (
        _iris(pixels, mesh.places[list(corners)], mirrored)
        for corners, mirrored in ((LEFT_CORNERS, False), (RIGHT_CORNERS, True))
    )
    return left, right


def _iris(pixels: Pixels, corners: Places, mirrored: bool) -> Iris:
    """The iris between the corners of an eye, the one farther left in the upright face first.

    The network knows left eyes as they stand in a picture; the others are shown to it in a mirror.
    """
    across = corners[1] - corners[0]
    middle = corners.mean(axis=0)
    shown = FaceSquare(
        Place(*middle), max(4.0, _EYE_SHOWN * float(np.hypot(*across))), float(np.arctan2(across[1], across[0]))
    )
    side = 64
    given = np.clip(cut_square(pixels, shown, side), 0, 1)
    given = np.ascontiguousarray(given[:, ::-1]) if mirrored else given
    _, told = lite_network("iris_landmark")(given)
    places = told.reshape(5, 3)[:, :2].astype(np.float64)
    if mirrored:
        places[:, 0] = side - places[:, 0]
    placed = _placed(places, shown, side)
    radius = float(np.hypot(*(placed[1:] - placed[0]).T).mean())
    return Iris(Place(float(placed[0, 0]), float(placed[0, 1])), radius)


def _placed(places: Places, square: FaceSquare, side: int) -> Places:
    """From pixels of a square of ``side`` samples to pixels of the picture."""
    matrix = square.to_picture(side)
    return np.asarray(places @ matrix[:, :2].T + matrix[:, 2])
