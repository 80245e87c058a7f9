"""Tone, curves, colour and detail: identity at rest, formulas in double precision, neutral greys, nothing clipped."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core_tests.colour.test_transfer import by_formula
from core_tests.drawn import Drawing
from core_tests.pictures import random_samples
from kitecore.colour.oklab import cones_of, to_oklab
from kitecore.colour.primaries import luminance, primaries_of
from kitecore.colour.spaces import profile_of
from kitecore.colour.transfer import SRGB, transfer_of
from kitecore.filters.tone_curve import ToneCurve
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Colour, Curves, Detail, Step, Tone
from kitecore.steps.colour import HueAnchor, Tint, balance_that_greys
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage

KINDS: tuple[type[Step], ...] = (Tone, Curves, Colour, Detail)
WIDE = np.linspace(-0.2, 1.4, 5 * 7 * 3, dtype=np.float32).reshape(5, 7, 3)


def lab_of(pixels: np.ndarray) -> np.ndarray:
    return to_oklab(SRGB.light(pixels.astype(np.float32)), cones_of(primaries_of(None)))


def hues(pixels: np.ndarray) -> np.ndarray:
    lab = lab_of(pixels)
    return np.degrees(np.arctan2(lab[..., 2], lab[..., 1]))


class AllOfThemTest(unittest.TestCase):
    def test_at_rest_nothing_changes_and_nothing_is_said(self) -> None:
        samples = random_samples(20, 30, 3, bits=16)
        for kind in KINDS:
            np.testing.assert_array_equal(render_array(samples, [kind.begun()]), render_array(samples, []))
            self.assertEqual(kind.begun().did(), "")

    @given(st.data())
    def test_with_no_share_they_are_at_rest(self, data: st.DataObject) -> None:
        step = data.draw(Drawing.model(Drawing(), data.draw(st.sampled_from(KINDS))))
        samples = random_samples(8, 9, 3)
        plain = step.at(0.0).model_copy(update={"mask": None})
        np.testing.assert_array_equal(render_array(samples, [plain]), render_array(samples, []))

    @given(st.data())
    def test_grey_files_and_grey_pixels_stay_grey(self, data: st.DataObject) -> None:
        drawn = data.draw(Drawing.model(Drawing(), data.draw(st.sampled_from(KINDS))))
        # What tints on purpose is left out.
        neutral = {
            "tone": {}, "curves": {"red": [], "green": [], "blue": []}, "detail": {"air": (0.7, 0.7, 0.7)},
            "colour": {"temperature": 0.0, "tint": 0.0, "shadows": Tint(), "middle": Tint(), "lights": Tint()},
        }  # fmt: skip
        step = drawn.model_copy(update={**neutral[drawn.kind], "mask": None})
        grey = random_samples(12, 9, 1)
        made = render_array(np.repeat(grey, 3, axis=2), [step])
        np.testing.assert_array_equal(made[..., 0], made[..., 1])
        np.testing.assert_array_equal(made[..., 0], made[..., 2])
        # Luma of equal channels is theirs to a rounding of float32.
        np.testing.assert_allclose(render_array(grey, [step])[..., 0], made[..., 0], atol=2e-5, rtol=2e-5)

    def test_alpha_stays(self) -> None:
        samples = random_samples(12, 9, 4)
        steps = [
            Tone(ev=1, contrast=30),
            Curves(luma=[(0, 0.2), (1, 1)]),
            Colour(saturation=50),
            Detail(small=50, haze=-20),
        ]
        made = render_array(samples, list(steps))
        np.testing.assert_array_equal(made[..., 3], render_array(samples, [])[..., 3])


class ToneTest(unittest.TestCase):
    @given(st.floats(-3, 3), st.floats(-90, 90), st.floats(-90, 90))
    def test_points_and_light_are_their_formula(self, ev: float, white: float, black: float) -> None:
        low = -0.25 * black / 100
        moved = (WIDE.astype(np.float64) - low) / (1 - 0.25 * white / 100 - low)
        light = by_formula(render_array(WIDE, [Tone(ev=ev, white=white, black=black)]))
        np.testing.assert_allclose(light, by_formula(moved) * 2**ev, rtol=2e-4, atol=2e-5)

    @given(st.floats(-100, 100), st.floats(-100, 100), st.floats(-100, 100))
    def test_the_curve_is_that_of_lightness_and_colours_stay(self, contrast: float, dark: float, light: float) -> None:
        samples = random_samples(6, 7, 3).astype(np.float32) / 300 + 0.1
        before = by_formula(samples)
        made = by_formula(render_array(samples, [Tone(contrast=contrast, shadows=dark, highlights=light)]))
        weights = primaries_of(None)[1]
        lightness = np.cbrt(before @ weights)
        expected = ToneCurve(contrast / 100, dark / 100, light / 100)(lightness)
        np.testing.assert_allclose(np.cbrt(made @ weights), expected, rtol=1e-3, atol=1e-4)
        np.testing.assert_allclose(made[..., 0] * before[..., 2], made[..., 2] * before[..., 0], rtol=1e-3, atol=1e-6)

    def test_it_works_in_the_light_of_the_pictures_own_space(self) -> None:
        samples = np.array([0.2, 0.6, 0.4], np.float32).reshape(1, 1, 3).repeat(4, 0).repeat(4, 1)
        profile = profile_of("prophoto-rgb")
        resolved = plan_of_steps([Tone(shadows=60)], SampleStage(samples).size)
        made = result_stage(resolved, SampleStage(samples, profile)).render(resolved.size.region, Run())
        curve, own = transfer_of(profile), primaries_of(profile)
        before = np.cbrt(luminance(curve.light(samples), own).astype(np.float64))
        expected = ToneCurve(0, 0.6, 0)(before)
        np.testing.assert_allclose(np.cbrt(luminance(curve.light(made), own)), expected, rtol=1e-3)


class CurvesTest(unittest.TestCase):
    def test_levels_are_their_formula(self) -> None:
        step = Curves(black=0.1, white=0.8, middle=1.5, darkest=0.05, lightest=0.9)
        spread = (WIDE.astype(np.float64) - 0.1) / 0.7
        expected = 0.05 + 0.85 * np.copysign(np.abs(spread) ** (1 / 1.5), spread)
        np.testing.assert_allclose(render_array(WIDE, [step]), expected, atol=2e-6)

    def test_channels_bend_apart(self) -> None:
        made = render_array(WIDE, [Curves(blue=[(0, 0), (0.5, 0.8), (1, 1)])])
        np.testing.assert_array_equal(made[..., :2], WIDE[..., :2])
        self.assertAlmostEqual(float(render_array(np.full((2, 2, 3), 0.5, np.float32), [
            Curves(blue=[(0, 0), (0.5, 0.8), (1, 1)])])[0, 0, 2]), 0.8, places=5)  # fmt: skip

    def test_luma_leaves_colour_differences(self) -> None:
        made = render_array(WIDE, [Curves(luma=[(0, 0.1), (0.4, 0.6), (1, 0.9)])])
        np.testing.assert_allclose(made[..., 0] - made[..., 2], WIDE[..., 0] - WIDE[..., 2], atol=1e-6)

    def test_half_the_strength_is_half_the_way(self) -> None:
        whole = Curves(black=0.1, all=[(0, 0), (0.3, 0.6), (1, 1)])
        made = render_array(WIDE, [whole.at(0.5)])
        np.testing.assert_allclose(made, (WIDE + render_array(WIDE, [whole])) / 2, atol=1e-6)

    def test_points_that_do_not_rise_are_refused(self) -> None:
        for wrong in ([(0.5, 0.1), (0.5, 0.9)], [(0.6, 0), (0.2, 1)], [(0.5, 0.5)]):
            with self.assertRaises(ValueError):
                Curves(all=wrong)


class ColourTest(unittest.TestCase):
    def test_a_place_that_is_picked_becomes_grey(self) -> None:
        place = np.array([0.55, 0.5, 0.4], np.float32).reshape(1, 1, 3).repeat(2, 0)
        temperature, tint = balance_that_greys(SRGB.light(place)[0, 0].tolist())
        made = render_array(place, [Colour(temperature=temperature, tint=tint)])[0, 0]
        self.assertLess(float(np.ptp(made)), 1e-4)

    @given(st.floats(-100, 100), st.floats(-100, 100))
    def test_balance_keeps_the_luminance_of_grey(self, temperature: float, tint: float) -> None:
        grey = np.full((2, 2, 3), 0.5, np.float32)
        made = by_formula(render_array(grey, [Colour(temperature=temperature, tint=tint)]))
        np.testing.assert_allclose(made @ primaries_of(None)[1], by_formula(grey)[..., 0], rtol=1e-4)

    def test_without_saturation_it_is_grey_as_light_as_before(self) -> None:
        samples = random_samples(9, 9, 3)
        made = render_array(samples, [Colour(saturation=-100)])
        self.assertLess(float(np.ptp(made, axis=2).max()), 2e-3)
        np.testing.assert_allclose(lab_of(made)[..., 0], lab_of(samples / np.float32(255))[..., 0], atol=1e-3)

    def test_vibrance_lifts_dull_colours_more(self) -> None:
        pair = np.array([[[0.5, 0.47, 0.45], [0.9, 0.3, 0.1]]], np.float32)
        before, after = lab_of(pair), lab_of(render_array(pair, [Colour(vibrance=60)]))
        gain = np.hypot(after[..., 1], after[..., 2]) / np.hypot(before[..., 1], before[..., 2])
        self.assertGreater(float(gain[0, 0]), float(gain[0, 1]) + 0.1)

    def test_a_hue_is_turned_and_the_opposite_one_stays(self) -> None:
        pair = np.array([[[0.8, 0.3, 0.25], [0.2, 0.65, 0.7]]], np.float32)
        red = float(hues(pair)[0, 0])
        made = render_array(pair, [Colour(hues=[HueAnchor(hue=red % 360, reach=60, turn=30, saturation=20)])])
        self.assertAlmostEqual(float(hues(made)[0, 0]) - red, 30, delta=4)
        np.testing.assert_allclose(made[0, 1], pair[0, 1], atol=1e-4)

    def test_tints_stand_where_they_belong_and_leave_lightness(self) -> None:
        ramp = np.linspace(0.02, 0.98, 48, dtype=np.float32)[None, :, None].repeat(3, 2)
        made = render_array(ramp, [Colour(shadows=Tint(hue=260, amount=80))])
        pulled = -lab_of(made)[0, :, 2]
        self.assertGreater(float(pulled[10]), 5 * float(pulled[44]))
        self.assertLess(float(np.abs(made - ramp)[0, 0].max()), 0.06)
        np.testing.assert_allclose(lab_of(made)[..., 0], lab_of(ramp)[..., 0], atol=1e-3)


class DetailTest(unittest.TestCase):
    def waves(self, period: float) -> np.ndarray:
        x = np.arange(2000)
        plane = 0.5 + 0.03 * np.sin(2 * np.pi * x / period)
        return np.asarray(plane[None, :, None].repeat(80, 0).repeat(3, 2), np.float32)

    def swing(self, pixels: np.ndarray) -> float:
        return float(np.std(pixels[20:60, 200:1800, 1]))

    def test_each_scale_moves_its_own(self) -> None:
        fine, broad = self.waves(3), self.waves(24)
        # Half a dozen times as strong together as what is left alone.
        for step, own, other in ((Detail(small=100), fine, broad), (Detail(large=100, medium=100), broad, fine)):
            gain = [self.swing(render_array(one, [step])) / self.swing(one) for one in (own, other)]
            self.assertGreater(gain[0], 1.25)
            self.assertGreater(gain[0] - 1, 3 * abs(gain[1] - 1))

    def test_below_nothing_it_goes(self) -> None:
        fine = self.waves(3)
        self.assertLess(
            self.swing(render_array(fine, [Detail(small=-100, medium=-100, large=-100)])), 0.3 * self.swing(fine)
        )

    def test_haze_that_was_laid_is_taken(self) -> None:
        """A scene with dark places everywhere, behind haze that thickens to the right."""
        random = np.random.default_rng(5)
        light = random.uniform(0.02, 0.7, (120, 200, 3)) * (random.random((120, 200, 1)) > 0.35)
        left = np.linspace(0.9, 0.45, 200)[None, :, None]
        hazy = light * left + 0.8 * (1 - left)
        seen, truth = (SRGB.coded(one.astype(np.float32)) for one in (hazy, light))
        made = render_array(seen, [Detail(haze=100, air=(0.8, 0.8, 0.8))])
        before, after = (float(np.abs(one - truth)[10:-10, 10:-10].mean()) for one in (seen, made))
        self.assertLess(after, 0.4 * before)

    def test_haze_is_laid_by_its_formula(self) -> None:
        made = by_formula(render_array(WIDE, [Detail(haze=-50, air=(0.8, 0.7, 0.9))]))
        expected = by_formula(WIDE) * 0.7 + np.array([0.8, 0.7, 0.9]) * 0.3
        np.testing.assert_allclose(made, expected, rtol=1e-4, atol=1e-5)

    def test_another_pictures_air_is_not_carried(self) -> None:
        self.assertEqual(Detail(haze=40, air=(0.3, 0.3, 0.3)).portable().air, (0.8, 0.8, 0.8))


if __name__ == "__main__":
    unittest.main()
