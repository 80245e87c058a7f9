from __future__ import annotations

from unittest import TestCase

import numpy as np

from core_tests.pictures import smooth
from kitecore.comparison.colour_shift import ColourShift, measure_colour_shift
from kitecore.pipeline.area_means import brought_back
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import ResampledStage, SampleStage

SOURCE = smooth(160, 200)


class DriftTest(TestCase):
    def measured(self, change: np.ndarray, source: np.ndarray = SOURCE, profile: bytes | None = None) -> ColourShift:
        before = SampleStage(source)
        size = Size(source.shape[1] * 5 // 2, source.shape[0] * 5 // 2)
        enlarged = ResampledStage(before, size).render(size.region, Run())
        return measure_colour_shift(before, SampleStage((enlarged + change).astype(np.float32)), profile, Run())

    def test_a_result_that_has_not_shifted_is_not_accused(self) -> None:
        y, x = np.mgrid[0:400, 0:500]
        fine = (0.05 * np.sin(x * 2.4) * np.sin(y * 2.4))[..., None]
        self.assertLess(self.measured(np.zeros(3)).most, 0.05)
        self.assertLess(self.measured(fine).most, 0.3, "detail is not shift")

    def test_a_known_shift_is_found_as_large_as_it_is(self) -> None:
        """Along neutral grey around the middle, a step of 0.01 is a step of about 1 in L*, and 1 in ΔE2000."""
        grey = np.full((160, 200, 3), 0.5, np.float32)
        for step in (0.01, 0.02, 0.04):
            shift = self.measured(np.full(3, step), grey)
            self.assertAlmostEqual(shift.mean / (step * 100), 1.0, delta=0.12)
            self.assertAlmostEqual(shift.mean, shift.most, 2)

    def test_the_worst_place_is_named(self) -> None:
        change = np.zeros((400, 500, 3))
        change[300:, 380:] = [0.05, 0, -0.05]
        shift = self.measured(change)
        self.assertGreater(shift.most, 3)
        self.assertLess(shift.mean, 1)
        self.assertTrue(shift.x > 380 and shift.y > 300, (shift.x, shift.y))

    def test_grey_small_and_tiny_pictures_can_be_measured(self) -> None:
        for source in (smooth(60, 70, 1), smooth(9, 7), smooth(40, 40, 4)):
            self.assertLess(self.measured(np.zeros(1), source).most, 0.2)


class AreasTest(TestCase):
    def test_a_picture_of_repeated_pixels_comes_back(self) -> None:
        small = smooth(9, 8)
        large = small.repeat(3, axis=0).repeat(3, axis=1)
        place, cells = Region(6, 3, 15, 18), Region(2, 1, 5, 6)
        back = brought_back(large[3:21, 6:21], place, cells, 3, 3)
        np.testing.assert_allclose(back, small[1:7, 2:7], atol=1e-6)

    def test_cells_may_end_between_samples(self) -> None:
        line = np.arange(10, dtype=np.float32).reshape(1, 10, 1)
        back = brought_back(line, Region(0, 0, 10, 1), Region(0, 0, 4, 1), 2.5, 1)
        np.testing.assert_allclose(back[0, :, 0], [0.8, 3.2, 5.8, 8.2], atol=1e-5)
