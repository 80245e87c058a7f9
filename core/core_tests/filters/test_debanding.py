"""Bands in gradients whose truth is known."""

from __future__ import annotations

import unittest

import numpy as np
import skimage.data

from core_tests.pictures import psnr
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Repair


def debanded(samples: np.ndarray, banding: float) -> np.ndarray:
    source = SampleStage(samples)
    return Repair(strength=0, banding=banding).stage(source, source.size, source.size).render(source.size.region, Run())


def gradient() -> np.ndarray:
    """A sky: lighter towards the horizon and a little towards one side, each colour by another slope."""
    y, x = np.mgrid[0:160, 0:240].astype(np.float32)
    return np.stack([0.35 + 0.0016 * y + 0.0004 * x, 0.5 + 0.0012 * y, 0.7 + 0.0007 * y - 0.0002 * x], axis=2)


class BandingTest(unittest.TestCase):
    def test_steps_of_a_gradient_become_even_again(self) -> None:
        for levels in (43, 64):
            with self.subTest(levels=levels):
                banded = (np.rint(gradient() * levels) / levels).astype(np.float32)
                result = debanded(banded, 100)
                error, before = (np.sqrt(np.mean((one - gradient()) ** 2)) for one in (result, banded))
                self.assertLess(error, 0.5 * before)
                steepest = np.abs(np.diff(result, axis=0)).max()
                self.assertLess(steepest, 0.5 * np.abs(np.diff(banded, axis=0)).max())

    def test_edges_and_texture_stay(self) -> None:
        picture = np.asarray(skimage.data.coffee()[100:260, 150:390], np.float32) / 255
        self.assertGreater(psnr(debanded(picture, 100), picture), 40)
        edge = gradient()
        edge[:, 120:] += 0.1
        self.assertLess(np.abs(debanded(edge, 100) - edge)[:, 118:122].max(), 1.3 / 255)

    def test_nothing_is_done_at_zero(self) -> None:
        banded = np.rint(gradient() * 43) / np.float32(43)
        np.testing.assert_array_equal(debanded(banded.astype(np.float32), 0), banded.astype(np.float32))

    def test_small_strengths_reach_small_steps_only(self) -> None:
        banded = (np.rint(gradient() * 43) / 43).astype(np.float32)
        np.testing.assert_allclose(debanded(banded, 30), banded, atol=0.002)
