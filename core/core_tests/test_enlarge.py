from unittest import TestCase

import numpy as np
from PIL import Image
from pydantic import ValidationError

from core_tests.pictures import DEMO, psnr, smooth
from kitecore.errors import EngineError, TakeError, TooLarge
from kitecore.geometry import Size
from kitecore.render import render_array
from kitecore.steps import Enlarge
from kitecore.steps.enlarge import ByFactor, ByHeight, ByPrint, ByWidth

SOURCE = Size(612, 816)


class TargetTest(TestCase):
    def test_targets_are_resolved_to_whole_pixels(self) -> None:
        for target, expected in (
            (ByFactor(factor=3.7), Size(2264, 3019)),
            (ByFactor(factor=0.5), Size(306, 408)),
            (ByFactor(factor=8), Size(4896, 6528)),
            (ByWidth(pixels=2001), Size(2001, 2668)),
            (ByHeight(pixels=2001), Size(1501, 2001)),
            (ByPrint(width=21, height=28, unit="cm", ppi=240), Size(1984, 2646)),
            (ByPrint(width=21, height=40, unit="cm", ppi=240), Size(1984, 2646)),
            (ByPrint(width=21, height=40, unit="cm", ppi=240, mode="fill"), Size(2835, 3780)),
            (ByPrint(height=11, unit="in", ppi=300), Size(2475, 3300)),
            (ByPrint(width=200, unit="mm", ppi=254), Size(2000, 2667)),
        ):
            with self.subTest(target=target):
                self.assertEqual(Enlarge(engine="plain", target=target).result_size(SOURCE), expected)

    def test_factors_outside_the_range_are_refused(self) -> None:
        for factor in (0, -1, 0.49, 8.01, 1000, float("nan"), float("inf")):
            with self.subTest(factor=factor), self.assertRaises(ValidationError):
                ByFactor(factor=factor)
        with self.assertRaisesRegex(TakeError, "between 0.5 and 8"):
            Enlarge(target=ByPrint(width=3, unit="in", ppi=2400)).result_size(Size(100, 100))
        with self.assertRaisesRegex(TakeError, "neither a width nor a height"):
            Enlarge(target=ByPrint()).result_size(SOURCE)

    def test_more_than_forty_thousand_pixels_are_refused(self) -> None:
        self.assertEqual(Enlarge(target=ByFactor(factor=8)).result_size(Size(5000, 100)).width, 40_000)
        with self.assertRaisesRegex(TooLarge, "40,000"):
            Enlarge(target=ByFactor(factor=8)).result_size(Size(5001, 100))

    def test_an_unknown_engine_is_named(self) -> None:
        with self.assertRaisesRegex(EngineError, "no engine “fog”; there are .*plain"):
            render_array(smooth(8, 8), [Enlarge(engine="fog")])


class FaithfulTest(TestCase):
    def test_is_closer_to_the_truth_than_lanczos(self) -> None:
        """On demo pictures no network was trained on, by factors with and without a head of their own."""
        for name in ("harbour-wall.png", "festival.jpg"):
            truth = Image.open(DEMO / "clean" / name).convert("RGB")
            width, height = truth.width // 12 * 12, truth.height // 12 * 12
            truth = truth.crop((0, 0, width, height)).crop(
                (width // 4, height // 4, width // 4 + 240, height // 4 + 240)
            )
            reference = np.asarray(truth, np.float32) / 255
            for side in (120, 80, 60, 96):
                small = np.asarray(truth.resize((side, side), Image.Resampling.BICUBIC))
                scores = [
                    psnr(np.clip(render_array(small, [Enlarge(engine=e, target=ByWidth(pixels=240))]), 0, 1), reference)
                    for e in ("plain", "faithful")
                ]
                self.assertGreater(scores[1], scores[0] + 0.25, (name, side))

    def test_grey_stays_one_band_and_equals_neutral_colour(self) -> None:
        grey = smooth(40, 32, 1)
        step = Enlarge(engine="faithful", target=ByFactor(factor=3))
        result = render_array(grey, [step])
        self.assertEqual(result.shape, (120, 96, 1))
        colour = render_array(np.repeat(grey, 3, axis=2), [step])
        np.testing.assert_allclose(result[..., 0], colour.mean(axis=2), atol=1e-5)

    def test_alpha_is_resampled_plainly(self) -> None:
        picture = np.concatenate([smooth(30, 30), smooth(30, 30, 1)], axis=2)
        target = ByFactor(factor=2)
        network = render_array(picture, [Enlarge(engine="faithful", target=target)])
        plain = render_array(picture, [Enlarge(engine="plain", target=target)])
        np.testing.assert_allclose(network[..., 3], plain[..., 3], atol=1e-6)
        opaque = render_array(picture[..., :3], [Enlarge(engine="faithful", target=target)])
        np.testing.assert_allclose(network[..., :3], opaque, atol=1e-5)

    def test_flat_tones_stay(self) -> None:
        for tone in (0.0, 0.2, 0.5, 0.8, 1.0):
            flat = np.full((32, 32, 3), tone, np.float32)
            result = render_array(flat, [Enlarge(engine="faithful", target=ByFactor(factor=4))])
            self.assertLess(np.abs(result - tone).max(), 2 / 255)

    def test_reducing_needs_no_network(self) -> None:
        picture = smooth(64, 64)
        target = ByFactor(factor=0.6)
        np.testing.assert_array_equal(
            render_array(picture, [Enlarge(engine="faithful", target=target)]),
            render_array(picture, [Enlarge(engine="plain", target=target)]),
        )
