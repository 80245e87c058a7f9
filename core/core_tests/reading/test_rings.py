"""Rings in spectra: the radius of missed focus from photographs that were put out of focus, and no ring in any other."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.filters.psf import Kernel, disc, gaussian, streak
from kitecore.reading.blur import blur_of
from kitecore.reading.rings import Rings, rings_of
from kitecore.reading.spectrum import log_power, patches_of

LUMA = np.array([0.299, 0.587, 0.114], np.float32)
PICTURES = {name: getattr(skimage.data, name)()[..., :3] for name in ("astronaut", "coffee", "chelsea", "rocket")}


def seen_through(
    picture: np.ndarray, kernel: Kernel | None, noise: float = 1.0, quality: int | None = None
) -> np.ndarray:
    soft = picture.astype(np.float32)
    if kernel is not None:
        soft = cv2.filter2D(soft, -1, kernel[::-1, ::-1].astype(np.float32), borderType=cv2.BORDER_REFLECT_101)
    soft = soft + np.random.default_rng(3).normal(0, noise, soft.shape)
    worn = np.clip(np.rint(soft), 0, 255).astype(np.uint8)
    if quality is not None:
        worn = cv2.imdecode(cv2.imencode(".jpg", worn, [cv2.IMWRITE_JPEG_QUALITY, quality])[1], cv2.IMREAD_COLOR)
    return worn


def rings(picture: np.ndarray) -> Rings:
    grey = np.asarray(picture.astype(np.float32) / 255 @ LUMA, np.float32)
    return rings_of(np.mean([log_power(patch) for patch in patches_of([grey])], axis=0))


class RingsTest(unittest.TestCase):
    def test_the_radius_of_missed_focus_is_found_in_photographs(self) -> None:
        for name, picture in PICTURES.items():
            for radius in (2.5, 3.5, 5.0, 7.0):
                with self.subTest(name, radius=radius):
                    found = rings(seen_through(picture, disc(radius)))
                    self.assertTrue(found.sure)
                    self.assertAlmostEqual(found.radius, radius, delta=0.3)

    def test_it_is_found_in_compressed_photographs(self) -> None:
        for name, picture in PICTURES.items():
            with self.subTest(name):
                found = rings(seen_through(picture, disc(5.0), 0, 90))
                self.assertTrue(found.sure)
                self.assertAlmostEqual(found.radius, 5.0, delta=0.3)

    def test_nothing_else_leaves_rings(self) -> None:
        kernels = {
            "sharp": None, "soft 1.25": gaussian(1.25), "soft 1.8": gaussian(1.8), "soft 2.5": gaussian(2.5),
            "moved 5": streak(5.0, 20.0), "moved 9": streak(9.0, 100.0), "moved 14": streak(14.0, 45.0),
        }  # fmt: skip
        for name, picture in PICTURES.items():
            for what, kernel in kernels.items():
                for noise, quality in ((0.0, None), (2.0, None), (0.0, 90), (0.0, 70)):
                    with self.subTest(name, what=what, noise=noise, quality=quality):
                        self.assertFalse(rings(seen_through(picture, kernel, noise, quality)).sure)

    def test_small_pictures_are_read_by_their_rings_alone(self) -> None:
        for name, picture in PICTURES.items():
            small = picture[60:180, 90:220]
            with self.subTest(name):
                grey = seen_through(small, disc(3.0), 0.5).astype(np.float32) / 255 @ LUMA
                found = blur_of([np.asarray(grey, np.float32)], 0.5 / 255)
                self.assertEqual(found.kind, "focus")
                self.assertAlmostEqual(found.size, 3.0, delta=0.3)
                sharp = small.astype(np.float32) / 255 @ LUMA
                self.assertEqual(blur_of([np.asarray(sharp, np.float32)], 0.5 / 255).kind, "none")

    def test_a_picture_without_anything_in_it_has_none(self) -> None:
        self.assertFalse(rings_of(np.full(log_power(np.zeros((128, 128), np.float32)).shape, -20.0)).sure)


if __name__ == "__main__":
    unittest.main()
