"""Whole results are rendered in regions that fit into memory and compute little twice."""

from unittest import TestCase, mock

import numpy as np

from core_tests.pictures import random_samples
from kitecore.engines import Engine
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.pipeline.strips import render_strips
from kitecore.steps import Deblur, Denoise, Enlarge, Repair, Sharpen, Step
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan_of_steps
from kitecore.takes.render import render_array, result_stage
from kitecore.takes.whole import WORKING_BYTES, whole_render

TWICE = Enlarge(target=ByFactor(factor=2))


def computed_share(plan: Plan, limit: int = WORKING_BYTES) -> float:
    """Pixels that networks are given ÷ pixels they would be given if nothing had surroundings; nothing is computed."""
    asked = 0.0

    def counted(self: Engine, pictures: Pixels, maps: Pixels | None, factor: int) -> Pixels:
        nonlocal asked
        height, width = pictures.shape[:2]
        asked += height * width * self.operations_per_pixel(factor)
        return np.zeros((height * factor, width * factor, 3), np.float32)

    whole = whole_render(plan, 3, plan.size, limit)
    source = SampleStage(np.zeros((plan.source.height, plan.source.width, 3), np.uint8))
    with mock.patch.object(Engine, "_run", counted):
        for _ in render_strips(result_stage(plan, source, cache=whole.cache), lambda part: part, Run(), whole.tile):
            pass
    return asked / sum(work for engine, work in plan.works.items() if engine)


class WholeRenderTest(TestCase):
    def test_little_is_computed_twice(self) -> None:
        for most, steps in (
            (1.08, [TWICE]), (1.15, [Denoise()]), (1.15, [Denoise(), TWICE]), (1.20, [Repair(), Denoise(), TWICE]),
        ):  # fmt: skip
            plan = plan_of_steps(steps, Size(1500, 2000))
            with self.subTest(steps=[step.kind for step in steps]):
                self.assertLessEqual(computed_share(plan), most)

    def test_regions_are_smaller_where_there_is_less_memory_and_never_nothing(self) -> None:
        plan = plan_of_steps([Denoise(), TWICE], Size(6000, 4000))
        pixels = [whole_render(plan, 3, plan.size, limit).tile.pixels for limit in (10**9, 3 * 10**8, 10**8, 10**6)]
        self.assertEqual(pixels, sorted(pixels, reverse=True))
        self.assertGreater(pixels[-1], 0)

    def test_what_takes_long_has_rows_for_several_machines_and_little_more_is_computed(self) -> None:
        for most, steps, size in ((1.12, [TWICE], Size(3600, 3000)), (1.2, [Denoise(), TWICE], Size(3000, 2400))):
            plan = plan_of_steps(steps, size)
            with self.subTest(steps=[step.kind for step in steps]):
                self.assertGreaterEqual(-(-plan.size.height // whole_render(plan, 3, plan.size).tile.height), 7)
                self.assertLessEqual(computed_share(plan), most)

    def test_strips_of_very_large_pictures_are_low(self) -> None:
        for size in (Size(38_000, 40_000), Size(40_000, 400), Size(300, 40_000), Size(1, 1)):
            tile = whole_render(plan_of_steps([], size), 4, size).tile
            with self.subTest(size=str(size)):
                self.assertLess(size.width * tile.height * 4 * 2 * 2, WORKING_BYTES)

    def test_pixels_are_the_same_however_they_are_cut(self) -> None:
        source = SampleStage(random_samples(150, 190, 3))
        chains: list[list[Step]] = [[Repair(), Denoise(), TWICE, Sharpen()], [Deblur(), TWICE], [TWICE, Denoise()]]
        for steps in chains:
            plan = plan_of_steps(steps, source.size)
            whole = whole_render(plan, 3, plan.size, 30_000_000)
            self.assertLess(whole.tile.pixels, plan.size.pixels / 2)
            stage = result_stage(plan, source, cache=whole.cache)
            strips = np.concatenate(list(render_strips(stage, lambda part: part, Run(), whole.tile)))
            with self.subTest(steps=[step.kind for step in steps]):
                np.testing.assert_allclose(strips, render_array(random_samples(150, 190, 3), steps), atol=2e-6)
