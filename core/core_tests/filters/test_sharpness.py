"""What is sharp already stays, and what is soft is still deblurred: on a picture half of which is blurred."""

from __future__ import annotations

import unittest
from functools import cache

import cv2
import numpy as np
import skimage.data

from core_tests.pictures import psnr
from kitecore.filters.psf import disc
from kitecore.filters.sharpness import sharp
from kitecore.pipeline.luma import luma
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Deblur
from kitecore.steps.deblur import FocusBlur

RADIUS, MIDDLE, NEAR = 2.5, 160, 28


@cache
def halves() -> tuple[np.ndarray, np.ndarray]:
    """A photograph, and the same with its left half out of focus and a little noise."""
    truth = np.asarray(skimage.data.astronaut()[100:356, 90:410], np.float32) / 255
    soft = cv2.filter2D(truth, -1, disc(RADIUS).astype(np.float32), borderType=cv2.BORDER_REFLECT_101)
    mixed = truth.copy()
    mixed[:, :MIDDLE] = soft[:, :MIDDLE]
    noise = np.random.default_rng(1).normal(0, 1.5 / 255, truth.shape)
    return truth, np.clip(mixed + noise, 0, 1).astype(np.float32)


@cache
def deblurred(keep: float) -> np.ndarray:
    source = SampleStage(halves()[1])
    step = Deblur(blur=FocusBlur(radius=RADIUS), keep_sharp=keep)
    return step.stage(source, source.size, source.size).render(source.size.region, Run())


class SharpnessTest(unittest.TestCase):
    def test_the_map_tells_the_halves_apart(self) -> None:
        found = sharp(luma(halves()[1]), disc(RADIUS))
        detailed = cv2.blur(np.abs(cv2.Laplacian(luma(halves()[0]), cv2.CV_32F)), (17, 17)) > 0.03
        soft, firm = found[:, : MIDDLE - NEAR], found[:, MIDDLE + NEAR :]
        self.assertLess(soft[detailed[:, : MIDDLE - NEAR]].mean(), 0.1)
        self.assertGreater(firm[detailed[:, MIDDLE + NEAR :]].mean(), 0.5)

    def test_the_sharp_half_is_kept_and_the_soft_one_still_gains(self) -> None:
        truth, given = halves()
        soft, firm = np.s_[:, : MIDDLE - NEAR], np.s_[:, MIDDLE + NEAR :]
        without, with_it = deblurred(0), deblurred(100)
        gain = psnr(without[soft], truth[soft]) - psnr(given[soft], truth[soft])
        kept_gain = psnr(with_it[soft], truth[soft]) - psnr(given[soft], truth[soft])
        self.assertGreater(gain, 2)
        self.assertGreater(kept_gain, 0.9 * gain)
        self.assertLess(psnr(without[firm], truth[firm]), psnr(given[firm], truth[firm]) - 10)
        self.assertGreater(psnr(with_it[firm], truth[firm]), psnr(without[firm], truth[firm]) + 6)

    def test_at_zero_all_of_it_is_deblurred(self) -> None:
        source = SampleStage(halves()[1])
        plainly = Deblur(blur=FocusBlur(radius=RADIUS))
        np.testing.assert_array_equal(
            plainly.stage(source, source.size, source.size).render(source.size.region, Run()), deblurred(0)
        )
