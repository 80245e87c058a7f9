"""What a sharp picture of the same person lends a face: the detail that its own source does not have.

The reference is bent onto the face by the places of both, drawn together further by what both show, lit alike, and only its
finest bands are taken, where both show the same.
"""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.faces.mesh import Places, mesh_of
from kitecore.faces.square import FaceSquare
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels

Plane = npt.NDArray[np.float32]

#: A face that the network is less sure of lends nothing and is lent nothing.
_SURE = 0.5
#: Nodes a side at which the bending is told, and how much smoother than through every place it is.
_NODES, _CALM = 33, 1e-3
#: σ of what the source has, in samples of the source; and the least in samples of the square.
_BAND, _LEAST_BAND = 0.55, 0.8
#: Light is made alike within these bounds, over this σ in sides at least.
_DARKER, _LIGHTER, _LIGHT = 0.5, 2.0, 0.04
#: Likeness (twice the product over the sum of squares, in windows) from which on detail is taken, and at which all of it is; the
#: window, in sides.
_LIKE, _ALIKE, _WINDOW = 0.4, 0.9, 0.035
#: Where the bending makes more or less of an area than this, the reference shows it from too far aside.
_STRETCH = 3.0


def lent(face: Pixels, reference: Pixels, finer: float) -> tuple[Pixels, Plane]:
    """What is to be added to a face so that it has the reference's detail, S×S×3, and where, S×S, 0..1.

    ``face`` S×S×3 and ``reference`` T×T×3 are upright squares of coded values 0..1; ``finer`` is how many samples of the face's
    square there are for one of its source. Where nothing can be told there is nothing: no face in one of them, or another part.
    """
    side = face.shape[0]
    nothing = np.zeros_like(face), np.zeros((side, side), np.float32)
    meshes = [mesh_of(one, _all_of(one)) for one in (face, reference)]
    if min(mesh.sure for mesh in meshes) < _SURE:
        return nothing
    band = max(_LEAST_BAND, _BAND * finer)
    across, down, there = _bent(meshes[0].places, meshes[1].places, side)
    if not there.any():
        return nothing
    # Softened before it is made smaller, or its finest threads would flicker.
    coarse = reference.shape[0] / side
    soft = cv2.GaussianBlur(reference, (0, 0), 0.4 * coarse) if coarse > 1.3 else reference
    laid = _taken(np.asarray(soft, np.float32), across, down)
    flow = _drawn_together(face, laid, band)
    laid = _taken(np.asarray(soft, np.float32), *_through(across, down, flow))
    low_face, low_laid = (np.asarray(cv2.GaussianBlur(one, (0, 0), band), np.float32) for one in (face, laid))
    wide = max(4 * band, _LIGHT * side)
    lights = [
        np.asarray(cv2.GaussianBlur(luma(one), (0, 0), wide), np.float32) + np.float32(0.02) for one in (face, laid)
    ]
    light = np.clip(lights[0] / lights[1], _DARKER, _LIGHTER)[..., None]
    added = light * (laid - low_laid) - (face - low_face)
    alike = _likeness(luma(face), luma(np.asarray(light * laid, np.float32)), band)
    return np.asarray(added, np.float32), there * alike


def _all_of(square: Pixels) -> FaceSquare:
    side = square.shape[0]
    return FaceSquare(Place(side / 2, side / 2), side, 0.0)


