"""Faces in a photograph that is turned, mirrored, shrunk and moved, and none where there are none."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

import cv2
import numpy as np
import skimage.data
from PIL import Image

from kitecore.errors import Cancelled
from kitecore.faces import Face, find_faces
from kitecore.pipeline.run import Run

FOLDER = Path(__file__).parent
#: Where the eyes of scikit-image's astronaut are, in pixels of the picture.
EYES = np.array([[198.0, 107.0], [244.0, 109.0]])


def astronaut() -> np.ndarray:
    return np.asarray(skimage.data.astronaut(), np.float32) / 255


def eyes(face: Face) -> np.ndarray:
    return np.array(sorted((eye.x, eye.y) for eye in face.eyes))


def faces(pixels: np.ndarray) -> list[Face]:
    return find_faces(np.ascontiguousarray(pixels), Run())


def worn(pixels: np.ndarray, way: str) -> np.ndarray:
    """A picture 0..1 as old and shared files are."""
    random = np.random.default_rng(8)
    if way == "grey":
        return pixels.mean(axis=2, keepdims=True)
    if way == "grainy":
        grain = cv2.GaussianBlur(random.normal(0, 1, pixels.shape[:2]), (0, 0), 0.7)[..., None]
        return np.clip(pixels + 0.09 * grain, 0, 1).astype(np.float32)
    if way == "soft, JPEG 60":
        soft = (255 * cv2.GaussianBlur(pixels, (0, 0), 0.8)).astype(np.uint8)
        return cv2.imdecode(
            cv2.imencode(".jpg", soft, [cv2.IMWRITE_JPEG_QUALITY, 60])[1], cv2.IMREAD_COLOR
        ) / np.float32(255)
    return pixels


class GroupTest(unittest.TestCase):
    """Invented people that no network learnt from, 19 to 46 px wide, some turned up to 60° (lab/portraits.py)."""

    def setUp(self) -> None:
        with Image.open(FOLDER / "group.jpg") as picture:
            self.picture = np.asarray(picture, np.float32) / 255
        self.people = json.loads((FOLDER / "group.json").read_text())

    def found(self, pixels: np.ndarray) -> tuple[int, int]:
        """How many of the people are found, and how many other faces."""
        seen = faces(pixels.astype(np.float32))
        met = [
            face for person in self.people for face in seen
            if np.hypot(face.middle.x - person["x"], face.middle.y - person["y"]) < 0.6 * person["width"]
        ]  # fmt: skip
        return len(met), len(seen) - len(met)

    def test_nearly_all_of_a_group_are_found_however_it_is_worn(self) -> None:
        for way, least in (("as it is", 0.9), ("grey", 0.88), ("grainy", 0.85), ("soft, JPEG 60", 0.8)):
            with self.subTest(way=way):
                met, others = self.found(worn(self.picture, way))
                self.assertGreaterEqual(met / len(self.people), least)
                self.assertLessEqual(others, 1)

    def test_a_place_in_a_face_is_told_for_each(self) -> None:
        for face in faces(self.picture):
            left, right = face.eyes
            self.assertGreater(face.mouth.y, (left.y + right.y) / 2)
            self.assertTrue(0.6 < face.square.face_width / face.width < 1.9)


class FacesTest(unittest.TestCase):
    def assert_eyes(self, pixels: np.ndarray, expected: np.ndarray, tolerance: float) -> None:
        found = faces(pixels)
        self.assertEqual(len(found), 1)
        expected = expected[np.argsort(expected[:, 0])]
        self.assertLess(np.hypot(*(eyes(found[0]) - expected).T).max(), tolerance)

    def test_the_eyes_are_where_they_are(self) -> None:
        self.assert_eyes(astronaut(), EYES, 9)

    def test_grey_pictures_and_alpha(self) -> None:
        grey = astronaut().mean(axis=2, keepdims=True)
        self.assert_eyes(grey, EYES, 10)
        self.assert_eyes(np.dstack([grey, np.ones_like(grey)]), EYES, 10)

    def test_a_mirrored_face(self) -> None:
        self.assert_eyes(astronaut()[:, ::-1], np.array([512, 0]) + EYES * [-1, 1], 9)

    def test_a_head_bent_to_either_side(self) -> None:
        for angle in (-35, -20, 20, 35):
            with self.subTest(angle=angle):
                turn = cv2.getRotationMatrix2D((224, 120), angle, 1)
                turned = cv2.warpAffine(astronaut(), turn, (512, 512), borderMode=cv2.BORDER_REFLECT_101)[:330]
                found = [face for face in faces(turned) if abs(face.middle.x - 224) < 60]
                self.assertEqual(len(found), 1)
                expected = EYES @ turn[:, :2].T + turn[:, 2]
                self.assertLess(np.hypot(*(eyes(found[0]) - expected[np.argsort(expected[:, 0])]).T).max(), 12)

    def test_a_head_turned_aside(self) -> None:
        """Half of a face squeezed to two thirds, as a turned head shows it."""
        picture = astronaut()[:300, 80:400]
        columns = np.concatenate([np.arange(0, 140), np.arange(140, 320, 1.7)]).astype(np.float32)
        maps = (
            np.broadcast_to(columns, (300, len(columns))),
            np.broadcast_to(np.arange(300, dtype=np.float32)[:, None], (300, len(columns))),
        )
        squeezed = cv2.remap(picture, np.ascontiguousarray(maps[0]), np.ascontiguousarray(maps[1]), cv2.INTER_AREA)
        self.assertEqual(len(faces(squeezed)), 1)

    def test_small_faces_far_away_are_found_each(self) -> None:
        scene = cv2.resize(np.asarray(skimage.data.rocket(), np.float32) / 255, (1800, 1200))
        small = cv2.resize(astronaut()[:256, 96:352], (80, 80), interpolation=cv2.INTER_AREA)
        places = [(220, 300), (900, 1500), (1000, 130)]
        for y, x in places:
            scene[y : y + 80, x : x + 80] = small
        found = faces(scene)
        self.assertEqual(len(found), 3)
        for y, x in places:
            self.assertTrue(any(abs(f.middle.x - x - 40) < 15 and abs(f.middle.y - y - 35) < 15 for f in found))

    def test_no_face_where_there_is_none(self) -> None:
        for name in ("brick", "gravel", "grass", "coffee", "rocket", "page", "coins", "hubble_deep_field"):
            with self.subTest(picture=name):
                picture = np.asarray(getattr(skimage.data, name)(), np.float32) / 255
                self.assertEqual(faces(np.atleast_3d(picture)), [])

    def test_it_can_be_called_off(self) -> None:
        with self.assertRaises(Cancelled):
            find_faces(astronaut(), Run(lambda: True))
