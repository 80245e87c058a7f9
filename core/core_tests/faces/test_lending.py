"""A sharp picture lends its detail: nearer to the truth where both show the same, nothing where they do not."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.faces import find_faces
from kitecore.faces.lending import lent
from kitecore.faces.reference import MOST_SIDE, square_of, square_text
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.run import Run

SIDE = 160


def portrait() -> np.ndarray:
    return np.asarray(skimage.data.astronaut()[0:300, 80:380], np.float32) / 255


SQUARE = find_faces(portrait(), Run())[0].square


def soft(square: np.ndarray, finer: float) -> np.ndarray:
    small = cv2.resize(square, (round(SIDE / finer),) * 2, interpolation=cv2.INTER_AREA)
    return cv2.resize(small, (SIDE, SIDE), interpolation=cv2.INTER_CUBIC)


def error(one: np.ndarray, truth: np.ndarray, where: np.ndarray) -> float:
    return float((((one - truth) ** 2).mean(axis=2) * where).sum() / where.sum())


class LendingTest(unittest.TestCase):
    def setUp(self) -> None:
        self.truth = cut_square(portrait(), SQUARE, SIDE)
        self.face = soft(self.truth, 4)

    def other(self) -> np.ndarray:
        """The same person in another picture: turned, larger, and half as light."""
        turn = cv2.getRotationMatrix2D((150, 150), 14, 1.15)
        moved = cv2.warpAffine(portrait(), turn, (300, 300), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
        middle = turn @ [SQUARE.middle.x + 3, SQUARE.middle.y - 2, 1]
        square = FaceSquare(Place(*middle), 1.15 * SQUARE.side * 1.05, SQUARE.turn - np.radians(14))
        return 0.55 * cut_square(moved, square, 200) + np.float32([0.03, 0.01, 0.0])

    def test_the_same_face_elsewhere_brings_the_detail_back(self) -> None:
        added, where = lent(self.face, self.other(), 4.0)
        made = self.face + where[..., None] * added
        middle = np.zeros((SIDE, SIDE))
        middle[50:115, 50:110] = 1
        self.assertGreater(float(where[50:115, 50:110].mean()), 0.5)
        won = error(self.face, self.truth, middle) / error(made, self.truth, middle)
        self.assertGreater(10 * np.log10(won), 3.0)

    def test_what_the_source_has_stays(self) -> None:
        added, where = lent(self.face, self.other(), 4.0)
        made = self.face + where[..., None] * added
        small = [cv2.resize(one, (SIDE // 8,) * 2, interpolation=cv2.INTER_AREA) for one in (made, self.face)]
        self.assertLess(float(np.abs(small[0] - small[1]).max()), 0.02)

    def test_what_is_no_face_lends_nothing(self) -> None:
        grass = np.repeat(skimage.data.grass()[:200, :200, None], 3, axis=2).astype(np.float32) / 255
        added, where = lent(self.face, grass, 4.0)
        self.assertEqual((float(np.abs(added).max()), float(where.max())), (0.0, 0.0))

    def test_where_the_two_differ_less_is_taken(self) -> None:
        """A bar over one eye of the reference: nothing of it appears."""
        other = self.other()
        _, clean = lent(self.face, other, 4.0)
        barred = other.copy()
        barred[60:92, 40:90] = np.random.default_rng(1).random((32, 50, 1)).astype(np.float32)
        _, where = lent(self.face, barred, 4.0)
        left = np.s_[56:76, 44:70]
        self.assertLess(float(where[left].mean()), 0.6 * float(clean[left].mean()))

    def test_nothing_reaches_the_border_of_the_square(self) -> None:
        _, where = lent(self.face, self.other(), 4.0)
        for edge in (where[0], where[-1], where[:, 0], where[:, -1]):
            self.assertEqual(float(edge.max()), 0.0)


class ReferenceTest(unittest.TestCase):
    def test_a_square_goes_through_its_text(self) -> None:
        text = square_text(portrait(), SQUARE)
        back = square_of(text)
        self.assertLess(len(text), 120_000)
        expected = cut_square(portrait(), SQUARE, back.shape[0])
        self.assertLess(float(np.abs(back - np.clip(expected, 0, 1)).mean()), 0.01)

    def test_what_is_no_square_of_a_face_is_refused(self) -> None:
        from base64 import b64encode

        wide = cv2.imencode(".jpg", np.zeros((40, 60, 3), np.uint8))[1].tobytes()
        large = cv2.imencode(".jpg", np.zeros((MOST_SIDE + 8, MOST_SIDE + 8, 3), np.uint8))[1].tobytes()
        for content in (wide, large, b"\xff\xd8\xff\xe0 no more", b"\x89PNG", b""):
            with self.subTest(content[:6]), self.assertRaises(ValueError):
                square_of(b64encode(content).decode())
        with self.assertRaises(ValueError):
            square_of("no base64 !")


if __name__ == "__main__":
    unittest.main()
