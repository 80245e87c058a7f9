"""Patch: places painted over, against formulas and against photographs that were never spoilt."""

from __future__ import annotations

import unittest

import numpy as np
import skimage.data
from pydantic import ValidationError

from kitecore.masks.strokes import Stroke
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import AnyStep, Enlarge, Frame, OnePatch, Patch, Sharpen
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
        patches.append(OnePatch(stroke=dot(200, 120, 36), way="fill"))
        patches.append(OnePatch(stroke=dot(60, 60, 24), way="clone", x=40, turn=25, scale=1.5))
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

    def test_what_is_filled_looks_like_what_lies_around_and_not_like_what_was_painted_over(self) -> None:
        for side in (3, 9):
            given = TRUTH.copy()
            given[120 - side : 120 + side, 150 - side : 150 + side] = 1
            stroke = dot(150, 120, 3.4 * side + 4, 0)
            made = render_array(given, [Patch(patches=[OnePatch(stroke=stroke, way="fill")])])
            where = np.s_[120 - side : 120 + side, 150 - side : 150 + side]
            before, after = (float(np.mean((one - TRUTH)[where] ** 2)) for one in (given, made))
            self.assertGreater(10 * np.log10(before / after), 10)
            np.testing.assert_array_equal(made[:80], given[:80])

    def test_nothing_is_filled_with_what_a_later_patch_takes_away(self) -> None:
        given = np.full((90, 160, 3), 0.4, np.float32)
        given[30:60, 50:80], given[20:70, 84:130] = 0.9, 1.0
        first = OnePatch(stroke=Stroke(points=[(50, 45), (80, 45)], size=40, softness=0), way="fill")
        second = OnePatch(stroke=Stroke(points=[(84, 45), (130, 45)], size=56, softness=0), way="fill")
        made = render_array(given, [Patch(patches=[first, second])])
        self.assertLess(float(made[:, :70].max()), 0.5)

    def test_another_place_is_taken_turned_and_at_another_size(self) -> None:
        rows, columns = np.mgrid[:200, :300].astype(np.float32)
        slope = np.stack([columns / 300, rows / 200, 0 * rows + 0.5], axis=2)
        stroke = dot(60, 60, 30, 0)
        for turn, scale in ((90, 1), (0, 2), (30, 0.5)):
            patch = OnePatch(stroke=stroke, way="clone", x=150, y=70, turn=turn, scale=scale)
            made = render_array(slope, [Patch(patches=[patch])])
            angle = np.deg2rad(-turn)
            # A place right of the middle shows what lies right of the other middle, turned back and nearer by the scale.
            for dx, dy in ((6, 0), (-3, 8)):
                x = 60 + 150 + (np.cos(angle) * dx - np.sin(angle) * dy) / scale
                y = 60 + 70 + (np.sin(angle) * dx + np.cos(angle) * dy) / scale
                wanted = ((x + 0.0) / 300, y / 200)
                np.testing.assert_allclose(made[60 + dy, 60 + dx, :2], wanted, atol=0.01)
            np.testing.assert_array_equal(made[100:], slope[100:])

    def test_an_outline_holds_what_lies_inside_it(self) -> None:
        red = np.zeros((80, 120, 3), np.float32)
        red[:, 60:] = (1, 0, 0)
        ring = Stroke(points=[(20, 20), (45, 20), (45, 60), (20, 60)], size=4, softness=0)
        inside = (40, 32)
        for outline in (False, True):
            made = render_array(red, [Patch(patches=[OnePatch(stroke=ring, outline=outline, way="clone", x=55)])])
            np.testing.assert_array_equal(made[inside], (1, 0, 0) if outline else (0, 0, 0))
            np.testing.assert_array_equal(made[5, 5], (0, 0, 0))

    def test_another_take_shows_where_it_was_painted(self) -> None:
        sharper: list[AnyStep] = [Sharpen(amount=150)]
        patch = OnePatch(stroke=dot(150, 120, 60, 0), way="take")
        step = Patch(patches=[patch], of="B", steps=sharper)
        made, whole = render_array(TRUTH, [step]), render_array(TRUTH, sharper)
        np.testing.assert_allclose(made[110:130, 140:160], whole[110:130, 140:160], atol=1e-6)
        np.testing.assert_array_equal(made[:60], TRUTH[:60])
        self.assertIn("from take B", step.did())
        with self.assertRaises(ValidationError):
            Patch(steps=[Frame()])

    def test_cards_take_the_step_along_without_its_places(self) -> None:
        step = Patch(patches=[OnePatch(stroke=dot(5, 5)), OnePatch(stroke=dot(9, 9), way="clone")])
        self.assertEqual(step.portable().patches, [])
        self.assertEqual(step.did(), "places painted over by others of the picture: 1 mended and 1 cloned over")
