"""Whole results are rendered in regions that fit into memory and compute little twice."""

from unittest import TestCase, mock

import numpy as np

from core_tests.pictures import random_samples
from kitecore.engines import Engine
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.pipeline.strips import regions_of, render_strips
from kitecore.steps import Deblur, Denoise, Enlarge, Repair, Sharpen, Step
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan_of_steps
from kitecore.takes.render import render_array, result_stage
from kitecore.takes.whole import WORKING_BYTES, WholeRender, _apart, whole_render

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


def computed_rows(plan: Plan, rows: range) -> float:
    """Operations of networks for some of the rows of regions, by a machine that makes no others; nothing is computed."""
    asked, whole = [], whole_render(plan, 3, plan.size, rows=9)

    def counted(self: Engine, pictures: Pixels, maps: Pixels | None, factor: int) -> Pixels:
        height, width = pictures.shape[:2]
        asked.append(height * width * self.operations_per_pixel(factor))
        return np.zeros((height * factor, width * factor, 3), np.float32)

    source = SampleStage(np.zeros((plan.source.height, plan.source.width, 3), np.uint8))
    stage = result_stage(plan, source, cache=whole.cache)
    with mock.patch.object(Engine, "_run", counted):
        for region in regions_of(plan.size, whole.tile):
            if region.y // whole.tile.height in rows:
                stage.render(region, Run())
    return sum(asked)


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
                self.assertGreaterEqual(-(-plan.size.height // whole_render(plan, 3, plan.size).tile.height), 6)
                self.assertLessEqual(computed_share(plan), most)

    def test_rows_for_several_machines_need_nothing_of_each_other(self) -> None:
        plan = plan_of_steps([Denoise(), Enlarge(target=ByFactor(factor=4))], Size(2400, 3000))
        whole = whole_render(plan, 3, plan.size, rows=9)
        self.assertEqual(whole.tile.height % 9, 0)
        rows = -(-plan.size.height // whole.tile.height)
        self.assertGreaterEqual(rows, 6)
        self.assertEqual(rows % 2, 0)
        halves = [computed_rows(plan, part) for part in (range(rows // 2), range(rows // 2, rows))]
        all_of_it = computed_rows(plan, range(rows))
        self.assertAlmostEqual(sum(halves) / all_of_it, 1)
        self.assertLess(max(halves), 0.55 * all_of_it)
        self.assertLess(all_of_it, 1.25 * sum(work for engine, work in plan.works.items() if engine))

    def test_strips_of_very_large_pictures_are_low(self) -> None:
        for size in (Size(38_000, 40_000), Size(40_000, 400), Size(300, 40_000), Size(1, 1)):
            tile = whole_render(plan_of_steps([], size), 4, size).tile
            with self.subTest(size=str(size)):
                self.assertLess(size.width * tile.height * 4 * 2 * 2, WORKING_BYTES)

    def test_pixels_are_the_same_however_they_are_cut(self) -> None:
        chains: list[list[Step]] = [[Repair(), Denoise(), TWICE, Sharpen()], [Deblur(), TWICE], [TWICE, Denoise()]]
        for steps in chains:
            self.assert_same(steps, 30_000_000)

    def test_pixels_are_the_same_in_rows_that_need_nothing_of_each_other(self) -> None:
        apart: list[object] = []

        def noted(*given: object) -> WholeRender | None:
            apart.append(found := _apart(*given))  # type: ignore[arg-type]
            return found

        chains: list[list[Step]] = [[Denoise(), TWICE], [Repair(), Denoise(), TWICE, Sharpen()]]
        with (
            mock.patch("kitecore.takes.whole._LONG", 0), mock.patch("kitecore.takes.whole._SHARING", 3),
            mock.patch("kitecore.takes.whole._FEWEST_ROWS", 2), mock.patch("kitecore.takes.whole._apart", noted),
        ):  # fmt: skip
            for steps in chains:
                self.assert_same(steps, 60_000_000)
        self.assertNotIn(None, apart)

    def assert_same(self, steps: list[Step], limit: int) -> None:
        source = SampleStage(random_samples(150, 190, 3))
        plan = plan_of_steps(steps, source.size)
        whole = whole_render(plan, 3, plan.size, limit)
        self.assertLess(whole.tile.pixels, plan.size.pixels / 2)
        stage = result_stage(plan, source, cache=whole.cache)
        strips = np.concatenate(list(render_strips(stage, lambda part: part, Run(), whole.tile)))
        with self.subTest(steps=[step.kind for step in steps]):
            np.testing.assert_allclose(strips, render_array(random_samples(150, 190, 3), steps), atol=2e-6)
