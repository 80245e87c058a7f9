from collections.abc import Iterator
from unittest import TestCase

import cv2
import numpy as np
import skimage.data
from PIL import Image
from pydantic import ValidationError

from core_tests.pictures import DEMO, psnr, random_samples, smooth
from kitecore.engines import engines
from kitecore.errors import EngineError, TakeError, TooLarge
from kitecore.filters.tone_match import ToneMatchedStage
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Enlarge
from kitecore.steps.enlarge import Blend, ByFactor, ByHeight, ByPrint, ByWidth
from kitecore.takes.render import render_array

SOURCE = Size(612, 816)


class TargetTest(TestCase):
    def test_targets_are_resolved_to_whole_pixels(self) -> None:
        for target, expected in (
            (ByFactor(factor=3.7), Size(2264, 3019)),
            (ByFactor(factor=0.5), Size(306, 408)),
            (ByFactor(factor=8), Size(4896, 6528)),
            (ByWidth(pixels=2001), Size(2001, 2668)),
            (ByHeight(pixels=2001), Size(1501, 2001)),
            (ByPrint(width=21, height=28, unit="cm", ppi=240), Size(1984, 2646)),
            (ByPrint(width=21, height=40, unit="cm", ppi=240), Size(1984, 2646)),
            (ByPrint(width=21, height=40, unit="cm", ppi=240, mode="fill"), Size(2835, 3780)),
            (ByPrint(width=28, height=21, unit="cm", ppi=240), Size(1984, 2646)),
            (ByPrint(height=11, unit="in", ppi=300), Size(2475, 3300)),
            (ByPrint(width=200, unit="mm", ppi=254), Size(2000, 2667)),
        ):
            with self.subTest(target=target):
                self.assertEqual(Enlarge(engine="plain", target=target).result_size(SOURCE), expected)

    def test_a_print_lies_or_stands_as_the_picture_does(self) -> None:
        typed = Enlarge(engine="plain", target=ByPrint(width=60, height=90, unit="cm", ppi=100))
        self.assertEqual(typed.result_size(Size(900, 600)), Size(3543, 2362))
        self.assertEqual(typed.result_size(Size(600, 900)), Size(2362, 3543))

    def test_a_picture_of_the_papers_shape_fills_it_to_the_pixel(self) -> None:
        for mode in ("fit", "fill"):
            step = Enlarge(engine="plain", target=ByPrint(width=60, height=90, unit="cm", ppi=87.3, mode=mode))
            for size in (Size(600, 900), Size(601, 900), Size(600, 901)):
                with self.subTest(mode=mode, size=size):
                    self.assertEqual(step.result_size(size), Size(2062, 3093))
            self.assertNotEqual(step.result_size(Size(603, 900)), Size(2062, 3093))

    def test_factors_outside_the_range_are_refused(self) -> None:
        for factor in (0, -1, 0.49, 8.01, 1000, float("nan"), float("inf")):
            with self.subTest(factor=factor), self.assertRaises(ValidationError):
                ByFactor(factor=factor)
        with self.assertRaisesRegex(TakeError, "between 0.5 and 8"):
            Enlarge(target=ByPrint(width=3, unit="in", ppi=2400)).result_size(Size(100, 100))
        with self.assertRaisesRegex(TakeError, "neither a width nor a height"):
            Enlarge(target=ByPrint()).result_size(SOURCE)

    def test_more_than_forty_thousand_pixels_are_refused(self) -> None:
        self.assertEqual(Enlarge(target=ByFactor(factor=8)).result_size(Size(5000, 100)).width, 40_000)
        with self.assertRaisesRegex(TooLarge, "40,000"):
            Enlarge(target=ByFactor(factor=8)).result_size(Size(5001, 100))

    def test_an_unknown_engine_is_named(self) -> None:
        with self.assertRaisesRegex(EngineError, "no engine “fog” that can enlarge; there are .*plain"):
            render_array(smooth(8, 8), [Enlarge(engine="fog")])


