from __future__ import annotations

from unittest import TestCase

import cv2
import numpy as np
from PIL import Image

from core_tests.pictures import DEMO, psnr, random_samples, smooth
from kitecore.engines.kinds import KINDS
from kitecore.filters.deconvolution import deconvolved, wiener_kernel
from kitecore.filters.psf import disc, gaussian, streak
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import to_samples
from kitecore.steps import Deblur, Denoise, Repair
from kitecore.steps.deblur import FocusBlur, MotionBlur, SoftBlur
from kitecore.steps.restoring import Restoring
from kitecore.takes.render import render_array


def clean_crop(name: str = "festival.jpg") -> np.ndarray:
    """A sharp, clean piece of a demo original, H×W×3 float 0..1: never trained on."""
    picture = Image.open(DEMO / "clean" / name).convert("RGB")
    left, top = picture.width // 3, picture.height // 3
    return np.asarray(picture.crop((left, top, left + 192, top + 160)), np.float32) / 255


def clipped(pixels: np.ndarray) -> np.ndarray:
    return np.clip(pixels, 0, 1)


def blurred(truth: np.ndarray, psf: np.ndarray) -> np.ndarray:
    """In float, with a little noise: what the deblur engine is for."""
    soft = cv2.filter2D(truth, -1, psf[::-1, ::-1].astype(np.float32), borderType=cv2.BORDER_REFLECT_101)
    noise = np.random.default_rng(2).normal(0, 1.5 / 255, truth.shape)
    return (np.rint(clipped(soft + noise) * 255) / 255).astype(np.float32)


class EveryRestoringStepTest(TestCase):
    STEPS: tuple[Restoring, ...] = (
        Denoise(luminance=80, colour=100),
        Repair(strength=90),
        Deblur(blur=FocusBlur(radius=2)),
    )

    def test_a_strength_of_zero_is_the_input_bit_by_bit(self) -> None:
        zeros = [
            Denoise(luminance=0, colour=0), Repair(strength=0), Repair(strength=0, quality=30), Repair(quality=100),
            Deblur(strength=0), Deblur(blur=FocusBlur(radius=0)), Deblur(blur=MotionBlur(length=0)),
            Deblur(blur=SoftBlur(sigma=0)),
        ]  # fmt: skip
        for bits in (8, 16):
            source = random_samples(21, 34, 3, bits=bits)
            for step in zeros:
                np.testing.assert_array_equal(to_samples(render_array(source, [step]), bits), source)

    def test_a_map_of_zero_is_the_input_bit_by_bit_inside_the_network_too(self) -> None:
        """What masks rely on: the network itself leaves alone what it is told to."""
        pixels = smooth(32, 48)
        for step in self.STEPS:
            maps = np.zeros((32, 48, len(KINDS[step.engine_kind].maps)), np.float32)
            result = step._engine().restore(step.pictures(pixels, 1.0), maps)
            np.testing.assert_array_equal(result, pixels)

    def test_strength_is_a_share_of_the_change(self) -> None:
        source = random_samples(40, 36, 3, seed=3)
        as_it_is = render_array(source, [])
        whole = render_array(source, [Repair(strength=100)])
        half = render_array(source, [Repair(strength=50)])
        np.testing.assert_allclose(half, (as_it_is + whole) / 2, atol=1e-5)

    def test_every_strength_is_what_the_network_itself_makes_of_it(self) -> None:
        pixels = smooth(32, 48) + np.random.default_rng(6).normal(0, 0.04, (32, 48, 3)).astype(np.float32)
        steps = [
            Denoise(luminance=35, colour=0),
            Repair(strength=15),
            Repair(strength=90, quality=93),
            Deblur(strength=70),
        ]
        for step in steps:
            # A picture ends eight mirrored pixels beyond its borders; what else is told of them is seen from farther away.
            engine, inner, margin = step._engine(), np.s_[8:-8, 8:-8], 24 + step.pictures_reach()
            around = np.pad(pixels, ((8 + margin,) * 2, (8 + margin,) * 2, (0, 0)), "reflect")
            given = step.pictures(around, 1.0)[margin:-margin, margin:-margin]
            maps = np.array([*step.strengths(), *step.description(1.0)], np.float32)
            whole = engine.restore(given, np.broadcast_to(maps, (*given.shape[:2], len(maps))))
            np.testing.assert_allclose(render_array(pixels, [step]), whole[inner], atol=2e-5)

    def test_grey_stays_one_band_and_alpha_as_it_is(self) -> None:
        for step in self.STEPS:
            grey = render_array(smooth(37, 30, 1), [step])
            self.assertEqual(grey.shape, (37, 30, 1))
            colour = render_array(np.repeat(smooth(37, 30, 1), 3, axis=2), [step])
            # What the network takes for noise of colour, grey has none of.
            np.testing.assert_allclose(grey[..., 0], colour.mean(axis=2), atol=0.25 / 255)
            veiled = np.concatenate([smooth(37, 30), smooth(37, 30, 1)], axis=2)
            result = render_array(veiled, [step])
            np.testing.assert_array_equal(result[..., 3], veiled[..., 3])
            np.testing.assert_allclose(result[..., :3], render_array(veiled[..., :3], [step]), atol=1e-6)

    def test_the_size_stays(self) -> None:
        for step in self.STEPS:
            self.assertEqual(step.result_size(Size(33, 5)), Size(33, 5))
            self.assertEqual(render_array(smooth(5, 33), [step]).shape, (5, 33, 3))


