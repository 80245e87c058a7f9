from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from PIL import Image

from core_tests.pictures import random_samples, write
from kitecore.files.reductions import Reductions
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples
from kitecore.pipeline.run import Run


class Box:
    """What is kept, in memory."""

    def __init__(self, kept: dict[int, Samples] | None = None) -> None:
        self.kept = kept or {}

    def get(self, level: int) -> Samples | None:
        return self.kept.get(level)

    def put(self, level: int, samples: Samples) -> None:
        self.kept[level] = samples.copy()


class ReductionsTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_what_was_kept_is_what_would_be_made_and_nothing_is_decoded_for_it(self) -> None:
        for bits in (8, 16):
            path = write(self.folder / "large.tif", random_samples(1500, 1801, bits=bits))
            box = Box()
            with Source(path, self.folder) as first:
                first.keep(box)
                made = [first.stage(level).render(first.size.reduced(level).region, Run()) for level in range(7)]
            self.assertEqual({level: kept.dtype.itemsize * 8 for level, kept in box.kept.items()}, {1: bits, 2: bits})
            with (
                patch.object(Source, "_decoded", autospec=True, side_effect=Source._decoded) as decoded,
                Source(path, self.folder, keep=box) as again,
            ):
                for level in (6, 1, 2, 3, 5, 4):
                    seen = again.stage(level).render(again.size.reduced(level).region, Run())
                    np.testing.assert_array_equal(seen, made[level])
                self.assertEqual([call for call in decoded.call_args_list if call.args[1].width == 1801], [])
                np.testing.assert_array_equal(again.stage(0).render(again.size.region, Run()), made[0])

    def test_what_is_kept_of_another_size_is_not_taken(self) -> None:
        path = write(self.folder / "one.png", random_samples(60, 80))
        with Source(path, self.folder, keep=Box({1: np.zeros((7, 7, 3), np.uint8)})) as source:
            self.assertEqual(source.stage(1).size, Size(40, 30))
            self.assertGreater(float(source.stage(1).render(Size(40, 30).region, Run()).max()), 0)

    def test_of_a_damaged_file_nothing_is_kept(self) -> None:
        path = self.folder / "broken.jpg"
        Image.fromarray(random_samples(300, 400)).save(path, quality=90)
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        box = Box()
        with Source(path, self.folder, damaged=True, keep=box) as source:
            source.stage(3)
            source.keep(box)
            self.assertIsNotNone(source.facts.damaged)
        self.assertEqual(box.kept, {})

    def test_the_whole_is_decoded_once(self) -> None:
        whole = random_samples(64, 64)
        asked: list[int] = []

        def decode() -> Samples:
            asked.append(1)
            return whole

        def held(image: object) -> Samples:
            return np.asarray(image.numpy())  # type: ignore[attr-defined]

        reductions = Reductions(
            Size(64, 64), decode, held, lambda: Box({1: whole[:32, :32].copy(), 2: whole[:22, :22].copy()})
        )
        self.assertEqual(asked, [])
        self.assertEqual(reductions.at(4).shape, (11, 11, 3))
        self.assertEqual(asked, [])
        for level in (0, 3, 0, 1):
            reductions.at(level)
        self.assertEqual(len(asked), 1)
