"""A place of the source is found again in every result, and the other way round."""

from __future__ import annotations

import unittest

import numpy as np

from kitecore.pipeline.geometry import Place, Size
from kitecore.steps import AnyStep, Enlarge, Frame
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.plan import plan
from kitecore.takes.render import render_array
from kitecore.takes.take import Take


def random_frame(random: np.random.Generator, size: Size, angle: float) -> Frame:
    frame = Frame(turns=int(random.integers(4)), flip=bool(random.integers(2)), angle=angle)
    turned = frame.turned_size(size)
    x, y = int(random.integers(turned.width // 4)), int(random.integers(turned.height // 4))
    return frame.model_copy(update={"crop": Crop(x=x, y=y, width=turned.width // 2, height=turned.height // 2)})


class PlacesTest(unittest.TestCase):
    def test_a_mark_is_where_the_plan_says(self) -> None:
        random = np.random.default_rng(4)
        size = Size(120, 90)
        found = 0
        for round_ in range(60):
            angle = float(random.uniform(-12, 12)) if round_ % 2 else 0.0
            steps: list[AnyStep] = [
                random_frame(random, size, angle),
                Enlarge(engine="plain", target=ByFactor(factor=float(random.uniform(1, 4)))),
            ]
            resolved = plan(Take(steps=steps), size)
            x, y = int(random.integers(4, size.width - 4)), int(random.integers(4, size.height - 4))
            there = resolved.place_in_result(Place(x + 0.5, y + 0.5))
            if not (5 < there.x < resolved.size.width - 5 and 5 < there.y < resolved.size.height - 5):
                continue
            found += 1
            picture = np.zeros((size.height, size.width, 1), np.uint8)
            picture[y, x] = 255
            result = render_array(picture, steps)[..., 0]
            weights = result
            rows, columns = np.mgrid[0 : result.shape[0], 0 : result.shape[1]] + 0.5
            self.assertLess(abs((columns * weights).sum() / weights.sum() - there.x), 0.6)
            self.assertLess(abs((rows * weights).sum() / weights.sum() - there.y), 0.6)
        self.assertGreater(found, 15)

    def test_there_and_back(self) -> None:
        random = np.random.default_rng(5)
        size = Size(311, 207)
        for _ in range(40):
            steps: list[AnyStep] = [
                random_frame(random, size, float(random.uniform(-30, 30))),
                Enlarge(engine="plain", target=ByFactor(factor=float(random.uniform(0.6, 8)))),
            ]
            resolved = plan(Take(steps=steps), size)
            place = Place(*random.uniform(0, 200, 2))
            back = resolved.place_in_source(resolved.place_in_result(place))
            self.assertAlmostEqual(back.x, place.x, places=6)
            self.assertAlmostEqual(back.y, place.y, places=6)

    def test_what_is_cropped_off_lies_outside(self) -> None:
        resolved = plan(Take(steps=[Frame(crop=Crop(x=10, y=10, width=20, height=20))]), Size(100, 100))
        self.assertTrue(resolved.place_in_result(Place(20, 20)).inside(resolved.size))
        self.assertFalse(resolved.place_in_result(Place(5, 20)).inside(resolved.size))

    def test_the_plain_plan_has_the_results_size_and_no_network(self) -> None:
        steps: list[AnyStep] = [
            Frame(crop=Crop(x=3, y=4, width=40, height=30)),
            Enlarge(engine="faithful", target=ByFactor(factor=3.3)),
        ]
        resolved = plan(Take(steps=steps), Size(60, 50))
        self.assertEqual(resolved.plain.size, resolved.size)
        self.assertEqual([step.kind for step in resolved.plain.steps], ["frame", "enlarge"])
        self.assertNotEqual(resolved.plain.chain, resolved.chain)
