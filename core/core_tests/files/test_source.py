import struct
import zlib
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
import pyvips
import tifffile
from PIL import Image

from core_tests.pictures import image_of, random_samples, smooth, write
from kitecore.errors import KiteError, PictureError, TooLarge
from kitecore.files.source import Source, read_facts
from kitecore.pipeline.run import Run
from kitecore.steps import Exposure
from kitecore.takes.render import render_array


def png_claiming(width: int, height: int) -> bytes:
    """A PNG of a few bytes whose header claims any size."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 3000)) + chunk(b"IEND", b"")
    )


class SourceTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def read(self, path: Path) -> np.ndarray:
        with Source(path, self.folder) as source:
            return source.stage().render(source.size.region, Run())

    def test_values_beyond_black_and_white_are_told_with_the_exposure_that_brings_them_in(self) -> None:
        samples = np.full((20, 30, 3), 0.5, np.float32)
        samples[3, 4], samples[5, 6], samples[7, 7] = 3.0, -0.25, np.nan
        path = self.folder / "scene.tif"
        tifffile.imwrite(path, samples, photometric="rgb")
        with Source(path, self.folder) as source:
            facts = source.facts
            self.assertEqual((facts.lowest, facts.highest), (-0.25, 3.0))
            self.assertIn("from -0.25 to 3", facts.notes[-1])
            assert facts.white_ev is not None
            brought = render_array(samples, [Exposure(ev=facts.white_ev, black=-0.25)])
            self.assertAlmostEqual(float(np.nanmax(brought)), 1.0, places=4)
            self.assertAlmostEqual(float(np.nanmin(brought)), 0.0, places=4)
        tifffile.imwrite(path, np.clip(np.nan_to_num(samples), 0, 1), photometric="rgb")
        with Source(path, self.folder) as source:
            self.assertEqual((source.facts.highest, source.facts.white_ev, source.facts.notes), (1.0, None, []))

    def test_only_files_that_are_tagged_have_ppi(self) -> None:
        picture = Image.fromarray(random_samples(20, 30, 3))
        told = Image.Exif()
        told[282], told[296] = 240.0, 2
        per_centimetre = Image.Exif()
        per_centimetre[282], per_centimetre[296] = 100.0, 3
        other = Image.Exif()
        other[271] = "Gannet"
        for ending in ("png", "jpg", "webp", "tif"):
            for expected, options in (
                (None, {}), (72, {"dpi": (72, 72)}), (300, {"dpi": (300, 300)}), (240, {"exif": told}),
                (254, {"exif": per_centimetre}), (None, {"exif": other}),
            ):  # fmt: skip
                if (ending == "webp" and "dpi" in options) or (ending == "tif" and "exif" in options):
                    continue
                path = self.folder / f"{expected}-{len(list(self.folder.iterdir()))}.{ending}"
                picture.save(path, **options)
                with self.subTest(ending=ending, options=options):
                    ppi = read_facts(path).ppi
                    self.assertEqual(None if ppi is None else round(ppi), expected)

    def test_lossless_files_come_in_exactly(self) -> None:
        for ending, bits, options in (
            (".png", 8, {}),
            (".png", 16, {"bitdepth": 16}),
            (".tif", 8, {}),
            (".tif", 16, {}),
            (".tif", 16, {"compression": "lzw"}),
            (".tif", 8, {"compression": "deflate"}),
            (".tif", 16, {"tile": True}),
            (".webp", 8, {"lossless": True}),
        ):
            for bands in (1, 2, 3, 4):
                if ending == ".webp" and bands < 3:
                    continue
                samples = random_samples(33, 47, bands, bits)
                if ending == ".webp" and bands == 4:
                    samples[..., 3] |= 1  # WebP may change colours nobody can see
                path = write(self.folder / f"picture{bands}{bits}{ending}", samples, **options)
                with self.subTest(path=path.name, options=options):
                    expected = samples.astype(np.float32) / np.float32(255 if bits == 8 else 65535)
                    np.testing.assert_allclose(self.read(path), expected, rtol=1e-6)
                    self.assertEqual(read_facts(path).bits, bits)

    def test_float_tiff_keeps_values_outside_the_range(self) -> None:
        samples = smooth(20, 30) * 3 - 1
        tifffile.imwrite(self.folder / "float.tif", samples, photometric="rgb")
        np.testing.assert_array_equal(self.read(self.folder / "float.tif"), samples)

    def test_orientation_is_applied(self) -> None:
        samples = random_samples(20, 30)
        # What is stored turned left needs orientation 6 (turn right) to stand upright.
        for orientation, stored in (
            (6, np.rot90(samples, 1)),
            (3, np.rot90(samples, 2)),
            (8, np.rot90(samples, -1)),
            (2, samples[:, ::-1]),
        ):
            image = image_of(np.ascontiguousarray(stored))
            image.set_type(pyvips.GValue.gint_type, "orientation", orientation)
            path = self.folder / f"turned{orientation}.tif"
            image.write_to_file(str(path))
            with self.subTest(orientation=orientation):
                np.testing.assert_allclose(self.read(path), samples.astype(np.float32) / 255, rtol=1e-6)
                self.assertIn("upright", read_facts(path).notes[0])

    def test_facts(self) -> None:
        image = image_of(random_samples(120, 180)).copy(xres=240 / 25.4, yres=240 / 25.4)
        for name, value in {"ifd0-Make": "Gannet", "ifd0-Model": "Gannet 3", "ifd2-ISOSpeedRatings": "3200",
                            "ifd2-FNumber": "28/10", "ifd2-ExposureTime": "1/15"}.items():  # fmt: skip
            image.set_type(pyvips.GValue.gstr_type, f"exif-{name}", value)
        image = image.icc_transform("p3", input_profile="srgb")
        path = self.folder / "facts.jpg"
        image.jpegsave(str(path), Q=95)
        facts = read_facts(path)
        self.assertEqual((facts.width, facts.height, facts.bits, facts.format), (180, 120, 8, "JPEG"))
        self.assertEqual((facts.ppi, facts.camera, facts.iso), (240, "Gannet 3", 3200))
        self.assertAlmostEqual(facts.aperture or 0, 2.8)
        self.assertAlmostEqual(facts.exposure_s or 0, 1 / 15, 5)
        self.assertIn("P3", facts.profile or "")
        self.assertEqual((facts.print_width_cm, facts.print_height_cm), (1.5, 1.0))

    def test_cmyk_is_converted_and_said_so(self) -> None:
        image = image_of(np.full((10, 10, 3), 128, np.uint8)).icc_transform("cmyk", input_profile="srgb")
        path = self.folder / "press.tif"
        image.write_to_file(str(path))
        facts = read_facts(path)
        self.assertEqual(facts.colour, "RGB")
        self.assertIn("CMYK was converted", facts.notes[0])
        np.testing.assert_allclose(self.read(path), 0.5, atol=0.06)

    def test_a_wrong_ending_is_read_for_what_it_is_and_said(self) -> None:
        path = write(self.folder / "picture.png", random_samples(9, 9))
        wrong = path.rename(self.folder / "picture.jpg")
        facts = read_facts(wrong)
        self.assertEqual(facts.format, "PNG")
        self.assertIn("ends in .jpg but the file is a PNG", facts.notes[0])

    def test_what_is_no_picture_is_refused_with_a_sentence(self) -> None:
        whole = {
            ending: write(self.folder / f"whole{ending}", random_samples(300, 300)).read_bytes()
            for ending in (".jpg", ".png", ".tif", ".webp")
        }
        cases: list[tuple[str, bytes, str]] = [
            ("empty.jpg", b"", "is empty"),
            ("letter.jpg", b"Dear Wren, the kites are on their way.", "not a picture"),
            ("drawing.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>", "not a picture"),
            ("program.png", b"\x7fELF" + bytes(100), "not a picture"),
            *[
                (f"head{e}", content[:40], "damaged|breaks off|not a picture|cannot be read")
                for e, content in whole.items()
            ],
            *[(f"half{e}", content[: len(content) // 2], "damaged|breaks off") for e, content in whole.items()],
            *[(f"almost{e}", content[: len(content) * 9 // 10], "damaged|breaks off") for e, content in whole.items()],
        ]
        for name, content, said in cases:
            path = self.folder / name
            path.write_bytes(content)
            with self.subTest(name=name):
                with self.assertRaisesRegex(KiteError, f"^(?s:.*)({said})") as caught:
                    Source(path, self.folder)
                self.assertIn(name, str(caught.exception))
                self.assertTrue(str(caught.exception).rstrip().endswith("."))
                self.assertNotIn(str(self.folder), str(caught.exception))
        self.assertEqual(list(self.folder.glob("source-*")), [], "nothing left behind")

    def test_bytes_changed_inside_a_png_are_noticed(self) -> None:
        path = write(self.folder / "bent.png", random_samples(200, 200))
        content = bytearray(path.read_bytes())
        content[len(content) // 2] ^= 0xFF
        path.write_bytes(content)
        with self.assertRaises(PictureError):
            Source(path, self.folder)

    def test_two_gigapixels_in_a_few_bytes_are_refused_unread(self) -> None:
        path = self.folder / "bomb.png"
        path.write_bytes(png_claiming(50_000, 40_000))
        with self.assertRaisesRegex(TooLarge, "50,000 × 40,000 pixels, 2,000 megapixels.*up to 250"):
            Source(path, self.folder)

    def test_large_pictures_are_mapped_not_held(self) -> None:
        import kitecore.files.source as module

        samples = random_samples(300, 200, 3, 16)
        path = write(self.folder / "large.tif", samples)
        held, module._MOST_IN_MEMORY = module._MOST_IN_MEMORY, 1000
        try:
            with Source(path, self.folder) as source:
                pixels = source.stage().render(source.size.region, Run())
                self.assertEqual(len(list(self.folder.glob("source-*/*.raw"))), 1)
                self.assertEqual(source.stage(2).size, source.size.reduced(2))
            self.assertEqual(list(self.folder.glob("source-*")), [])
        finally:
            module._MOST_IN_MEMORY = held
        np.testing.assert_allclose(pixels, samples / np.float32(65535), rtol=1e-6)

    def test_threads_that_ask_for_reduced_versions_at_once_get_them(self) -> None:
        path = self.folder / "large.png"
        write(path, random_samples(1200, 1500, 3))
        for _ in range(3):
            with Source(path, self.folder) as source, ThreadPoolExecutor(6) as threads:
                sizes = list(threads.map(lambda level: source.stage(level).size, (1, 2, 3, 1, 2, 3)))
                self.assertEqual(sizes, [source.size.reduced(level) for level in (1, 2, 3, 1, 2, 3)])

    def test_the_original_is_only_read(self) -> None:
        path = write(self.folder / "original.tif", random_samples(50, 50))
        path.chmod(0o444)
        before = path.read_bytes(), path.stat().st_mtime_ns
        self.read(path)
        self.assertEqual((path.read_bytes(), path.stat().st_mtime_ns), before)
