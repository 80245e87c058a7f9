"""Sharpening and grain at output size: what they promise, measured."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from core_tests.pictures import smooth
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Grain, Sharpen
from kitecore.steps.grain import noise_at


def step_edge() -> np.ndarray:
    """A soft edge from 0.3 to 0.7 down the middle."""
    samples = np.full((48, 64, 3), 0.3, np.float32)
    samples[:, 32:] = 0.7
    return cv2.GaussianBlur(samples, (0, 0), 1.5)


def made(step: Sharpen | Grain, samples: np.ndarray) -> np.ndarray:
    source = SampleStage(samples)
    return step.stage(source, source.size, source.size).render(source.size.region, Run())


class SharpenTest(unittest.TestCase):
    plainly = Sharpen(amount=150, radius=1.5, detail=100, threshold=0, edges=0, shadows=0, highlights=0)

    def test_edges_become_steeper_and_more_of_it_more_so(self) -> None:
        edge = step_edge()
        slopes = [
            float(np.diff(made(self.plainly.model_copy(update={"amount": amount}), edge)[24, :, 1]).max())
            for amount in (0, 50, 150)
        ]
        self.assertGreater(slopes[1], 1.1 * slopes[0])
        self.assertGreater(slopes[2], 1.2 * slopes[1])

    def test_without_detail_no_line_appears_beside_an_edge(self) -> None:
        edge = step_edge()
        self.assertGreater(made(self.plainly, edge).max(), edge.max() + 0.02)
        held = made(self.plainly.model_copy(update={"detail": 0}), edge)
        self.assertLessEqual(held.max(), edge.max() + 1e-6)
        self.assertGreaterEqual(held.min(), edge.min() - 1e-6)

    def test_little_differences_stay_below_the_threshold(self) -> None:
        random = np.random.default_rng(2)
        noise = (0.5 + random.normal(0, 1 / 255, (48, 64, 1))).astype(np.float32).repeat(3, 2)
        wide = self.plainly.model_copy(update={"threshold": 6})
        np.testing.assert_allclose(made(wide, noise), noise, atol=1e-6)
        self.assertGreater(made(self.plainly, noise).std(), 1.3 * noise.std())

    def test_edges_alone_leave_texture(self) -> None:
        texture = (0.5 + 0.03 * smooth(48, 64)).astype(np.float32)
        only_edges = self.plainly.model_copy(update={"edges": 100})
        self.assertLess(
            np.abs(made(only_edges, texture) - texture).mean(),
            0.3 * np.abs(made(self.plainly, texture) - texture).mean(),
        )

    def test_the_darkest_and_lightest_tones_are_protected(self) -> None:
        for low, high, protection in ((0.01, 0.05, "shadows"), (0.95, 0.99, "highlights")):
            samples = low + (high - low) * (step_edge() - 0.3) / 0.4
            protected = self.plainly.model_copy(update={protection: 100})
            free = np.abs(made(self.plainly, samples.astype(np.float32)) - samples).max()
            self.assertLess(np.abs(made(protected, samples.astype(np.float32)) - samples).max(), 0.2 * free)

    def test_colour_is_left_alone(self) -> None:
        edge = step_edge()
        edge[..., 2] *= 0.5
        result = made(self.plainly, edge)
        np.testing.assert_allclose(result[..., 0] - result[..., 2], edge[..., 0] - edge[..., 2], atol=1e-6)


class GrainTest(unittest.TestCase):
    def grains(self, **settings: float) -> np.ndarray:
        grey = np.full((160, 200, 3), settings.pop("tone", 0.5), np.float32)
        return made(Grain.model_validate({"amount": 8, "size": 1, **settings}), grey) - grey

    def test_it_has_the_strength_asked_for_whatever_its_size(self) -> None:
        for size in (1, 2, 4):
            self.assertAlmostEqual(float(self.grains(size=size).std()) * 255, 8, delta=0.9)

    def test_larger_grains_are_alike_over_more_pixels(self) -> None:
        def alike(grains: np.ndarray) -> float:
            return float(np.corrcoef(grains[:, :-1, 0].ravel(), grains[:, 1:, 0].ravel())[0, 1])

        found = [alike(self.grains(size=size)) for size in (0.5, 1.5, 3, 6)]
        self.assertEqual(found, sorted(found))
        self.assertLess(found[0], 0.1)
        self.assertGreater(found[-1], 0.8)

    def test_black_and_white_keep_less_of_it(self) -> None:
        self.assertLess(self.grains(tone=0.02, tones=100).std(), 0.2 * self.grains(tones=100).std())
        self.assertAlmostEqual(float(self.grains(tone=0.1, tones=0).std() * 255), 8, delta=0.9)

    def test_grey_grain_is_the_same_in_all_channels_and_colour_is_not(self) -> None:
        grey, colour = self.grains(), self.grains(colour=100)
        np.testing.assert_allclose(grey[..., 0], grey[..., 2], atol=1e-6)
        self.assertLess(abs(np.corrcoef(colour[..., 0].ravel(), colour[..., 2].ravel())[0, 1]), 0.05)

    def test_a_place_has_its_grain_whatever_is_around_it_and_seeds_differ(self) -> None:
        whole = noise_at(Region(-20, -10, 120, 90), 3)
        np.testing.assert_array_equal(noise_at(Region(10, 20, 30, 25), 3), whole[30:55, 30:60])
        self.assertLess(abs(np.corrcoef(whole.ravel(), noise_at(Region(-20, -10, 120, 90), 4).ravel())[0, 1]), 0.03)
        self.assertAlmostEqual(float(whole.std()), 1, delta=0.03)
        self.assertEqual(Size(120, 90).pixels, whole.size)
