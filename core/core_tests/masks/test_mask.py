"""Masks: they lie on the source under every frame and factor, and nothing is computed where they are empty."""

from __future__ import annotations

import unittest

import numpy as np
from pydantic import ValidationError

from core_tests.pictures import random_samples, smooth
from kitecore.masks.mask import Mask
from kitecore.masks.original import Original
from kitecore.masks.parts import Brush
from kitecore.masks.strokes import Stroke
from kitecore.pipeline.geometry import Place, Region
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage, Stage
from kitecore.steps import Denoise, Enlarge, Frame, GiveBack, Grain, Sharpen, Step
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.plan import Plan, plan
from kitecore.takes.render import result_stage, weights_of
from kitecore.takes.take import Take

PLAIN = Enlarge(engine="plain", target=ByFactor(factor=2))


def brush(*points: tuple[float, float], size: float = 10, **settings: object) -> Stroke:
    return Stroke.model_validate({"points": points, "size": size, "softness": 0, **settings})


def painted(*strokes: Stroke) -> Mask:
    return Mask(parts=[Brush(strokes=list(strokes))])


class Watched(Stage):
    """Notes which regions were asked for."""

    def __init__(self, inner: Stage) -> None:
        super().__init__(inner.size, inner.bands)
        self.inner, self.asked = inner, []  # type: tuple[Stage, list[Region]]

    def render(self, region: Region, run: Run) -> Pixels:
        self.asked.append(region)
        return self.inner.render(region, run)


class MaskTest(unittest.TestCase):
    def setUp(self) -> None:
        self.source = SampleStage(smooth(60, 80))

    def planned(self, *steps: Step) -> Plan:
        return plan(Take(steps=list(steps)), self.source.size)

    def changed(self, *steps: Step) -> np.ndarray:
        """Where the last step changes anything."""
        whole, before = self.planned(*steps), self.planned(*steps[:-1])
        results = [result_stage(one, self.source).render(one.size.region, Run()) for one in (whole, before)]
        return np.abs(results[0] - results[1]).max(axis=2) > 1e-6

    def test_a_step_works_where_it_is_painted_and_nowhere_else(self) -> None:
        grain = Grain(amount=20, tones=0, mask=painted(brush((30, 20), (50, 20))))
        changed = self.changed(grain)
        y, x = np.mgrid[0:60, 0:80] + 0.5
        distance = np.hypot(x - np.clip(x, 30, 50), y - 20)
        np.testing.assert_array_equal(changed[distance > 5], False)
        self.assertGreater(changed[distance < 4.5].mean(), 0.98)

    def test_inverted_it_works_everywhere_else(self) -> None:
        strokes = [brush((30, 20), size=16)]
        there, elsewhere = (
            self.changed(
                Grain(amount=20, tones=0, mask=Mask.model_validate({"strokes": strokes, "inverted": inverted}))
            )
            for inverted in (False, True)
        )
        self.assertFalse((there & elsewhere).any())
        self.assertGreater((there | elsewhere).mean(), 0.98)

    def test_it_holds_under_turn_flip_crop_and_factor(self) -> None:
        place = Place(33.0, 41.0)
        grain = Grain(amount=20, tones=0, mask=painted(brush((place.x, place.y), size=8)))
        for frame in (
            Frame(turns=1), Frame(flip=True), Frame(turns=3, flip=True), Frame(angle=12),
            Frame(crop=Crop(x=20, y=30, width=40, height=25)),
        ):  # fmt: skip
            for factor in (1.0, 2.5):
                steps = [frame, Enlarge(engine="plain", target=ByFactor(factor=factor)), grain]
                changed = self.changed(*steps)
                middle = self.planned(*steps).place_in_result(place)
                y, x = np.nonzero(changed)
                self.assertLess(abs(x.mean() + 0.5 - middle.x), 0.5 * factor)
                self.assertLess(abs(y.mean() + 0.5 - middle.y), 0.5 * factor)
                self.assertLess(abs(changed.sum() / (np.pi * 16 * factor**2) - 1), 0.2)

    def test_strokes_fade_add_up_and_are_taken_away(self) -> None:
        def values(*strokes: Stroke) -> np.ndarray:
            original = Original(self.source, Mapping(), self.source.size)
            return painted(*strokes).values(Region(0, 0, 80, 60), original, Run())

        soft = values(brush((40, 30), size=40, softness=100))
        line = soft[30, 40:62]
        self.assertTrue((np.diff(line) <= 1e-6).all())
        self.assertGreater(line[0], 0.98)
        self.assertEqual(line[-1], 0)
        half = values(brush((40, 30), strength=50), brush((40, 30), strength=30))
        self.assertAlmostEqual(float(half[30, 40]), 0.5, places=5)
        self.assertAlmostEqual(
            float(values(brush((40, 30)), brush((40, 30), strength=60, erase=True))[30, 40]), 0.4, places=5
        )

    def test_an_edge_aware_stroke_stays_on_its_side(self) -> None:
        samples = np.full((40, 60, 3), 0.2, np.float32)
        samples[:, 30:] = 0.8
        step = SampleStage(samples)
        mask = painted(brush((22, 20), size=36, edges=True))
        values = mask.values(Region(0, 0, 60, 40), Original(step, Mapping(), step.size), Run())
        self.assertGreater(values[15:25, 15:29].min(), 0.9)
        self.assertLess(values[:, 30:].max(), 0.01)

    def test_nothing_is_computed_where_the_mask_is_empty(self) -> None:
        noisy = SampleStage(random_samples(200, 300, bits=16))
        watched = Watched(noisy)
        take = Take(steps=[Denoise(mask=painted(brush((250, 150), size=20)))])
        stage = result_stage(plan(take, noisy.size), watched)
        far = stage.render(Region(0, 0, 64, 64), Run())
        np.testing.assert_array_equal(far, noisy.render(Region(0, 0, 64, 64), Run()))
        self.assertEqual(watched.asked, [Region(0, 0, 64, 64)])
        watched.asked.clear()
        stage.render(noisy.size.region, Run())
        rendered = [region for region in watched.asked if region != noisy.size.region]
        self.assertTrue(rendered)
        self.assertTrue(all(region.x > 100 and region.y > 40 for region in rendered), rendered)

    def test_a_frame_takes_none(self) -> None:
        with self.assertRaises(ValidationError):
            Frame.model_validate({"kind": "frame", "mask": {"strokes": []}})

    def test_the_weights_shown_are_those_that_work(self) -> None:
        steps = [PLAIN, Sharpen(edges=0, shadows=0, highlights=0, mask=painted(brush((40, 30), size=20)))]
        resolved = self.planned(*steps)
        weights = weights_of(resolved, 1, self.source).render(resolved.size.region, Run())[..., 0]
        changed = self.changed(*steps)
        self.assertFalse(changed[weights == 0].any())
        self.assertAlmostEqual(float(weights.sum()) / (np.pi * 400), 1, delta=0.1)
        reduced = weights_of(resolved, 1, self.source, 1)
        self.assertEqual(reduced.size, resolved.size.reduced(1))


