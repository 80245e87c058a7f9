"""Grain matched to a source: what is measured in the result is what was measured in the source, and its spectrum."""

from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import cv2
import numpy as np

from core_tests.pictures import write
from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.reading import NoiseReading, read_picture
from kitecore.takes.grain_match import grain_like
from kitecore.takes.render import render_array

SIDE = 360


def clean() -> np.ndarray:
    """Skies and walls: tones that change slowly, H×W×3 0..1."""
    y, x = np.mgrid[0:SIDE, 0:SIDE] / SIDE
    return np.stack([0.25 + 0.45 * x, 0.3 + 0.35 * y, 0.65 - 0.3 * x * y], axis=2).astype(np.float32)


def noisy(sigma: float, width: float, colour: float, seed: int) -> np.ndarray:
    """That with noise: ``colour`` is the share that differs between the channels."""
    random = np.random.default_rng(seed)
    own, common = random.standard_normal((SIDE, SIDE, 3)), random.standard_normal((SIDE, SIDE, 1))
    grain = np.sqrt(colour) * own + np.sqrt(1 - colour) * common
    if width:
        grain = cv2.GaussianBlur(grain, (0, 0), width)
    grain *= sigma / 255 / grain.std()
    return np.clip(clean() + grain, 0, 1).astype(np.float32)


def bands(grain: np.ndarray) -> np.ndarray:
    """Power of luma in four rings of frequency, up to half the sampling rate."""
    grey = grain.mean(axis=2)
    power = np.abs(np.fft.fftshift(np.fft.fft2(grey - grey.mean()))) ** 2
    y, x = np.mgrid[0:SIDE, 0:SIDE] - SIDE // 2
    ring = np.hypot(x, y) / (SIDE // 2)
    return np.array([power[(ring >= low) & (ring < low + 0.25)].mean() for low in (0.02, 0.25, 0.5, 0.75)])


class GrainMatchTest(TestCase):
    def reading(self, picture: np.ndarray) -> NoiseReading:
        with TemporaryDirectory() as folder:
            path = write(Path(folder) / "noisy.tif", np.rint(picture * 65535).astype(np.uint16))
            with Source(path) as source:
                return read_picture(source, Run()).noise

    def test_luminance_colour_and_spectrum_are_the_sources_within_a_tenth(self) -> None:
        for sigma, width, colour in ((4, 0, 0.0), (6, 0, 0.6), (8, 0.7, 0.3), (5, 1.1, 0.9), (12, 0.5, 0.1)):
            source = noisy(sigma, width, colour, 1)
            before = self.reading(source)
            result = render_array(clean(), [grain_like(before, 1)])
            after = self.reading(np.clip(result, 0, 1))
            with self.subTest(sigma=sigma, width=width, colour=colour):
                self.assertAlmostEqual(after.luminance / before.luminance, 1, delta=0.1)
                if colour:
                    self.assertAlmostEqual(after.colour / before.colour, 1, delta=0.1)
                wanted, found = bands(source - clean()), bands(result - clean())
                strong = wanted > 0.05 * wanted.max()
                np.testing.assert_allclose(found[strong], wanted[strong], rtol=0.2)

    def test_enlarged_grain_is_as_strong_and_as_much_wider(self) -> None:
        before = self.reading(noisy(8, 0.8, 0.2, 2))
        large = grain_like(before, 2)
        self.assertAlmostEqual(large.amount, grain_like(before, 1).amount, delta=0.01)
        after = self.reading(np.clip(render_array(clean(), [large]), 0, 1))
        self.assertAlmostEqual(after.grain_px / before.grain_px, 2.2, delta=0.3)
        self.assertAlmostEqual(after.grain / before.grain, 1, delta=0.1)

    def test_without_noise_there_is_no_grain(self) -> None:
        quiet = NoiseReading(
            luminance=0, luminance_confidence=1, confidence=1, grain_px=0.2, colour=0, colour_confidence=1
        )
        self.assertEqual(grain_like(quiet, 2).did(), "")
