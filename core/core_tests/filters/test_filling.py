"""Filling: made of what lies around, the same every time, nothing else touched."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.errors import Cancelled
from kitecore.filters.filling import THIN, filled, thickness
from kitecore.pipeline.run import Run


def hole(height: int, width: int, side: int) -> np.ndarray:
    where = np.zeros((height, width), np.bool_)
    top, left = (height - side) // 2, (width - side) // 2
    where[top : top + side, left : left + side] = True
    return where


class FilledTest(unittest.TestCase):
    def test_stripes_go_on_through_it(self) -> None:
        rows = np.arange(120, dtype=np.float32)[:, None]
        stripes = np.repeat(0.5 + 0.4 * np.sign(np.sin(rows / 12 * np.pi)), 150, axis=1)[..., None]
        where = hole(120, 150, 30)
        made = filled(np.where(where[..., None], 1, stripes), where, ~where, Run())
        wrong = np.abs(made - stripes)[where]
        self.assertLess(float(np.mean(wrong > 0.2)), 0.1)

    def test_what_it_is_not_asked_for_stays_and_it_is_the_same_every_time(self) -> None:
        picture = np.random.default_rng(1).random((70, 80, 3), np.float32)
        for side in (3, 20):
            where = hole(70, 80, side)
            made, again = (filled(picture, where, ~where, Run()) for _ in range(2))
            np.testing.assert_array_equal(made[~where], picture[~where])
            np.testing.assert_array_equal(made, again)
            self.assertFalse(np.array_equal(made[where], picture[where]))

    def test_nothing_is_taken_from_what_is_not_known(self) -> None:
        picture = np.full((90, 120, 1), 0.3, np.float32)
        picture[:, 70:] = 0.9
        where = hole(90, 120, 18)
        known = np.ones_like(where)
        known[:, 70:] = False
        made = filled(picture, where & known, known, Run())
        self.assertLess(float(made[where & known].max()), 0.4)

    def test_there_is_nothing_to_make_it_of(self) -> None:
        picture, where = np.random.default_rng(2).random((30, 30, 1), np.float32), hole(30, 30, 12)
        np.testing.assert_array_equal(filled(picture, where, np.zeros_like(where), Run()), picture)
        np.testing.assert_array_equal(filled(picture, np.ones_like(where), where, Run()), picture)

    def test_textures_of_photographs_go_on_as_rough_as_they_are(self) -> None:
        for name in ("grass", "gravel", "brick"):
            truth = (getattr(skimage.data, name)()[100:300, 120:340, None] / 255).astype(np.float32)
            where = np.zeros(truth.shape[:2], np.uint8)
            cv2.ellipse(where, (110, 100), (34, 24), 20, 0, 360, 1, -1)
            inside = where > 0
            made = filled(np.where(inside[..., None], 1, truth), inside, ~inside, Run())
            fine = [float((one - cv2.GaussianBlur(one, (0, 0), 2)[..., None])[inside].std()) for one in (made, truth)]
            with self.subTest(name):
                self.assertTrue(0.6 < fine[0] / fine[1] < 1.5, fine)
                self.assertLess(abs(float(made[inside].mean() - truth[~inside].mean())), 0.08)

    def test_a_thin_scratch_is_continued_by_what_leads_to_it(self) -> None:
        truth = np.ascontiguousarray(skimage.data.chelsea()[60:220, 100:320], np.float32) / 255
        where = np.zeros(truth.shape[:2], np.uint8)
        cv2.line(where, (20, 30), (190, 130), 1, 2)
        inside = where > 0
        self.assertLessEqual(thickness(inside), THIN)
        spoilt = np.where(inside[..., None], 1, truth).astype(np.float32)
        made = filled(spoilt, inside, ~inside, Run())
        before, after = (float(np.mean((one - truth)[inside] ** 2)) for one in (spoilt, made))
        self.assertGreater(10 * np.log10(before / after), 12)

    def test_a_thin_place_is_as_rough_as_what_lies_around(self) -> None:
        for name in ("grass", "gravel"):
            truth = (getattr(skimage.data, name)()[100:300, 120:340, None] / 255).astype(np.float32)
            where = np.zeros(truth.shape[:2], np.uint8)
            cv2.line(where, (30, 40), (180, 150), 1, 6)
            inside = where > 0
            made = filled(np.where(inside[..., None], 1, truth), inside, ~inside, Run())
            fine = [float((one - cv2.GaussianBlur(one, (0, 0), 2)[..., None])[inside].std()) for one in (made, truth)]
            with self.subTest(name):
                self.assertLess(abs(20 * np.log10(fine[0] / fine[1])), 2, fine)

    def test_it_is_called_off(self) -> None:
        picture = np.random.default_rng(1).random((70, 80, 3), np.float32)
        where = hole(70, 80, 30)
        with self.assertRaises(Cancelled):
            filled(picture, where, ~where, Run(lambda: True))