class DenoiseTest(TestCase):
    def setUp(self) -> None:
        self.truth = clean_crop()
        self.random = np.random.default_rng(1)

    def noisy(self, sigma: float) -> np.ndarray:
        noisy = self.truth + self.random.normal(0, sigma / 255, self.truth.shape)
        return (np.rint(clipped(noisy) * 255) / 255).astype(np.float32)

    def test_comes_nearer_to_the_truth_than_non_local_means(self) -> None:
        for sigma in (15, 25, 50):
            noisy = self.noisy(sigma)
            eight = to_samples(noisy, 8)
            best = max(
                psnr(cv2.fastNlMeansDenoisingColored(eight, None, h, h, 5, 21).astype(np.float32) / 255, self.truth)
                for h in (0.6 * sigma, 0.9 * sigma, 1.2 * sigma)
            )
            ours = psnr(clipped(render_array(noisy, [Denoise(luminance=100, colour=100)])), self.truth)
            self.assertGreater(ours, best + 0.5, sigma)

    def test_luminance_and_colour_are_apart(self) -> None:
        noisy = self.noisy(20)
        weights = np.array([0.299, 0.587, 0.114])
        colour_only = render_array(noisy, [Denoise(luminance=0, colour=100)])
        np.testing.assert_allclose(colour_only @ weights, noisy @ weights, atol=1e-5)
        luminance_only = render_array(noisy, [Denoise(luminance=100, colour=0)])
        change = luminance_only - noisy
        np.testing.assert_allclose(change[..., 0], change[..., 2], atol=1e-5)
        gain = psnr(luminance_only @ weights, self.truth @ weights) - psnr(noisy @ weights, self.truth @ weights)
        self.assertGreater(gain, 3)

    def test_a_clean_picture_is_left_nearly_alone(self) -> None:
        self.assertGreater(
            psnr(clipped(render_array(self.truth, [Denoise(luminance=100, colour=100)])), self.truth), 36
        )


class RepairTest(TestCase):
    def through_jpeg(self, quality: int) -> np.ndarray:
        eight = to_samples(self.truth, 8)[..., ::-1]
        _, written = cv2.imencode(".jpg", eight, [cv2.IMWRITE_JPEG_QUALITY, quality])
        return cv2.imdecode(written, cv2.IMREAD_COLOR)[..., ::-1].astype(np.float32) / 255

    def setUp(self) -> None:
        self.truth = clean_crop()

    def test_comes_nearer_to_the_truth(self) -> None:
        for quality, least in ((10, 0.4), (20, 0.6), (40, 0.6)):
            worn = self.through_jpeg(quality)
            for told in (None, quality):
                mended = clipped(render_array(worn, [Repair(strength=100, quality=told)]))
                self.assertGreater(psnr(mended, self.truth) - psnr(worn, self.truth), least, (quality, told))

    def test_a_good_file_is_not_made_worse_when_its_quality_is_told(self) -> None:
        worn = self.through_jpeg(95)
        mended = clipped(render_array(worn, [Repair(strength=100, quality=95)]))
        self.assertGreaterEqual(psnr(mended, self.truth), psnr(worn, self.truth))


