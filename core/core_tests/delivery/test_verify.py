"""Files are read back after writing: what is cut off, changed or mislabelled never gets its name."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

import numpy as np
import pyvips

from core_tests.pictures import random_samples, write
from kitecore.colour.spaces import profile_of
from kitecore.delivery import tiff
from kitecore.delivery import write as output
from kitecore.delivery.encode import format_of_ending
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.verify import Meant, PixelSum, check_written
from kitecore.delivery.write import write_result
from kitecore.errors import OutputError
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.run import Run
from kitecore.takes.plan import plan
from kitecore.takes.take import Take


class VerifyTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.samples = random_samples(300, 200, bits=16)

    def deliver(self, name: str, harm: Callable[[Path], None] | None = None, **spec: object) -> Path:
        """Write a picture as it is; ``harm`` is done to the file after it was synced, before it is read back."""
        source, path = write(self.folder / "in.png", self.samples), self.folder / name
        sync = mock.patch.object(output, "_sync", side_effect=harm or (lambda path: None))
        with Source(source) as opened, sync:
            spec = {"format": format_of_ending(path.suffix)} | spec
            write_result(plan(Take(), opened.size), opened, OutputSpec.model_validate(spec), path)
        return path

    def assert_refused(self, message: str, name: str, harm: Callable[[Path], None], **spec: object) -> None:
        with self.assertRaisesRegex(OutputError, message):
            self.deliver(name, harm, **spec)
        self.assertEqual([path.name for path in self.folder.iterdir()], ["in.png"])

    def test_sound_files_of_every_format_pass(self) -> None:
        for name, spec in (
            ("a.tif", {}), ("a.png", {"depth": 8}), ("a.jpg", {}), ("a.webp", {"lossless": True}), ("b.webp", {}),
            ("b.tif", {"profile": "display-p3", "compression": "lzw"}), ("b.jpg", {"profile": "prophoto-rgb"}),
        ):  # fmt: skip
            self.assertTrue(self.deliver(name, **spec).exists(), name)

    def test_a_file_cut_short_is_refused(self) -> None:
        def cut(path: Path) -> None:
            path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])

        for name in ("out.png", "out.jpg"):
            self.assert_refused("read back", name, cut)

    def test_a_single_changed_sample_is_noticed(self) -> None:
        def change(path: Path) -> None:
            content = bytearray(path.read_bytes())
            content[len(content) // 2] ^= 1
            path.write_bytes(content)

        for compression in ("none", "lzw", "zip"):
            for tiled in (False, True):
                with self.subTest(compression=compression, tiled=tiled):
                    self.assert_refused("pixels are others", "out.tif", change, compression=compression, tiled=tiled)

    def test_a_part_that_does_not_hold_its_samples_is_noticed_while_it_is_made(self) -> None:
        for compression, packing in tiff._PACKINGS.items():

            def lossy(samples: np.ndarray, pack: Callable[[np.ndarray], bytes] = packing.pack) -> bytes:
                changed = samples.copy()
                changed.flat[-1] ^= 1
                return pack(changed)

            with (
                self.subTest(compression),
                mock.patch.dict(tiff._PACKINGS, {compression: packing._replace(pack=lossy)}),
                self.assertRaisesRegex(OutputError, "did not hold"),
            ):
                self.deliver("out.tif", compression=compression)
            self.assertEqual([path.name for path in self.folder.iterdir()], ["in.png"])

    def test_parts_in_another_order_are_noticed(self) -> None:
        path = self.deliver("out.tif")
        sums = list(tiff.checksums_in(path))
        right = Meant(Size(200, 300), 16, None, profile_of("srgb"), None)
        self.assertGreater(len(sums), 0)
        for wrong in ([*sums[::-1], 1], sums[:-1], [*sums, sums[0]]):
            with self.assertRaisesRegex(OutputError, "pixels are others"):
                check_written(path, replace(right, profile=None, parts=wrong), Run())

    def test_what_another_reader_sees_of_the_first_rows_decides_too(self) -> None:
        """Should both ways of packing be wrong alike, the part would still hold what it was made of."""
        packing = tiff._PACKINGS["zip"]

        def swapped(samples: np.ndarray) -> bytes:
            return packing.pack(samples.byteswap())

        other = packing._replace(pack=swapped, unpack=lambda content, like: packing.unpack(content, like).byteswap())
        with mock.patch.dict(tiff._PACKINGS, {"zip": other}), self.assertRaisesRegex(OutputError, "pixels are others"):
            self.deliver("out.tif")

    def test_wrong_labels_are_noticed(self) -> None:
        path = self.deliver("out.tif", ppi=200, profile="display-p3")
        right = Meant(Size(200, 300), 16, 200, profile_of("display-p3"), None)
        check_written(path, right, Run())
        for wrong, message in (
            (Meant(Size(300, 200), 16, 200, right.profile, None), "200 × 300 px"),
            (Meant(right.size, 8, 200, right.profile, None), "depth"),
            (Meant(right.size, 16, 300, right.profile, None), "ppi"),
            (Meant(right.size, 16, 200, None, None), "profile"),
        ):
            with self.assertRaisesRegex(OutputError, f"^For the wall.tif .*{message}"):
                check_written(path, wrong, Run(), "For the wall.tif")

    def test_the_sum_does_not_depend_on_how_strips_are_cut(self) -> None:
        whole, parts = PixelSum(), PixelSum()
        whole.add(self.samples)
        strips = list(parts.passing(iter([self.samples[:7], self.samples[7:130], self.samples[130:]])))
        self.assertEqual(str(whole), str(parts))
        np.testing.assert_array_equal(np.concatenate(strips), self.samples)
        read = PixelSum()
        read.add(pyvips.Image.new_from_file(str(write(self.folder / "a.png", self.samples))).numpy())
        self.assertEqual(str(read), str(whole))
