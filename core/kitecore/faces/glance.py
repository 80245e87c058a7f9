"""What eyes do in a moment: whether they are open, look at the camera, and have a catch-light."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from kitecore.faces.mesh import LEFT_CORNERS, LEFT_EYE, RIGHT_CORNERS, RIGHT_EYE, Iris, Mesh, Places, irises_of, mesh_of
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels

#: A face that the network is less sure of says nothing; samples of the square it is looked at in, at least and at most.
_SURE, _LEAST, _MOST = 0.5, 64, 256
#: Height between the lids ÷ width between the corners, of eyes that are shut and of eyes that are open.
_SHUT, _OPEN = 0.2, 0.3
#: How far irises stand from where they look straight ahead, in widths of the eye: still at the camera, and surely beside it.
_STRAIGHT, _ASIDE = 0.06, 0.18
#: Widths of the eye that irises move when the head turns so far that its nose stands at the rim of the face, and eyes follow.
_TURN = 0.16
#: How much lighter than the middle of its iris a catch-light is, of 1.
_NO_LIGHT, _LIGHT = 0.15, 0.35
#: It covers at most this share of the inner iris, whose radius is the other share of its own.
_MOST_LIGHT, _INNER = 0.25, 0.65
#: The tip of the nose, and the rims of the face at its height.
_NOSE, _RIMS = 4, (234, 454)


@dataclass(frozen=True)
class Glance:
    """Each 0..1: how far the eyes are open (the less open one), how nearly they look at the camera, how clear their light is."""

    open: float
    towards: float
    light: float

    @property
    def good(self) -> float:
        """All of it as one figure, 0..1: shut eyes spoil a picture, eyes without a light do not."""
        return self.open * (0.35 + 0.65 * self.towards) * (0.8 + 0.2 * self.light)


def glance_of(pixels: Pixels, square: FaceSquare) -> Glance | None:
    """The glance of the face in ``square`` of a picture H×W×3, coded values 0..1; None if the networks see no face there."""
    samples = int(np.clip(square.side, _LEAST, _MOST))
    seen = cut_square(pixels, square, samples)
    mesh = mesh_of(seen, FaceSquare(Place(samples / 2, samples / 2), samples, 0.0))
    if mesh.sure < _SURE:
        return None
    eyes = [
        (mesh.places[list(outline)], mesh.places[list(corners)], iris)
        for outline, corners, iris in zip(
            (LEFT_EYE, RIGHT_EYE), (LEFT_CORNERS, RIGHT_CORNERS), irises_of(seen, mesh), strict=True
        )
    ]
    opened = min(_between(_height(outline, corners), _SHUT, _OPEN) for outline, corners, _ in eyes)
    aside = abs(float(np.mean([_aside(corners, iris) for _, corners, iris in eyes])) + _TURN * _turn(mesh))
    light = max(_catch_light(seen, outline, iris) for outline, _, iris in eyes)
    return Glance(round(opened, 3), round(1 - _between(aside, _STRAIGHT, _ASIDE), 3), round(light, 3))


def _between(value: float, low: float, high: float) -> float:
    return float(np.clip((value - low) / (high - low), 0, 1))


def _height(outline: Places, corners: Places) -> float:
    """How far the lids are apart, in widths of the eye."""
    across = corners[1] - corners[0]
    width = float(np.hypot(*across)) or 1.0
    down = (outline - corners[0]) @ np.array([-across[1], across[0]]) / width
    return float(np.ptp(down)) / width


def _aside(corners: Places, iris: Iris) -> float:
    """How far right of the middle of its eye an iris stands, in widths of the eye."""
    across = corners[1] - corners[0]
    middle = corners.mean(axis=0)
    return float((np.array([iris.middle.x, iris.middle.y]) - middle) @ across / max(float(across @ across), 1e-6))


def _turn(mesh: Mesh) -> float:
    """How far right of the middle between the rims of the face the nose stands, in halves of its width: −1..1."""
    left, right = mesh.places[_RIMS[0]], mesh.places[_RIMS[1]]
    across = right - left
    share = float((mesh.places[_NOSE] - left) @ across / max(float(across @ across), 1e-6))
    return float(np.clip(2 * share - 1, -1, 1))


def _catch_light(seen: Pixels, outline: Places, iris: Iris) -> float:
    """How much lighter the lightest spot of an iris is than its middle tone, 0..1; of what lies between the lids."""
    radius = max(1.5, iris.radius)
    rows, columns = np.ogrid[: seen.shape[0], : seen.shape[1]]
    inside = np.hypot(columns + 0.5 - iris.middle.x, rows + 0.5 - iris.middle.y) < _INNER * radius
    between = np.zeros(seen.shape[:2], np.uint8)
    cv2.fillPoly(between, [np.rint(outline - 0.5).astype(np.int32)], 1)
    # The rim of a lid is no light.
    inside &= cv2.erode(between, np.ones((3, 3), np.uint8)) > 0
    if inside.sum() < 4:
        return 0.0
    tones = luma(seen)[inside]
    lightest, middle = float(tones.max()), float(np.median(tones))
    if (tones > (lightest + middle) / 2).mean() > _MOST_LIGHT:
        return 0.0  # the white of the eye
    return _between(lightest - middle, _NO_LIGHT, _LIGHT)
