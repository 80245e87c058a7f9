"""Strips that overlap: what is asked of them is right however it lies, and a row asks for its own strip alone."""

from unittest import TestCase

import numpy as np

from core_tests.pictures import random_samples
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.kept_strips import StripsStage
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage, Stage
from kitecore.pipeline.stage_cache import StageCache

HEIGHT, WIDTH = 101, 64


class _Noted(Stage):
    """A picture that notes what is asked of it."""

    def __init__(self, source: Stage) -> None:
        super().__init__(source.size, source.bands)
        self.source, self.asked = source, list[Region]()

    def render(self, region: Region, run: Run) -> Pixels:
        self.asked.append(region)
        return self.source.render(region, run)


class StripsTest(TestCase):
    def setUp(self) -> None:
        self.noted = _Noted(SampleStage(random_samples(HEIGHT, WIDTH, 3)))
        self.truth = self.noted.source.render(self.noted.size.region, Run())

    def strips(self, column: int = WIDTH, height: float = 12.7, margin: int = 4) -> StripsStage:
        return StripsStage(self.noted, "", StageCache(10**7, Size(column, HEIGHT), block=1), height, margin)

    def test_whatever_is_asked_for_is_as_it_is(self) -> None:
        stage, random = self.strips(), np.random.default_rng(1)
        for _ in range(200):
            x, right = sorted(random.choice(WIDTH + 1, 2, replace=False))
            y, bottom = sorted(random.choice(HEIGHT + 1, 2, replace=False))
            region = Region.between(int(x), int(y), int(right), int(bottom))
            np.testing.assert_array_equal(stage.render(region, Run()), self.truth[y:bottom, x:right])

    def test_a_row_with_its_margin_comes_from_one_strip_that_is_computed_once(self) -> None:
        stage = self.strips(column=20)
        top, bottom = round(3 * 12.7), round(4 * 12.7)
        for left in (0, 10, 40):
            stage.render(Region.between(left, top - 4, left + 24, bottom + 4), Run())
        self.assertEqual({(one.y, one.bottom) for one in self.noted.asked}, {(top - 4, bottom + 4)})
        self.assertEqual(sum(one.width for one in self.noted.asked), WIDTH)

    def test_what_a_place_comes_from_does_not_depend_on_what_is_kept(self) -> None:
        region = Region(5, 36, 20, 17)
        for before in ((), (Region(0, 0, WIDTH, HEIGHT),), (Region(0, 24, WIDTH, 30),)):
            self.noted.asked.clear()
            stage = self.strips()
            for one in before:
                stage.render(one, Run())
            self.noted.asked.clear()
            fresh = self.strips()
            fresh.render(region, Run())
            mine = {(one.y, one.bottom) for one in self.noted.asked}
            self.noted.asked.clear()
            stage.render(region, Run())
            self.assertLessEqual({(one.y, one.bottom) for one in self.noted.asked}, mine)
