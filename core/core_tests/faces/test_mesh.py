"""Places of a face and its irises, against what can be told from a photograph and its mirror image."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.faces import FaceSquare, find_faces
from kitecore.faces.mesh import LEFT_CORNERS, LEFT_EYE, RIGHT_CORNERS, RIGHT_EYE, irises_of, mesh_of
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.run import Run


def face(side: int = 600) -> np.ndarray:
    whole = skimage.data.astronaut()[0:300, 80:380]
    return cv2.resize(whole, (side, side), interpolation=cv2.INTER_CUBIC).astype(np.float32) / 255


def square_in(pixels: np.ndarray) -> FaceSquare:
    return find_faces(pixels, Run())[0].square


class MeshTest(unittest.TestCase):
    def setUp(self) -> None:
        self.pixels = face()
        self.square = square_in(self.pixels)
        self.mesh = mesh_of(self.pixels, self.square)

    def test_a_face_is_one_and_grass_is_none(self) -> None:
        self.assertGreater(self.mesh.sure, 0.95)
        grass = np.repeat(skimage.data.grass()[..., None], 3, axis=2).astype(np.float32) / 255
        self.assertLess(mesh_of(grass, FaceSquare(Place(256, 256), 300, 0.0)).sure, 0.5)

    def test_eyes_lie_where_they_are(self) -> None:
        for ring, found in zip(
            (LEFT_EYE, RIGHT_EYE), find_faces(self.pixels, Run())[0].eyes, strict=True
        ):  # fmt: skip
            middle = self.mesh.places[list(ring)].mean(axis=0)
            self.assertLess(float(np.hypot(*(middle - [found.x, found.y]))), 0.06 * self.square.face_width)
        corners = self.mesh.places[[*LEFT_CORNERS, *RIGHT_CORNERS], 0]
        self.assertEqual(list(corners), sorted(corners))

    def test_a_turned_picture_has_the_same_face_turned(self) -> None:
        turn = cv2.getRotationMatrix2D((300, 300), -20, 1)
        turned = cv2.warpAffine(self.pixels, turn, (600, 600), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
        middle = turn @ [self.square.middle.x, self.square.middle.y, 1]
        square = FaceSquare(Place(*middle), self.square.side, self.square.turn + np.radians(20))
        expected = np.c_[self.mesh.places, np.ones(468)] @ turn.T
        far = np.hypot(*(mesh_of(turned, square).places - expected).T)
        self.assertLess(float(np.median(far)), 0.01 * self.square.face_width)

    def test_irises_are_dark_inside_their_eyes_and_mirrored_in_the_mirror(self) -> None:
        irises = irises_of(self.pixels, self.mesh)
        luma = self.pixels.mean(axis=2)
        for iris, ring in zip(irises, (LEFT_EYE, RIGHT_EYE), strict=True):
            outline = self.mesh.places[list(ring)].astype(np.float32)
            self.assertGreater(cv2.pointPolygonTest(outline, (iris.middle.x, iris.middle.y), False), 0)
            inside = luma[
                int(iris.middle.y) - 2 : int(iris.middle.y) + 3, int(iris.middle.x) - 2 : int(iris.middle.x) + 3
            ]
            self.assertLess(float(inside.min()), 0.3)
        mirror = np.ascontiguousarray(self.pixels[:, ::-1])
        square = FaceSquare(
            Place(600 - self.square.middle.x, self.square.middle.y), self.square.side, -self.square.turn
        )
        for iris, seen in zip(irises, reversed(irises_of(mirror, mesh_of(mirror, square))), strict=True):
            far = np.hypot(600 - seen.middle.x - iris.middle.x, seen.middle.y - iris.middle.y)
            self.assertLess(float(far), 0.35 * iris.radius)


if __name__ == "__main__":
    unittest.main()
