"""Passes: nothing changes by one, the mean of all ways by more; nearer to the truth; the same however it is cut."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from core_tests.pictures import psnr
from kitecore.engines.passes import Way, in_passes
from kitecore.filters.psf import streak
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Repair
from kitecore.steps.deblur import MotionBlur
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage

TRUTH = np.ascontiguousarray(skimage.data.coffee()[100:260, 150:390, :3])
SMALL = np.clip(np.rint(cv2.resize(TRUTH.astype(np.float32), (120, 80), interpolation=cv2.INTER_AREA)), 0, 255).astype(
    np.uint8
)

STRAIGHT = Way()


def enlarge(passes: int) -> Enlarge:
    return Enlarge(target=ByFactor(factor=2), passes=passes)  # type: ignore[arg-type]


class PassesTest(unittest.TestCase):
    def test_every_way_is_taken_back(self) -> None:
        picture = np.random.default_rng(1).random((4, 6, 3)).astype(np.float32)
        seen: list[bytes] = []

        def work(one: np.ndarray, way: Way) -> np.ndarray:
            seen.append(one.tobytes())
            return np.repeat(np.repeat(one, 2, axis=0), 2, axis=1)

        made = in_passes(work, 8, picture)
        self.assertEqual(len(set(seen)), 8)
        np.testing.assert_allclose(made, np.repeat(np.repeat(picture, 2, axis=0), 2, axis=1), atol=1e-6)

    def test_more_passes_are_nearer_to_the_truth(self) -> None:
        truth = TRUTH.astype(np.float32) / 255
        one, two, eight = (psnr(render_array(SMALL, [enlarge(passes)]), truth) for passes in (1, 2, 8))
        self.assertGreater(two, one)
        self.assertGreater(eight, two)

    def test_a_region_alone_is_that_of_the_whole(self) -> None:
        steps: list[AnyStep] = [Repair(strength=100, passes=2), Denoise(passes=8), enlarge(8)]
        whole = render_array(SMALL, steps)
        result = result_stage(plan_of_steps(steps, Size(120, 80)), SampleStage(SMALL))
        region = Region(61, 33, 90, 71)
        np.testing.assert_allclose(
            result.render(region, Run()), whole[region.slices(Region(0, 0, 240, 160))], atol=2e-5
        )

    def test_the_direction_of_a_movement_is_seen_as_the_picture_is(self) -> None:
        def values(angle: float, way: Way = STRAIGHT) -> list[float]:
            return Deblur(blur=MotionBlur(length=9, angle=angle)).description_seen(1.0, way)

        np.testing.assert_allclose(values(20, Way(0, True)), values(160), atol=1e-6)
        np.testing.assert_allclose(values(20, Way(1, False)), values(110), atol=1e-6)
        np.testing.assert_allclose(values(20, Way(3, True)), values(70), atol=1e-6)
        # Each pass then undoes the movement: the mean is no worse than one.
        kernel = streak(7.0, 30.0)[::-1, ::-1].astype(np.float32)
        moved = np.clip(
            np.rint(cv2.filter2D(TRUTH.astype(np.float32), -1, kernel, borderType=cv2.BORDER_REFLECT_101)), 0, 255
        )
        truth = TRUTH.astype(np.float32) / 255
        one, eight = (
            psnr(
                render_array(moved.astype(np.uint8), [Deblur(blur=MotionBlur(length=7, angle=30), passes=passes)]),
                truth,
            )
            for passes in (1, 8)
        )
        self.assertGreater(eight, one)

    def test_chains_of_before_are_found_again_and_time_is_told(self) -> None:
        one, eight = (plan_of_steps([enlarge(passes)], Size(120, 80)) for passes in (1, 8))
        self.assertNotEqual(one.chain, eight.chain)
        runs = [plan.steps[0].networks(Size(120, 80), Size(120, 80))[0].operations for plan in (one, eight)]
        self.assertAlmostEqual(runs[1] / runs[0], 8)
        self.assertIn("8 passes", enlarge(8).did())


if __name__ == "__main__":
    unittest.main()
