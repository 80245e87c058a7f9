"""The print planner against the model it documents: acuity, paper, geometry."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np

from core_tests.pictures import smooth
from kitecore.delivery.print_needs import (
    PAPERS,
    PPI_CENTIMETRES,
    STANDARD_SIZES,
    PrintSize,
    all_needs,
    need_of,
    sharpening_for,
    size_named,
)
from kitecore.errors import TakeError
from kitecore.lengths import parse_length
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps.enlarge import ByPrint, Enlarge


def size(width: float, height: float) -> PrintSize:
    return PrintSize(name="", width=width, height=height)


class NeedTest(unittest.TestCase):
    def test_a_pixel_of_a_good_print_is_a_minute_of_arc_wide(self) -> None:
        need = need_of(size(60, 90), Size(2000, 3000), "matte", 100)
        pixel_cm = 2.54 / need.ppi
        self.assertAlmostEqual(math.degrees(math.atan(pixel_cm / 100)) * 60, 1, delta=0.01)
        self.assertAlmostEqual(need.required_ppi, need.ppi / 2, delta=0.3)
        self.assertAlmostEqual(need.ppi, PPI_CENTIMETRES / 100, delta=0.5)
        self.assertEqual(need.good_px.width, round(60 / 2.54 * need.ppi))

    def test_nearer_needs_more_until_the_paper_shows_no_more(self) -> None:
        last = 0.0
        for distance in (400, 200, 100, 50, 25, 10):
            need = need_of(size(20, 30), Size(2000, 3000), "canvas", distance)
            self.assertGreaterEqual(need.ppi, last)
            self.assertLessEqual(need.ppi, PAPERS["canvas"].finest)
            last = need.ppi
        self.assertEqual(last, PAPERS["canvas"].finest)

    def test_the_factor_makes_it_good_and_the_verdict_follows(self) -> None:
        for pixels, verdict in (
            (6000, "as it stands"),
            (2000, "with ×2"),
            (1000, "with ×4"),
            (400, "with ×8"),
            (200, "beyond"),
        ):
            picture = Size(pixels, round(pixels * 1.5))
            need = need_of(size(20, 30), picture, "gloss", 30)
            self.assertEqual(need.verdict, verdict)
            if need.factor > 1:
                self.assertAlmostEqual(pixels * need.factor, need.good_px.width, delta=2)
            self.assertLessEqual(need.required_factor, need.factor)

    def test_what_is_said_to_be_good_is_what_is_made(self) -> None:
        """A picture of the paper's shape, as nearly as whole pixels allow, enlarged to it."""
        for picture in (Size(1200, 1800), Size(1201, 1800), Size(1800, 1200), Size(613, 919)):
            need = need_of(size(60, 90), picture)
            target = ByPrint(width=need.size.width, height=need.size.height, ppi=need.ppi, mode="fill")
            made = Enlarge(engine="plain", target=target).result_size(picture)
            with self.subTest(picture):
                self.assertEqual((made.width, made.height), (need.good_px.width, need.good_px.height))

    def test_the_size_is_turned_as_the_picture_is(self) -> None:
        lying = need_of(size(20, 30), Size(3000, 2000))
        self.assertEqual((lying.size.width, lying.size.height), (30, 20))
        self.assertGreater(lying.good_px.width, lying.good_px.height)

    def test_fill_needs_more_than_fit_where_shapes_differ_and_borders_need_less(self) -> None:
        square = Size(500, 500)
        fill, fit = (need_of(size(20, 30), square, mode=mode) for mode in ("fill", "fit"))
        self.assertAlmostEqual(fill.factor / fit.factor, 1.5, delta=0.01)
        self.assertEqual(fit.good_px.width, fit.good_px.height)
        bordered = need_of(size(20, 30), Size(1000, 1500), border_mm=30)
        self.assertAlmostEqual(bordered.good_px.width, 14 / 2.54 * bordered.ppi, delta=1.5)

    def test_every_standard_size_is_told_for_a_picture(self) -> None:
        needs = all_needs(Size(3000, 2000))
        self.assertEqual(len(needs), len(STANDARD_SIZES))
        self.assertEqual(len({one.size.name for one in needs}), len(needs))
        by_name = {one.size.name: one for one in needs}
        # ISO A keeps its shape: each size has half the area of the one before.
        self.assertAlmostEqual(by_name["A3"].has_ppi / by_name["A2"].has_ppi, math.sqrt(2), delta=0.01)
        self.assertLess(len(all_needs(Size(3000, 2000), border_mm=60)), len(needs))

    def test_what_cannot_be_is_refused(self) -> None:
        for call, message in (
            (lambda: need_of(size(10, 15), Size(100, 100), border_mm=60), "leaves nothing"),
            (lambda: need_of(size(10, 15), Size(100, 100), distance_cm=0), "distance"),
            (lambda: size_named("60cm"), "both"),
            (lambda: size_named("poster"), "not a print size"),
            (lambda: parse_length("far"), "not a length"),
        ):
            with self.assertRaisesRegex(TakeError, message):
                call()
        self.assertEqual(size_named("a3").width, 297)
        self.assertAlmostEqual(parse_length("1,5 m"), 1500)


class SharpeningTest(unittest.TestCase):
    def test_matte_is_sharpened_more_than_gloss_and_makes_up_for_the_spread(self) -> None:
        amounts = {name: sharpening_for(name, 300).amount for name in PAPERS}
        self.assertGreater(amounts["matte"], amounts["lustre"])
        self.assertGreaterEqual(amounts["canvas"], amounts["matte"])
        truth = smooth(96, 128)
        truth += (0.1 * (np.indices((96, 128)).sum(0) // 6 % 2))[..., None].astype(np.float32)
        step = sharpening_for("matte", 300)
        source = SampleStage(truth.astype(np.float32))
        sharpened = step.stage(source, source.size, source.size).render(source.size.region, Run())
        spread = PAPERS["matte"].spread / 25.4 * 300
        printed, without = (cv2.GaussianBlur(one, (0, 0), spread) for one in (sharpened, truth))
        self.assertLess(np.abs(printed - truth).mean(), 0.8 * np.abs(without - truth).mean())
