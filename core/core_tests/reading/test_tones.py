"""Tones against pictures that were made with them."""

import unittest

import numpy as np

from kitecore.colour.transfer import SRGB
from kitecore.reading.tones import read_tones
from kitecore.steps import Colour, Curves, Detail, Tone
from kitecore.takes.render import render_array


def scene(seed: int = 3) -> np.ndarray:
    """Surfaces of many colours, a third of them dark, in neutral light: linear, H×W×3."""
    random = np.random.default_rng(seed)
    cells = random.uniform(0.02, 0.95, (12, 18, 3)) * np.where(random.random((12, 18, 1)) < 0.35, 0.03, 1)
    return np.asarray(cells.repeat(12, 0).repeat(12, 1), np.float32)


class TonesTest(unittest.TestCase):
    def test_ends_are_those_that_were_given(self) -> None:
        squeezed = 0.1 + 0.6 * SRGB.coded(scene())
        seen = read_tones(squeezed, None)
        self.assertAlmostEqual(seen.lightest, 0.1 + 0.6 * float(SRGB.coded(scene()).max()), delta=0.01)
        self.assertLess(abs(seen.darkest - 0.11), 0.02)
        step, reasons = Curves().started(seen)
        self.assertLess(abs(step.black - 0.11), 0.02)
        self.assertEqual(len(reasons), 1)

    def test_what_is_too_dark_is_made_lighter_and_what_is_well_is_left(self) -> None:
        dark = SRGB.coded(scene() / 8)
        step, reasons = Tone().started(read_tones(dark, None))
        made = read_tones(render_array(dark, [step]), None)
        self.assertGreater(made.lightest, 0.85)
        self.assertIn("white only", reasons[0])
        fine = np.clip(np.linspace(0, 1, 20000), 0, 1).astype(np.float32).reshape(100, 200, 1)
        self.assertEqual(Tone().started(read_tones(SRGB.coded(fine**3), None))[0].did(), "")

    def test_the_light_of_a_scene_is_told(self) -> None:
        light = np.array([1.0, 0.8, 0.55], np.float32)
        seen = read_tones(SRGB.coded(scene() * light * 0.9), None)
        np.testing.assert_allclose(np.array(seen.cast) / seen.cast[1], light / light[1], rtol=0.15)
        step, _ = Colour().started(seen)
        self.assertLess(step.temperature, -20)

    def test_haze_is_seen_with_its_light(self) -> None:
        air = np.array([0.7, 0.75, 0.85], np.float32)
        clear = read_tones(SRGB.coded(scene()), None)
        left = np.linspace(0.9, 0.3, scene().shape[1], dtype=np.float32)[None, :, None]
        hazy = read_tones(SRGB.coded(scene() * left + air * (1 - left)), None)
        self.assertLess(clear.haze, 0.1)
        self.assertGreater(hazy.haze, 0.3)
        self.assertEqual(Detail().started(clear)[0].haze, 0)
        self.assertGreater(Detail().started(hazy)[0].haze, 20)
        # What shines through the haze lightens it.
        np.testing.assert_allclose(hazy.air, air, atol=0.2)

    def test_grey_pictures_are_read_alike(self) -> None:
        grey = SRGB.coded(scene()[..., :1])
        one, three = read_tones(grey, None), read_tones(grey.repeat(3, 2), None)
        np.testing.assert_allclose(one.air, three.air, rtol=1e-4)
        self.assertAlmostEqual(one.median, three.median, places=5)
        self.assertEqual(one.cast[0], one.cast[2])


if __name__ == "__main__":
    unittest.main()
