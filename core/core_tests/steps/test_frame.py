import math
from unittest import TestCase

import numpy as np

from core_tests.pictures import random_samples
from kitecore.errors import TakeError
from kitecore.pipeline.geometry import Region, Size
from kitecore.steps import Frame
from kitecore.steps.frame import Crop
from kitecore.takes.render import render_array


class FrameTest(TestCase):
    def test_turns_flips_and_crops_move_samples_and_change_none(self) -> None:
        samples = random_samples(23, 37, bits=16)
        expected = samples.astype(np.float32) / np.float32(65535)
        for turns in range(4):
            for flip in (False, True):
                with self.subTest(turns=turns, flip=flip):
                    turned = np.rot90(expected, -turns)
                    turned = turned[:, ::-1] if flip else turned
                    crop = Crop(x=3, y=5, width=11, height=7)
                    result = render_array(samples, [Frame(turns=turns, flip=flip, crop=crop)])
                    np.testing.assert_allclose(result, turned[5:12, 3:14], rtol=1e-6)

    def test_straightening_turns_clockwise_about_the_middle(self) -> None:
        def scene(x: np.ndarray, y: np.ndarray) -> np.ndarray:
            return 0.5 + 0.3 * np.sin(x / 17) * np.cos(y / 23)

        y, x = np.mgrid[0:200, 0:300] + 0.5
        source = scene(x, y)[..., None].astype(np.float32)
        for angle in (7.5, -3.0, 44.0):
            step = Frame(angle=angle)
            region = step.region(Size(300, 200))
            result = render_array(source, [step])[..., 0]
            dy, dx = np.mgrid[0 : region.height, 0 : region.width] + 0.5
            dx, dy = dx + region.x - 150, dy + region.y - 100
            cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
            truth = scene(150 + cos * dx + sin * dy, 100 - sin * dx + cos * dy)
            self.assertLess(np.abs(result - truth)[3:-3, 3:-3].max(), 2e-4, angle)

    def test_straightened_frame_holds_nothing_from_outside(self) -> None:
        for angle in (-45, -12.3, 0.1, 30):
            region = Frame(angle=angle).region(Size(400, 300))
            cos, sin = math.cos(math.radians(angle)), math.sin(math.radians(angle))
            for x in (region.x, region.right):
                for y in (region.y, region.bottom):
                    dx, dy = x - 200, y - 150
                    self.assertLessEqual(abs(cos * dx + sin * dy), 201)
                    self.assertLessEqual(abs(-sin * dx + cos * dy), 151)

    def test_a_crop_that_reaches_out_is_cut_and_one_that_misses_is_refused(self) -> None:
        size = Size(100, 80)
        self.assertEqual(Frame(crop=Crop(x=90, y=70, width=50, height=50)).region(size), Region(90, 70, 10, 10))
        with self.assertRaisesRegex(TakeError, "outside the picture"):
            Frame(crop=Crop(x=100, y=0, width=5, height=5)).region(size)