class GiveBackTest(unittest.TestCase):
    def setUp(self) -> None:
        self.source = SampleStage(random_samples(50, 60, bits=16))
        self.mask = painted(brush((30, 25), size=20))

    def rendered(self, *steps: Step) -> np.ndarray:
        resolved = plan(Take(steps=list(steps)), self.source.size)
        return result_stage(resolved, self.source).render(resolved.size.region, Run())

    def test_the_original_comes_back_where_it_is_painted(self) -> None:
        frame = Frame(crop=Crop(x=5, y=5, width=50, height=40))
        strong = Sharpen(amount=250, edges=0, shadows=0, highlights=0)
        result = self.rendered(frame, PLAIN, strong, GiveBack(mask=self.mask))
        plain, sharp = self.rendered(frame, PLAIN), self.rendered(frame, PLAIN, strong)
        np.testing.assert_allclose(result[36:44, 46:54], plain[36:44, 46:54], atol=1e-6)
        np.testing.assert_array_equal(result[:10], sharp[:10])

    def test_another_take_comes_back_whatever_its_factor(self) -> None:
        softened = [Enlarge(engine="plain", target=ByFactor(factor=0.5))]
        result = self.rendered(PLAIN, GiveBack(of="B", steps=softened, mask=self.mask))
        other = self.rendered(*softened, Enlarge(engine="plain", target=ByFactor(factor=4)))
        np.testing.assert_allclose(result[46:54, 56:64], other[46:54, 56:64], atol=1e-5)

    def test_steps_that_were_painted_come_back_as_they_were_painted(self) -> None:
        """Another take's own masks hold inside what is given back of it."""
        small = painted(brush((30, 25), size=6))
        sharpened = Sharpen(amount=250, edges=0, shadows=0, highlights=0, mask=small)
        frame = Frame(crop=Crop(x=5, y=5, width=50, height=40))
        result = self.rendered(frame, PLAIN, GiveBack(of="B", steps=[PLAIN, sharpened], mask=self.mask))
        other, plain = self.rendered(frame, PLAIN, sharpened), self.rendered(frame, PLAIN)
        self.assertGreater(np.abs(other - plain).max(), 0.1)
        np.testing.assert_allclose(result[32:48, 42:58], other[32:48, 42:58], atol=1e-5)

    def test_a_give_back_may_hold_another_but_no_frame(self) -> None:
        inner = GiveBack(mask=self.mask)
        strong = Sharpen(amount=250, edges=0, shadows=0, highlights=0)
        result = self.rendered(PLAIN, GiveBack(of="B", steps=[PLAIN, strong, inner], mask=self.mask))
        np.testing.assert_allclose(result[46:54, 56:64], self.rendered(PLAIN)[46:54, 56:64], atol=1e-5)
        with self.assertRaisesRegex(ValidationError, "leave its frame out"):
            GiveBack(steps=[Frame()])

    def test_without_a_mask_nothing_is_given_back(self) -> None:
        np.testing.assert_array_equal(self.rendered(PLAIN, GiveBack()), self.rendered(PLAIN))
