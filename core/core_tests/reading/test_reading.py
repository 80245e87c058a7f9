"""The reading against known damage, over ranges: what was done to a picture is found, and nothing where nothing was done."""

from __future__ import annotations

import io
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
import skimage.data
from PIL import Image, ImageDraw, ImageFont

from kitecore.files.source import Source
from kitecore.filters.psf import disc, gaussian, streak
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.run import Run
from kitecore.reading import Reading, read_picture, windows
from kitecore.reading.blur import BlurFound, blur_of
from kitecore.reading.compression import compression_of
from kitecore.reading.enlargement import enlargement_of
from kitecore.reading.kind import kind_of
from kitecore.reading.noise import noise_of

LUMA = np.array([0.299, 0.587, 0.114], np.float32)
PICTURES = {name: getattr(skimage.data, name)()[..., :3] for name in ("astronaut", "coffee")}


def eight(picture: np.ndarray) -> np.ndarray:
    return np.clip(np.rint(picture), 0, 255).astype(np.uint8)


def grey(picture: np.ndarray) -> list[np.ndarray]:
    return [np.asarray(picture.astype(np.float32) / 255 @ LUMA, np.float32)]


def jpeg(picture: np.ndarray, quality: int) -> bytes:
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "JPEG", quality=quality)
    return buffer.getvalue()


