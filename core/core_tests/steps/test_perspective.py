from unittest import TestCase

import numpy as np
import pyvips
from pydantic import ValidationError

from core_tests.pictures import random_samples
from kitecore.errors import TakeError
from kitecore.masks.mask import Mask
from kitecore.masks.parts import Radial
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import AnyStep, Enlarge, Exposure, Frame, Lens
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.steps.perspective import Corners
from kitecore.steps.warp_stage import WarpStage
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage

SIZE = Size(300, 200)
#: Each way to bend a picture, alone and with what else a frame does.
WAYS = (
    {"distortion": 80},
    {"distortion": -60},
    {"vertical": 70},
    {"horizontal": -45, "angle": 4.0},
    {"corners": ((60.0, 40.0), (250.0, 25.0), (270.0, 180.0), (40.0, 150.0))},
    {
        "distortion": 40,
        "vertical": -50,
        "turns": 1,
        "flip": True,
        "angle": -7.5,
        "crop": Crop(x=40, y=60, width=100, height=130),
    },
)


def line_image(size: Size, points: np.ndarray) -> np.ndarray:
    """A thin soft white line through points on black, H×W×3."""
    y, x = np.mgrid[: size.height, : size.width] + 0.5
    away = np.min([np.hypot(x - px, y - py) for px, py in points], axis=0)
    line = np.exp(-((away / 1.2) ** 2))
    return np.repeat((line * 65535).astype(np.uint16)[..., None], 3, axis=2)


class PlacesTest(TestCase):
    def test_places_go_there_and_back_under_every_way(self) -> None:
        for way in WAYS:
            with self.subTest(way):
                plan = plan_of_steps([Frame(**way), Enlarge(engine="plain", target=ByFactor(factor=3))], SIZE)
                for x, y in ((120, 80), (150, 100), (170, 125)):
                    there = plan.place_in_result(Place(x, y))
                    back = plan.place_in_source(there)
                    np.testing.assert_allclose((back.x, back.y), (x, y), atol=1e-6)

    def test_a_dot_is_where_its_place_says(self) -> None:
        for way in WAYS:
            with self.subTest(way):
                samples = line_image(SIZE, np.array([[150.0, 100.0]]))
                plan = plan_of_steps([Frame(**way)], SIZE)
                result = render_array(samples, [Frame(**way)])[..., 0]
                at = plan.place_in_result(Place(150, 100))
                y, x = np.mgrid[: result.shape[0], : result.shape[1]] + 0.5
                middle = (result * x).sum() / result.sum(), (result * y).sum() / result.sum()
                np.testing.assert_allclose(middle, (at.x, at.y), atol=0.06)

    def test_four_corners_become_a_rectangle(self) -> None:
        corners: Corners = ((60, 40), (250, 25), (270, 180), (40, 150))
        plan = plan_of_steps([Frame(corners=corners, outside="white")], SIZE)
        places = np.array([(one.x, one.y) for one in (plan.place_in_result(Place(*corner)) for corner in corners)])
        np.testing.assert_allclose(places[[0, 1], 1], places[[1, 0], 1], atol=1e-4)
        np.testing.assert_allclose(places[[2, 3], 1], places[[3, 2], 1], atol=1e-4)
        np.testing.assert_allclose(places[[0, 3], 0], places[[3, 0], 0], atol=1e-4)
        np.testing.assert_allclose(places[[1, 2], 0], places[[2, 1], 0], atol=1e-4)
        self.assertTrue((np.diff(places[[0, 1], 0]) > 0).all() and (np.diff(places[[1, 2], 1]) > 0).all())

    def test_a_bowed_line_becomes_straight(self) -> None:
        # What a lens does: the division model, the other way; a straight line, 84 px above the middle.
        x, y = np.linspace(-140, 140, 281), np.full(281, -84.0)
        radius = np.hypot(150, 100)
        bend = 0.16
        seen = 2 / (1 + np.sqrt(1 + 4 * bend * (x**2 + y**2) / radius**2))
        samples = line_image(SIZE, np.stack([150 + x * seen, 100 + y * seen], axis=1))
        # Its own size does not matter; that it is straight does.
        bows = {}
        for distortion in (0, 80):
            frame = Frame(distortion=distortion, outside="white")
            result = 1 - render_array(65535 - samples, [frame])[..., 0]
            columns = range(60, result.shape[1] - 60, 10)
            rows = np.arange(result.shape[0]) + 0.5
            line = np.array([(result[:, at] * rows).sum() / result[:, at].sum() for at in columns])
            bows[distortion] = float(np.ptp(line))
        self.assertGreater(bows[0], 2.5)
        self.assertLess(bows[80], 0.2)

    def test_corners_with_a_dent_are_refused(self) -> None:
        for corners in (
            ((0, 0), (9, 0), (1, 1), (0, 9)),
            ((0, 0), (0, 9), (9, 9), (9, 0)),
            ((0, 0), (5, 0), (9, 0), (0, 9)),
        ):
            with self.assertRaises(ValidationError):
                Frame(corners=corners)


