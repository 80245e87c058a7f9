from unittest import TestCase

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core_tests.pictures import psnr, smooth
from kitecore.filters.deconvolution import REACH, REGULARISATIONS, deconvolved, wiener_kernel
from kitecore.filters.psf import Kernel, disc, gaussian, streak

kernels = st.one_of(
    st.builds(disc, st.floats(0.5, 12)),
    st.builds(gaussian, st.floats(0.2, 6)),
    st.builds(streak, st.floats(1, 25), st.floats(0, 180)),
)


def spread(kernel: Kernel) -> np.ndarray:
    """The covariance of a kernel's weights, in pixels²: yy, xx, yx."""
    half = kernel.shape[0] // 2
    y, x = np.mgrid[-half : half + 1, -half : half + 1]
    return np.array([(kernel * a).sum() for a in (y * y, x * x, -y * x)])


class PointSpreadTest(TestCase):
    @given(kernels)
    def test_light_is_kept_and_stays_where_it_was(self, kernel: Kernel) -> None:
        self.assertEqual([side % 2 for side in kernel.shape], [1, 1])
        self.assertGreaterEqual(kernel.min(), 0)
        self.assertAlmostEqual(float(kernel.sum()), 1)
        np.testing.assert_allclose(kernel, kernel[::-1, ::-1], atol=1e-6)

    @given(st.floats(1.5, 12))
    def test_a_disc_is_as_wide_as_its_radius(self, radius: float) -> None:
        # The mean square of x over a disc is r²/4.
        np.testing.assert_allclose(spread(disc(radius)), [radius**2 / 4, radius**2 / 4, 0], rtol=0.05, atol=0.1)

    @given(st.floats(0.6, 6))
    def test_a_gaussian_has_its_deviation(self, sigma: float) -> None:
        np.testing.assert_allclose(spread(gaussian(sigma)), [sigma**2, sigma**2, 0], rtol=0.03, atol=0.02)

    @given(st.floats(4, 25), st.floats(0, 180))
    def test_a_streak_lies_along_its_angle(self, length: float, angle: float) -> None:
        yy, xx, yx = spread(streak(length, angle))
        found = np.degrees(0.5 * np.arctan2(2 * yx, xx - yy)) % 180
        off = abs((found - angle + 90) % 180 - 90)
        self.assertLess(off, 3)
        self.assertAlmostEqual((yy + xx) / (length**2 / 12), 1, delta=0.35)


class DeconvolutionTest(TestCase):
    def setUp(self) -> None:
        side = 2 * REACH + 96
        sharp = smooth(side, side)
        sharp[(np.indices((side, side)) // 12).sum(axis=0) % 2 == 0] *= 0.5
        self.sharp = sharp
        self.middle = np.s_[REACH:-REACH, REACH:-REACH]

    def gain(self, kernel: Kernel, noise: float, regularisation: float) -> float:
        """Decibels by which a blurred picture comes nearer to the sharp one."""
        blurred = cv2.filter2D(self.sharp, cv2.CV_32F, kernel, borderType=cv2.BORDER_REFLECT_101)
        blurred += np.random.default_rng(4).normal(0, noise / 255, blurred.shape).astype(np.float32)
        (restored,) = deconvolved(blurred, [wiener_kernel(kernel, regularisation)])
        middle = self.middle
        return psnr(restored[middle], self.sharp[middle]) - psnr(blurred[middle], self.sharp[middle])

    def test_it_undoes_each_kind_of_blur(self) -> None:
        for name, kernel in (("focus", disc(3)), ("motion", streak(9, 30)), ("soft", gaussian(1.5))):
            with self.subTest(name):
                self.assertGreater(self.gain(kernel, 0.3, REGULARISATIONS[0]), 2)

    def test_noise_wants_the_careful_one(self) -> None:
        trusting, _, careful = (self.gain(disc(3), 6, one) for one in REGULARISATIONS)
        self.assertGreater(careful, trusting)

    def test_a_flat_tone_stays(self) -> None:
        flat = np.full((150, 150, 3), 0.4, np.float32)
        for kernel in (disc(5), streak(15, 70)):
            for regularisation in REGULARISATIONS:
                (after,) = deconvolved(flat, [wiener_kernel(kernel, regularisation)])
                np.testing.assert_allclose(after, flat, atol=1e-4)
