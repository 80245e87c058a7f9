"""Oklab against the values its author published, and there and back."""

import unittest

import numpy as np

from core_tests.pictures import random_samples
from kitecore.colour.oklab import cones_of, from_oklab, to_oklab
from kitecore.colour.primaries import luminance, neutral_kept, primaries_of
from kitecore.colour.spaces import SPACES, adaptation, profile_of
from kitecore.colour.transfer import SRGB


class OklabTest(unittest.TestCase):
    def test_published_pairs(self) -> None:
        """The table of the original article: XYZ relative to D65."""
        pairs = {
            (0.950, 1.000, 1.089): (1.000, 0.000, 0.000),
            (1.000, 0.000, 0.000): (0.450, 1.236, -0.019),
            (0.000, 1.000, 0.000): (0.922, -0.671, 0.263),
            (0.000, 0.000, 1.000): (0.153, -1.415, -0.449),
        }
        # A “space” whose light is XYZ relative to D65 itself.
        cones = cones_of(adaptation((0.3127, 0.3290)))
        white = np.array([0.3127 / 0.3290, 1, (1 - 0.3127 - 0.3290) / 0.3290])
        raw = cones * (np.linalg.inv(np.diag(cones @ white)) @ np.ones(3))[:, None]
        for xyz, expected in pairs.items():
            found = to_oklab(np.array(xyz, np.float32).reshape(1, 1, 3), raw).ravel()
            np.testing.assert_allclose(found, expected, atol=2e-3)

    def test_primaries_of_srgb(self) -> None:
        """As CSS Color 4 prints them."""
        expected = {
            (1, 0, 0): (0.62796, 0.22486, 0.12585),
            (0, 1, 0): (0.86644, -0.23389, 0.17950),
            (0, 0, 1): (0.45201, -0.03246, -0.31153),
        }
        for rgb, lab in expected.items():
            found = to_oklab(np.array(rgb, np.float32).reshape(1, 1, 3), cones_of(primaries_of(None)))
            np.testing.assert_allclose(found.ravel(), lab, atol=6e-4)

    def test_there_and_back_in_every_space(self) -> None:
        light = random_samples(20, 30, 3, bits=16).astype(np.float32) / 40000 - 0.2
        for name in SPACES:
            cones = cones_of(primaries_of(profile_of(name)))
            np.testing.assert_allclose(from_oklab(to_oklab(light, cones), cones), light, atol=3e-5)

    def test_the_same_colour_in_two_spaces(self) -> None:
        wide, own = primaries_of(profile_of("prophoto-rgb")), primaries_of(profile_of("srgb"))
        light = np.array([0.3, 0.5, 0.1], np.float32).reshape(1, 1, 3)
        moved = (np.linalg.inv(wide) @ own @ light.ravel()).astype(np.float32).reshape(1, 1, 3)
        np.testing.assert_allclose(to_oklab(moved, cones_of(wide)), to_oklab(light, cones_of(own)), atol=2e-3)


class PrimariesTest(unittest.TestCase):
    def test_luminance_is_that_of_the_standard(self) -> None:
        light = np.eye(3, dtype=np.float32).reshape(1, 3, 3)
        found = luminance(light, primaries_of(profile_of("srgb"))).ravel()
        # Rec. 709's weights, moved from D65 to D50.
        np.testing.assert_allclose(found, [0.2225, 0.7169, 0.0606], atol=5e-4)

    def test_neutral_light_is_its_own_luminance(self) -> None:
        grey = np.repeat(SRGB.light(random_samples(9, 9, 1, bits=16).astype(np.float32) / 65535), 3, axis=2)
        np.testing.assert_array_equal(luminance(grey, primaries_of(None)), grey[..., :1])

    def test_neutral_pixels_are_levelled_and_others_left(self) -> None:
        before = np.array([[[0.5, 0.5, 0.5], [0.5, 0.5, 0.4]]], np.float32)
        after = neutral_kept(np.array([[[0.1, 0.2, 0.3], [0.1, 0.2, 0.3]]], np.float32), before)
        np.testing.assert_array_equal(after[0, 0], np.full(3, 0.2, np.float32))
        np.testing.assert_array_equal(after[0, 1], np.array([0.1, 0.2, 0.3], np.float32))

    def test_a_profile_without_primaries_counts_as_srgb(self) -> None:
        np.testing.assert_array_equal(primaries_of(b"nothing"), primaries_of(None))


if __name__ == "__main__":
    unittest.main()
