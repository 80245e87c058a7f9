"""The contract of the core: any region rendered alone is that region of the full render."""

from __future__ import annotations

from typing import Any, ClassVar, Literal
from unittest import TestCase

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from core_tests.drawn import Drawing
from core_tests.pictures import random_samples
from kitecore.errors import KiteError
from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage, Stage
from kitecore.steps import Denoise, Enlarge, Step, step_classes
from kitecore.steps.base import Belongs
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan_of_steps
from kitecore.takes.render import result_stage

MOST_PIXELS = 80_000
#: At most so many tiles across and down: each of a network is computed with its surroundings.
MOST_TILES = 3
#: The same takes in every run, however long they take.
SETTLED = {"deadline": None, "derandomize": True, "suppress_health_check": list(HealthCheck)}


def by_tiles(stage: Stage, tile: Size) -> np.ndarray:
    result = np.empty((stage.size.height, stage.size.width, stage.bands), np.float32)
    for part in grid(stage.size, tile):
        result[part.slices(stage.size.region)] = stage.render(part, Run())
    return result


def fitting(steps: list[Step], size: Size) -> list[Step]:
    """Those of ``steps`` that can be done on a picture of this size without it growing too large for the test."""
    kept: list[Step] = []
    for step in steps:
        try:
            resolved = plan_of_steps([*kept, step], size)
            # What steps inside others cannot do is refused when their work is counted.
            assert resolved.work >= 0
        except KiteError:
            continue
        if resolved.size.pixels <= MOST_PIXELS and min(resolved.size.width, resolved.size.height) >= 6:
            kept.append(step)
    return kept


@st.composite
def regions_of(draw: st.DrawFn, size: Size) -> Region:
    x, y = draw(st.integers(0, size.width - 1)), draw(st.integers(0, size.height - 1))
    return Region(x, y, draw(st.integers(1, size.width - x)), draw(st.integers(1, size.height - y)))


def unlikeness(resolved: Plan, source: SampleStage, data: st.DataObject) -> float:
    """The largest difference between parts rendered alone and the same parts of the whole."""
    stage = result_stage(resolved, source)
    assert stage.size == resolved.size
    whole = stage.render(stage.size.region, Run())
    assert np.isfinite(whole).all()
    tile = Size(
        *(max(data.draw(st.integers(7, 60)), -(-side // MOST_TILES)) for side in (whole.shape[1], whole.shape[0]))
    )
    worst = float(np.abs(whole - by_tiles(stage, tile)).max())
    for _ in range(3):
        region = data.draw(regions_of(stage.size))
        alone = stage.render(region, Run())
        worst = max(worst, float(np.abs(alone - whole[region.slices(stage.size.region)]).max()))
    return worst


class Checking(TestCase):
    def check(self, steps: list[Step], bands: int, data: st.DataObject) -> None:
        size = Size(data.draw(st.integers(12, 70)), data.draw(st.integers(12, 70)))
        source = SampleStage(random_samples(size.height, size.width, bands, bits=16, seed=size.width))
        resolved = plan_of_steps(fitting(steps, size), size)
        allowed = max([step.tolerance for step in resolved.steps], default=0.0)
        self.assertLessEqual(unlikeness(resolved, source, data), allowed)


class EveryStepTest(Checking):
    def test_every_kind_of_step_alone(self) -> None:
        for cls in step_classes():
            if cls.belongs == "raw":
                # Camera raws have a test of their own.
                continue

            @settings(max_examples=8, **SETTLED)
            @given(Drawing.model(Drawing(), cls), st.sampled_from([1, 3, 4]), st.data())
            def alone(step: Step, bands: int, data: Any) -> None:
                self.check([step.model_copy(update={"on": True})], bands, data)

            with self.subTest(kind=cls.__name__):
                alone()


class TakesTest(Checking):
    @settings(max_examples=14, **SETTLED)
    @given(st.lists(Drawing().step(), min_size=1, max_size=4), st.sampled_from([1, 3, 4]), st.data())
    def test_takes_of_any_steps(self, steps: list[Step], bands: int, data: Any) -> None:
        self.check(steps, bands, data)

    @settings(max_examples=50, **SETTLED)
    @given(st.lists(Drawing(plainly=True).step(), min_size=1, max_size=6), st.sampled_from([1, 3, 4]), st.data())
    def test_longer_takes_without_networks(self, steps: list[Step], bands: int, data: Any) -> None:
        self.check(steps, bands, data)

    def test_a_step_that_depends_on_the_grid_is_found_whatever_it_is_called(self) -> None:
        @settings(max_examples=10, **SETTLED)
        @given(st.data())
        def check(data: Any) -> None:
            self.check([Broken(kind="broken")], 3, data)

        with self.assertRaises(AssertionError):
            check()

    def test_networks_leave_no_seams(self) -> None:
        """Far below the contract's 1/255: tiles of a network differ by rounding only."""
        source = SampleStage(random_samples(90, 80, 3, seed=5))
        for step in (Enlarge(engine="faithful", target=ByFactor(factor=3)), Denoise(luminance=100, detail=50)):
            stage = result_stage(plan_of_steps([step], source.size), source)
            whole = stage.render(stage.size.region, Run())
            self.assertLess(np.abs(whole - by_tiles(stage, Size(64, 50))).max(), 2e-5)


class Broken(Step):
    """Inverts, and adds what depends on how wide the region is that is asked for."""

    title: ClassVar[str] = "broken"
    purpose: ClassVar[str] = "None"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["broken"]

    def result_size(self, size: Size) -> Size:
        return size

    def did(self) -> str:
        return "inverted badly"

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return _BrokenStage(source)


class _BrokenStage(Stage):
    def __init__(self, source: Stage) -> None:
        super().__init__(source.size, source.bands)
        self._source = source

    def render(self, region: Region, run: Run) -> Pixels:
        return 1 - self._source.render(region, run) + np.float32(region.width % 7 * 0.1)
