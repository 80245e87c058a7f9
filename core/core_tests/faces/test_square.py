"""The upright square of a face: it follows the face however the picture is turned, enlarged and moved."""

import math
import unittest

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core_tests.pictures import smooth
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place

EYES, MOUTH = ((100.0, 90.0), (140.0, 90.0)), (120.0, 138.0)


def square_of(matrix: np.ndarray) -> FaceSquare:
    first, second, mouth = (Place(*(matrix @ [*place, 1])) for place in (*EYES, MOUTH))
    return FaceSquare.around(first, second, mouth)


class SquareTest(unittest.TestCase):
    def test_it_stands_upright_around_a_face_seen_from_the_front(self) -> None:
        square = square_of(np.eye(2, 3))
        self.assertEqual((square.middle.x, square.turn), (120, 0))
        self.assertTrue(90 < square.middle.y < 138)
        self.assertTrue(80 < square.face_width < 100)

    @given(st.floats(-math.pi, math.pi), st.floats(0.1, 8), st.floats(-500, 500))
    def test_it_follows_the_picture(self, turn: float, scale: float, moved: float) -> None:
        cos, sin = scale * math.cos(turn), scale * math.sin(turn)
        matrix = np.array([[cos, -sin, moved], [sin, cos, -moved]])
        before, after = square_of(np.eye(2, 3)), square_of(matrix)
        self.assertAlmostEqual(after.side / before.side, scale, places=5)
        self.assertAlmostEqual(math.cos(after.turn - turn), 1.0, places=5)
        np.testing.assert_allclose(
            after.corners(), before.corners() @ matrix[:, :2].T + matrix[:, 2], atol=1e-6 * scale + 1e-4
        )

    def test_a_face_from_the_side_keeps_its_size(self) -> None:
        front = square_of(np.eye(2, 3))
        side = FaceSquare.around(Place(112, 90), Place(120, 90), Place(114, 138))
        self.assertAlmostEqual(side.side / front.side, 1, delta=0.1)

    def test_what_is_cut_is_what_lies_there(self) -> None:
        picture = smooth(240, 260).astype(np.float32)
        square = FaceSquare.around(Place(118, 100), Place(142, 108), Place(124, 136))
        cut = cut_square(picture, square, 64)
        matrix = square.to_picture(64)
        for x, y in ((10, 20), (32, 32), (50, 40)):
            at_x, at_y = matrix @ [x + 0.5, y + 0.5, 1]
            expected = cv2.getRectSubPix(picture, (1, 1), (at_x - 0.5, at_y - 0.5))[0, 0]
            np.testing.assert_allclose(cut[y, x], expected, atol=0.02)


if __name__ == "__main__":
    unittest.main()
