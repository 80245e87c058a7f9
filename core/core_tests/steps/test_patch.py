"""Patch: places painted over, against formulas and against photographs that were never spoilt."""

from __future__ import annotations

import unittest

import numpy as np
import skimage.data

from kitecore.masks.strokes import Stroke
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import AnyStep, Enlarge, Frame, OnePatch, Patch
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage

TRUTH = np.ascontiguousarray(skimage.data.coffee()[60:300, 40:400], np.float32) / 255


def dot(x: float, y: float, size: float = 14, softness: float = 20) -> Stroke:
    return Stroke(points=[(x, y)], size=size, softness=softness)


def spoilt(*places: tuple[int, int]) -> np.ndarray:
    picture = TRUTH.copy()
    for x, y in places:
        picture[y - 4 : y + 4, x - 4 : x + 4] = 1
    return picture


class PatchTest(unittest.TestCase):
    def test_at_rest_and_switched_off_nothing_changes(self) -> None:
        off = OnePatch(stroke=dot(100, 100), x=40, on=False)
        for step in (Patch(), Patch(patches=[off])):
            np.testing.assert_array_equal(render_array(TRUTH, [step]), TRUTH)
            self.assertEqual(step.did(), "")

    def test_a_clone_is_what_lies_elsewhere(self) -> None:
        patch = OnePatch(stroke=dot(100, 100, 20, 0), way="clone", x=37, y=-12)
        made = render_array(TRUTH, [Patch(patches=[patch])])
        np.testing.assert_allclose(made[95:105, 95:105], TRUTH[83:93, 132:142], atol=1e-6)
        np.testing.assert_array_equal(made[:88], TRUTH[:88])

    def test_a_mended_place_comes_nearer_to_what_was_there(self) -> None:
        places = [(60, 60), (150, 40), (300, 180), (250, 100)]
        given = spoilt(*places)
        patches = [OnePatch(stroke=dot(x, y), x=24, y=6) for x, y in places]
        made = render_array(given, [Patch(patches=patches)])
        where = given != TRUTH
        before, after = (float(np.mean((one[where] - TRUTH[where]) ** 2)) for one in (given, made))
        self.assertLess(after, before / 4)  # 6 dB

    def test_later_patches_take_from_what_earlier_ones_made(self) -> None:
        red = np.zeros((60, 120, 3), np.float32)
        red[:, :20] = (1, 0, 0)
        first = OnePatch(stroke=dot(60, 30, 10, 0), way="clone", x=-50)
        second = OnePatch(stroke=dot(100, 30, 6, 0), way="clone", x=-40)
        made = render_array(red, [Patch(patches=[first, second])])
        np.testing.assert_array_equal(made[30, 100], (1, 0, 0))
        other_way = render_array(red, [Patch(patches=[second, first])])
        np.testing.assert_array_equal(other_way[30, 100], (0, 0, 0))

    def test_tiles_are_parts_of_the_whole(self) -> None:
        patches = [OnePatch(stroke=dot(100, 100, 40), x=60), OnePatch(stroke=dot(120, 110, 30), way="clone", y=-50)]
        plan = plan_of_steps([Patch(patches=patches)], Size(360, 240))
        whole = result_stage(plan, SampleStage(TRUTH)).render(Region(0, 0, 360, 240), Run())
        for region in (Region(90, 90, 20, 20), Region(0, 0, 115, 240), Region(131, 101, 3, 5)):
            part = result_stage(plan, SampleStage(TRUTH)).render(region, Run())
            np.testing.assert_array_equal(part, whole[region.slices(Region(0, 0, 360, 240))])

    def test_they_hold_under_frames_and_factors(self) -> None:
        given = spoilt((150, 120))
        patch = Patch(patches=[OnePatch(stroke=dot(150, 120), x=24, y=6)])
        framed = Frame(turns=1, flip=True, crop=Crop(x=20, y=30, width=180, height=200))
        mended = render_array(given, [framed, patch])
        np.testing.assert_allclose(mended, render_array(render_array(given, [patch]), [framed]), atol=0.02)
        steps: list[AnyStep] = [patch, Enlarge(engine="plain", target=ByFactor(factor=2))]
        self.assertLess(float(render_array(given, steps)[232:248, 292:308].max()), 0.98)

    def test_near_the_border_and_far_outside_it_holds(self) -> None:
        patches = [OnePatch(stroke=dot(0, 0, 20), x=30), OnePatch(stroke=dot(-900, 40), x=5)]
        made = render_array(TRUTH, [Patch(patches=[*patches, OnePatch(stroke=dot(355, 236), way="clone", x=900)])])
        self.assertTrue(np.isfinite(made).all())

    def test_cards_take_the_step_along_without_its_places(self) -> None:
        step = Patch(patches=[OnePatch(stroke=dot(5, 5)), OnePatch(stroke=dot(9, 9), way="clone")])
        self.assertEqual(step.portable().patches, [])
        self.assertEqual(step.did(), "places painted over by others of the picture: 1 mended and 1 cloned over")
