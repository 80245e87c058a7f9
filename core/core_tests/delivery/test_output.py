import errno
import resource
import struct
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase, mock

import numpy as np
import pyvips
import tifffile
from PIL import Image, ImageCms

from core_tests.pictures import image_of, random_samples, smooth, write
from kitecore.delivery import write as output
from kitecore.delivery.encode import encoder_for, format_of_ending
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.engines import Engine
from kitecore.errors import Cancelled, NoSpace, OutputError
from kitecore.files import exif
from kitecore.files.source import Source, read_facts
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.run import Run
from kitecore.steps import Denoise, Enlarge, Frame, Repair, Step, step_classes
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan
from kitecore.takes.render import render_array
from kitecore.takes.take import Take


class OutputTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def deliver(
        self, source: Path, name: str, steps: list[Step] | None = None, run: Run | None = None, **spec: object
    ) -> Path:
        path = self.folder / name
        with Source(source, self.folder) as opened:
            resolved = plan(Take.model_validate({"steps": [step.model_dump() for step in steps or []]}), opened.size)
            write_result(
                resolved,
                opened,
                OutputSpec.model_validate({"format": format_of_ending(path.suffix), **spec}),
                path,
                run,
            )
        return path

    def test_floats_are_delivered_as_they_are(self) -> None:
        samples = np.random.default_rng(4).normal(0.5, 0.9, (130, 301, 3)).astype(np.float32)
        source = self.folder / "scene.tif"
        tifffile.imwrite(source, samples, photometric="rgb")
        for compression in ("none", "lzw", "zip"):
            for tiled in (False, True):
                with self.subTest(compression=compression, tiled=tiled):
                    made = self.deliver(source, "out.tif", depth=32, compression=compression, tiled=tiled)
                    np.testing.assert_array_equal(tifffile.imread(made), samples)
                    np.testing.assert_array_equal(pyvips.Image.new_from_file(str(made)).numpy(), samples)

    def test_every_step_keeps_what_lies_beyond_white(self) -> None:
        samples = np.full((64, 64, 3), 0.4, np.float32)
        samples[20:44, 20:44] = 2.5
        source = self.folder / "scene.tif"
        tifffile.imwrite(source, samples, photometric="rgb")
        for cls in step_classes():
            if cls.belongs == "raw":
                continue
            with self.subTest(step=cls.__name__):
                made = tifffile.imread(self.deliver(source, "out.tif", [cls.begun()], depth=32))
                middle = made[made.shape[0] // 2, made.shape[1] // 2]
                # Evening its light dims it, too.
                self.assertGreater(float(middle.min()), 1.4)

    def test_floats_are_for_tiff_in_the_sources_space(self) -> None:
        for told in ({"format": "png"}, {"format": "tiff", "profile": "srgb"}):
            with self.assertRaisesRegex(ValueError, "keep the space"):
                OutputSpec.model_validate({"depth": 32, **told})

    def test_what_is_cut_off_is_told(self) -> None:
        size = Size(20, 30)
        for depth, told in ((32, False), (16, True)):
            did = encoder_for(OutputSpec(depth=depth)).did(size, None, beyond=True)
            self.assertEqual(any("cut off" in part for part in did), told)

    def test_a_longest_side_makes_larger_results_smaller_and_leaves_others(self) -> None:
        source = write(self.folder / "in.tif", (smooth(300, 400) * 65535).astype(np.uint16))
        whole = tifffile.imread(self.deliver(source, "whole.tif")).astype(float)
        small = tifffile.imread(self.deliver(source, "small.tif", longest_side=100)).astype(float)
        self.assertEqual(small.shape, (75, 100, 3))
        means = whole.reshape(75, 4, 100, 4, 3).mean(axis=(1, 3))
        self.assertLess(np.abs(small - means)[2:-2, 2:-2].max() / 65535, 0.02)
        same = self.deliver(source, "same.tif", longest_side=400)
        np.testing.assert_array_equal(tifffile.imread(same), whole)

    def test_progressive_jpegs_hold_the_same_pixels(self) -> None:
        source = write(self.folder / "in.png", (smooth(120, 90) * 255).astype(np.uint8))
        plainly, gradually = (
            self.deliver(source, f"{name}.jpg", progressive=name == "gradual") for name in ("plain", "gradual")
        )
        with Image.open(plainly) as one, Image.open(gradually) as other:
            self.assertEqual(("progressive" in one.info, "progressive" in other.info), (False, True))
            np.testing.assert_array_equal(np.asarray(one), np.asarray(other))
        with self.assertRaisesRegex(OutputError, "not progressive"):
            encoder_for(OutputSpec(format="jpeg", progressive=True)).check(Size(20_000, 20_000))

    def leftovers(self) -> list[str]:
        return sorted(path.name for path in self.folder.iterdir() if path.name.startswith((".kite", "source-")))

    def test_lossless_formats_give_the_samples_back(self) -> None:
        for bits in (8, 16):
            for bands in (1, 2, 3, 4):
                samples = random_samples(40, 60, bands, bits)
                source = write(self.folder / f"in{bits}{bands}.tif", samples)
                for name, spec in (
                    ("out.tif", {"compression": "none"}),
                    ("out.tif", {"compression": "lzw"}),
                    ("out.tif", {"compression": "zip"}),
                    ("out.png", {}),
                ):
                    with self.subTest(bits=bits, bands=bands, name=name, **spec):
                        path = self.deliver(source, name, depth=bits, **spec)
                        if name.endswith("tif"):
                            written = tifffile.imread(path).reshape(samples.shape)
                        else:
                            written = pyvips.Image.new_from_file(str(path)).numpy().reshape(samples.shape)
                        np.testing.assert_array_equal(written, samples)
        self.assertEqual(self.leftovers(), [])

    def test_a_sixteen_bit_tiff_of_a_crop_enlarged(self) -> None:
        """Pixels, depth, ppi and profile, read by programs that share no code with the writer."""
        profile = image_of(random_samples(9, 9)).icc_transform("p3", input_profile="srgb").get("icc-profile-data")
        image = image_of((smooth(60, 80) * 65535).astype(np.uint16))
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
        source = self.folder / "wide.tif"
        image.write_to_file(str(source))
        steps: list[Step] = [Frame(turns=1), Enlarge(engine="faithful", target=ByFactor(factor=2.5))]
        path = self.deliver(source, "print.tif", steps, ppi=240)
        with tifffile.TiffFile(path) as file:
            page = file.pages[0]
            self.assertEqual(page.shape, (200, 150, 3))
            self.assertEqual(page.dtype, np.uint16)
            numerator, denominator = page.tags["XResolution"].value
            self.assertAlmostEqual(numerator / denominator, 240, 2)
            self.assertEqual(int(page.tags["ResolutionUnit"].value), 2)
            self.assertEqual(bytes(page.tags["InterColorProfile"].value), profile)
            self.assertGreater(len(np.unique(page.asarray())), 5000, "really 16 bit")

    def test_restoring_is_computed_about_once_however_small_the_regions(self) -> None:
        source = write(self.folder / "in.png", random_samples(260, 340, 3))
        given = []

        def counted(engine: Engine, pictures: np.ndarray, maps: np.ndarray) -> np.ndarray:
            given.append(pictures.shape[0] * pictures.shape[1])
            return restore(engine, pictures, maps)

        restore = Engine.restore
        steps: list[Step] = [Denoise(), Repair(), Enlarge(engine="plain", target=ByFactor(factor=2))]
        with (
            mock.patch("kitecore.pipeline.strips.TILE", Size(160, 128)),
            mock.patch.object(Engine, "restore", autospec=True, side_effect=counted),
        ):
            path = self.deliver(source, "out.tif", steps)
            self.assertLess(sum(given), 2 * 1.1 * 260 * 340 + 2 * 4 * 60 * 600)
        expected = render_array(random_samples(260, 340, 3), steps)
        self.assertLess(np.abs(tifffile.imread(path) / 65535 - expected).max(), 1 / 255)

    def test_eight_bits_are_rounded_once(self) -> None:
        ramp = np.linspace(0, 65535, 4096).astype(np.uint16).reshape(64, 64, 1)
        path = self.deliver(write(self.folder / "ramp.tif", ramp), "ramp.png", depth=8)
        expected = np.rint(ramp[..., 0] / 65535 * 255).astype(np.uint8)
        np.testing.assert_array_equal(np.asarray(Image.open(path)), expected)

    def test_conversion_to_srgb_equals_another_colour_engine_run(self) -> None:
        profile = image_of(random_samples(9, 9)).icc_transform("p3", input_profile="srgb").get("icc-profile-data")
        samples = (smooth(40, 40) * 255).astype(np.uint8)
        image = image_of(samples)
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
        source = self.folder / "p3.png"
        image.pngsave(str(source))
        path = self.deliver(source, "web.png", depth=8, profile="srgb")
        import io

        reference = ImageCms.profileToProfile(
            Image.fromarray(samples), ImageCms.ImageCmsProfile(io.BytesIO(profile)), ImageCms.createProfile("sRGB"),
            renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC, flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
        )  # fmt: skip
        difference = np.abs(np.asarray(Image.open(path)).astype(int) - np.asarray(reference).astype(int))
        self.assertLessEqual(difference.max(), 2)
        self.assertGreater(
            np.abs(np.asarray(Image.open(path)).astype(int) - samples).max(), 3, "something was converted"
        )
        self.assertIn("sRGB", read_facts(path).profile or "")

    def test_metadata_goes_with_the_file_or_not(self) -> None:
        image = image_of(random_samples(30, 40))
        for name, value in {
            "ifd0-Make": "Gannet",
            "ifd0-Artist": "Tern Sands",
            "ifd2-ISOSpeedRatings": "3200",
            "ifd2-LensModel": "35 mm",
            "ifd0-Orientation": "6",
        }.items():
            image.set_type(pyvips.GValue.gstr_type, f"exif-{name}", value)
        image.set_type(pyvips.GValue.gint_type, "orientation", 6)
        source = self.folder / "camera.jpg"
        image.jpegsave(str(source))
        for name in ("out.jpg", "out.png", "out.webp", "out.tif"):
            with self.subTest(name=name):
                path = self.deliver(source, name, [Enlarge(engine="plain")])
                facts = read_facts(path)
                self.assertEqual((facts.camera, facts.iso, facts.lens), ("Gannet", 3200, "35 mm"))
                self.assertEqual((facts.width, facts.height), (60, 80), "turned upright once, not twice")
                if name == "out.tif":
                    with tifffile.TiffFile(path) as file:
                        self.assertEqual(file.pages[0].tags["ExifTag"].value["ISOSpeedRatings"], 3200)
                        self.assertEqual(file.pages[0].tags["Artist"].value, "Tern Sands")
                        self.assertEqual(file.pages[0].asarray().shape, (80, 60, 3))
                again = self.deliver(path, f"again-{name}.jpg")
                self.assertEqual(read_facts(again).iso, 3200)
                self.assertIsNone(read_facts(self.deliver(source, f"bare-{name}", metadata=False)).iso)

    def test_where_it_was_taken_stays_behind_if_asked(self) -> None:
        source = write(self.folder / "in.tif", random_samples(20, 20))
        latitude = exif.Entry(5, 3, struct.pack("<6I", 54, 1, 20, 1, 0, 1))
        exif.add_to_tiff(source, exif.Exif({271: exif.Entry(2, 7, b"Gannet\0")}, {}, {2: latitude}))
        for kept in (True, False):
            with Source(self.deliver(source, "out.tif", location=kept)) as delivered:
                self.assertEqual(bool(delivered.header.exif.place), kept)
                self.assertEqual(delivered.header.exif.main[271].value, "Gannet")

    def test_tiff_in_tiles(self) -> None:
        samples = random_samples(300, 280, bits=16)
        path = self.deliver(write(self.folder / "in.png", samples), "out.tif", tiled=True)
        with tifffile.TiffFile(path) as file:
            self.assertTrue(file.pages[0].is_tiled)
            np.testing.assert_array_equal(file.pages[0].asarray(), samples)

    def test_bigtiff_carries_exif_too(self) -> None:
        image = image_of(random_samples(20, 20))
        path = self.folder / "big.tif"
        image.tiffsave(str(path), bigtiff=True)
        tags = exif.Exif({271: exif.Entry(2, 7, b"Gannet\0")}, {0x8827: exif.Entry(3, 1, b"\x80\x0c")})
        exif.add_to_tiff(path, tags)
        self.assertEqual(exif.from_tiff(path), tags)
        self.assertEqual(pyvips.Image.new_from_file(str(path)).avg(), image.avg())

    def test_quality_and_chroma_change_the_file(self) -> None:
        source = write(
            self.folder / "in.png", (smooth(200, 200) * 255).astype(np.uint8) // 2 + random_samples(200, 200) // 4
        )
        sizes = [self.deliver(source, f"{q}.jpg", quality=q).stat().st_size for q in (40, 80, 98)]
        self.assertEqual(sizes, sorted(sizes))
        self.assertLess(self.deliver(source, "half.jpg", quality=80, chroma="half").stat().st_size, sizes[1])
        lossless = self.deliver(source, "exact.webp", lossless=True)
        np.testing.assert_array_equal(np.asarray(Image.open(lossless)), np.asarray(Image.open(source)))

    def test_transparency_in_a_jpeg_becomes_white(self) -> None:
        samples = random_samples(20, 20, 4)
        samples[..., 3] = 0
        path = self.deliver(write(self.folder / "clear.png", samples), "clear.jpg", quality=100)
        self.assertGreater(np.asarray(Image.open(path)).min(), 250)

    def test_a_format_that_cannot_hold_the_size_says_so(self) -> None:
        with self.assertRaisesRegex(OutputError, "16,383.*deliver as TIFF"):
            encoder_for(OutputSpec(format="webp")).check(Size(20_000, 100))

    def test_cancelling_leaves_nothing_and_harms_nothing(self) -> None:
        source = write(self.folder / "in.png", random_samples(400, 400))
        earlier = self.deliver(source, "out.tif")
        before = earlier.read_bytes()
        asked = 0

        def after_a_while() -> bool:
            nonlocal asked
            asked += 1
            return asked > 2

        with self.assertRaises(Cancelled):
            self.deliver(source, "out.tif", [Enlarge(engine="plain", target=ByFactor(factor=8))], Run(after_a_while))
        self.assertEqual(earlier.read_bytes(), before)
        self.assertEqual(self.leftovers(), [])

    def test_progress_rises_to_one(self) -> None:
        told: list[float] = []
        source = write(self.folder / "in.png", random_samples(300, 300))
        self.deliver(source, "out.tif", [Enlarge(engine="plain", target=ByFactor(factor=8))], Run(progress=told.append))
        self.assertEqual(told, sorted(told))
        self.assertEqual(told[-1], 1.0)
        self.assertGreater(len(told), 4)

    def test_too_little_disk_is_said_before_anything_is_done(self) -> None:
        source = write(self.folder / "in.png", random_samples(40, 40))
        with (
            mock.patch.object(output, "free_bytes", return_value=1000),
            self.assertRaisesRegex(NoSpace, "needs about .* GB"),
        ):
            self.deliver(source, "out.tif")
        self.assertEqual(self.leftovers(), [])

    def test_a_disk_that_fills_up_on_the_way_leaves_nothing(self) -> None:
        source = write(self.folder / "in.png", random_samples(40, 40))
        full = OSError(errno.ENOSPC, "No space left on device")
        failing = mock.patch.object(output, "_sync", side_effect=full)
        with failing, self.assertRaisesRegex(NoSpace, "disk is full: out.tif could not be finished"):
            self.deliver(source, "out.tif")
        self.assertEqual(self.leftovers(), [])
        self.assertFalse((self.folder / "out.tif").exists())

    def test_a_real_limit_of_the_system_is_a_sentence(self) -> None:
        """The kernel refuses to let files grow past 200 kB: as on a full disk, in the middle of writing."""
        source = write(self.folder / "in.png", random_samples(300, 300))

        def limited() -> None:
            resource.setrlimit(resource.RLIMIT_FSIZE, (200_000, 200_000))

        done = subprocess.run(
            [
                sys.executable,
                "-m",
                "kitecore",
                "enlarge",
                str(source),
                str(self.folder / "out.tif"),
                "--engine",
                "plain",
                "--factor",
                "4",
            ],
            capture_output=True,
            text=True,
            preexec_fn=limited,
            check=False,
        )
        self.assertEqual(done.returncode, 1)
        self.assertIn("disk is full", done.stderr.splitlines()[-1])
        self.assertFalse((self.folder / "out.tif").exists())
        self.assertEqual(self.leftovers(), [])
