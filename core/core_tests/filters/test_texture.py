"""Denoise on a photograph of known noise: detail given back where there is texture, colours that stay as strong."""

from __future__ import annotations

import unittest
from functools import cache

import cv2
import numpy as np
import skimage.data

from core_tests.pictures import psnr
from kitecore.pipeline.luma import luma
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Denoise


@cache
def clean() -> np.ndarray:
    return np.asarray(skimage.data.astronaut()[:256, 100:420], np.float32) / 255


@cache
def noisy(sigma: float) -> np.ndarray:
    noise = np.random.default_rng(7).normal(0, sigma / 255, clean().shape)
    return np.clip(clean() + noise, 0, 1).astype(np.float32)


@cache
def denoised(sigma: float, detail: float = 0, colour: float = 100) -> np.ndarray:
    source = SampleStage(noisy(sigma))
    step = Denoise(luminance=100, colour=colour, detail=detail)
    return step.stage(source, source.size, source.size).render(source.size.region, Run())


def fine(picture: np.ndarray) -> np.ndarray:
    """Power of fine luminance texture in 9×9 windows."""
    grey = luma(picture)
    return cv2.blur((grey - cv2.GaussianBlur(grey, (0, 0), 1.5)) ** 2, (9, 9))


class DetailTest(unittest.TestCase):
    sigma = 15.0

    def test_texture_comes_back_and_even_tones_stay_clean(self) -> None:
        truth = fine(clean())
        textured, even = truth > np.quantile(truth, 0.8), truth < np.quantile(truth, 0.3)
        plainly, given = fine(denoised(self.sigma)), fine(denoised(self.sigma, detail=100))
        lost = truth[textured].mean() - plainly[textured].mean()
        self.assertGreater(lost, 0, "denoising costs texture")
        self.assertGreater(given[textured].mean() - plainly[textured].mean(), 0.5 * lost)
        noise = fine(noisy(self.sigma))[even].mean()
        self.assertLess(given[even].mean(), 0.03 * noise)

    def test_half_of_it_lies_between_none_and_all(self) -> None:
        none, half, all_of_it = (denoised(self.sigma, detail=detail) for detail in (0, 50, 100))
        np.testing.assert_allclose(half, (none + all_of_it) / 2, atol=1e-5)
        self.assertGreater(psnr(half, clean()), psnr(noisy(self.sigma), clean()) + 5)

    def test_colour_is_not_touched_by_it(self) -> None:
        change = denoised(self.sigma, detail=100) - denoised(self.sigma)
        np.testing.assert_allclose(change, change[..., :1].repeat(3, 2), atol=1e-6)


class SaturationTest(unittest.TestCase):
    def test_colours_stay_as_strong_as_they_were(self) -> None:
        """The share of the truth's colour that is left, over all that is saturated and over small saturated things.

        Noise cut off at black and white has dulled small things before anything is done.
        """
        colour = clean() - luma(clean())[..., None]
        strength = np.linalg.norm(colour, axis=2)
        saturated = strength > 0.12
        small = saturated & (strength > 2 * cv2.blur(strength, (25, 25)))
        for sigma in (8.0, 15.0, 25.0, 40.0):
            with self.subTest(sigma=sigma):
                self.assertGreater(colour_left(denoised(sigma), saturated), 0.98)
                self.assertLess(colour_left(denoised(sigma), saturated), 1.02)
                self.assertGreater(colour_left(denoised(sigma), small), colour_left(noisy(sigma), small) - 0.045)

    def test_noise_does_not_come_back_with_it(self) -> None:
        grey = np.full((96, 96, 3), 0.4, np.float32)
        grey += np.random.default_rng(3).normal(0, 15 / 255, grey.shape).astype(np.float32)
        source = SampleStage(grey)
        result = Denoise(luminance=0, colour=100).stage(source, source.size, source.size)
        left = result.render(source.size.region, Run())
        self.assertLess(np.std(left - luma(left)[..., None]), 0.12 * np.std(grey - luma(grey)[..., None]))


def colour_left(picture: np.ndarray, place: np.ndarray) -> float:
    colour = clean() - luma(clean())[..., None]
    left = picture - luma(picture)[..., None]
    return float((left[place] * colour[place]).sum() / (colour[place] ** 2).sum())
