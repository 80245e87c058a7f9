"""The blur that is drawn or marked on a picture, told in the pixels of the step that is to undo it."""

from __future__ import annotations

import unittest
from functools import cache

import cv2
import numpy as np
import skimage.data

from kitecore.errors import TakeError
from kitecore.filters.psf import disc, streak
from kitecore.pipeline.geometry import Place, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Enlarge, Frame
from kitecore.steps.deblur import FocusBlur, MotionBlur
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.blur_where_drawn import blur_of_area, movement_along
from kitecore.takes.plan import Plan, plan
from kitecore.takes.render import result_stage
from kitecore.takes.take import Take


@cache
def thirds() -> np.ndarray:
    """A photograph three times side by side, 400 px each: sharp, moved, out of focus."""
    truth = np.asarray(skimage.data.astronaut()[56:456, 56:456], np.float32) / 255
    moved = cv2.filter2D(truth, -1, streak(11, 30)[::-1, ::-1].astype(np.float32))
    soft = cv2.filter2D(truth, -1, disc(3).astype(np.float32))
    picture = np.concatenate([truth, moved, soft], axis=1)
    noise = np.random.default_rng(5).normal(0, 1 / 255, picture.shape)
    return np.clip(picture + noise, 0, 1).astype(np.float32)


def planned(*steps: Frame | Enlarge) -> Plan:
    return plan(Take(steps=list(steps)), Size(1200, 400))


class LineTest(unittest.TestCase):
    def test_a_line_is_a_movement_the_same_both_ways(self) -> None:
        for start, end in ((Place(100, 100), Place(112, 93)), (Place(112, 93), Place(100, 100))):
            blur = movement_along(planned(), start, end)
            self.assertAlmostEqual(blur.length, 13.9, places=1)
            self.assertAlmostEqual(blur.angle, 30.3, places=1)

    def test_it_is_told_in_the_pixels_of_the_step_however_framed(self) -> None:
        turned = planned(Frame(turns=1), Enlarge(engine="plain", target=ByFactor(factor=2)))
        blur = movement_along(turned, Place(100, 100), Place(110, 100))
        self.assertAlmostEqual(blur.length, 20, places=1)
        self.assertAlmostEqual(abs(blur.angle), 90, places=1)
        mirrored = movement_along(planned(Frame(flip=True)), Place(100, 100), Place(110, 95))
        self.assertAlmostEqual(mirrored.angle, -26.6, places=1)

    def test_a_long_line_is_the_longest_there_is_and_a_point_is_refused(self) -> None:
        self.assertEqual(movement_along(planned(), Place(0, 0), Place(500, 0)).length, 30)
        with self.assertRaisesRegex(TakeError, "too short"):
            movement_along(planned(), Place(5, 5), Place(5.3, 5))


class AreaTest(unittest.TestCase):
    moved, soft = ((430, 20), (770, 380)), ((1170, 380), (830, 20))

    def read(self, resolved: Plan, area: tuple[tuple[float, float], tuple[float, float]]) -> object:
        stage = result_stage(resolved, SampleStage(thirds()))
        return blur_of_area(resolved, stage, (Place(*area[0]), Place(*area[1])), Run())[0]

    def assert_moved(self, found: object, length: float) -> None:
        assert isinstance(found, MotionBlur)
        self.assertAlmostEqual(found.length, length, delta=0.1 * length)
        self.assertAlmostEqual(found.angle, 30, delta=5)

    def test_each_part_is_read_by_itself(self) -> None:
        self.assert_moved(self.read(planned(), self.moved), 11)
        soft = self.read(planned(), self.soft)
        assert isinstance(soft, FocusBlur)
        self.assertAlmostEqual(soft.radius, 3, delta=0.4)
        self.assertIsNone(self.read(planned(), ((20, 20), (380, 380))))

    def test_it_is_found_under_a_crop(self) -> None:
        crop = Frame(crop=Crop(x=390, y=10, width=600, height=380))
        self.assert_moved(self.read(planned(crop), self.moved), 11)

    def test_after_a_reduction_it_is_smaller(self) -> None:
        reduced = Enlarge(engine="plain", target=ByFactor(factor=0.75))
        self.assert_moved(self.read(planned(reduced), self.moved), 8.25)

    def test_a_small_mark_is_grown_and_one_outside_is_refused(self) -> None:
        self.assertIsNotNone(self.read(planned(), ((600, 200), (610, 210))))
        left = Frame(crop=Crop(x=0, y=0, width=400, height=300))
        with self.assertRaisesRegex(TakeError, "cropped off"):
            self.read(planned(left), self.moved)
        tiny = Frame(crop=Crop(x=0, y=0, width=100, height=100))
        with self.assertRaisesRegex(TakeError, "too small"):
            self.read(planned(tiny), ((10, 10), (60, 60)))
