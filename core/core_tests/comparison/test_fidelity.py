"""The fidelity report on ground truth: what was done to a result is found; a clean result is not accused."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.comparison.fidelity import AREA, MOST_AREAS, FidelityReport, Finding, areas_of, report_of
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage

FACTOR = 3


class Given(SampleStage):
    """A result given as an array; ``uneven`` adds a tone that depends on the region it is asked for."""

    def __init__(self, pixels: np.ndarray, uneven: float = 0.0) -> None:
        super().__init__(np.ascontiguousarray(pixels, np.float32))
        self._uneven = np.float32(uneven)

    def render(self, region: Region, run: Run) -> Pixels:
        return super().render(region, run) + self._uneven * np.float32(region.width < 100)


class FidelityTest(unittest.TestCase):
    def setUp(self) -> None:
        truth = skimage.data.astronaut()[:504, :504].astype(np.float32) / 255
        # A sky to be left alone.
        truth[:200, 304:] = np.linspace(0.55, 0.65, 200, dtype=np.float32)[:, None, None]
        self.result = truth
        self.source = cv2.resize(truth, (168, 168), interpolation=cv2.INTER_AREA)

    def report(self, result: np.ndarray, uneven: float = 0.0) -> FidelityReport:
        return report_of(SampleStage(self.source), Given(result, uneven), None, Run())

    def finding(self, measure: str, result: np.ndarray, uneven: float = 0.0) -> Finding:
        return next(one for one in self.report(result, uneven).findings if one.measure == measure)

    def test_the_true_large_picture_is_not_accused(self) -> None:
        report = self.report(self.result)
        words = {finding.measure: finding.word for finding in report.findings}
        self.assertEqual({measure: word for measure, word in words.items() if word != "fine"}, {})
        self.assertGreater(report.structure, 0.98)
        self.assertTrue(all(share > 0.9 for share in report.bands))

    def test_a_known_halo_is_found(self) -> None:
        sharpened = self.result + 1.8 * (self.result - cv2.GaussianBlur(self.result, (0, 0), 6))
        clean, found = self.finding("halo", self.result), self.finding("halo", sharpened)
        self.assertEqual(found.word, "problem")
        self.assertGreater(found.value, 2 * clean.value + 8)

    def test_a_known_drift_is_found_where_it_is(self) -> None:
        shifted = self.result.copy()
        shifted[300:, :150] += np.array([0.05, 0, -0.05], np.float32)
        found = self.finding("drift", shifted)
        self.assertEqual(found.word, "problem")
        self.assertTrue(found.places[0].x < 220 and found.places[0].y > 250)

    def test_a_known_loss_of_texture_is_found(self) -> None:
        smooth = cv2.GaussianBlur(self.result, (0, 0), 6)
        report = self.report(smooth)
        found = next(one for one in report.findings if one.measure == "smoothing")
        self.assertEqual(found.word, "problem")
        self.assertEqual(report.bands, sorted(report.bands))

    def test_texture_invented_on_the_sky_is_found_there(self) -> None:
        random = np.random.default_rng(1)
        invented = self.result.copy()
        invented[:200, 304:] += cv2.GaussianBlur(random.normal(0, 0.12, (200, 200, 1)).astype(np.float32), (0, 0), 1)[
            ..., None
        ]
        found = self.finding("invention", invented)
        self.assertNotEqual(found.word, "fine")
        self.assertTrue(found.places[0].x >= 250 and found.places[0].y <= 250)

    def test_parts_that_do_not_fit_are_found(self) -> None:
        self.assertEqual(self.finding("seams", self.result).value, 0)
        self.assertEqual(self.finding("seams", self.result, uneven=0.03).word, "problem")

    def test_another_picture_does_not_come_back_as_its_source(self) -> None:
        self.assertEqual(self.finding("return", self.result[::-1]).word, "problem")

    def test_areas_cover_small_pictures_and_are_spread_over_large_ones(self) -> None:
        for size in (Size(10, 7), Size(150, 400), Size(9000, 6000)):
            areas = areas_of(size)
            self.assertTrue(all(area.inside(size) for area in areas))
            self.assertLessEqual(len(areas), MOST_AREAS)
        self.assertGreater(max(area.x for area in areas), 9000 - 2 * AREA)