class FaithfulTest(TestCase):
    def test_is_closer_to_the_truth_than_lanczos(self) -> None:
        """On demo pictures no network was trained on, by factors with and without a head of their own."""
        for name in ("harbour-wall.png", "festival.jpg"):
            truth = Image.open(DEMO / "clean" / name).convert("RGB")
            width, height = truth.width // 12 * 12, truth.height // 12 * 12
            truth = truth.crop((0, 0, width, height)).crop(
                (width // 4, height // 4, width // 4 + 240, height // 4 + 240)
            )
            reference = np.asarray(truth, np.float32) / 255
            for side in (120, 80, 60, 96):
                small = np.asarray(truth.resize((side, side), Image.Resampling.BICUBIC))
                scores = [
                    psnr(np.clip(render_array(small, [Enlarge(engine=e, target=ByWidth(pixels=240))]), 0, 1), reference)
                    for e in ("plain", "faithful")
                ]
                self.assertGreater(scores[1], scores[0] + 0.25, (name, side))

    def test_grey_stays_one_band_and_equals_neutral_colour(self) -> None:
        grey = smooth(40, 32, 1)
        step = Enlarge(engine="faithful", target=ByFactor(factor=3))
        result = render_array(grey, [step])
        self.assertEqual(result.shape, (120, 96, 1))
        colour = render_array(np.repeat(grey, 3, axis=2), [step])
        np.testing.assert_allclose(result[..., 0], colour.mean(axis=2), atol=1e-5)

    def test_alpha_is_resampled_plainly(self) -> None:
        picture = np.concatenate([smooth(30, 30), smooth(30, 30, 1)], axis=2)
        target = ByFactor(factor=2)
        network = render_array(picture, [Enlarge(engine="faithful", target=target)])
        plain = render_array(picture, [Enlarge(engine="plain", target=target)])
        np.testing.assert_allclose(network[..., 3], plain[..., 3], atol=1e-6)
        opaque = render_array(picture[..., :3], [Enlarge(engine="faithful", target=target)])
        np.testing.assert_allclose(network[..., :3], opaque, atol=1e-5)

    def test_flat_tones_stay(self) -> None:
        for tone in (0.0, 0.2, 0.5, 0.8, 1.0):
            flat = np.full((32, 32, 3), tone, np.float32)
            result = render_array(flat, [Enlarge(engine="faithful", target=ByFactor(factor=4))])
            self.assertLess(np.abs(result - tone).max(), 2 / 255)

    def test_reducing_needs_no_network(self) -> None:
        picture = smooth(64, 64)
        target = ByFactor(factor=0.6)
        np.testing.assert_array_equal(
            render_array(picture, [Enlarge(engine="faithful", target=target)]),
            render_array(picture, [Enlarge(engine="plain", target=target)]),
        )


class BlendTest(TestCase):
    def test_is_the_weighted_mean_of_two_engines(self) -> None:
        picture = smooth(24, 20)
        target = ByFactor(factor=2.5)
        faithful, plain = (render_array(picture, [Enlarge(engine=e, target=target)]) for e in ("faithful", "plain"))
        for weight in (0, 30, 100):
            step = Enlarge(engine="faithful", blend=Blend(engine="plain", weight=weight), target=target)
            expected = faithful + (plain - faithful) * np.float32(weight / 100)
            np.testing.assert_allclose(render_array(picture, [step]), expected, atol=1e-6)

    def test_an_engine_that_does_not_run_does_not_count(self) -> None:
        alone = Enlarge(engine="plain", target=ByFactor(factor=2))
        silent = alone.model_copy(update={"blend": Blend(engine="faithful", weight=0)})
        self.assertEqual(alone.identity(), silent.identity())
        self.assertEqual(alone.tolerance, silent.tolerance)
        heard = alone.model_copy(update={"blend": Blend(engine="faithful", weight=1)})
        self.assertGreater(heard.work(SOURCE), alone.work(SOURCE))
        self.assertGreater(heard.tolerance, alone.tolerance)
        self.assertEqual([use.name for use in heard.engines_used()], ["plain", "faithful"])


class HoldTest(TestCase):
    def setUp(self) -> None:
        self.source = SampleStage(smooth(60, 48))
        enlarged = render_array(smooth(60, 48), [Enlarge(engine="plain", target=ByFactor(factor=3))])
        self.truth = enlarged
        y, x = np.mgrid[0:180, 0:144]
        fine = 0.05 * np.sin(x * np.pi / 1.5)[..., None] * np.cos(y * np.pi / 1.5)[..., None]
        drift = np.array([0.06, -0.03, 0.01]) + 0.02 * np.sin(y / 60)[..., None]
        self.drifted = (enlarged + fine + drift).astype(np.float32)
        self.fine = fine

    def test_a_known_drift_is_taken_back_and_detail_is_not(self) -> None:
        held = ToneMatchedStage(SampleStage(self.drifted), self.source, 1.0)
        result = held.render(held.size.region, Run())
        inner = slice(15, -15)
        np.testing.assert_allclose(result[inner, inner], (self.truth + self.fine)[inner, inner], atol=0.012)
        untouched = ToneMatchedStage(SampleStage(self.drifted), self.source, 0.0)
        np.testing.assert_allclose(untouched.render(held.size.region, Run()), self.drifted, atol=1e-7)

    def test_half_of_it_takes_half_back(self) -> None:
        whole, half = (
            ToneMatchedStage(SampleStage(self.drifted), self.source, share).render(Size(144, 180).region, Run())
            for share in (1.0, 0.5)
        )
        np.testing.assert_allclose(half, (whole + self.drifted) / 2, atol=1e-6)


class RepeatTest(TestCase):
    """A pattern laid edge to edge has no first pixel: moved along, it must give the same result moved along."""

    def test_enlarging_commutes_with_moving_the_pattern(self) -> None:
        pattern = random_samples(30, 24, 3, seed=4)
        for engine, factor, hold in (("plain", 2, 0), ("plain", 2.5, 0), ("faithful", 3, 0), ("faithful", 2.5, 60)):
            step = Enlarge(engine=engine, repeat=True, hold=hold, target=ByFactor(factor=factor))
            result = render_array(pattern, [step])
            moved = render_array(np.roll(pattern, (10, 4), (0, 1)), [step])
            expected = np.roll(result, (int(10 * factor), int(4 * factor)), (0, 1))
            with self.subTest(engine=engine, factor=factor):
                np.testing.assert_allclose(moved, expected, atol=1e-4)

    def test_without_it_the_edges_do_not_meet(self) -> None:
        ramp = np.tile(np.linspace(0, 1, 24, dtype=np.float32)[None, :, None], (24, 1, 3))
        apart, meeting = (
            render_array(ramp, [Enlarge(engine="plain", repeat=repeat, target=ByFactor(factor=4))])
            for repeat in (False, True)
        )
        gap = lambda picture: np.abs(picture[:, 0] - picture[:, -1]).max()  # noqa: E731
        self.assertGreater(gap(apart), 0.95)
        self.assertLess(gap(meeting), 0.5)


class EnginesTest(TestCase):
    """What every engine that ships must hold, whatever it is for."""

    def test_all_that_are_promised_are_there(self) -> None:
        shelf = {name: engine.manifest for name, engine in engines().items()}
        for name in ("faithful", "crisp", "salvage", "drawn", "grainkeep"):
            self.assertEqual(shelf[name].factors, [2, 3, 4, 6, 8], name)
            self.assertTrue(shelf[name].quality, name)
        self.assertEqual(
            {shelf[name].kind for name in ("denoise", "repair", "deblur")}, {"denoise", "repair", "deblur"}
        )

    def test_flat_tones_stay_flat_at_every_factor(self) -> None:
        for name, engine in engines().items():
            for factor in engine.manifest.factors if engine.manifest.kind == "enlarge" else []:
                for tone in (0.02, 0.5, 0.97):
                    flat = np.full((16, 16, 3), tone, np.float32)
                    result = render_array(flat, [Enlarge(engine=name, target=ByFactor(factor=factor))])
                    self.assertLess(np.abs(result - tone).max(), 4 / 255, (name, factor, tone))

    def test_results_lie_where_the_source_does(self) -> None:
        """No engine shifts a photograph: averaged over source pixels, its result is the source, where the source was."""
        photograph = np.asarray(skimage.data.coffee()[:256, 100:356], np.float32) / 255
        source = cv2.resize(photograph, (64, 64), interpolation=cv2.INTER_AREA)
        slopes = np.stack([slope[3:-3, 3:-3].ravel() for slope in np.gradient(source, axis=(0, 1))], axis=1)
        for name, factor, difference in self.returned(source):
            shift, *_ = np.linalg.lstsq(slopes, -difference.ravel(), rcond=None)
            self.assertLess(np.abs(shift).max(), 0.02, (name, factor, "px of the source"))

    def test_waves_keep_their_tones(self) -> None:
        for name, factor, difference in self.returned(smooth(32, 32)):
            # Salvage takes waves for softness and gives them a little more contrast.
            self.assertLess(np.abs(difference).max(), 0.05 if name == "salvage" else 0.005, (name, factor))

    @staticmethod
    def returned(source: np.ndarray) -> Iterator[tuple[str, int, np.ndarray]]:
        """Every engine and factor, and how its result, averaged over source pixels, differs from the source."""
        side = source.shape[0]
        for name, engine in engines().items():
            for factor in engine.manifest.factors if engine.manifest.kind == "enlarge" else []:
                result = render_array(source, [Enlarge(engine=name, target=ByFactor(factor=factor))])
                back = result.reshape(side, factor, side, factor, 3).mean(axis=(1, 3))
                yield name, factor, (back - source)[3:-3, 3:-3]

    def test_drawn_makes_sharper_edges_than_lanczos(self) -> None:
        truth = np.ones((96, 96, 3), np.float32)
        y, x = np.mgrid[0:96, 0:96]
        truth[(np.hypot(x - 50, y - 44) < 30) & (np.hypot(x - 50, y - 44) > 20)] = 0
        small = truth.reshape(24, 4, 24, 4, 3).mean(axis=(1, 3))
        scores = {
            name: psnr(np.clip(render_array(small, [Enlarge(engine=name, target=ByFactor(factor=4))]), 0, 1), truth)
            for name in ("plain", "drawn")
        }
        self.assertGreater(scores["drawn"], scores["plain"] + 3)
