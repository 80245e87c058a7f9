"""Raws as files: told from others, their facts, what is kept of them, what is said of broken ones, and linear DNG."""

from __future__ import annotations

import subprocess
from collections.abc import Callable
from pathlib import Path
from unittest import mock

import numpy as np
import rawpy
import tifffile

from core_tests import raws
from core_tests.files.raw.test_developing import RawTestCase, psnr
from core_tests.pictures import smooth, write
from core_tests.raws import lit, mosaic_of, seen, write_raw
from kitecore.colour.spaces import SPACES, profile_of
from kitecore.colour.transfer import transfer_of
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.errors import NoSpace, OutputError, PictureError, TakeError
from kitecore.files.preview import first_preview, preview
from kitecore.files.raw.decoded import DecodedFolder
from kitecore.files.raw.developing import Way, develop
from kitecore.files.raw.sniff import raw_format
from kitecore.files.source import Source, read_facts
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.reading import read_picture
from kitecore.steps import AnyStep, Develop, Enlarge, Frame
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage
from kitecore.takes.suggestion import suggest

SCENE = smooth(90, 130).astype(np.float64)


class RawFileTest(RawTestCase):
    def raw(self, name: str = "a.dng", **told: object) -> Path:
        return write_raw(self.folder / name, mosaic_of(seen(lit(SCENE))), **told)  # type: ignore[arg-type]

    def kind(self, path: Path) -> str | None:
        return raw_format(path, path.read_bytes()[:32])

    def test_raws_are_told_by_their_content(self) -> None:
        self.assertEqual(self.kind(self.raw("a picture.txt")), "DNG")
        samples = (SCENE * 65535).astype(np.uint16)
        for name in ("a.dng.tif", "b.png", "c.jpg"):
            self.assertIsNone(self.kind(write(self.folder / name, samples)))
        big = self.folder / "big.tif"
        tifffile.imwrite(big, samples, bigtiff=True)
        self.assertIsNone(self.kind(big))
        # One whose mosaic lies inside, beside a small picture, as many cameras write them.
        inside = self.folder / "camera.nef"
        with tifffile.TiffWriter(inside) as file:
            file.write(np.zeros((8, 8, 3), np.uint8), photometric="rgb", subifds=1)
            file.write(np.zeros((16, 16), np.uint16), photometric="cfa", extratags=raws.mosaic_tags(raws.RGGB))
        self.assertEqual(self.kind(inside), "camera raw")
        for beginning in (
            b"FUJIFILMCCD-RAW 0201",
            b"\0\0\0\x18ftypcrx \0\0\0\1",
            b"IIRO\x08\0\0\0",
            b"II*\0\x10\0\0\0CR\2\0",
        ):
            other = self.folder / "other"
            other.write_bytes(beginning + bytes(64))
            self.assertEqual(self.kind(other), "camera raw")

    def test_facts(self) -> None:
        facts = read_facts(self.raw(iso=800, preview=(SCENE * 255).astype(np.uint8)))
        assert facts.raw is not None
        self.assertEqual((facts.format, facts.width, facts.height, facts.bits), ("DNG", 130, 90, 16))
        self.assertEqual((facts.camera, facts.lens, facts.iso), ("Tern Sands TS-1", raws.LENS, 800))
        self.assertEqual((facts.aperture, facts.focal_mm), (2.8, 24))
        self.assertEqual((facts.raw.bits, facts.raw.black, facts.raw.white), (14, 512, 16_383))
        self.assertTrue(facts.raw.mosaic and facts.raw.measured)
        self.assertEqual(facts.raw.lens_profile, raws.LENS)

    def test_broken_raws_say_so(self) -> None:
        whole = self.raw().read_bytes()
        for name, content in (("half.dng", whole[: len(whole) // 2]), ("head.dng", whole[:400])):
            path = self.folder / name
            path.write_bytes(content)
            with self.assertRaisesRegex(PictureError, f"{name}.*(Copy it from the card again|Ask for it again)"):
                source = self.opened(path)
                assert source.raw is not None
                source.raw.check()

    def test_a_reader_that_crashes_or_hangs_takes_nothing_down(self) -> None:
        path = self.raw()
        gone = subprocess.CompletedProcess([], -11, b"", b"")
        with mock.patch("subprocess.run", return_value=gone), self.assertRaisesRegex(PictureError, "broke off"):
            Source(path)
        late = subprocess.TimeoutExpired([], 30)
        with mock.patch("subprocess.run", side_effect=late), self.assertRaisesRegex(PictureError, "after 30 seconds"):
            Source(path)

    def test_it_is_developed_no_sooner_than_it_is_looked_at_and_once_for_all_processes(self) -> None:
        path = self.raw()
        kept = self.folder / "decoded"
        source = self.opened(path)
        self.assertFalse(kept.exists() and list(kept.glob("*.npy")))
        first = source.stage().render(source.size.region, Run())
        self.assertEqual(len(list(kept.glob("*.npy"))), 1)
        with mock.patch("kitecore.files.raw.picture.develop", side_effect=AssertionError):
            again = self.opened(path).stage()
            np.testing.assert_array_equal(again.render(again.size.region, Run()), first)

    def test_the_wide_space_changes_no_colour_and_has_samples_of_its_own(self) -> None:
        path = self.raw()
        seen_in, negatives = [], []
        for name in ("prophoto-rgb", "rec2020-rgb"):
            source = Source(path, self.folder / "scratch", space=name)
            self.addCleanup(source.close)
            self.assertEqual(source.header.profile, profile_of(name))
            self.assertIn(SPACES[name].title, source.facts.profile or "")
            way: list[AnyStep] = [Develop(white="kelvin", kelvin=4200, ev=-1.0)]
            stage = result_stage(plan_of_steps(way, source.size), source.stage())
            light = transfer_of(source.header.profile).light(stage.render(stage.size.region, Run()))
            seen_in.append(light.astype(np.float64) @ SPACES[name].to_connection().T)
            out = self.folder / f"{name}.dng"
            write_result(plan_of_steps(way, source.size), source, OutputSpec(format="dng"), out)
            negatives.append(self.opened(out).stage().render(Region(0, 0, 130, 90), Run()))
        np.testing.assert_allclose(seen_in[0], seen_in[1], atol=2e-4)
        np.testing.assert_allclose(negatives[0], negatives[1], atol=2e-3)
        self.assertEqual(len(list((self.folder / "decoded").glob("*.npy"))), 4)

    def test_how_far_developing_is_never_falls_and_ends_at_the_whole(self) -> None:
        raw = self.opened(self.raw()).raw
        assert raw is not None
        told: list[float] = []
        for way in (raw.usual, Way("quick", "")):
            told.clear()
            develop(
                raw.path, raw.name, way, raw.exposed, "prophoto-rgb", np.empty((90, 130, 3), np.float32), told.append
            )
            self.assertEqual((told[0], told[-1]), (0, 1))
            self.assertEqual(told, sorted(told))

    def test_the_cameras_own_picture_is_shown_first(self) -> None:
        shown = (SCENE * 255).astype(np.uint8)
        with mock.patch("kitecore.files.raw.picture.develop", side_effect=AssertionError):
            self.assertTrue(first_preview(self.opened(self.raw("with.dng", preview=shown)), 64).startswith(b"RIFF"))
        source = self.opened(self.raw("without.dng"))
        self.assertEqual(first_preview(source, 64), preview(source, 64))

    def test_what_is_read_and_suggested(self) -> None:
        noisy = write_raw(self.folder / "noisy.dng", mosaic_of(seen(lit(SCENE)), iso=3200), iso=3200)
        reading = read_picture(self.opened(noisy), Run())
        self.assertTrue(reading.raw)
        self.assertLess(max(reading.clipped.highlights), 0.001)
        bright = write_raw(self.folder / "bright.dng", mosaic_of(seen(lit(SCENE) * 3)))
        green = float((seen(lit(SCENE) * 3)[..., 1] >= 1).mean())
        self.assertLess(abs(read_picture(self.opened(bright), Run()).clipped.highlights[1] - green), 0.02)
        kinds = [step.kind for step in suggest(reading, ByFactor(factor=2), Frame()).steps]
        self.assertEqual(kinds[:3], ["develop", "frame", "denoise"])

    def test_only_raws_are_developed_and_first(self) -> None:
        plain = self.opened(write(self.folder / "a.png", (SCENE * 255).astype(np.uint8)))
        with self.assertRaisesRegex(TakeError, "Only a camera raw"):
            result_stage(plan_of_steps([Develop()], plain.size), plain.stage())
        raw = self.opened(self.raw())
        late: list[AnyStep] = [Enlarge(engine="plain", target=ByFactor(factor=2)), Develop()]
        with self.assertRaisesRegex(TakeError, "before any other step"):
            result_stage(plan_of_steps(late, raw.size), raw.stage())


class DecodedFolderTest(RawTestCase):
    def test_what_was_not_looked_at_longest_goes_first(self) -> None:
        folder = DecodedFolder(self.folder / "kept", 2.5 * 4000)

        def fill(array: np.ndarray, progress: Callable[[float], None]) -> None:
            array[:] = 1

        for key in ("a", "b"):
            folder.get(key, (1000,), fill)
        folder.get("a", (1000,), fill)
        held = folder.get("c", (1000,), fill)
        left = {path.stem for path in (self.folder / "kept").glob("*.npy")}
        self.assertEqual(left, {"a", "c"})
        self.assertEqual(float(held.sum()), 1000)

    def test_how_far_it_is_is_seen_by_all_while_it_is_made(self) -> None:
        folder, other = (DecodedFolder(self.folder / "kept", 1e9) for _ in range(2))
        seen: list[float | None] = [other.share("a")]

        def fill(array: np.ndarray, progress: Callable[[float], None]) -> None:
            seen.append(other.share("a"))
            progress(0.25)
            seen.append(other.share("a"))
            array[:] = 1

        folder.get("a", (10,), fill)
        self.assertEqual([*seen, other.share("a")], [None, None, 0.25, None])

    def test_nothing_is_left_of_what_failed(self) -> None:
        folder = DecodedFolder(self.folder / "kept", 1e9)
        with self.assertRaises(PictureError):
            folder.get("a", (10,), mock.Mock(side_effect=PictureError("broken")))
        with mock.patch("os.posix_fallocate", side_effect=OSError(28, "full")), self.assertRaises(NoSpace):
            folder.get("a", (10,), lambda array, progress: None)
        self.assertEqual([path.name for path in (self.folder / "kept").iterdir()], ["a.lock"])


class LinearDngTest(RawTestCase):
    def delivered(self, steps: list[AnyStep], spec: OutputSpec, name: str) -> Path:
        source = self.opened(write_raw(self.folder / "in.dng", mosaic_of(seen(lit(SCENE))), iso=200, lens="none"))
        write_result(plan_of_steps(steps, source.size), source, spec, self.folder / name)
        return self.folder / name

    def test_it_opens_again_as_what_was_delivered(self) -> None:
        steps: list[AnyStep] = [
            Develop(white="kelvin", kelvin=4800, ev=-0.5), Enlarge(engine="plain", target=ByFactor(factor=2)),
        ]  # fmt: skip
        made = self.delivered(steps, OutputSpec(format="dng"), "out.dng")
        file = tifffile.imread(self.delivered(steps, OutputSpec(), "out.tif")).astype(np.float64) / 65535
        again = self.opened(made)
        assert again.facts.raw is not None
        self.assertEqual((again.size, again.facts.iso), (Size(260, 180), 200))
        self.assertEqual((again.facts.camera, again.facts.raw.mosaic), ("Tern Sands TS-1", False))
        self.assertLess(abs(again.facts.raw.kelvin - 4800), 30)
        read = again.stage().render(again.size.region, Run())
        self.assertLess(float(np.abs(read - file).max()), 2e-3)
        with rawpy.imread(str(made)) as raw:
            plain = raw.postprocess(use_camera_wb=True, no_auto_bright=True, output_bps=16, gamma=(1, 1))
        self.assertEqual(plain.shape, (180, 260, 3))
        self.assertGreater(psnr(plain / 65535, lit(self.srgb(again))), 40)

    def srgb(self, source: Source) -> np.ndarray:
        return self.shown(source.stage())

    def test_only_raws_become_negatives(self) -> None:
        source = self.opened(write(self.folder / "a.png", (SCENE * 255).astype(np.uint8)))
        with self.assertRaisesRegex(OutputError, "no camera raw"):
            write_result(plan_of_steps([], source.size), source, OutputSpec(format="dng"), self.folder / "b.dng")
        with self.assertRaises(ValueError):
            OutputSpec(format="dng", depth=8)