def _bent(face: Places, reference: Places, side: int) -> tuple[Plane, Plane, Plane]:
    """Where in the reference each pixel of the face comes from (in its pixels, from middles), and where that is to be believed.

    A thin plate through the places of both (Bookstein 1989), told at nodes and smooth between them.
    """
    unit = face / side
    nodes = (np.arange(_NODES) + 0.0) / (_NODES - 1)
    at = np.stack(np.meshgrid(nodes, nodes), axis=-1).reshape(-1, 2)
    count = len(unit)
    system = np.zeros((count + 3, count + 3))
    system[:count, :count] = _plate(unit, unit) + _CALM * np.eye(count)
    system[:count, count:] = np.c_[np.ones(count), unit]
    system[count:, :count] = system[:count, count:].T
    weights = np.linalg.solve(system, np.r_[reference, np.zeros((3, 2))])
    told = _plate(at, unit) @ weights[:count] + np.c_[np.ones(len(at)), at] @ weights[count:]
    told = told.reshape(_NODES, _NODES, 2)
    places = ((np.arange(side) + 0.5) / side * (_NODES - 1)).astype(np.float32)
    x, y = np.meshgrid(places, places)
    across, down = (
        np.asarray(
            cv2.remap(told[..., part].astype(np.float32), x, y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        )
        - np.float32(0.5)
        for part in (0, 1)
    )
    hull = cv2.convexHull(face.astype(np.float32))
    inside = np.zeros((side, side), np.uint8)
    cv2.fillConvexPoly(inside, np.round(hull).astype(np.int32), 1)
    depth = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) / (0.06 * side)
    area = np.gradient(across, axis=1) * np.gradient(down, axis=0) - np.gradient(across, axis=0) * np.gradient(
        down, axis=1
    )
    usual = float(np.median(area[inside > 0])) if inside.any() else 1.0
    even = (area > usual / _STRETCH) & (area < usual * _STRETCH)
    even_soft = cv2.GaussianBlur(even.astype(np.float32), (0, 0), 0.01 * side)
    return across, down, np.asarray(np.clip(depth, 0, 1) * even_soft, np.float32)


def _plate(one: Places, other: Places) -> Places:
    """r² log r of every place of one from every place of the other."""
    squares = ((one[:, None] - other[None]) ** 2).sum(axis=2)
    return np.asarray(0.5 * squares * np.log(squares + 1e-12), np.float64)


def _taken(pixels: Pixels, across: Plane, down: Plane) -> Pixels:
    return np.asarray(cv2.remap(pixels, across, down, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT_101), np.float32)


def _drawn_together(face: Pixels, laid: Pixels, band: float) -> npt.NDArray[np.float32]:
    """How far what is laid down still lies from the face, S×S×2: told by what both show, the light of it taken out."""
    even = []
    for one in (face, laid):
        seen = cv2.GaussianBlur(luma(one), (0, 0), band)
        wide = cv2.GaussianBlur(seen, (0, 0), 0.06 * face.shape[0])
        away = seen - wide
        spread = np.sqrt(cv2.GaussianBlur(away * away, (0, 0), 0.06 * face.shape[0]) + 1e-4)
        even.append(np.clip(127 + 50 * away / spread, 0, 255).astype(np.uint8))
    finder = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    flow = np.asarray(finder.calc(even[0], even[1], np.zeros((*even[0].shape, 2), np.float32)), np.float32)
    # Small and smooth, or it would follow noise.
    most = 0.03 * face.shape[0]
    return np.asarray(cv2.GaussianBlur(np.clip(flow, -most, most), (0, 0), 0.012 * face.shape[0]), np.float32)


def _through(across: Plane, down: Plane, flow: npt.NDArray[np.float32]) -> tuple[Plane, Plane]:
    """Where each pixel comes from once it is moved by ``flow`` first."""
    side = across.shape[0]
    x, y = np.meshgrid(np.arange(side, dtype=np.float32), np.arange(side, dtype=np.float32))
    x, y = x + flow[..., 0], y + flow[..., 1]
    return _plane_at(across, x, y), _plane_at(down, x, y)


def _plane_at(plane: Plane, x: Plane, y: Plane) -> Plane:
    return np.asarray(cv2.remap(plane, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)


def _likeness(face: Plane, laid: Plane, band: float) -> Plane:
    """How much both show the same, 0..1, by the bands that the face has."""
    size = _WINDOW * face.shape[0]

    def mean(plane: Plane) -> Plane:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), size), np.float32)

    bands = [cv2.GaussianBlur(one, (0, 0), band) - cv2.GaussianBlur(one, (0, 0), 2 * band) for one in (face, laid)]
    together = 2 * mean(bands[0] * bands[1])
    apart = mean(bands[0] ** 2) + mean(bands[1] ** 2) + 1e-6
    share = np.clip((together / apart - _LIKE) / (_ALIKE - _LIKE), 0, 1)
    return np.asarray(share * share * (3 - 2 * share), np.float32)