class PixelsTest(TestCase):
    def test_at_rest_nothing_is_resampled(self) -> None:
        samples = random_samples(200, 300, 3)
        np.testing.assert_array_equal(render_array(samples, [Frame(outside="white")]), render_array(samples, [Frame()]))

    def test_any_region_is_as_it_is_in_the_whole(self) -> None:
        samples = random_samples(200, 300, 4)
        for way in WAYS:
            for outside in ("crop", "mirror", "white"):
                with self.subTest(way=way, outside=outside):
                    plan = plan_of_steps([Frame(**way, outside=outside)], SIZE)
                    stage = result_stage(plan, SampleStage(samples))
                    whole = stage.render(stage.size.region, Run())
                    for part in (Region(3, 5, 40, 31), Region(stage.size.width - 37, stage.size.height - 21, 37, 21)):
                        np.testing.assert_array_equal(stage.render(part, Run()), whole[part.slices(stage.size.region)])

    def test_what_is_cropped_comes_from_the_picture(self) -> None:
        for way in WAYS:
            with self.subTest(way):
                plan = plan_of_steps([Frame(**way)], SIZE)
                width, height = plan.size.width, plan.size.height
                border = [(x, y) for x in range(width + 1) for y in (0, height)] + [
                    (x, y) for x in (0, width) for y in range(height)
                ]
                for place in (plan.place_in_source(Place(x, y)) for x, y in border[::5]):
                    self.assertTrue(-1e-3 <= place.x <= 300.001 and -1e-3 <= place.y <= 200.001)

    def test_a_filled_frame_is_as_large_as_the_picture_and_white_where_it_is_empty(self) -> None:
        samples = np.zeros((200, 300, 3), np.uint8)
        white, mirrored = (
            render_array(samples, [Frame(angle=10, vertical=60, outside=how)]) for how in ("white", "mirror")
        )
        self.assertEqual(white.shape, (200, 300, 3))
        self.assertEqual((int(white[0, 0, 0]), int(white[100, 150, 0])), (1, 0))
        self.assertEqual(float(mirrored.max()), 0)
        clear = render_array(np.full((200, 300, 4), 255, np.uint8), [Frame(angle=10, outside="white")])
        self.assertEqual((float(clear[0, 0, 3]), float(clear[100, 150, 3])), (0, 1))

    def test_a_crop_that_misses_is_told(self) -> None:
        with self.assertRaisesRegex(TakeError, "draw it again"):
            plan_of_steps([Frame(vertical=100, horizontal=100, crop=Crop(x=0, y=0, width=2, height=2))], SIZE)

    def test_a_view_from_afar_shows_the_same(self) -> None:
        image = pyvips.Image.gaussnoise(300, 200, sigma=40).gaussblur(9) + 128
        samples = np.repeat(image.cast("uchar").numpy().reshape(200, 300, 1), 3, axis=2)
        plan = plan_of_steps([Frame(distortion=60, vertical=40)], SIZE)
        near = result_stage(plan, SampleStage(samples))
        half = np.asarray(pyvips.Image.new_from_array(samples).shrink(2, 2))
        far = result_stage(plan, SampleStage(half), 1)
        expected = near.render(near.size.region, Run())[: far.size.height * 2 - 1 : 2, : far.size.width * 2 - 1 : 2]
        given = far.render(far.size.region, Run())[: expected.shape[0], : expected.shape[1]]
        self.assertLess(float(np.abs(given - expected).mean()), 0.01)

    def test_colour_fringes_are_undone_in_the_same_resampling(self) -> None:
        samples = line_image(SIZE, np.array([[240.0, 150.0]]))
        frame, lens = Frame(vertical=40, angle=3), Lens(red=6, blue=-3)
        plan = plan_of_steps([frame, lens], SIZE)
        self.assertIsInstance(result_stage(plan, SampleStage(samples)), WarpStage)
        result = render_array(samples, [frame, lens])
        y, x = np.mgrid[: result.shape[0], : result.shape[1]] + 0.5
        for band, px in ((0, 6.0), (1, 0.0), (2, -3.0)):
            plane = result[..., band]
            middle = (plane * x).sum() / plane.sum(), (plane * y).sum() / plane.sum()
            moved = 1 / (1 - px / np.hypot(150, 100))
            at = plan.place_in_result(Place(150 + 90 * moved, 100 + 50 * moved))
            np.testing.assert_allclose(middle, (at.x, at.y), atol=0.08)

    def test_two_lenses_in_a_row_both_count(self) -> None:
        samples = random_samples(200, 300, 3)
        frame = Frame(angle=4)
        twice = render_array(samples, [frame, Lens(red=3), Lens(red=3, blue=2)])
        once = render_array(samples, [frame, Lens(red=3), Lens(blue=2)])
        alone = render_array(samples, [frame, Lens(red=6, blue=2)])
        self.assertLess(float(np.abs(twice - alone).mean()), float(np.abs(twice - once).mean()) / 3)

    def test_what_lies_beyond_the_horizon_is_far_outside(self) -> None:
        corners: Corners = ((140, 60), (160, 60), (290, 190), (10, 190))
        plan = plan_of_steps([Frame(corners=corners, outside="mirror")], SIZE)
        place = plan.place_in_result(Place(150, 2))
        self.assertTrue(np.isfinite([place.x, place.y]).all())
        self.assertFalse(place.inside(SIZE))

    def test_masks_stay_on_what_they_lie_on(self) -> None:
        samples = np.full((200, 300, 3), 60, np.uint8)
        mask = Mask(parts=[Radial(middle=(0.75, 0.4), across=0.05, down=0.05)])
        steps: list[AnyStep] = [Frame(vertical=60, distortion=50), Exposure(ev=1.5, mask=mask)]
        plan = plan_of_steps(steps, SIZE)
        light = render_array(samples, steps)[..., 0] - 60 / 255
        y, x = np.mgrid[: light.shape[0], : light.shape[1]] + 0.5
        middle = (light * x).sum() / light.sum(), (light * y).sum() / light.sum()
        at = plan.place_in_result(Place(225, 80))
        np.testing.assert_allclose(middle, (at.x, at.y), atol=0.6)
