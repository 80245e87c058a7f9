from unittest import TestCase

import numpy as np

from core_tests.pictures import random_samples, smooth
from kitecore.errors import Cancelled
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.luma import LUMA, luma
from kitecore.pipeline.pixels import (
    TOP_OF_DEPTH,
    colours_of,
    from_samples,
    has_alpha,
    premultiplied,
    to_samples,
    unpremultiplied,
)
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import RepeatingStage, SampleStage
from kitecore.pipeline.strips import render_strips


class SamplesTest(TestCase):
    def test_every_code_value_comes_back(self) -> None:
        for bits, dtype in ((8, np.uint8), (16, np.uint16)):
            every = np.arange(1 << bits, dtype=dtype).reshape(-1, 16, 1)
            pixels = from_samples(every)
            self.assertEqual((pixels.dtype, pixels.min(), pixels.max()), (np.float32, 0, 1))
            np.testing.assert_array_equal(to_samples(pixels, bits), every)

    def test_eight_bits_lose_nothing_in_sixteen(self) -> None:
        every = np.arange(256, dtype=np.uint8).reshape(16, 16, 1)
        np.testing.assert_array_equal(to_samples(from_samples(every), 16), every.astype(np.uint16) * 257)

    def test_what_no_sample_can_hold_is_clipped_and_what_is_no_number_is_black(self) -> None:
        given = np.array([[[-0.5], [1.5], [np.nan], [np.inf], [-np.inf]]], np.float32)
        for bits, top in TOP_OF_DEPTH.items():
            self.assertEqual(to_samples(given, bits).ravel().tolist(), [0, top, 0, top, 0])

    def test_float_samples_are_taken_as_they_are(self) -> None:
        given = np.array([[[-0.25], [3.5]]], np.float32)
        pixels = from_samples(given)
        np.testing.assert_array_equal(pixels, given)
        pixels[:] = 0
        self.assertEqual(given[0, 1, 0], 3.5, "the file's own samples are not changed")


class AlphaTest(TestCase):
    def test_bands_say_whether_there_is_alpha(self) -> None:
        self.assertEqual([has_alpha(bands) for bands in (1, 2, 3, 4)], [False, True, False, True])
        self.assertEqual(
            [colours_of(np.zeros((1, 1, bands), np.float32)).shape[2] for bands in (1, 2, 3, 4)], [1, 1, 3, 3]
        )

    def test_what_is_seen_comes_back_from_being_weighed(self) -> None:
        for bands in (2, 4):
            pixels = smooth(9, 7, bands)
            np.testing.assert_allclose(unpremultiplied(premultiplied(pixels)), pixels, atol=1e-6)

    def test_colour_that_is_not_seen_stays_finite(self) -> None:
        pixels = smooth(3, 3, 4)
        pixels[..., 3] = 0
        back = unpremultiplied(pixels)
        np.testing.assert_array_equal(back, pixels)


class LumaTest(TestCase):
    def test_weights_are_a_share_each(self) -> None:
        self.assertAlmostEqual(float(LUMA.sum()), 1, places=6)

    def test_grey_has_its_own_luma_and_alpha_is_passed_over(self) -> None:
        grey = smooth(5, 4, 1)
        for bands in (1, 2, 3, 4):
            pixels = np.repeat(grey, bands, axis=2)
            if has_alpha(bands):
                pixels[..., -1] = 0.123
            np.testing.assert_allclose(luma(pixels), grey[..., 0], atol=1e-6)


class StripsTest(TestCase):
    def test_strips_are_the_picture_from_top_to_bottom(self) -> None:
        samples = random_samples(2500, 1700, 3)
        told: list[float] = []
        strips = list(render_strips(SampleStage(samples), lambda part: to_samples(part, 8), Run(progress=told.append)))
        np.testing.assert_array_equal(np.concatenate(strips), samples)
        self.assertGreater(len(strips), 1)
        self.assertEqual(told, sorted(told))
        self.assertEqual(told[-1], 1)

    def test_only_two_regions_are_under_way(self) -> None:
        asked: list[Region] = []

        class Watched(SampleStage):
            def render(self, region: Region, run: Run) -> np.ndarray:
                asked.append(region)
                return super().render(region, run)

        strips = render_strips(
            Watched(random_samples(70, 8)), lambda part: to_samples(part, 8), Run(), Size(8, 10)
        )  # fmt: skip
        self.assertEqual(asked, [])
        next(strips)
        self.assertLessEqual(len(asked), 3)
        self.assertEqual(len(list(strips)), 6)
        self.assertEqual(asked, [Region(0, y, 8, 10) for y in range(0, 70, 10)])

    def test_called_off_it_stops_at_once_and_nothing_goes_on(self) -> None:
        class Endless(SampleStage):
            def render(self, region: Region, run: Run) -> np.ndarray:
                while True:
                    run.check()

        stop = iter([False, False])
        strips = render_strips(
            Endless(random_samples(70, 8)), lambda part: to_samples(part, 8), Run(lambda: next(stop, True))
        )  # fmt: skip
        with self.assertRaises(Cancelled):
            next(strips)

    def test_a_fault_in_a_region_is_a_fault_of_the_whole(self) -> None:
        class Broken(SampleStage):
            def render(self, region: Region, run: Run) -> np.ndarray:
                if region.y:
                    raise ValueError("broken")
                return super().render(region, run)

        strips = render_strips(Broken(random_samples(70, 8)), lambda part: to_samples(part, 8), Run(), Size(8, 10))
        self.assertEqual(len(next(strips)), 10)
        with self.assertRaisesRegex(ValueError, "broken"):
            next(strips)


class BeyondTheBordersTest(TestCase):
    def setUp(self) -> None:
        self.samples = random_samples(6, 5)
        self.region = Region(-7, -4, 20, 17)

    def test_a_picture_is_mirrored(self) -> None:
        expected = np.pad(self.samples, ((4, 7), (7, 8), (0, 0)), "reflect")
        pixels = SampleStage(self.samples).extended(self.region, Run())
        np.testing.assert_array_equal(to_samples(pixels, 8), expected)

    def test_a_pattern_goes_on(self) -> None:
        expected = np.pad(self.samples, ((4, 7), (7, 8), (0, 0)), "wrap")
        pixels = RepeatingStage(SampleStage(self.samples)).extended(self.region, Run())
        np.testing.assert_array_equal(to_samples(pixels, 8), expected)
