"""Mending: against formulas, and on photographs with places that were spoilt and whose truth is known."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.errors import Cancelled
from kitecore.filters.mending import best_offset, mended
from kitecore.pipeline.run import Run


def hole(height: int, width: int, side: int = 9) -> np.ndarray:
    where = np.zeros((height, width), np.bool_)
    top, left = (height - side) // 2, (width - side) // 2
    where[top : top + side, left : left + side] = True
    return where


def noise(where: np.ndarray, made: np.ndarray, truth: np.ndarray) -> float:
    return float(-10 * np.log10(np.mean((made[where] - truth[where]) ** 2) + 1e-12))


class MendedTest(unittest.TestCase):
    def test_a_slope_goes_on_as_a_slope(self) -> None:
        # What solves Laplace's equation between the ends of a slope is the slope itself.
        rows, columns = np.mgrid[:40, :50].astype(np.float32)
        slope = (0.2 + 0.01 * columns - 0.006 * rows)[..., None]
        made = mended(slope, np.full_like(slope, 0.5), hole(40, 50, 15), Run())
        np.testing.assert_allclose(made, slope, atol=2e-3)

    def test_texture_comes_from_the_source_and_tone_from_around(self) -> None:
        random = np.random.default_rng(3)
        texture = random.normal(0, 0.05, (60, 60, 3)).astype(np.float32)
        target, source = 0.7 + texture, 0.3 + np.roll(texture, 5, 0)
        where = hole(60, 60, 21)
        made = mended(target, source, where, Run())
        inside = np.s_[28:33, 28:33]
        self.assertLess(abs(float(made[inside].mean() - 0.7)), 0.03)
        fine = made - cv2.GaussianBlur(made, (0, 0), 2), source - cv2.GaussianBlur(source, (0, 0), 2)
        self.assertGreater(float(np.corrcoef(fine[0][24:36, 24:36].ravel(), fine[1][24:36, 24:36].ravel())[0, 1]), 0.98)

    def test_outside_nothing_changes_and_without_a_place_nothing_at_all(self) -> None:
        random = np.random.default_rng(1)
        target, source = random.random((2, 40, 30, 3)).astype(np.float32)
        where = hole(40, 30)
        made = mended(target, source, where, Run())
        np.testing.assert_array_equal(made[~where], target[~where])
        np.testing.assert_array_equal(mended(target, source, np.zeros_like(where), Run()), target)
        np.testing.assert_array_equal(mended(target, source, np.ones_like(where), Run()), source)

    def test_it_is_the_same_whatever_lies_far_away(self) -> None:
        random = np.random.default_rng(2)
        target, source = random.random((2, 200, 200, 1)).astype(np.float32)
        where = hole(200, 200)
        whole = mended(target, source, where, Run())
        part = np.s_[60:140, 50:150]
        np.testing.assert_array_equal(mended(target[part], source[part], where[part], Run()), whole[part])

    def test_at_the_border_it_goes_on_evenly(self) -> None:
        where = np.zeros((30, 30), np.bool_)
        where[:8, :8] = True
        made = mended(np.full((30, 30, 1), 0.6, np.float32), np.zeros((30, 30, 1), np.float32), where, Run())
        np.testing.assert_allclose(made, 0.6, atol=2e-3)

    def test_it_is_called_off(self) -> None:
        random = np.random.default_rng(4)
        target, source = random.random((2, 60, 60, 3)).astype(np.float32)
        with self.assertRaises(Cancelled):
            mended(target, source, hole(60, 60, 31), Run(lambda: True))


class BestOffsetTest(unittest.TestCase):
    def test_a_copy_of_the_same_place_is_found(self) -> None:
        random = np.random.default_rng(5)
        patch = cv2.GaussianBlur(random.random((30, 30, 3)).astype(np.float32), (0, 0), 1)
        picture = 0.2 * random.random((160, 200, 3)).astype(np.float32)
        picture[40:70, 70:100] = picture[80:110, 100:130] = patch
        where = np.zeros((160, 200), np.bool_)
        where[92:98, 112:118] = True
        picture[where] = 1
        found = best_offset(picture, where, where, Run())
        self.assertEqual(found, (-30, -40))

    def test_nothing_is_taken_from_what_is_spoilt_as_well(self) -> None:
        random = np.random.default_rng(6)
        picture = cv2.GaussianBlur(random.random((120, 160, 3)).astype(np.float32), (0, 0), 2)
        where, spoilt = hole(120, 160, 7), np.zeros((120, 160), np.bool_)
        spoilt[:, 100:] = True
        found = best_offset(picture, where, spoilt, Run())
        assert found is not None
        moved = np.roll(where, (found.y, found.x), (0, 1))
        self.assertFalse((moved & (spoilt | where)).any())
        self.assertIsNone(best_offset(picture, where, ~where, Run()))

    def test_spoilt_places_of_photographs_come_nearer_to_the_truth(self) -> None:
        for name in ("coffee", "chelsea", "rocket"):
            truth = np.ascontiguousarray(getattr(skimage.data, name)()[..., :3], np.float32) / 255
            random, gains = np.random.default_rng(8), []
            for _ in range(12):
                where = np.zeros(truth.shape[:2], np.uint8)
                y, x = random.integers(40, truth.shape[0] - 40), random.integers(40, truth.shape[1] - 40)
                if random.random() < 0.5:
                    cv2.circle(where, (int(x), int(y)), int(random.integers(3, 8)), 1, -1)
                else:
                    steps = np.cumsum(random.normal(0, 6, (8, 2)), axis=0) + np.array([x, y])
                    cv2.polylines(where, [np.int32(steps)], False, 1, int(random.integers(1, 3)))
                spoilt = truth.copy()
                spoilt[where > 0] = 0.95
                found = best_offset(spoilt, where > 0, where > 0, Run())
                assert found is not None
                made = mended(spoilt, np.roll(spoilt, (-found.y, -found.x), (0, 1)), where > 0, Run())
                gains.append(noise(where > 0, made, truth) - noise(where > 0, spoilt, truth))
            with self.subTest(name):
                self.assertGreater(float(np.mean(gains)), 6)
                self.assertGreater(min(gains), -2)
