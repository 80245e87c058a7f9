"""Transfer curves against their formulas, and against the colour engine that libvips uses."""

import unittest

import numpy as np
import pyvips
from hypothesis import given
from hypothesis import strategies as st

from kitecore.colour.icc import srgb_profile
from kitecore.colour.spaces import SPACES, profile_of
from kitecore.colour.transfer import SRGB, TransferCurve, transfer_of

VALUES = np.linspace(-2, 4, 601, dtype=np.float32)


def by_formula(coded: np.ndarray) -> np.ndarray:
    """IEC 61966-2-1, carried on beyond 1 and mirrored below 0."""
    size = np.abs(coded.astype(np.float64))
    return np.copysign(np.where(size <= 0.04045, size / 12.92, ((size + 0.055) / 1.055) ** 2.4), coded)


class TransferTest(unittest.TestCase):
    def test_srgb_is_its_formula(self) -> None:
        for curve in (SRGB, transfer_of(None)):
            np.testing.assert_allclose(curve.light(VALUES), by_formula(VALUES), rtol=1e-5, atol=1e-7)

    def test_profiles_agree_with_the_colour_engine(self) -> None:
        grey = np.linspace(0.02, 1, 50)
        samples = np.repeat((grey * 65535).astype(np.uint16)[None, :, None], 3, 2)
        profiles = {"srgb": srgb_profile(), **{name: profile_of(name) for name in SPACES if name != "srgb"}}
        for name, profile in profiles.items():
            with self.subTest(space=name):
                image = pyvips.Image.new_from_array(samples, interpretation="rgb16")
                image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
                lightness = image.icc_import(embedded=True, intent="relative", pcs="lab").numpy()[0, :, 0]
                expected = np.where(lightness > 8, ((lightness + 16) / 116) ** 3, lightness / 903.3)
                found = transfer_of(profile).light(samples[0, :, 1].astype(np.float32) / 65535)
                np.testing.assert_allclose(found, expected, atol=2e-3)

    def test_a_profile_that_is_broken_or_has_no_curve_counts_as_srgb(self) -> None:
        self.assertEqual(transfer_of(b"\0" * 200), SRGB)
        self.assertEqual(transfer_of(b""), SRGB)

    @given(st.floats(-3, 5), st.sampled_from([1.0, 1.8, 2.2, 2.4]), st.booleans())
    def test_there_and_back_is_the_same(self, value: float, gamma: float, measured: bool) -> None:
        table = tuple(np.linspace(0, 1, 1025) ** gamma) if measured else ()
        given_values = np.array([value], np.float32)
        for curve in (SRGB, TransferCurve(gamma, table=table)):
            back = curve.coded(curve.light(given_values))
            np.testing.assert_allclose(back, given_values, rtol=1e-4, atol=2e-3 if measured else 1e-5)

    def test_a_measured_curve_goes_on_as_a_power(self) -> None:
        curve = TransferCurve(2.0, table=tuple(np.linspace(0, 1, 257) ** 2))
        np.testing.assert_allclose(curve.light(VALUES), np.copysign(VALUES.astype(float) ** 2, VALUES), atol=1e-4)


if __name__ == "__main__":
    unittest.main()
