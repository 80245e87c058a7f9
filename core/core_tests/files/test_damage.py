"""Damaged files never come in silently; sound ones always do."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
import pyvips
import tifffile

from core_tests.pictures import smooth, write
from kitecore.errors import DamagedPicture, PictureError
from kitecore.files.damage import signs_of_damage
from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.reading import read_picture

#: Of what files are written with: a name, and how.
KINDS = {
    "a.jpg": {"Q": 85}, "progressive.jpg": {"Q": 85, "interlace": True}, "a.png": {}, "lossless.webp": {"lossless": True},
}  # fmt: skip


def grainy(height: int = 240, width: int = 320) -> np.ndarray:
    random = np.random.default_rng(7)
    picture = smooth(height, width) + random.normal(0, 0.04, (height, width, 3))
    return (np.clip(picture, 0, 1) * 255).astype(np.uint8)


class DamageTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.samples = grainy()

    def tiff(self, name: str, **options: object) -> Path:
        """With its index in front, as many programs write it."""
        path = self.folder / name
        tifffile.imwrite(path, self.samples, photometric="rgb", rowsperstrip=16, **options)
        return path

    def all_files(self) -> list[Path]:
        tiffs = [
            self.tiff("plain.tif"), self.tiff("deflate.tif", compression="zlib"), self.tiff("lzw.tif", compression="lzw"),
        ]  # fmt: skip
        return tiffs + [write(self.folder / name, self.samples, **options) for name, options in KINDS.items()]

    def test_sound_files_come_in_and_nothing_is_said_of_them(self) -> None:
        for path in self.all_files():
            with self.subTest(file=path.name), Source(path, self.folder) as source:
                self.assertIsNone(source.facts.damaged)
                self.assertEqual(signs_of_damage(source.stage(), Run()), [])

    def test_files_that_were_cut_off_are_refused(self) -> None:
        for path in self.all_files():
            content = path.read_bytes()
            for share in (0.3, 0.6, 0.9, 0.99):
                path.write_bytes(content[: int(len(content) * share)])
                with self.subTest(file=path.name, share=share), self.assertRaises(PictureError):
                    Source(path, self.folder)

    def test_deflated_parts_are_checked_against_their_sums(self) -> None:
        path = self.tiff("deflate.tif", compression="zlib")
        content = bytearray(path.read_bytes())
        content[len(content) // 2 : len(content) // 2 + 3] = b"abc"
        path.write_bytes(content)
        with self.assertRaisesRegex(DamagedPicture, "1 of its 15 parts .* taken in as it is"):
            Source(path, self.folder)

    def test_a_damaged_file_is_taken_on_somebodys_word_and_says_so(self) -> None:
        path = self.tiff("cut.tif")
        content = path.read_bytes()
        path.write_bytes(content[: int(len(content) * 0.7)])
        with Source(path, self.folder, damaged=True) as source:
            self.assertRegex(source.facts.damaged or "", "parts lie beyond its end")
            self.assertRegex(read_picture(source, Run()).damage[0], "beyond its end")
            top = source.stage().render(source.size.region, Run())[:100]
        np.testing.assert_array_equal(np.rint(top * 255), self.samples[:100])
        with Source(self.tiff("sound.tif"), self.folder, damaged=True) as source:
            self.assertIsNone(source.facts.damaged)

    def test_what_is_wrong_before_the_pixels_can_be_taken_on_somebodys_word_too(self) -> None:
        path = write(self.folder / "junk.jpg", self.samples, Q=85)
        content = path.read_bytes()
        second = 4 + int.from_bytes(content[4:6], "big")
        path.write_bytes(content[:second] + b"junk between segments" + content[second:])
        with self.assertRaises(DamagedPicture):
            Source(path, self.folder)
        with Source(path, self.folder, damaged=True) as source:
            self.assertTrue(source.facts.damaged)
            self.assertEqual(source.size.height, 240)

    def test_a_file_of_a_few_bytes_cannot_hold_a_large_picture(self) -> None:
        path = self.folder / "claims.webp"
        pyvips.Image.black(15_000, 15_000, bands=3).copy(interpretation="srgb").webpsave(str(path), lossless=True)
        self.assertLess(path.stat().st_size, 2000 * 100)
        with self.assertRaisesRegex(PictureError, "nearly all of it is missing"):
            Source(path, self.folder)


class SignsTest(TestCase):
    def signs(self, samples: np.ndarray) -> list[str]:
        return signs_of_damage(SampleStage(samples), Run())

    def test_a_flat_rest_is_seen_whatever_its_height(self) -> None:
        for rows in (20, 100, 600):
            samples = grainy(900)
            samples[-rows:] = 128
            with self.subTest(rows=rows):
                self.assertRegex(self.signs(samples)[0], f"lowest {rows} of 900 rows are one even colour")

    def test_borders_and_even_pictures_are_no_damage(self) -> None:
        bordered = grainy()
        bordered[:20] = bordered[-20:] = 255
        even = np.full((200, 200, 3), 128, np.uint8)
        fading = np.repeat(np.linspace(255, 0, 200).astype(np.uint8)[:, None, None], 200, axis=1).repeat(3, axis=2)
        fading[150:] = fading[150]
        for samples in (bordered, even, fading):
            self.assertEqual(self.signs(samples), [])

    def test_blocks_that_jump_are_seen_and_horizons_are_not(self) -> None:
        broken = grainy().astype(int)
        broken[120:] += 30
        self.assertRegex(self.signs(np.clip(broken, 0, 255).astype(np.uint8))[0], "row 120")
        horizon = grainy().astype(int)
        horizon[123:] += 30
        self.assertEqual(self.signs(np.clip(horizon, 0, 255).astype(np.uint8)), [])