class DeblurTest(TestCase):
    def setUp(self) -> None:
        self.truth = clean_crop()

    def gain(self, real: FocusBlur | MotionBlur | SoftBlur, told: FocusBlur | MotionBlur | SoftBlur) -> float:
        soft = blurred(self.truth, real.psf())
        return psnr(clipped(render_array(soft, [Deblur(blur=told)])), self.truth) - psnr(soft, self.truth)

    def test_comes_nearer_to_the_truth(self) -> None:
        for blur in (FocusBlur(radius=2.5), MotionBlur(angle=30, length=9), SoftBlur(sigma=1.4)):
            self.assertGreater(self.gain(blur, blur), 1.5, blur)

    def test_does_no_harm_when_the_size_is_wrong_by_a_fifth(self) -> None:
        for radius in (1.5, 2.5, 4.0):
            for wrong in (0.8, 1.2):
                self.assertGreater(
                    self.gain(FocusBlur(radius=radius), FocusBlur(radius=radius * wrong)), 0, (radius, wrong)
                )
        for wrong in (0.8, 1.2):
            self.assertGreater(self.gain(MotionBlur(angle=70, length=10), MotionBlur(angle=70, length=10 * wrong)), 0)

    def test_the_direction_of_movement_is_the_one_given(self) -> None:
        """Counter-clockwise from the right: told another direction, much less comes back."""
        right = self.gain(MotionBlur(angle=35, length=9), MotionBlur(angle=35, length=9))
        mirrored = self.gain(MotionBlur(angle=35, length=9), MotionBlur(angle=-35, length=9))
        self.assertGreater(right, mirrored + 2)


class PointSpreadTest(TestCase):
    def test_light_is_kept_and_centred(self) -> None:
        for kernel in (disc(0.3), disc(2.5), disc(9.7), streak(0.5, 10), streak(14.2, 65), gaussian(0.4), gaussian(3)):
            self.assertAlmostEqual(kernel.sum(), 1, 9)
            height, width = kernel.shape
            self.assertEqual((height % 2, width % 2), (1, 1))
            y, x = np.mgrid[0:height, 0:width]
            self.assertAlmostEqual((kernel * x).sum(), width // 2, 6)
            self.assertAlmostEqual((kernel * y).sum(), height // 2, 6)

    def test_sizes_are_what_they_are_called(self) -> None:
        """By their spread along x: σ of a Gaussian, length ÷ √12 of a line, radius ÷ 2 of a disc."""
        for kernel, spread in ((gaussian(3), 3), (streak(12, 0), 12 / np.sqrt(12)), (disc(6), 3)):
            half = kernel.shape[1] // 2
            self.assertAlmostEqual(np.sqrt((kernel * np.arange(-half, half + 1)[None] ** 2).sum()), spread, 1)

    def test_a_movement_to_the_upper_right_is_one(self) -> None:
        kernel = streak(10, 45)
        half = kernel.shape[0] // 2
        self.assertGreater(kernel[half - 2, half + 2], 0.02)
        self.assertLess(kernel[half + 2, half + 2], 1e-9)

    def test_wiener_deconvolution_undoes_a_blur_without_noise(self) -> None:
        truth = clean_crop()
        soft = cv2.filter2D(truth, -1, gaussian(1.2).astype(np.float32), borderType=cv2.BORDER_REFLECT_101)
        (sharp,) = deconvolved(soft, [wiener_kernel(gaussian(1.2), 1e-4)])
        inner = slice(34, -34)
        self.assertGreater(
            psnr(sharp[inner, inner], truth[inner, inner]), psnr(soft[inner, inner], truth[inner, inner]) + 6
        )
