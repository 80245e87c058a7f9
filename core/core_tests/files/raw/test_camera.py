from __future__ import annotations

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core_tests.raws import AS_SHOT, CAMERA, MATRIX
from kitecore.files.raw.camera import COOLEST, MOST_TINT, WARMEST, chromaticity


class CameraTest(TestCase):
    def test_white_stays_white_on_the_way_to_the_wide_space(self) -> None:
        np.testing.assert_allclose(CAMERA.to_wide.sum(axis=1), 1, atol=1e-12)

    def test_light_of_daylight_needs_the_cameras_own_multipliers_for_daylight(self) -> None:
        # D65 lies 3.2 thousandths above the line of black bodies at 6504 K.
        red, _, blue = CAMERA.multipliers(6504, 3.2)
        np.testing.assert_allclose((red, blue), (CAMERA.daylight[0], CAMERA.daylight[2]), rtol=0.004)

    def test_chromaticities_of_black_bodies_are_those_of_the_tables(self) -> None:
        # Wyszecki and Stiles, CIE 1931: 2856 K (illuminant A), 6500 K, 10000 K.
        for kelvin, expected in ((2856, (0.4476, 0.4074)), (6500, (0.3135, 0.3237)), (10_000, (0.2807, 0.2884))):
            np.testing.assert_allclose(chromaticity(kelvin, 0), expected, atol=6e-4)

    @given(st.floats(WARMEST + 500, COOLEST), st.floats(-MOST_TINT / 2, MOST_TINT / 2))
    def test_the_temperature_of_multipliers_is_the_one_they_were_made_for(self, kelvin: float, tint: float) -> None:
        found, found_tint = CAMERA.temperature(CAMERA.multipliers(kelvin, tint))
        self.assertLess(abs(1e6 / found - 1e6 / kelvin), 3)
        self.assertLess(abs(found_tint - tint), 0.7)

    def test_a_greener_light_is_balanced_towards_magenta(self) -> None:
        plain, greener = CAMERA.multipliers(5000, 0), CAMERA.multipliers(5000, 15)
        self.assertTrue(greener[0] > plain[0] and greener[2] > plain[2])

    def test_a_picked_place_becomes_grey(self) -> None:
        place = np.array([0.2, 0.3, 0.1])
        picked = CAMERA.multipliers_of((0.2, 0.3, 0.1))
        assert picked is not None
        balanced = np.linalg.solve(CAMERA.to_wide, place) / AS_SHOT * np.array(picked)
        np.testing.assert_allclose(balanced, balanced[1], rtol=1e-9)
        self.assertIsNone(CAMERA.multipliers_of((0.0, 0.9, 0.0)))

    def test_what_a_sensor_gives_of_srgb_comes_back(self) -> None:
        srgb = np.random.default_rng(1).uniform(0.05, 0.9, (50, 3))
        d65 = np.array(
            [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.072175], [0.0193339, 0.119192, 0.9503041]]
        )
        given = srgb @ d65.T @ CAMERA.from_xyz.T * np.array(CAMERA.daylight)
        np.testing.assert_allclose(given @ MATRIX.T, srgb, atol=1e-3)
