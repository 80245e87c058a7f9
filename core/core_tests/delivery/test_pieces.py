"""What machines make of a file for each other: made apart, it holds the same as from one."""

from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase, mock

import numpy as np
import pyvips

from core_tests.pictures import random_samples, write
from kitecore.delivery.pieces import Packed, Part, load_piece, save_piece
from kitecore.delivery.raster import Raster
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.tiff import Packer, checksums_in
from kitecore.delivery.write import prepared, write_result
from kitecore.errors import OutputError
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage_cache import uncached
from kitecore.pipeline.strips import Made, Work
from kitecore.takes.plan import plan
from kitecore.takes.take import Take
from kitecore.takes.whole import WholeRender

STEPS = [
    {"kind": "grain", "amount": 30},
    {"kind": "enlarge", "engine": "plain", "target": {"by": "factor", "factor": 2}},
]


class PiecesTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def there_and_back(
        self, work: Work[Made], run: Run, regions: list[Region], _at_once: int
    ) -> Iterator[tuple[Region, Made]]:
        """Each region made on its own, the last ones first, and brought here as a file."""
        for number, region in reversed(list(enumerate(regions))):
            save_piece(work(region, run), self.folder / f"{number}.piece")
        for number, region in enumerate(regions):
            yield region, load_piece(self.folder / f"{number}.piece")

    def test_a_file_of_parts_that_were_packed_apart_has_the_same_parts(self) -> None:
        source = self.folder / "source.tif"
        write(source, random_samples(301, 411, 4, 16))
        for spec in (
            {"compression": "zip"}, {"compression": "lzw", "depth": 8}, {"compression": "none", "tiled": True},
            {"compression": "zip", "tiled": True, "profile": "srgb"}, {"format": "png"}, {"format": "jpeg"},
        ):  # fmt: skip
            with self.subTest(spec), Source(source, self.folder) as opened, self.small():
                wanted = OutputSpec.model_validate({"format": "tiff", **spec})
                files = [self.folder / "alone", self.folder / "apart"]
                resolved = plan(Take.model_validate({"steps": STEPS}), opened.size)
                ready = prepared(resolved, opened, wanted, "it")
                self.assertGreater(len(ready.regions()), 2)
                self.assertEqual(ready.regions()[0].width == ready.stage.size.width, ready.packer is not None)
                write_result(resolved, opened, wanted, files[0])
                write_result(resolved, opened, wanted, files[1], rendering=self.there_and_back)
                # Metadata says when the file was made.
                if ready.packer:
                    self.assertEqual(*(list(checksums_in(file)) for file in files))
                np.testing.assert_array_equal(*(pyvips.Image.new_from_file(str(file)).numpy() for file in files))

    def small(self) -> Any:
        small = WholeRender(Size(200, 128), uncached)
        return mock.patch("kitecore.delivery.write.whole_render", return_value=small)

    def test_progress_goes_on_with_what_comes(self) -> None:
        source, told = self.folder / "source.tif", list[float]()
        write(source, random_samples(900, 600, 3, 8))
        with Source(source, self.folder) as opened, self.small():
            resolved, spec = (
                plan(Take.model_validate({"steps": []}), opened.size),
                OutputSpec.model_validate({"format": "tiff"}),
            )
            run = Run(progress=told.append)
            write_result(resolved, opened, spec, self.folder / "made", run, rendering=self.there_and_back)
        self.assertEqual(told, sorted(told))
        self.assertGreater(len([one for one in told if 0 < one < 0.97]), 1)

    def test_a_piece_comes_back_as_it_was_saved(self) -> None:
        samples = random_samples(33, 520, 3, 16)
        packer = Packer(Raster(Size(33, 520), 3, 16), "zip", tiled=False)
        for piece in (samples, packer.packed(samples, 256), packer.packed(samples, 0)):
            save_piece(piece, self.folder / "piece")
            back = load_piece(self.folder / "piece")
            if isinstance(piece, Packed):
                assert isinstance(back, Packed)
                self.assertEqual(back.parts, piece.parts)
                np.testing.assert_array_equal(back.first, piece.first)
            else:
                np.testing.assert_array_equal(back, samples)

    def test_what_was_damaged_on_the_way_is_not_taken(self) -> None:
        packed = Packed([Part(b"some content", 1), Part(b"more", 2)], np.zeros((0, 4, 3), np.uint8))
        save_piece(packed, self.folder / "piece")
        with self.assertRaisesRegex(OutputError, "damaged on its way"):
            load_piece(self.folder / "piece")