def enlarged(picture: np.ndarray, factor: float, kernel: Image.Resampling) -> np.ndarray:
    small = Image.fromarray(picture).resize((picture.shape[1] // 2, picture.shape[0] // 2), Image.Resampling.LANCZOS)
    return np.asarray(small.resize((round(small.width * factor), round(small.height * factor)), kernel))[:640, :800]


class NoiseTest(unittest.TestCase):
    def test_noise_is_measured_over_a_range(self) -> None:
        random = np.random.default_rng(1)
        for name, picture in PICTURES.items():
            found = []
            for sigma in (4, 8, 15, 30):
                noisy = eight(picture + random.normal(0, sigma, picture.shape[:2])[..., None])
                measured, confidence = noise_of(grey(noisy), grey(noisy))
                self.assertLess(abs(measured - sigma), 0.2 * sigma + 1, f"{name} σ {sigma}")
                self.assertGreater(confidence, 0.4)
                found.append(measured)
            self.assertEqual(found, sorted(found))

    def test_a_smooth_clean_picture_has_none(self) -> None:
        y, x = np.mgrid[0:300, 0:300].astype(np.float32)
        ramp = [(0.2 + 0.001 * x + 0.0005 * y).astype(np.float32)]
        self.assertLess(noise_of(ramp, ramp)[0], 0.1)

    def test_tiny_pictures_are_not_trusted(self) -> None:
        self.assertEqual(noise_of([np.zeros((5, 5), np.float32)], [np.zeros((5, 5), np.float32)]), (0.0, 0.0))


class BlurTest(unittest.TestCase):
    def found(self, picture: np.ndarray, psf: np.ndarray | None) -> BlurFound:
        soft = picture.astype(np.float32)
        if psf is not None:
            soft = cv2.filter2D(soft, -1, psf[::-1, ::-1].astype(np.float32))
        noisy = eight(soft + np.random.default_rng(2).normal(0, 1.2, soft.shape))
        return blur_of(grey(noisy), 0.8 / 255)

    def test_sharp_pictures_are_not_accused(self) -> None:
        for picture in PICTURES.values():
            self.assertEqual(self.found(picture, None).kind, "none")

    def test_missed_focus_and_softness_are_told_apart_and_sized(self) -> None:
        for picture in PICTURES.values():
            for radius in (2.0, 4.0, 6.5):
                found = self.found(picture, disc(radius))
                self.assertEqual(found.kind, "focus", radius)
                self.assertLess(abs(found.size - radius), 0.12 * radius + 0.2)
            for sigma in (1.2, 2.5):
                found = self.found(picture, gaussian(sigma))
                self.assertEqual(found.kind, "soft", sigma)
                self.assertLess(abs(found.size - sigma), 0.15 * sigma + 0.1)

    def test_movement_is_found_with_its_length_and_direction(self) -> None:
        for length, angle in ((6, 20), (12, 100), (18, 150)):
            found = self.found(PICTURES["astronaut"], streak(length, angle))
            self.assertEqual(found.kind, "motion")
            self.assertLess(abs(found.size - length), 1.2)
            self.assertLess(abs((found.angle - angle + 90) % 180 - 90), 6)


class CompressionTest(unittest.TestCase):
    def test_quality_is_read_from_pixels_over_a_range(self) -> None:
        for name, picture in PICTURES.items():
            for quality in (15, 40, 60, 80, 92):
                pixels = np.asarray(Image.open(io.BytesIO(jpeg(picture, quality))))
                found = compression_of(grey(pixels))
                assert found.quality, f"{name} {quality}"
                self.assertLessEqual(abs(found.quality - quality), 2)
                self.assertEqual((found.x, found.y), (0, 0))

    def test_the_grid_of_a_cropped_file_is_found(self) -> None:
        pixels = np.asarray(Image.open(io.BytesIO(jpeg(PICTURES["coffee"], 55))))[3:, 5:]
        found = compression_of(grey(pixels))
        self.assertEqual((found.x, found.y), (3, 5))

    def test_what_was_never_compressed_is_not_accused(self) -> None:
        shrunk = cv2.resize(PICTURES["coffee"], None, fx=0.6, fy=0.6, interpolation=cv2.INTER_AREA)
        noise = np.random.default_rng(3).integers(0, 256, (200, 200, 3), dtype=np.uint8)
        for picture in (shrunk, noise, np.full((100, 100, 3), 90, np.uint8)):
            self.assertIsNone(compression_of(grey(picture)).quality)


class EnlargementTest(unittest.TestCase):
    def test_the_factor_is_found_for_several_factors_and_kernels(self) -> None:
        for kernel in (Image.Resampling.BICUBIC, Image.Resampling.LANCZOS, Image.Resampling.BILINEAR):
            for factor in (2, 3, 4):
                found = enlargement_of(grey(enlarged(PICTURES["astronaut"], factor, kernel)))
                self.assertLess(abs(found.factor - factor), 0.06 * factor, f"×{factor} {kernel.name}")

    def test_repeated_samples_are_recognised(self) -> None:
        for factor in (1.5, 2, 3, 4):
            picture = enlarged(PICTURES["coffee"][:240, :240], factor, Image.Resampling.NEAREST)
            self.assertAlmostEqual(enlargement_of(grey(picture)).factor, factor, places=1)

    def test_enlarged_files_that_were_compressed_then_are_recognised(self) -> None:
        for name, picture in PICTURES.items():
            for factor in (1.5, 2, 3):
                for quality in (95, 85, 70):
                    pressed = jpeg(enlarged(picture[:400, :400], factor, Image.Resampling.BICUBIC), quality)
                    planes = grey(np.asarray(Image.open(io.BytesIO(pressed))))
                    with self.subTest(picture=name, factor=factor, quality=quality):
                        self.assertEqual(enlargement_of(planes, gridded=True).factor, factor)

    def test_sharp_blurred_and_compressed_pictures_are_not_accused(self) -> None:
        for picture in PICTURES.values():
            soft = eight(cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 1.5))
            pressed = [
                (np.asarray(Image.open(io.BytesIO(jpeg(picture, quality)))), True) for quality in (90, 70, 40, 20)
            ]
            for one, gridded in ((picture, False), (soft, False), *pressed):
                self.assertEqual(enlargement_of(grey(one), gridded).factor, 1.0)


def meadow(seed: int) -> np.ndarray:
    """Flowers, smaller with distance, under light that falls off: luma 480×640, 0..1."""
    chance = np.random.default_rng(seed)
    ground = 0.3 * cv2.GaussianBlur(chance.normal(size=(480, 640)).astype(np.float32), (0, 0), 2)
    picture = 0.3 + np.linspace(-0.08, 0.06, 480, dtype=np.float32)[:, None] + ground
    for _ in range(260):
        x, y = chance.integers(0, 640), chance.integers(0, 480)
        size, tone = (3 + y / 480 * 17) * chance.uniform(0.7, 1.4), chance.uniform(0.45, 0.95)
        for petal in range(5):
            turn = petal * 2 * np.pi / 5 + chance.uniform(0, 1)
            middle = int(x + np.cos(turn) * size * 0.6), int(y + np.sin(turn) * size * 0.4)
            axes = max(1, int(size * 0.5)), max(1, int(size * 0.3))
            shade = float(tone * chance.uniform(0.8, 1.1))
            cv2.ellipse(picture, middle, axes, float(np.degrees(turn)), 0, 360, shade, -1, cv2.LINE_AA)
    return np.clip(cv2.GaussianBlur(picture, (0, 0), 0.7), 0, 1)


class ReadingTest(unittest.TestCase):
    def reading(self, content: np.ndarray | bytes, name: str = "picture.png") -> Reading:
        with TemporaryDirectory() as folder:
            path = Path(folder) / name
            if isinstance(content, bytes):
                path.write_bytes(content)
            else:
                Image.fromarray(content).save(path)
            with Source(path) as source:
                return read_picture(source, Run())

    def test_a_file_tells_its_own_quality(self) -> None:
        for quality in (30, 75, 95):
            self.assertEqual(self.reading(jpeg(PICTURES["coffee"], quality), "a.jpg").compression.quality, quality)

    def test_clipping_is_counted_per_channel(self) -> None:
        picture = np.full((100, 100, 3), 128, np.uint8)
        picture[:10, :, 0], picture[:25, :, 2] = 255, 0
        clipped = self.reading(picture).clipped
        self.assertEqual((clipped.highlights, clipped.shadows), ([0.1, 0.0, 0.0], [0.0, 0.0, 0.25]))

    def test_kinds_of_pictures_are_told_apart(self) -> None:
        drawing = Image.new("RGB", (400, 300), "white")
        pen = ImageDraw.Draw(drawing)
        for line in range(6):
            pen.text((12, 8 + 46 * line), "Tern Sands kites", "black", ImageFont.load_default(34))
        weave = np.random.default_rng(4).normal(0, 14, (300, 300, 1))
        y, x = np.mgrid[0:300, 0:300]
        texture = eight(120 + 25 * np.sin(x / 2)[..., None] * np.sin(y / 2)[..., None] + weave + np.zeros(3))
        self.assertEqual(self.reading(np.asarray(drawing)).kind, "drawing")
        self.assertEqual(self.reading(texture).kind, "texture")
        self.assertEqual(self.reading(PICTURES["astronaut"]).kind, "photo")
        self.assertEqual(self.reading(PICTURES["coffee"]).kind, "photo")

    def test_drawings_and_files_with_checksums_are_not_suspected(self) -> None:
        bands = np.full((320, 400, 3), 240, np.uint8)
        bands[96:200], bands[200:] = (180, 220, 210), (230, 190, 120)
        self.assertEqual(self.reading(bands, "poster.png").damage, [])
        cut_off = PICTURES["coffee"].copy()
        cut_off[200:] = 128
        self.assertIn("one even colour", self.reading(cut_off, "coffee.tif").damage[0])
        self.assertEqual(self.reading(cut_off, "coffee.png").damage, [])

    def test_flowers_are_a_photograph_and_what_covers_walls_is_a_texture(self) -> None:
        for seed in range(6):
            self.assertEqual(kind_of(meadow(seed), 1.0)[0], "photo")
        self.assertEqual(kind_of(skimage.data.coins().astype(np.float32) / 255, 1.0)[0], "photo")
        for name in ("brick", "grass", "gravel"):
            grey = getattr(skimage.data, name)().astype(np.float32) / 255
            self.assertEqual(kind_of(grey, 1.0)[0], "texture")
            self.assertEqual(kind_of(grey[60:380, 100:420], 1.0)[0], "texture")

    def test_grey_pictures_have_no_colour_noise_and_one_channel(self) -> None:
        reading = self.reading(skimage.data.camera())
        self.assertEqual((reading.noise.colour, len(reading.clipped.shadows)), (0, 1))

    def test_every_value_has_a_confidence_between_nought_and_one(self) -> None:
        told = self.reading(PICTURES["coffee"][:120, :150]).model_dump()
        confidences = [told[key]["confidence"] for key in ("noise", "blur", "compression", "clipped")]
        confidences += [told["enlarged_by_confidence"], told["kind_confidence"]]
        self.assertTrue(all(0 <= confidence <= 1 for confidence in confidences))

    def test_tiny_pictures_can_be_read(self) -> None:
        self.assertEqual(self.reading(np.full((3, 2, 3), 90, np.uint8)).pixels.width, 2)

    def test_large_pictures_are_read_in_windows_on_the_block_grid(self) -> None:
        size = Size(6000, 4000)
        found = windows(size)
        self.assertEqual(len(found), 12)
        self.assertTrue(all(window.inside(size) and window.x % 8 == window.y % 8 == 0 for window in found))
