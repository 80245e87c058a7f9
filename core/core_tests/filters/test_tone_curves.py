"""The curve of tone and the curve through points: they rise, stay at their ends, and are what formulas say."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from kitecore.filters.guided import guided
from kitecore.filters.monotone import curve_through
from kitecore.filters.tone_curve import ToneCurve

SHIFT = st.floats(-1, 1)
GRID = np.linspace(-0.3, 1.6, 2001)


class ToneCurveTest(unittest.TestCase):
    @given(SHIFT, SHIFT, SHIFT)
    def test_it_rises_everywhere_and_holds_black_and_white(
        self, contrast: float, shadows: float, lights: float
    ) -> None:
        curve = ToneCurve(contrast, shadows, lights)
        self.assertGreater(float(np.diff(curve(GRID)).min()), 0)
        np.testing.assert_allclose(curve(np.array([0.0, 1.0])), [0, 1], atol=1e-12)

    def test_each_wish_moves_its_own_tones(self) -> None:
        dark, middle, light = np.array([0.2, 0.5, 0.85])
        lifted = ToneCurve(0, 0.5, 0)(np.array([dark, middle, light])) - [dark, middle, light]
        self.assertTrue(lifted[0] > 3 * lifted[2] > 0)
        held = ToneCurve(0, 0, -0.5)(np.array([dark, middle, light])) - [dark, middle, light]
        self.assertTrue(held[2] < 3 * held[0] < 0)
        steeper = ToneCurve(0.5, 0, 0)(np.array([dark, middle, light]))
        self.assertTrue(steeper[0] < dark and steeper[2] > light and abs(steeper[1] - middle) < 1e-12)

    @given(st.floats(0.02, 1))
    def test_less_contrast_undoes_more(self, amount: float) -> None:
        inside = np.linspace(0, 1, 101)
        np.testing.assert_allclose(ToneCurve(-amount, 0, 0)(ToneCurve(amount, 0, 0)(inside)), inside, atol=1e-9)

    @given(SHIFT, SHIFT, SHIFT)
    def test_the_gain_is_the_curve_of_lightness(self, contrast: float, shadows: float, lights: float) -> None:
        curve = ToneCurve(contrast, shadows, lights)
        lightness = np.linspace(0.02, 1.9, 500)
        np.testing.assert_allclose(
            curve.gain(lightness.astype(np.float32)), (curve(lightness) / lightness) ** 3, rtol=2e-3, atol=1e-6
        )


class MonotoneTest(unittest.TestCase):
    @given(st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), min_size=2, max_size=8))
    def test_it_is_the_monotone_cubic_of_another_library(self, drawn: list[tuple[float, float]]) -> None:
        x = np.cumsum([0.02 + point[0] for point in drawn])
        points = [(float(place), point[1]) for place, point in zip(x / x[-1], drawn, strict=True)]
        values = np.linspace(points[0][0], points[-1][0], 333)
        expected = PchipInterpolator(*np.array(points).T)(values)
        np.testing.assert_allclose(curve_through(points, values.astype(np.float32)), expected, atol=1e-4)

    def test_beyond_its_ends_it_is_straight(self) -> None:
        points = [(0.25, 0.1), (0.75, 0.9)]
        found = curve_through(points, np.array([-0.25, 1.25], np.float32))
        np.testing.assert_allclose(found, [-0.7, 1.7], atol=1e-5)


class GuidedTest(unittest.TestCase):
    def test_edges_stay_and_texture_goes(self) -> None:
        random = np.random.default_rng(3)
        truth = np.where(np.arange(64) < 32, 0.2, 0.8).astype(np.float32)[None].repeat(64, 0)
        noisy = truth + random.normal(0, 0.02, truth.shape).astype(np.float32)
        smooth = guided(noisy, noisy, 4, 0.1)
        self.assertLess(float(np.abs(smooth - truth)[:, 10:54].std()), 0.012)
        self.assertGreater(float(smooth[:, 33].mean() - smooth[:, 30].mean()), 0.5)

    def test_what_is_flat_stays(self) -> None:
        flat = np.full((20, 30), 0.4, np.float32)
        np.testing.assert_allclose(guided(flat, flat, 3, 0.05), flat, atol=1e-6)


if __name__ == "__main__":
    unittest.main()
